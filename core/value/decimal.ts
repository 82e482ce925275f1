import Big from 'big.js';

declare const decimalBrand: unique symbol;

/**
 * An exact decimal number as its canonical text: no exponent, no leading plus, no binary float.
 * Trailing zeros are kept as written, since `24.00` and `24.0` are equal but not shown alike.
 */
export type Decimal = string & { readonly [decimalBrand]: true };

const CANONICAL = /^-?\d+(\.\d+)?$/;
const LONGEST = 64;

/** Reads canonical decimal text (`-12.50`). Returns null for anything else, or for more than 64 characters. */
export function decimal(text: string): Decimal | null {
  if (text.length > LONGEST || !CANONICAL.test(text)) return null;
  return text as Decimal;
}

/** Subtracts `b` from `a` exactly; keeps the longer of the two fractions. */
export function subtract(a: Decimal, b: Decimal): Decimal {
  const places = Math.max(fractionDigits(a), fractionDigits(b));
  return new Big(a).minus(b).toFixed(places) as Decimal;
}

/** The sum of two decimals, exactly; keeps the longer of the two fractions. */
export function add(a: Decimal, b: Decimal): Decimal {
  const places = Math.max(fractionDigits(a), fractionDigits(b));
  return new Big(a).plus(b).toFixed(places) as Decimal;
}

/** The product of two decimals, exactly. */
export function multiply(a: Decimal, b: Decimal): Decimal {
  return new Big(a).times(b).toFixed() as Decimal;
}

/** The quotient of two decimals to 20 places, half to even; exact where it has no more. The divisor is not nought. */
export function divide(a: Decimal, b: Decimal): Decimal {
  const quotient = new Big(a).div(b);
  return (quotient.eq(0) ? '0' : quotient.toFixed()) as Decimal;
}

/** A decimal with so many places, half up away from nought. */
export function rounded(a: Decimal, places: number): Decimal {
  return new Big(a).round(places, Big.roundHalfUp).toFixed(places) as Decimal;
}

/** A decimal times a power of ten, exactly; as it stands for a power of nought. */
export function shiftDecimal(a: Decimal, power: number): Decimal {
  const shifted = new Big(a);
  if (power === 0 || shifted.eq(0)) return a;
  shifted.e += power;
  return shifted.toFixed() as Decimal;
}

/** Decimal digits that a binary64 holds whatever they are: IEEE 754, `DBL_DIG`. */
const EXACT_DIGITS = 15;

/**
 * Orders two decimals: -1, 0 or 1. `1.0` and `1.00` are equal. Of few digits, which nearly all are, the nearest binary
 * numbers lie in the same order and are equal only where these are, so they are compared instead; nothing is ever made
 * of them.
 */
export function compareDecimals(a: Decimal, b: Decimal): -1 | 0 | 1 {
  if (a === b) return 0;
  if (a.length > EXACT_DIGITS || b.length > EXACT_DIGITS) return new Big(a).cmp(b);
  const [x, y] = [Number(a), Number(b)];
  return x < y ? -1 : x > y ? 1 : 0;
}

/** How many digits stand after the point. */
export function fractionDigits(a: Decimal): number {
  const point = a.indexOf('.');
  return point < 0 ? 0 : a.length - point - 1;
}

/** The magnitude without its sign. */
export function magnitude(a: Decimal): Decimal {
  return (a.startsWith('-') ? a.slice(1) : a) as Decimal;
}

/**
 * `part` as a percentage of `whole`, rounded half up (away from nought) to one place. Null when `whole` is zero: from
 * zero there is no percent. The sign is that of `part` over the size of `whole`, so that a fall is negative
 * even where the value itself is below zero.
 */
export function percentOf(part: Decimal, whole: Decimal): Decimal | null {
  const base = new Big(whole).abs();
  if (base.eq(0)) return null;
  return new Big(part).times(100).div(base).round(1, Big.roundHalfUp).toFixed(1) as Decimal;
}

/** How many powers of ten lie between two magnitudes, as a whole number; null when either is zero. */
export function ordersApart(a: Decimal, b: Decimal): number | null {
  const [x, y] = [new Big(a).abs(), new Big(b).abs()];
  if (x.eq(0) || y.eq(0)) return null;
  const ratio = x.gt(y) ? x.div(y) : y.div(x);
  return ratio.e;
}
