import { fail, ok, type Result } from '../result';
import { parsePrice } from '../value/parse';
import { describeRefusal } from '../value/refusals';
import type { Money } from '../value/value';
import { isDay } from '../when/wall-clock';

/**
 * The lowest price at which an item may be advertised, and on which days: from and until are whole days, both included;
 * null is open.
 */
export interface Minimum {
  price: Money;
  from: string | null;
  until: string | null;
}

/** An item at one of our channels: what it is called there, and its price where that is typed and not read. */
interface Listing {
  listing: string;
  variant: string;
  price: Money | null;
}

/** Something that we sell. */
export interface Item {
  /** Our own name for it, by which nothing else goes. */
  reference: string;
  name: string;
  brand: string;
  category: string;
  supplier: string;
  /** A GTIN of 8, 12, 13 or 14 digits, or empty. */
  gtin: string;
  minimums: Minimum[];
  /** By the name of the channel. */
  listings: Record<string, Listing>;
}

/** What of an item is words, in the order in which it is shown. */
export const PROPERTIES = ['reference', 'name', 'brand', 'category', 'supplier', 'gtin'] as const;
export type Property = (typeof PROPERTIES)[number];

/** What of an item differs by channel. */
export const CHANNEL_PARTS = ['listing', 'variant', 'price'] as const;
type ChannelPart = (typeof CHANNEL_PARTS)[number];

/** The part of an item that a cell holds: a property, its minimum, or a part of it at a channel. */
export type Cell = { of: Property | 'minimum' } | { of: ChannelPart; channel: string };

const LONGEST: Record<Property, number> = {
  reference: 60,
  name: 200,
  brand: 100,
  category: 100,
  supplier: 100,
  gtin: 14,
};
const LONGEST_LISTING = 200;
const MOST_MINIMUMS = 40;

/** An item of which only the reference is known. */
export const blankItem = (reference: string): Item => ({
  reference,
  name: '',
  brand: '',
  category: '',
  supplier: '',
  gtin: '',
  minimums: [],
  listings: {},
});

const NO_LISTING: Listing = { listing: '', variant: '', price: null };

/** What a cell of an item says, as it is typed and as it stands in a file. */
export function cellText(item: Item, cell: Cell): string {
  if (cell.of === 'minimum') return item.minimums.map(minimumText).join('; ');
  if (!('channel' in cell)) return item[cell.of];
  const listing = item.listings[cell.channel] ?? NO_LISTING;
  return cell.of === 'price' ? moneyText(listing.price) : listing[cell.of];
}

const moneyText = (price: Money | null): string => (price === null ? '' : `${price.amount} ${price.currency}`);

const minimumText = ({ price, from, until }: Minimum): string =>
  from === null && until === null ? moneyText(price) : `${moneyText(price)} ${from ?? '..'}/${until ?? '..'}`;

/**
 * An item with one cell said otherwise; or what is wrong with it, as a sentence. A minimum is a price, with the days on
 * which it holds as an ISO 8601 interval where it does not always: `24.00 GBP`, `£22 2026-11-20/2026-11-30`, several
 * apart by a semicolon, an open end as `..`.
 */
export function withCell(item: Item, cell: Cell, text: string, locale: string): Result<Item, string> {
  const said = text.trim();
  if (cell.of === 'minimum') {
    const minimums = minimumsIn(said, locale);
    return minimums.ok ? ok({ ...item, minimums: minimums.value }) : minimums;
  }
  if ('channel' in cell) return withListing(item, cell, said, locale);
  if (said.length > LONGEST[cell.of])
    return fail(`${titled(cell.of)} may have at most ${LONGEST[cell.of]} characters.`);
  if (cell.of === 'reference' && said === '') return fail('An item needs a reference.');
  if (cell.of === 'gtin' && said !== '' && !isGtin(said)) return fail(`“${said}” is no GTIN: ${gtinTrouble(said)}.`);
  return ok({ ...item, [cell.of]: said });
}

const titled = (of: Property) => (of === 'gtin' ? 'A GTIN' : `A ${of}`);

