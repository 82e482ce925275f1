import { boundedCache } from './cache';
import { regionOf } from './locale';

/** What a sign or code beside a number stands for. */
export interface Sign {
  currency: string;
  /** How numbers beside this sign are usually written, where that is settled. */
  locale: string | null;
}

/** A sign, code or name that was found beside a number. */
export interface Mark {
  text: string;
  /** How many characters of the text it took, with the space between it and the number. */
  length: number;
}

const CODES = new Set(Intl.supportedValuesOf('currency'));
const NO_COUNTRY = /^(X|EU)/;

/** English as it is written for readers everywhere: there every sign that several currencies share says whose it is. */
const WORLD = 'en-001';

/** Abbreviations in daily use that CLDR does not carry, and the yen sign, which is the yuan's in China alone. */
const SPOKEN: Record<string, string> = {
  '¥': 'JPY',
  Fr: 'CHF',
  SFr: 'CHF',
  C$: 'CAD',
  S$: 'SGD',
  TL: 'TRY',
  RMB: 'CNY',
  Kc: 'CZK',
  руб: 'RUB',
};

/** What everybody in a region reads a shared sign as, where CLDR writes another. */
const REGIONAL: Record<string, Record<string, string>> = {
  IN: { Rs: 'INR' },
  HK: { $: 'HKD', 元: 'HKD' },
  CN: { 元: 'CNY' },
  TW: { 元: 'TWD' },
  KR: { 원: 'KRW' },
};

const regional = (locale: string | null) => {
  const region = locale === null ? undefined : new Intl.Locale(locale).maximize().region;
  return Object.entries(REGIONAL[region ?? ''] ?? {});
};

type Display = 'symbol' | 'narrowSymbol' | 'name';

/** The text of a currency in a locale, from the Unicode CLDR data behind Intl. */
function textOf(locale: string, currency: string, currencyDisplay: Display, amount = 1): string {
  const parts = new Intl.NumberFormat(locale, { style: 'currency', currency, currencyDisplay }).formatToParts(amount);
  return parts.find((part) => part.type === 'currency')?.value ?? currency;
}

/** Signs compare by what they are, whatever their width, case, marks of direction and a full stop at the end. */
function fold(mark: string): string {
  const plain = PLAIN.test(mark)
    ? mark.replace(/\.$/, '')
    : mark
        .normalize('NFKC')
        .replace(/[\u200e\u200f\u061c]|\.$/g, '')
        .trim();
  return plain.length > 1 && !CODES.has(plain) ? plain.toLowerCase() : plain;
}

const PLAIN = /^[!-~]+$/;

/**
 * A short word in Latin capitals is a sign only where it is at home: elsewhere `KM`, `K` or `R` are units, sizes,
 * grades.
 */
const isHomebound = (text: string) => /^[A-Z]{1,2}$/.test(text);

const asSymbol = (locale: string, code: string) => [textOf(locale, code, 'symbol')];
const asShared = (locale: string, code: string) =>
  [textOf(locale, code, 'narrowSymbol')].filter((text) => !isHomebound(text));
/** As a sign or a word of its own, in the singular and the plural: `kr`, `Euro`, `euros`. */
const asWritten = (locale: string, code: string) =>
  [...asSymbol(locale, code), textOf(locale, code, 'name'), textOf(locale, code, 'name', 2)].filter(
    (text) => !/\p{L} /u.test(text),
  );

function collect(locale: string, textsOf: (locale: string, code: string) => string[]): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const code of CODES) {
    const marks = textsOf(locale, code).filter((text) => !/^[A-Z]{3}$/.test(text));
    for (const mark of new Set(marks.map(fold))) found.set(mark, [...(found.get(mark) ?? []), code]);
  }
  return found;
}

const kept = boundedCache<ReadonlyMap<string, readonly string[]>>(40);

/**
 * What each sign may stand for in a locale, or where nothing is known of the place; of several, the place does not say
 * which.
 */
function meaningIn(locale: string | null): ReadonlyMap<string, readonly string[]> {
  return kept(locale ?? '', () => {
    const said = (marks: [mark: string, code: string][]) => marks.map(([mark, code]) => [fold(mark), [code]] as const);
    const own = locale === null ? [] : collect(locale, asWritten);
    // What is at home in the place comes before what the world writes, and that before what currencies share.
    return new Map<string, readonly string[]>([
      ...collect(WORLD, asShared),
      ...said(Object.entries(SPOKEN)),
      ...collect(WORLD, asSymbol),
      ...said(regional(locale)),
      ...own,
    ]);
  });
}

const LONGEST_MARK = 16;
const LETTER = /^\p{L}/u;

const isMark = (text: string, locale: string | null) => CODES.has(text) || meaningIn(locale).has(fold(text));

/**
 * The longest mark that a text ends with, as where a number follows it. One that begins with a letter stands by itself.
 */
export function markBefore(text: string, locale: string | null): Mark | null {
  const close = text.trimEnd();
  for (let length = Math.min(LONGEST_MARK, close.length); length > 0; length -= 1) {
    const mark = close.slice(-length);
    const alone = !LETTER.test(mark) || !LETTER.test(lastOf(close.slice(0, -length)));
    if (alone && mark === mark.trim() && isMark(mark, locale))
      return { text: mark, length: length + text.length - close.length };
  }
  return null;
}

/**
 * The longest mark that a text begins with, as where it follows a number. One that ends with a letter stands by itself.
 */
export function markAfter(text: string, locale: string | null): Mark | null {
  const close = text.trimStart();
  for (let length = Math.min(LONGEST_MARK, close.length); length > 0; length -= 1) {
    const mark = close.slice(0, length);
    const alone = !LETTER.test(lastOf(mark)) || !LETTER.test(close.slice(length));
    if (alone && mark === mark.trim() && isMark(mark, locale))
      return { text: mark, length: length + text.length - close.length };
  }
  return null;
}

const lastOf = (text: string) => [...text.slice(-2)].at(-1) ?? '';

/** True for an ISO 4217 code in use. */
export function isCurrency(code: string): boolean {
  return CODES.has(code);
}

/** How many digits the minor unit of a currency takes: 2 for pence, 0 for yen, 3 for fils. */
export function minorDigits(currency: string): number {
  return partsKept(
    currency,
    () => new Intl.NumberFormat('en', { style: 'currency', currency }).resolvedOptions().maximumFractionDigits ?? 2,
  );
}

const partsKept = boundedCache<number>(400);

/**
 * The currency a sign, code or name stands for, with the locale its numbers usually follow. `locale` is the source's:
 * it settles `kr` and `$`. Null when it does not.
 */
export function currencyFor(mark: string, locale: string | null): Sign | null {
  if (CODES.has(mark)) return { currency: mark, locale: null };
  const codes = meaningIn(locale).get(fold(mark)) ?? [];
  const [only] = codes;
  return only === undefined || codes.length > 1 ? null : { currency: only, locale: locale ?? localeOf(only) };
}

/** True when a sign is one that a currency may be written with anywhere: `$` for CAD, not `£` for EUR. */
export function mayStandFor(mark: string, currency: string, locale: string | null): boolean {
  if (CODES.has(mark)) return mark === currency;
  return (
    (meaningIn(locale).get(fold(mark))?.includes(currency) ?? false) ||
    fold(textOf(WORLD, currency, 'narrowSymbol')) === fold(mark)
  );
}

/** A currency's code begins with its country's; those of several countries have no one way of writing. */
function localeOf(currency: string): string | null {
  return NO_COUNTRY.test(currency) ? null : regionOf(`und-${currency.slice(0, 2)}`);
}
