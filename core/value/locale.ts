import { boundedCache } from './cache';

/** How numbers are written in a locale: the mark between whole and fraction. */
export type DecimalMark = '.' | ',';

const TAG = /^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/i;

/** The canonical BCP 47 tag (RFC 5646) for what a page or a person states; null when it is none. */
export function localeTag(text: string | null | undefined): string | null {
  const tag = text?.trim().replace(/_/g, '-') ?? '';
  if (!TAG.test(tag)) return null;
  try {
    return Intl.getCanonicalLocales(tag)[0] ?? null;
  } catch {
    return null;
  }
}

const marks = boundedCache<DecimalMark>(200);

/** The decimal mark of a locale, from the Unicode CLDR data behind Intl. */
export function decimalMark(locale: string): DecimalMark {
  return marks(locale, () => {
    const parts = new Intl.NumberFormat(locale).formatToParts(1.5);
    return parts.find((part) => part.type === 'decimal')?.value === ',' ? ',' : '.';
  });
}

/**
 * A locale with the language and script most used in its region, by CLDR's likely subtags: `und-GB` is `en-Latn-GB`.
 */
export function regionOf(locale: string): string | null {
  const likely = new Intl.Locale(locale).maximize();
  return likely.language === 'und' ? null : likely.baseName;
}
