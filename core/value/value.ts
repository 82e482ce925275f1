import { fail, ok, type Result } from '../result';
import { compareDecimals, decimal, percentOf, subtract, type Decimal } from './decimal';

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
  /** How many characters it has as a whole, where this is a part of it for showing; such a one is never compared. */
  whole?: number;
}

/** Yes or no: a door open, a phrase present. */
interface Flag {
  kind: 'flag';
  is: boolean;
}

/** One of a named set of states. */
interface State {
  kind: 'state';
  state: string;
}

/** A place on an ordered scale of the analyst's own, the best first. */
interface Grade {
  kind: 'grade';
  grade: string;
  scale: string[];
}

/** A moment (ms since the epoch, UTC), or a whole day, which then stands at its midnight UTC. */
export interface Moment {
  kind: 'moment';
  at: number;
  day: boolean;
}

/** An absolute address of a page, or of a picture. */
interface LinkValue {
  kind: 'link' | 'picture';
  address: string;
}

/** Known to be missing. 'Not read' is not a value and has no place here. */
export interface Absent {
  kind: 'absent';
}

/** A typed value, as it was read. Never a bare string compared as if it were a number. */
export type Value = Money | Quantity | Text | Flag | State | Grade | Moment | LinkValue | Absent;

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
  return a.kind === b.kind && wordsOf(a) === wordsOf(b) && scaleOf(a) === scaleOf(b);
}

/** A value that is no measure, as the words it is stored and compared by. */
export function wordsOf(value: Value): string | null {
  switch (value.kind) {
    case 'text':
      return value.text;
    case 'flag':
      return value.is ? 'yes' : 'no';
    case 'state':
      return value.state;
    case 'grade':
      return value.grade;
    case 'moment':
      return new Date(value.at).toISOString().slice(0, value.day ? 10 : 24);
    case 'link':
    case 'picture':
      return value.address;
    default:
      return null;
  }
}

const SCALE_MARK = '>';

/** The scale of a grade as one text, the best first; null for other values. */
export function scaleOf(value: Value): string | null {
  return value.kind === 'grade' ? value.scale.join(SCALE_MARK) : null;
}

/** A value as flat columns: its kind, its exact amount, what it is counted in, its words. */
export interface ValueColumns {
  kind: Value['kind'];
  amount: string | null;
  unit: string | null;
  words: string | null;
}

/** Flattens a value for a table. */
export function valueColumns(value: Value): ValueColumns {
  if (isMeasure(value)) return { kind: value.kind, amount: value.amount, unit: unitOf(value), words: null };
  return { kind: value.kind, amount: null, unit: scaleOf(value), words: wordsOf(value) };
}

/** Makes a value of its flat columns again; whatever does not fit its kind is absent. */
export function valueOfColumns({ kind, amount, unit, words }: ValueColumns): Value {
  if (kind === 'money' || kind === 'number') {
    const exact = amount === null ? null : decimal(amount);
    if (exact === null) return ABSENT;
    return kind === 'money' ? { kind, amount: exact, currency: unit ?? '' } : { kind, amount: exact, unit };
  }
  return words === null ? ABSENT : valueOfWords(kind, words, unit);
}

function valueOfWords(kind: Exclude<Value['kind'], 'money' | 'number'>, words: string, scale: string | null): Value {
  switch (kind) {
    case 'text':
      return { kind, text: words };
    case 'flag':
      return { kind, is: words === 'yes' };
    case 'state':
      return { kind, state: words };
    case 'grade':
      return { kind, grade: words, scale: (scale ?? words).split(SCALE_MARK) };
    case 'moment':
      return { kind, at: Date.parse(words), day: words.length === 10 };
    case 'link':
    case 'picture':
      return { kind, address: words };
    case 'absent':
      return ABSENT;
  }
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
