import { compareDecimals, magnitude, multiply, type Decimal } from '../../value/decimal';
import { isMeasure, unitOf, type Value } from '../../value/value';
import type { Doubt, FrameChange } from './types';

const NOUGHT = '0' as Decimal;
const JUMP = '3' as Decimal;

/**
 * What makes a value of a page doubtful after its last good one: another currency or unit, nought, three times as much
 * or a third, or a mark in it that is read otherwise only because the page says to be in another language. None where
 * she said that such things happen, or that this very value is right.
 */
export function doubtsOf(last: Value, now: Value, { allowed = [], believed = [] }: Trust): FrameChange[] {
  if (!isMeasure(last) || !isMeasure(now)) return [];
  const doubt = doubtIn(last, now);
  if (doubt === null || allowed.includes(doubt) || believed.includes(measureWords(now))) return [];
  return [{ part: doubt, was: measureWords(last), is: measureWords(now) }];
}

/** What is believed of a field without a question. */
interface Trust {
  allowed?: readonly Doubt[];
  believed?: readonly string[];
}

type Measure = Extract<Value, { kind: 'money' | 'number' }>;

/** `24.00 GBP`: a measure as it is told apart. */
export const measureWords = (value: Measure) => [value.amount, unitOf(value)].filter(Boolean).join(' ');

/** The doubts there are. */
export const DOUBTS: readonly Doubt[] = ['currency', 'unit', 'nought', 'jump', 'mark'];

function doubtIn(last: Measure, now: Measure): Doubt | null {
  if (unitOf(last) !== unitOf(now)) return last.kind === 'money' ? 'currency' : 'unit';
  const [was, is] = [magnitude(last.amount), magnitude(now.amount)];
  const none = compareDecimals(was, NOUGHT) === 0;
  if (compareDecimals(is, NOUGHT) === 0) return none ? null : 'nought';
  if (none) return null;
  const [less, more] = compareDecimals(was, is) < 0 ? [was, is] : [is, was];
  return compareDecimals(more, multiply(less, JUMP)) >= 0 ? 'jump' : null;
}
