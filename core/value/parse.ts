import { fail, ok, type Result } from '../result';
import { boundedCache } from './cache';
import { currencyFor, markAfter, markBefore, mayStandFor, minorDigits, type Sign } from './currency';
import { compareDecimals, decimal, magnitude, shiftDecimal, type Decimal } from './decimal';
import { latinDigits, readDigits, type DigitsProblem, type ReadDigits } from './digits';
import { decimalMark, type DecimalMark } from './locale';
import { NUMBER, markedNumbers, type MarkedNumber } from './marked';
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
  | 'in brackets'
  | 'an exponent'
  | 'too long'
  | 'neither yes nor no'
  | 'no known state'
  | 'not on the scale'
  | 'no moment'
  | 'no address';

const LONGEST = 400;
const STARTING = /(?<!\p{L})(from|starting at|as low as|ab|à partir de|desde|from only|fra|från)\s*$/iu;
const SEVERAL = /\d\s*(for|für|pour|por|x|×)\s*(?=\D{0,8}\d)/iu;
const WAS_NOW = /(?<!\p{L})(?:was|rrp|statt|uvp)(?!\p{L}).*?(?<!\p{L})(?:now|jetzt|nur|only)(?!\p{L})(.*)$/isu;
/** A dash in place of the fraction, as in `24,- €`. */
const NO_FRACTION = /(\d)\s*[.,]\s*[-–—]+(?=[^\d]|$)/gu;
/** A fraction alone, as in `$.99`. */
const NO_WHOLE = /(?<=^|[£€$¥₹])\.(?=\d)/gu;
const DASH_BETWEEN = /\d[^\d]{0,6}\s*(?:[–—]|\bto\b|\bbis\b|(?<=\s)-(?=\s)|-(?=[£€$₹])|(?<=\d)-(?=\d))\s*[^\d]{0,6}\d/u;

/** A number that goes on where a price cannot: `24:90`, `3×24 €`, `5,00-`. */
const GOES_ON = /\d\s?[:×*]\s?\D?\d|\d-(?!\s?\d)/u;
/** A rate between two currencies, or a part of one under the name of the whole: `24 USD/EUR`, `5 Euro Cent`. */
const OTHER_THAN_PRICE = /[A-Z]{3}\/[A-Z]{3}\b|\beuro\s?-?cents?\b/iu;
/** A dash that can only be a minus: at the very beginning, against the sign or the number. */
const LEADING_DASH = /^[–—](?=[\p{Sc}\d])/u;
const EXPONENT = /\d[eE][-+]?\d/u;
/** The cents after the sign, as in `24€99`. */
const SIGN_BETWEEN = /^([^\d€£$]*\d+)([€£$])(\d{2})(\D*)$/u;
/** Cents raised above the line; a single raised figure points to a footnote. */
const RAISED = /(?<![.,]\d*)(?<=\d)[\u2070\u00b9\u00b2\u00b3\u2074-\u2079]{2}(?!\p{No})/gu;
const FOOTNOTE = /(?<=\d)[\u2070\u00b9\u00b2\u00b3\u2074-\u2079]+/gu;
/** Kronor and öre with a colon between them. */
const COLON = /^sv\b/i;

/** What folding leaves as it is, and most that machines write: seen ASCII, with single spaces between. */
const FOLDED = /^[!-~]+(?: [!-~]+)*$/;
/**
 * Longer texts are folded as they are: what repeats within what repeats is remembered step by step, and of millions too
 * long.
 */
const MOST_TRIED = 1_000;

/**
 * Folds white space of every kind to single spaces, and typographic minus signs to the hyphen-minus; marks of direction
 * go.
 */
export function foldText(text: string): string {
  if (text.length <= MOST_TRIED && FOLDED.test(text)) return text;
  return text
    .replace(/[\u200e\u200f\u061c]/gu, '')
    .replace(/[\s\u00a0\u2007\u2009\u202f\u200b\ufeff]+/gu, ' ')
    .replace(/[\u2212\u2012]/g, '-')
    .trim();
}

