import { unreachedWords, type ReachedBy } from '../tell/reach';
import { DateTime } from 'luxon';
import { lets, type Filtered } from '../judge/records';
import { endOf, type RuleDefinition } from '../judge/rule';
import { fail, ok, type Result } from '../result';
import { parseLimit, parsePrice } from '../value/parse';
import { ABSENT, isMeasure, type Value } from '../value/value';
import type { Place } from '../when/format';
import type { Instant } from '../when/interval';
import { readLocal } from '../when/wall-clock';

/**
 * A look that is pretended, as typed: when by the clock on the wall (2026-11-27T14:00), and values by field; what is
 * left empty stays as it was.
 */
export interface PretendedRun {
  at: string;
  values: Readonly<Record<string, string>>;
}

/** A look that is pretended, with the value of each field. */
export interface PretendedReading {
  at: Instant;
  values: Record<string, Value>;
}

/** What cannot be taken of a course of runs: of which run, of which field where it is of one, and why. */
export interface PretendedProblem {
  look: number;
  field: string | null;
  said: string;
}

/** So many runs are pretended at most. */
export const MOST_RUNS = 30;

/**
 * The looks of a rehearsal as they were typed, each with all values as they stand then, those that the first leaves
 * empty as they are now. Refused where a value is none of its field, and where one run is not after the one before.
 */
export function courseOf(
  looks: readonly PretendedRun[],
  present: Readonly<Record<string, Value>>,
  place: Place,
): Result<PretendedReading[], PretendedProblem> {
  if (looks.length > MOST_RUNS) return fail({ look: MOST_RUNS, field: null, said: `At most ${MOST_RUNS} looks.` });
  const course: PretendedReading[] = [];
  for (const [look, { at, values }] of looks.entries()) {
    const before = course.at(-1);
    const time = readLocal(at, place.zone);
    if (time === null) return fail({ look, field: null, said: 'Say when, as 2026-11-27 14:00.' });
    if (before !== undefined && time <= before.at)
      return fail({ look, field: null, said: 'Each run comes after the one before.' });
    const read = valuesOf(values, before?.values ?? present, present, place);
    if (!read.ok) return fail({ look, ...read.error });
    course.push({ at: time, values: read.value });
  }
  return ok(course);
}

function valuesOf(
  typed: PretendedRun['values'],
  standing: Readonly<Record<string, Value>>,
  present: Readonly<Record<string, Value>>,
  place: Place,
): Result<Record<string, Value>, Omit<PretendedProblem, 'look'>> {
  const values: Record<string, Value> = { ...standing };
  for (const [field, text] of Object.entries(typed)) {
    if (text.trim() === '') continue;
    const value = valueOf(text.trim(), present[field], place);
    if (value === null) return fail({ field, said: `“${text.trim()}” is no value of this field.` });
    values[field] = value;
  }
  return ok(values);
}

/** A value as it is typed, of the kind that the field reads now; null where it is none. */
function valueOf(text: string, like: Value | undefined, { locale, zone }: Place): Value | null {
  if (/^absent$/i.test(text)) return ABSENT;
  if (like === undefined) return null;
  if (isMeasure(like)) return measureOf(text, like, locale);
  switch (like.kind) {
    case 'text':
      return { kind: 'text', text };
    case 'state':
      return { kind: 'state', state: text };
    case 'flag':
      return /^(yes|no)$/i.test(text) ? { kind: 'flag', is: /^yes$/i.test(text) } : null;
    case 'grade':
      return like.scale.includes(text) ? { ...like, grade: text } : null;
    case 'link':
      return { ...like, address: text };
    case 'moment': {
      const at = DateTime.fromISO(text.replace(' ', 'T'), { zone: like.day ? 'UTC' : zone }).toMillis();
      return Number.isNaN(at) ? null : { ...like, at };
    }
    default:
      return null;
  }
}

/** An amount counted like the field, or a price in a currency of its own. */
function measureOf(text: string, like: Extract<Value, { kind: 'money' | 'number' }>, locale: string): Value | null {
  const amount = parseLimit(text, locale);
  const price = like.kind === 'money' ? parsePrice(text, { locale }) : null;
  if (price?.ok === true) return price.value.value;
  return amount.ok ? { ...like, amount: amount.value } : null;
}

/**
 * What keeps an alert of a rule on a record from those who should hear of it, link by link down the chain, each as a
 * sentence; empty where nothing does. What is asked of labels, items and ranks is not looked at.
 */
export function stopsOf(rule: RuleDefinition, record: Filtered, readers: readonly ReachedBy[], at: Instant): string[] {
  const tests = (rule.only ?? []).filter((test) => test.by === 'identity' || test.by === 'name' || test.by === 'field');
  const end = endOf(rule);
  return [
    ...(rule.off === true ? ['The rule is switched off: it is not judged.'] : []),
    ...(end !== null && at >= end ? ['Its last day is over by then: it is not judged any more.'] : []),
    ...(lets(tests, record) ? [] : ['Its filter leaves this record out.']),
    ...(readers.length === 0 ? ['Nobody is named who should hear.'] : []),
    ...unreachedWords(readers).map((said) => `${said}: what is for them is kept back.`),
  ];
}
