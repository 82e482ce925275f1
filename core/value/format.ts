import { fractionDigits, magnitude, type Decimal } from './decimal';
import { isMeasure, unitOf, wordsOf, type Measure, type Value } from './value';

type Exact = Intl.StringNumericLiteral;

/**
 * A value as its reader writes it: `£24.00`, `18.4 °C`, `In stock`, `yes`, `absent`. Exact: never through a float.
 * A moment is written in `zone` (an IANA name), a whole day as that day everywhere.
 */
export function formatValue(value: Value, locale: string, zone = 'UTC'): string {
  switch (value.kind) {
    case 'money':
    case 'number':
      return formatAmount(value.amount, value, locale);
    case 'text':
      return value.text === '' ? '(empty)' : value.text;
    case 'moment':
      return momentFormat(locale, value.day ? null : zone).format(value.at);
    case 'absent':
      return 'absent';
    default:
      return wordsOf(value) ?? '';
  }
}

const momentFormats = new Map<string, Intl.DateTimeFormat>();

function momentFormat(locale: string, zone: string | null): Intl.DateTimeFormat {
  return cached(momentFormats, `${locale} ${zone}`, () =>
    zone === null
      ? new Intl.DateTimeFormat(locale, { dateStyle: 'medium', timeZone: 'UTC' })
      : new Intl.DateTimeFormat(locale, {
          day: 'numeric',
          month: 'short',
          year: 'numeric',
          hour: '2-digit',
          minute: '2-digit',
          timeZone: zone,
          timeZoneName: 'short',
        }),
  );
}

/** An amount in the unit of `like`, with its currency sign or unit. */
export function formatAmount(amount: Decimal, like: Measure, locale: string): string {
  const unit = unitOf(like);
  if (like.kind === 'money') return moneyFormat(like.currency, amount, locale).format(amount as Exact);
  return unit === null ? formatBare(amount, locale) : `${formatBare(amount, locale)}${unit === '%' ? '' : ' '}${unit}`;
}

/** An amount without sign or unit, for columns where the unit stands once: `2.50`. */
export function formatDifference(difference: Decimal, like: Measure, locale: string): string {
  const size = magnitude(difference);
  if (like.kind !== 'money') return formatBare(size, locale);
  const parts = moneyFormat(like.currency, size, locale).formatToParts(size as Exact);
  const kept = parts.filter((part) => part.type !== 'currency' && part.type !== 'literal');
  return kept.map((part) => part.value).join('');
}

/** A percentage with one place, without its sign: `10.4%`. */
export function formatPercent(percent: Decimal, locale: string): string {
  return `${formatBare(magnitude(percent), locale)}%`;
}

/** The sign of the currency or the unit alone, for a caption: `£`, `°C`, or an empty text. */
export function formatUnit(value: Value, locale: string): string {
  if (!isMeasure(value)) return '';
  if (value.kind === 'number') return value.unit ?? '';
  const parts = moneyFormat(value.currency, value.amount, locale).formatToParts(0);
  return parts.find((part) => part.type === 'currency')?.value ?? value.currency;
}

function formatBare(amount: Decimal, locale: string): string {
  const places = Math.min(fractionDigits(amount), 20);
  return numberFormat(locale, places).format(amount as Exact);
}

const formats = new Map<string, Intl.NumberFormat>();

function numberFormat(locale: string, places: number): Intl.NumberFormat {
  return cached(
    formats,
    `${locale} ${places}`,
    () => new Intl.NumberFormat(locale, { minimumFractionDigits: places, maximumFractionDigits: places }),
  );
}

function moneyFormat(currency: string, amount: Decimal, locale: string): Intl.NumberFormat {
  const places = fractionDigits(amount);
  return cached(formats, `${locale} ${currency} ${places}`, () => {
    const style = { style: 'currency', currency, currencyDisplay: 'narrowSymbol' } as const;
    const usual = new Intl.NumberFormat(locale, style).resolvedOptions().maximumFractionDigits ?? 2;
    return new Intl.NumberFormat(locale, { ...style, maximumFractionDigits: Math.min(Math.max(usual, places), 20) });
  });
}

function cached<T>(kept: Map<string, T>, key: string, make: () => T): T {
  const known = kept.get(key);
  if (known !== undefined) return known;
  const made = make();
  kept.set(key, made);
  return made;
}
