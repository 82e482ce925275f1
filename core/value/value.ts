import { fail, ok, type Result } from '../result';
import { compareDecimals, percentOf, subtract, type Decimal } from './decimal';

/** An amount of money with its ISO 4217 currency. */
export interface Money {
  kind: 'money';
  amount: Decimal;
  currency: string;
}

/** A number with the unit it was written with, or none. */
export interface Quantity {
  kind: 'number';
  amount: Decimal;
  unit: string | null;
}

/** Words, compared after white space is folded. */
interface Text {
  kind: 'text';
  text: string;
}

/** Known to be missing. 'Not read' is not a value and has no place here. */
export interface Absent {
  kind: 'absent';
}

/** A typed value, as it was read. Never a bare string compared as if it were a number. */
export type Value = Money | Quantity | Text | Absent;

/** A value that can be measured against a limit. */
export type Measure = Money | Quantity;

/** Whether up is good, bad or neither. */
export type Polarity = 'up is good' | 'up is bad' | 'neither';

/** Absent, as a value. */
export const ABSENT: Absent = { kind: 'absent' };

/** True for money and numbers. */
export function isMeasure(value: Value): value is Measure {
  return value.kind === 'money' || value.kind === 'number';
}

/** What a measure is counted in: its currency, its unit, or null for a bare number. */
export function unitOf(value: Measure): string | null {
  return value.kind === 'money' ? value.currency : value.unit;
}

/** True when the two can be subtracted: same kind, same currency or unit. */
export function alike(a: Value, b: Value): boolean {
  if (!isMeasure(a) || !isMeasure(b)) return false;
  return a.kind === b.kind && unitOf(a) === unitOf(b);
}

/** Equality of meaning: `24.0` GBP equals `24.00` GBP; texts are compared as they stand. */
export function sameValue(a: Value, b: Value): boolean {
  if (isMeasure(a) && isMeasure(b)) return alike(a, b) && compareDecimals(a.amount, b.amount) === 0;
  if (a.kind === 'text' && b.kind === 'text') return a.text === b.text;
  return a.kind === 'absent' && b.kind === 'absent';
}

/** Orders two like measures. Error `unlike` when kind, currency or unit differ: such are never compared. */
export function compareMeasures(a: Measure, b: Measure): Result<-1 | 0 | 1, 'unlike'> {
  return alike(a, b) ? ok(compareDecimals(a.amount, b.amount)) : fail('unlike');
}

/** How far a value moved: the signed amount in the value's own unit, and percent of the start (null from zero). */
export interface Move {
  difference: Decimal;
  percent: Decimal | null;
}

/** The move from one value to another; null when they cannot be subtracted. */
export function moveBetween(from: Value, to: Value): Move | null {
  if (!isMeasure(from) || !isMeasure(to) || !alike(from, to)) return null;
  const difference = subtract(to.amount, from.amount);
  return { difference, percent: percentOf(difference, from.amount) };
}
