import type { Locator } from './locator';

/**
 * Words for what a field is: schema.org's where it has one, else a plain noun. Open: what is here is what code goes by.
 */
const ROLES = ['name', 'identifier', 'price', 'shipping cost', 'availability', 'day', 'value'] as const;

/** What a field is, whatever she calls it. */
export type Role = (typeof ROLES)[number];

/** The ends of schema.org paths, as they stand in structured data. */
const BY_PROPERTY: readonly [RegExp, Role][] = [
  [/(^|\.)(shippingRate|shippingDetails)(\.|$)/, 'shipping cost'],
  [/(^|\.)(price|lowPrice|highPrice)$/, 'price'],
  [/(^|\.)availability$/, 'availability'],
  [/(^|\.)(sku|mpn|gtin\d*|productID|isbn)$/, 'identifier'],
  [/(^|\.)(name|headline)$/, 'name'],
];

/** What sites and people call fields; asked once, when a field is made. */
const BY_LABEL: readonly [RegExp, Role][] = [
  [/^(id|sku|ref|reference|code|key|lot|number|gtin|ean|isbn)$/i, 'identifier'],
  [/(^|\s)(id|sku|ref|lot|code)$/i, 'identifier'],
  [/^(name|title|article|product|item|goods|campaign)$/i, 'name'],
  [/^(day|date)$/i, 'day'],
  [/shipping|versand|porto|delivery (cost|charge)|carriage/i, 'shipping cost'],
  [/price|preis|prix|precio|prezzo|\bpris\b/i, 'price'],
  [/avail|stock|lager|bestand|verfüg/i, 'availability'],
  [/^value$/i, 'value'],
];

/** What tells a field's role. */
interface Called {
  label: string;
  type: { kind: string };
  locators: Locator[];
}

/**
 * What a field seems to be, by the meaning its place is given, else by what it is called; null where nothing says so.
 */
export function roleFor({ label, type, locators }: Called): Role | null {
  const meanings = locators.flatMap((locator) => (locator.way === 'structured' ? [locator.path] : []));
  const role = find(BY_PROPERTY, meanings) ?? find(BY_LABEL, [label]);
  return role === null || !fits(role, type.kind) ? null : role;
}

const find = (known: readonly [RegExp, Role][], words: string[]): Role | null =>
  known.find(([pattern]) => words.some((word) => pattern.test(word)))?.[1] ?? null;

/** A price is money, a name is words. */
function fits(role: Role, kind: string): boolean {
  if (role === 'price' || role === 'shipping cost') return ['money', 'number', 'computed', 'stated'].includes(kind);
  return role === 'name' ? kind === 'text' : true;
}

/** True of a word that is known as a role. */
export const isRole = (word: string): word is Role => (ROLES as readonly string[]).includes(word);