/**
 * Reads a price as shops write it. One result or a stated refusal:
 * `1.249,00 €` 1249.00 EUR; `£1,249` 1249 GBP; `1 249,00 kr` by the source's region; `CHF 1'249.50`;
 * `₹1,24,999` 124999 INR; `£24 .99` 24.99; `24€99` 24.99; `99p` 0.99 GBP; `was £40 now £32` 32 GBP; `£12k` 12000 GBP;
 * `(£5.00)` -5.00 GBP where bookkeepers write it so; `٢٤٫٩٠ د.إ` 24.90 AED; `¥1.200` 1200 JPY, which has no parts.
 * Refused: `from £24.99` (a starting price), `2 for £30` (a price for several), `£19–£24` (a range),
 * `−3,5 %` (a percentage), `1.249` without a locale (ambiguous), two prices side by side, `£1e3`, `Members (£5.00)`,
 * `£24 EUR` and `RD$24` where the sign and what stands beside it disagree (unclear currency).
 */
export function parsePrice(text: string, hints: ParseHints): Result<Parsed<Money>, Refusal> {
  const folded = latinDigits(foldText(text));
  if (folded === '') return fail('empty');
  if (folded.length > LONGEST) return fail('too long');
  const said = saidPrice(folded, hints.locale);
  const refused = refusedAsPrice(said);
  if (refused !== null) return fail(refused);

  if (APART.test(said)) return fail('several numbers');
  const found = markedNumbers(said, hints.locale);
  const marked = found.filter(({ mark }) => mark !== null);
  const prices = marked.length > 0 ? marked : found;
  const [only] = prices;
  if (only === undefined) return fail('no number');
  if (prices.length > 1 || only.torn) return fail('several numbers');
  const [before, price, after] = [said.slice(0, only.start), said.slice(only.start, only.end), said.slice(only.end)];
  if (STARTING.test(before)) return fail('a starting price');
  if (OTHER_DOLLAR.test(before) && /^\P{L}/u.test(only.mark ?? '')) return fail('unclear currency');
  return bracketed([before, price, after], hints.locale, priceOf(only, hints));
}

/** Digits of two places that are not shown as one number. */
const APART = /\d \| \d/;

/** Letters glued to a sign make another sign of it, one that is not known here: `RD$24`. */
const OTHER_DOLLAR = /(?<!\p{L})\p{Lu}{1,3}$/u;

/** What of a text is the price, its parts in their usual places. */
function saidPrice(folded: string, locale: string | null): string {
  const now = WAS_NOW.exec(folded)?.[1] ?? folded;
  const plain = now.replace(RAISED, (cents) => `.${cents.normalize('NFKC')}`).replace(FOOTNOTE, '');
  const written = plain
    .replace(LEADING_DASH, '-')
    .replace(NO_FRACTION, '$1')
    .replace(NO_WHOLE, '0.')
    .replace(SIGN_BETWEEN, '$1.$3$2$4');
  return locale !== null && COLON.test(locale) ? written.replace(/(\d):(\d{2})(?!\d)/g, '$1,$2') : written;
}

function refusedAsPrice(said: string): Refusal | null {
  if (/%/.test(said)) return 'a percentage';
  if (SEVERAL.test(said)) return 'a price for several';
  if (DASH_BETWEEN.test(said)) return 'a range';
  if (EXPONENT.test(said)) return 'an exponent';
  if (OTHER_THAN_PRICE.test(said)) return 'unclear currency';
  return GOES_ON.test(said) || ODD_NUMBER.test(said) ? 'malformed' : null;
}

/**
 * Bookkeepers' brackets around all there is make it negative, where they are in use; around a number beside words they
 * set it aside.
 */
function bracketed<V extends Money | Quantity>(
  [before, number, after]: [string, string, string],
  locale: string | null,
  read: Result<Parsed<V>, Refusal>,
): Result<Parsed<V>, Refusal> {
  if (!read.ok || !/\(\s*$/.test(before) || !/^\s*\)/.test(after)) return read;
  const alone = /^\s*\(\s*$/.test(before) && /^\s*\)\s*$/.test(after);
  if (!alone || /[-+]/.test(number) || locale === null || !bracketsAreNegative(locale)) return fail('in brackets');
  const { value } = read.value;
  return ok({ ...read.value, value: { ...value, amount: negated(value.amount) } });
}

