interface Sign {
  currency: string;
  /** How numbers beside this sign are usually written, where that is settled. */
  locale: string | null;
}

const SIGNS: Record<string, Sign> = {
  '£': { currency: 'GBP', locale: 'en-GB' },
  '€': { currency: 'EUR', locale: null },
  '₹': { currency: 'INR', locale: 'en-IN' },
  '¥': { currency: 'JPY', locale: 'ja-JP' },
  '₩': { currency: 'KRW', locale: 'ko-KR' },
  '₪': { currency: 'ILS', locale: 'he-IL' },
  '₺': { currency: 'TRY', locale: 'tr-TR' },
  zł: { currency: 'PLN', locale: 'pl-PL' },
  Kč: { currency: 'CZK', locale: 'cs-CZ' },
  Ft: { currency: 'HUF', locale: 'hu-HU' },
  Fr: { currency: 'CHF', locale: 'de-CH' },
  'Fr.': { currency: 'CHF', locale: 'de-CH' },
  US$: { currency: 'USD', locale: 'en-US' },
  A$: { currency: 'AUD', locale: 'en-AU' },
  C$: { currency: 'CAD', locale: 'en-CA' },
  NZ$: { currency: 'NZD', locale: 'en-NZ' },
};

const CODES = new Set(
  'AED ARS AUD BGN BRL CAD CHF CLP CNY COP CZK DKK EUR GBP HKD HUF IDR ILS INR ISK JPY KRW MXN MYR NOK NZD PEN PHP PLN RON SAR SEK SGD THB TRY TWD UAH USD VND ZAR'.split(
    ' ',
  ),
);

/** Signs that several currencies share; the region of the source decides, or nothing does. */
const SHARED: Record<string, Record<string, string>> = {
  kr: { SE: 'SEK', NO: 'NOK', DK: 'DKK', IS: 'ISK' },
  $: { US: 'USD', CA: 'CAD', AU: 'AUD', NZ: 'NZD', SG: 'SGD', HK: 'HKD', MX: 'MXN' },
};

const LETTERS = /^\p{L}/u;

/** Every sign and code that `currencyFor` knows, longest first, as the body of a regular expression. */
export const CURRENCY_MARKS: string = [...Object.keys(SIGNS), ...Object.keys(SHARED), ...CODES]
  .sort((a, b) => b.length - a.length)
  .map((mark) => {
    const escaped = mark.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
    return LETTERS.test(mark) ? `(?<!\\p{L})${escaped}(?!\\p{L})` : escaped;
  })
  .join('|');

/** True for an ISO 4217 code that is known here. */
export function isCurrency(code: string): boolean {
  return CODES.has(code);
}

/**
 * The currency a sign or code stands for, with the locale its numbers usually follow.
 * `locale` is the source's: it settles `kr` and `$`. Null when it does not.
 */
export function currencyFor(mark: string, locale: string | null): Sign | null {
  const code = mark.toUpperCase();
  if (CODES.has(code)) return { currency: code, locale: code === 'CHF' ? 'de-CH' : null };
  const shared = SHARED[mark.toLowerCase()];
  if (shared !== undefined) {
    const region = locale === null ? undefined : new Intl.Locale(locale).maximize().region;
    const currency = region === undefined ? undefined : shared[region];
    return currency === undefined ? null : { currency, locale };
  }
  return SIGNS[mark] ?? null;
}