function withListing(
  item: Item,
  { of, channel }: Extract<Cell, { channel: string }>,
  said: string,
  locale: string,
): Result<Item, string> {
  const known = item.listings[channel] ?? NO_LISTING;
  const set = (change: Partial<Listing>): Result<Item, string> => {
    const next = { ...known, ...change };
    const { [channel]: _before, ...others } = item.listings;
    const isEmpty = next.listing === '' && next.variant === '' && next.price === null;
    return ok({ ...item, listings: isEmpty ? others : { ...others, [channel]: next } });
  };
  if (of !== 'price') {
    return said.length > LONGEST_LISTING
      ? fail(`What a channel calls it may have at most ${LONGEST_LISTING} characters.`)
      : set({ [of]: said });
  }
  if (said === '') return set({ price: null });
  const price = priceIn(said, locale);
  return price.ok ? set({ price: price.value }) : price;
}

function priceIn(said: string, locale: string): Result<Money, string> {
  const price = parsePrice(said, { locale });
  if (!price.ok) return fail(`“${said.slice(0, 60)}” is no price: ${describeRefusal(price.error)}.`);
  return price.value.value.amount.startsWith('-') ? fail('A price is not less than nought.') : ok(price.value.value);
}

const DATED = /^(.*?)\s+(\d{4}-\d{2}-\d{2}|\.\.)\/(\d{4}-\d{2}-\d{2}|\.\.)$/;

function minimumsIn(said: string, locale: string): Result<Minimum[], string> {
  const found: Minimum[] = [];
  const parts = said
    .split(';')
    .map((each) => each.trim())
    .filter((each) => each !== '');
  for (const part of parts) {
    const [, price, from = '..', until = '..'] = DATED.exec(part) ?? [part, part];
    const read = priceIn(price ?? part, locale);
    if (!read.ok) return read;
    const minimum = { price: read.value, from: from === '..' ? null : from, until: until === '..' ? null : until };
    if (![minimum.from, minimum.until].every((day) => day === null || isDay(day)))
      return fail(`“${part}” names a day that is none.`);
    if (minimum.from !== null && minimum.until !== null && minimum.from > minimum.until)
      return fail(`“${part}” ends before it begins.`);
    found.push(minimum);
  }
  if (found.length > MOST_MINIMUMS) return fail(`An item may have at most ${MOST_MINIMUMS} agreed minimums.`);
  const begins = found.map(({ from }) => from ?? '');
  if (new Set(begins).size < begins.length) return fail('Two agreed minimums begin on the same day: leave one out.');
  return ok(found.sort((one, other) => (one.from ?? '').localeCompare(other.from ?? '')));
}

/** The agreed minimum of a day (as 2026-11-27): of those that hold on it the one that began last. */
export function minimumOn({ minimums }: Pick<Item, 'minimums'>, day: string): Money | null {
  const holds = minimums.filter(
    ({ from, until }) => (from === null || from <= day) && (until === null || day <= until),
  );
  return (
    holds.reduce<Minimum | null>(
      (last, each) => (last === null || (each.from ?? '') > (last.from ?? '') ? each : last),
      null,
    )?.price ?? null
  );
}

const LENGTHS = [8, 12, 13, 14];

/**
 * Whether a text is a GTIN of 8, 12, 13 or 14 digits with its right check digit (GS1 General Specifications, section
 * 7.9).
 */
export const isGtin = (text: string): boolean =>
  /^\d+$/.test(text) && LENGTHS.includes(text.length) && checkDigit(text.slice(0, -1)) === text.at(-1);

function checkDigit(digits: string): string {
  const sum = [...digits].reverse().reduce((total, digit, at) => total + Number(digit) * (at % 2 === 0 ? 3 : 1), 0);
  return String((10 - (sum % 10)) % 10);
}

function gtinTrouble(text: string): string {
  if (!/^\d+$/.test(text)) return 'it has digits alone';
  return LENGTHS.includes(text.length)
    ? `its last digit would be ${checkDigit(text.slice(0, -1))}`
    : 'it has 8, 12, 13 or 14 digits';
}

/** GTINs of different lengths are the same number with noughts before it. */
export const gtinKey = (gtin: string): string => gtin.padStart(14, '0');
