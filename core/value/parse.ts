import { fail, ok, type Result } from '../result';
import { CURRENCY_MARKS, currencyFor } from './currency';
import { compareDecimals, decimal, multiply, type Decimal } from './decimal';
import { readDigits } from './digits';
import { decimalMark } from './locale';
import type { Money, Quantity } from './value';

/** What is known about a text before it is read. */
export interface ParseHints {
  /** BCP 47 tag of the source, or null when nothing states it. */
  locale: string | null;
  /** ISO 4217 code to use where the text shows none. */
  currency?: string | null;
}

/** A value with a note when only the source's locale settled its reading. */
export interface Parsed<V> {
  value: V;
  byLocale: boolean;
}

/** Why a text has no single reading. */
export type Refusal =
  | 'empty'
  | 'no number'
  | 'several numbers'
  | 'a range'
  | 'a starting price'
  | 'a price for several'
  | 'a percentage'
  | 'no currency'
  | 'unclear currency'
  | 'ambiguous'
  | 'malformed'
  | 'too long'
  | 'neither yes nor no'
  | 'no known state'
  | 'not on the scale'
  | 'no moment'
  | 'no address';

const LONGEST = 400;
const NUMBER = String.raw`\d+(?:[.,'’ ]\d+)*(?:\s*[.,]\s*\d+(?!\d))?`;
const PRICE = new RegExp(
  String.raw`(?<sign>[-+]?)\s*(?:(?<before>${CURRENCY_MARKS})\s*(?<inner>[-+]?)\s*(?<a>${NUMBER})(?<ka>\s?[kKmM](?![\p{L}\d]))?|(?<b>${NUMBER})(?<kb>\s?[kKmM](?![\p{L}\d]))?\s*(?<after>${CURRENCY_MARKS}|p(?![\p{L}\d])|c(?![\p{L}\d])|¢)?)`,
  'gu',
);
const STARTING = /(?<!\p{L})(from|starting at|as low as|ab|à partir de|desde|from only|fra|från)\s*$/iu;
const SEVERAL = /\d\s*(for|für|pour|por|x|×)\s*(?=\D{0,4}\d)/iu;
const WAS_NOW = /(?<!\p{L})(?:was|rrp|statt|uvp)(?!\p{L}).*?(?<!\p{L})(?:now|jetzt|nur|only)(?!\p{L})(.*)$/isu;
/** A dash in place of the fraction, as in `24,- €`. */
const NO_FRACTION = /(\d)\s*[.,]\s*[-–—]+(?=[^\d]|$)/gu;
/** A fraction alone, as in `$.99`. */
const NO_WHOLE = /(?<=^|[£€$¥₹])\.(?=\d)/gu;
const DASH_BETWEEN = /\d[^\d]{0,6}\s*(?:[–—]|\bto\b|\bbis\b|(?<=\s)-(?=\s)|-(?=[£€$₹]))\s*[^\d]{0,6}\d/u;

/** Folds white space of every kind to single spaces, and typographic minus signs to the hyphen-minus. */
export function foldText(text: string): string {
  return text
    .replace(/[\s\u00a0\u2007\u2009\u202f\u200b\ufeff]+/gu, ' ')
    .replace(/[\u2212\u2012]/g, '-')
    .trim();
}

/**
 * Reads a price as shops write it. One result or a stated refusal:
 * `1.249,00 €` 1249.00 EUR; `£1,249` 1249 GBP; `1 249,00 kr` by the source's region; `CHF 1'249.50`;
 * `₹1,24,999` 124999 INR; `£24 .99` 24.99; `99p` 0.99 GBP; `was £40 now £32` 32 GBP; `£12k` 12000 GBP.
 * Refused: `from £24.99` (a starting price), `2 for £30` (a price for several), `£19–£24` (a range),
 * `−3,5 %` (a percentage), `1.249` without a locale (ambiguous), two prices side by side.
 */
export function parsePrice(text: string, hints: ParseHints): Result<Parsed<Money>, Refusal> {
  const folded = foldText(text);
  if (folded === '') return fail('empty');
  if (folded.length > LONGEST) return fail('too long');
  const said = (WAS_NOW.exec(folded)?.[1] ?? folded).replace(NO_FRACTION, '$1').replace(NO_WHOLE, '0.');
  if (/%/.test(said)) return fail('a percentage');
  if (SEVERAL.test(said)) return fail('a price for several');
  if (DASH_BETWEEN.test(said)) return fail('a range');

  const found = [...said.matchAll(PRICE)];
  const marked = found.filter((match) => match.groups?.before !== undefined || match.groups?.after !== undefined);
  const prices = marked.length > 0 ? marked : found;
  const [only] = prices;
  if (only === undefined) return fail('no number');
  if (prices.length > 1) return fail('several numbers');
  if (STARTING.test(said.slice(0, only.index))) return fail('a starting price');
  return priceOf(only.groups ?? {}, hints);
}