/** Whether negative sums of money are written in brackets in a locale, by CLDR's accounting formats. */
function bracketsAreNegative(locale: string): boolean {
  const accounting = { style: 'currency', currency: 'EUR', currencySign: 'accounting' } as const;
  return bracketsKept(locale, () => new Intl.NumberFormat(locale, accounting).format(-1).includes('('));
}

const bracketsKept = boundedCache<boolean>(100);

function priceOf(number: MarkedNumber, hints: ParseHints): Result<Parsed<Money>, Refusal> {
  const { mark, part } = number;
  const sign = part === null ? signOf(number, hints) : partOf(part, hints);
  const currency = sign?.currency ?? (mark === null ? hints.currency : null) ?? null;
  if (currency === null) return fail(mark === null ? 'no currency' : 'unclear currency');

  const amount = amountOf(number, hints.locale ?? sign?.locale ?? null, currency);
  if (!amount.ok) return amount;
  return ok({ value: { kind: 'money', amount: amount.value.amount, currency }, byLocale: amount.value.byLocale });
}

function amountOf(
  { digits, negative, power, part }: MarkedNumber,
  locale: string | null,
  currency: string,
): Result<ReadDigits, Refusal> {
  const read = readAmount(digits, locale, minorDigits(currency));
  if (!read.ok) return read;
  const amount = decimal(
    signed(shiftDecimal(read.value.amount, part === null ? power : -minorDigits(currency)), negative),
  );
  return amount === null ? fail('malformed') : ok({ amount, byLocale: read.value.byLocale });
}

/** A currency without parts has no fraction: one mark before three digits groups them. */
function readAmount(digits: string, locale: string | null, parts: number): Result<ReadDigits, DigitsProblem> {
  if (parts === 0 && /^\d{1,3}[.,]\d{3}$/.test(digits)) return readDigits(digits, digits.includes('.') ? ',' : '.');
  return readDigits(digits, markOf(locale));
}

const markOf = (locale: string | null): DecimalMark | null => (locale === null ? null : decimalMark(locale));

/** What a sign says, with a code on the other side of the number, or one that is known, where the sign is shared. */
function signOf({ mark, again }: MarkedNumber, hints: ParseHints): Sign | null {
  if (mark === null) return null;
  const sign = currencyFor(mark, hints.locale);
  if (again !== null) return agreed(mark, again, sign, hints.locale);
  const known = hints.currency ?? null;
  if (known === null || known === sign?.currency || !mayStandFor(mark, known, hints.locale)) return sign;
  return { currency: known, locale: sign?.locale ?? hints.locale };
}

function agreed(mark: string, again: string, sign: Sign | null, locale: string | null): Sign | null {
  const other = currencyFor(again, locale);
  if (other !== null && mayStandFor(mark, other.currency, locale))
    return { currency: other.currency, locale: sign?.locale ?? other.locale };
  return sign !== null && mayStandFor(again, sign.currency, locale) ? sign : null;
}

/**
 * Which currency pence or cents are a part of: cents of the one that is known, or of the dollars where English is
 * spoken.
 */
function partOf(part: 'pence' | 'cents', hints: ParseHints): Sign | null {
  if (part === 'pence') return { currency: 'GBP', locale: 'en-GB' };
  if (hints.currency) return { currency: hints.currency, locale: hints.locale };
  return hints.locale !== null && /^en\b/i.test(hints.locale) ? currencyFor('$', hints.locale) : null;
}

const signed = (amount: Decimal, negative: boolean): Decimal => (negative ? negated(amount) : amount);

function negated(amount: Decimal): Decimal {
  const zero = compareDecimals(amount, '0' as Decimal) === 0;
  return zero ? amount : (`-${magnitude(amount)}` as Decimal);
}

