import { fractionDigits, magnitude, type Decimal } from './decimal';
import { isMeasure, unitOf, type Measure, type Value } from './value';

type Exact = Intl.StringNumericLiteral;

/** A value as its reader writes it: `£24.00`, `18.4 °C`, `In stock`, `absent`. Exact: never through a float. */
export function formatValue(value: Value, locale: string): string {
  if (value.kind === 'text') return value.text === '' ? '(empty)' : value.text;
  if (value.kind === 'absent') return 'absent';
  return formatAmount(value.amount, value, locale);
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
  return cached(`${locale} ${places}`, () => new Intl.NumberFormat(locale, { minimumFractionDigits: places, maximumFractionDigits: places }));
}

function moneyFormat(currency: string, amount: Decimal, locale: string): Intl.NumberFormat {
  const places = fractionDigits(amount);
  return cached(`${locale} ${currency} ${places}`, () => {
    const style = { style: 'currency', currency, currencyDisplay: 'narrowSymbol' } as const;
    const usual = new Intl.NumberFormat(locale, style).resolvedOptions().maximumFractionDigits ?? 2;
    return new Intl.NumberFormat(locale, { ...style, maximumFractionDigits: Math.min(Math.max(usual, places), 20) });
  });
}

function cached(key: string, make: () => Intl.NumberFormat): Intl.NumberFormat {
  const known = formats.get(key);
  if (known !== undefined) return known;
  const made = make();
  formats.set(key, made);
  return made;
}