type Groups = Record<string, string | undefined>;

function priceOf(groups: Groups, hints: ParseHints): Result<Parsed<Money>, Refusal> {
  const mark = groups.before ?? groups.after;
  const minor = mark === 'p' || mark === 'c' || mark === '¢';
  const sign = signOf(mark, minor, hints);
  const currency = sign?.currency ?? hints.currency ?? null;
  if (currency === null) return fail(mark === undefined ? 'no currency' : 'unclear currency');

  const amount = amountOf(groups, hints.locale ?? sign?.locale ?? null, minor);
  if (!amount.ok) return amount;
  return ok({ value: { kind: 'money', amount: amount.value.amount, currency }, byLocale: amount.value.byLocale });
}

function amountOf(groups: Groups, locale: string | null, minor: boolean): Result<{ amount: Decimal; byLocale: boolean }, Refusal> {
  const read = readDigits(groups.a ?? groups.b ?? '', locale === null ? null : decimalMark(locale));
  if (!read.ok) return fail(read.error);
  const scaled = scale(read.value.amount, groups.ka ?? groups.kb, minor);
  return ok({ amount: signed(scaled, groups.inner || groups.sign), byLocale: read.value.byLocale });
}

function signOf(mark: string | undefined, minor: boolean, hints: ParseHints): { currency: string; locale: string | null } | null {
  if (mark === undefined) return null;
  return minor ? minorCurrency(mark, hints) : currencyFor(mark, hints.locale);
}

function minorCurrency(mark: string, hints: ParseHints): { currency: string; locale: string | null } | null {
  if (mark === 'p') return { currency: 'GBP', locale: 'en-GB' };
  return hints.currency ? { currency: hints.currency, locale: hints.locale } : null;
}

function scale(amount: Decimal, suffix: string | undefined, minor: boolean): Decimal {
  const letter = suffix?.trim().toLowerCase();
  if (letter === 'k') return multiply(amount, '1000' as Decimal);
  if (letter === 'm') return multiply(amount, '1000000' as Decimal);
  return minor ? multiply(amount, '0.01' as Decimal) : amount;
}

function signed(amount: Decimal, sign: string | undefined): Decimal {
  const zero = compareDecimals(amount, '0' as Decimal) === 0;
  return sign === '-' && !zero ? (`-${amount}` as Decimal) : amount;
}

const QUANTITY = new RegExp(String.raw`(?<![\p{L}\d.,])(?<sign>[-+]?)\s*(?<digits>${NUMBER})(?<suffix>\s?[kKM](?![\p{L}\d]))?`, 'gu');
const UNIT = /^\s*(%|°\s?[CF]|[\p{L}µ°]{1,12}[23²³]?(?:\/[\p{L}]{1,6})?[²³]?)/u;

/**
 * Reads a number with the unit that follows it: `−3,5 %` is -3.5 %, `18.4 °C`, `12k` 12000, `1 249`.
 * Refused: none or several numbers, a range, `1.249` where no locale settles it.
 */
export function parseQuantity(text: string, hints: ParseHints): Result<Parsed<Quantity>, Refusal> {
  const folded = foldText(text);
  if (folded === '') return fail('empty');
  if (folded.length > LONGEST) return fail('too long');
  if (DASH_BETWEEN.test(folded)) return fail('a range');
  const found = [...folded.matchAll(QUANTITY)];
  const [only] = found;
  if (only?.groups === undefined) return fail('no number');
  if (found.length > 1) return fail('several numbers');

  const read = readDigits(only.groups.digits ?? '', hints.locale === null ? null : decimalMark(hints.locale));
  if (!read.ok) return fail(read.error);
  const amount = signed(scale(read.value.amount, only.groups.suffix, false), only.groups.sign);
  const unit = UNIT.exec(folded.slice(only.index + only[0].length))?.[1]?.replace(/\s/g, '') ?? null;
  return ok({ value: { kind: 'number', amount, unit }, byLocale: read.value.byLocale });
}

/** Reads a limit typed by a person: a bare amount in the unit of what it is held against. */
export function parseLimit(text: string, locale: string): Result<Decimal, Refusal> {
  const bare = foldText(text).replace(new RegExp(CURRENCY_MARKS, 'gu'), '').trim();
  if (bare === '') return fail('empty');
  const match = new RegExp(String.raw`^(-?)\s*(${NUMBER})$`, 'u').exec(bare);
  if (match === null) return fail('no number');
  const read = readDigits(match[2] ?? '', decimalMark(locale));
  return read.ok ? ok(signed(read.value.amount, match[1])) : fail(read.error);
}

/** Turns canonical decimal text into money; for tests, stored values and structured data. */
export function money(amount: string, currency: string): Money {
  const exact = decimal(amount);
  if (exact === null) throw new RangeError(`not a decimal: ${amount}`);
  return { kind: 'money', amount: exact, currency };
}