const QUANTITY = new RegExp(
  String.raw`(?<![\p{L}\d.,])(?<sign>[-+]?)\s*(?<digits>${NUMBER})(?:[eE](?<exponent>[-+]?\d{1,3})(?!\d)|(?<suffix>[kKM])(?![\p{L}\d]))?`,
  'gu',
);
/** All that is known is on which side of the number it lies. */
const BOUND = /[<>≤≥]\s?\d/u;
const RAISED_POWER = /\d[\u2070\u00b9\u00b2\u00b3\u2074-\u2079]/u;
/** Fractions of one character, and digits to another base: `3½`, `0x1F`. */
const ODD_NUMBER = /\d\s?[\u00bc-\u00be\u2150-\u215e]|\b0x[\da-f]/iu;
const SUFFIXES: Record<string, number> = { k: 3, m: 6 };
const WORD = String.raw`[\p{L}µ°]{1,40}\.?[23²³]?(?:\/[\p{L}]{1,6})?[²³]?`;
/** Words that make no unit by themselves: `12 sq ft` and `12 sq m` are not alike. */
const QUALIFIER = 'sq|square|cu|cubic|fl|fluid|metric|imperial|troy|nautical|long|short|US|UK';
const UNIT = new RegExp(
  String.raw`^\s*(%|°\s?[CF](?!\p{L})|(?:(?:${QUALIFIER})\.?\s)?${WORD}(?:\sper\s[\p{L}]{1,20})?)`,
  'u',
);

/**
 * Reads a number with the unit that follows it: `−3,5 %` is -3.5 %, `18.4 °C`, `12k` 12000, `1 249`, `1.5e3` 1500
 * exactly, `12 fl oz` and `55 miles per hour` in their whole units. Refused: none or several numbers, a range, `1.249`
 * where no locale settles it, a number in brackets beside words.
 */
export function parseQuantity(text: string, hints: ParseHints): Result<Parsed<Quantity>, Refusal> {
  const folded = latinDigits(foldText(text));
  if (folded === '') return fail('empty');
  if (folded.length > LONGEST) return fail('too long');
  if (DASH_BETWEEN.test(folded) || BOUND.test(folded)) return fail('a range');
  if (RAISED_POWER.test(folded)) return fail('an exponent');
  if (ODD_NUMBER.test(folded)) return fail('malformed');
  if (APART.test(folded)) return fail('several numbers');
  const found = [...folded.matchAll(QUANTITY)];
  const [only] = found;
  if (only?.groups === undefined) return fail('no number');
  if (found.length > 1) return fail('several numbers');
  if (/^[:×*]\d|^[eE][-+]?\d/.test(folded.slice(only.index + only[0].length))) return fail('malformed');

  const amount = quantityOf(only.groups, hints.locale);
  if (!amount.ok) return amount;
  const [before, after] = [folded.slice(0, only.index), folded.slice(only.index + only[0].length)];
  const unit = UNIT.exec(after)?.[1]?.replace(/^°\s/, '°') ?? null;
  return bracketed(
    [before, only[0], after],
    hints.locale,
    ok({ value: { kind: 'number', amount: amount.value.amount, unit }, byLocale: amount.value.byLocale }),
  );
}

function quantityOf(
  { digits = '', sign, exponent, suffix }: Record<string, string | undefined>,
  locale: string | null,
): Result<ReadDigits, Refusal> {
  const read = readDigits(digits, markOf(locale));
  if (!read.ok) return read;
  const power = exponent === undefined ? SUFFIXES[suffix?.toLowerCase() ?? ''] : Number(exponent);
  const amount = decimal(signed(shiftDecimal(read.value.amount, power ?? 0), sign === '-'));
  return amount === null ? fail('an exponent') : ok({ amount, byLocale: read.value.byLocale });
}

/** Reads a limit typed by a person: an amount in the unit of what it is held against, with or without its sign. */
export function parseLimit(text: string, locale: string): Result<Decimal, Refusal> {
  const said = latinDigits(foldText(text));
  const size = said.replace(/^-\s*/, '');
  const ahead = markAfter(size, locale)?.length ?? 0;
  const number = size.slice(ahead, size.length - (markBefore(size, locale)?.length ?? 0)).trim();
  if (number === '') return fail('empty');
  const match = new RegExp(String.raw`^(-?)\s*(${NUMBER})$`, 'u').exec(number);
  if (match === null || (match[1] === '-' && size !== said)) return fail('no number');
  const read = readDigits(match[2] ?? '', decimalMark(locale));
  return read.ok ? ok(signed(read.value.amount, match[1] === '-' || size !== said)) : fail(read.error);
}

/** Turns canonical decimal text into money; for tests, stored values and structured data. */
export function money(amount: string, currency: string): Money {
  const exact = decimal(amount);
  if (exact === null) throw new RangeError(`not a decimal: ${amount}`);
  return { kind: 'money', amount: exact, currency };
}
