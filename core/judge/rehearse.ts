import type { Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { IsRelated } from './related';
import { asksIn, childrenOf, clausesOf, type Clause, type Condition } from './clause';
import type { Situation } from './engine';
import { asOfOne, takenUp } from './rate-limit';
import type { Finding, Latest } from './observation';
import type { RuleMemory } from './memory';
import { kindOf } from './kinds/table';
import { reasonOf, type Reason } from './reason';
import { type RuleDefinition } from './rule';
import { freshSubject, hearSubject, isNotifying, nextOfSubject, wakeSubject, type Turn } from './subject';

/** A pretended reading, and what the rule makes of it. */
export interface RehearsedReading {
  at: Instant;
  /** The field that it turned on, with its value and the one before. */
  field: string;
  value: Value;
  previous: Value | null;
  /** All that is read then, by field. */
  values: Values;
  told: boolean;
  reason: Reason;
}

/** The most readings that are pretended: the baseline, one that leaves the limit, and as many as a hold asks for. */
const MOST = 60;

/** A record that stands alone. */
const NOTHING_THERE: IsRelated = { at: 0, read: new Map(), groups: new Map() };

/** Values by field. */
type Values = Readonly<Record<string, Value>>;

/**
 * Runs a rule on pretended readings from `present` on, step by step as every reading is judged, until it tells
 * somebody: the values first leave the condition where they have to, then meet it by the least there is. Ends without
 * telling where the rule cannot tell of such values; the last reason says why.
 */
export function rehearse(given: RuleDefinition, present: Values, apart: number): RehearsedReading[] {
  const rule = takenUp(asOfOne(given));
  const done: RehearsedReading[] = [];
  const situation = { intervalMs: apart, savedAt: 0 };
  let memory = freshSubject(rule, situation);
  let [before, values]: [Values, Values] = [{}, present];
  for (let at: Instant = 0; done.length < MOST; at += apart) {
    const { turns, memory: after } = hearValues(rule, memory, { values, at }, situation);
    const told = turns.some((turn) => turn.told.some(isNotifying));
    const last = turns.findLast((turn) => turn.told.some(isNotifying)) ?? turns.at(-1);
    if (last === undefined) return done;
    done.push({ at, ...turnedOn(rule, last.findings, values, before), told, reason: reasonOf(rule, memory, last) });
    memory = after;
    if (told) return done;
    const next = nextValues(rule, memory, values);
    if (next === null) return done;
    [before, values] = [values, next];
  }
  return done;
}

/** What a rule makes of a pretended look, or of the time that passes between two. */
export interface RehearsedTurn extends RehearsedReading {
  by: 'look' | 'clock';
}

/**
 * Runs a rule over a course of pretended looks, each at its time, the clock between them moved as it would be: a turn
 * for each run, and one for each time that the clock moves it or tells something. The first run is the one at which
 * the rule is saved. A course in which the clock has to move a rule too often ends there. What stands `beside` the
 * record stays as it is throughout, as fresh or as old as it is.
 */
export function rehearseCourse(
  given: RuleDefinition,
  course: readonly { at: Instant; values: Values }[],
  intervalMs: number,
  beside: IsRelated = NOTHING_THERE,
): RehearsedTurn[] {
  const rule = asOfOne(given);
  const situation = { intervalMs, savedAt: course[0]?.at ?? 0 };
  const done: RehearsedTurn[] = [];
  let memory = freshSubject(rule, situation);
  let before: Values = {};
  let ticks = 0;
  const take = (by: RehearsedTurn['by'], turn: Turn, at: Instant, values: Values, was: Values) =>
    done.push({
      by,
      at,
      ...turnedOn(rule, turn.findings, values, was),
      told: turn.told.some(isNotifying),
      reason: reasonOf(rule, memory, turn),
    });
  const wake = (due: Instant) => {
    for (const turn of wakeSubject(rule, memory, due, situation)) {
      if (turn.told.some(isNotifying) || turn.before !== turn.after) take('clock', turn, turn.at, before, before);
      memory = turn.memory;
    }
  };
  for (const { at, values } of course) {
    for (let due = dueBefore(rule, memory, situation, at); due !== null; due = dueBefore(rule, memory, situation, at)) {
      ticks += 1;
      if (ticks > MOST_TICKS) return done;
      wake(due);
    }
    const { turns, memory: after } = hearValues(rule, memory, { values, at }, situation, beside);
    const last = turns.findLast((turn) => turn.told.some(isNotifying)) ?? turns.at(-1);
    if (last !== undefined) take('look', last, at, values, before);
    [memory, before] = [after, values];
  }
  return done;
}

/** So often the clock may move a rule within a course. */
const MOST_TICKS = 200;

/** When the clock moves a rule next, before a moment; null where it does not. */
function dueBefore(rule: RuleDefinition, memory: RuleMemory, situation: Situation, at: Instant): Instant | null {
  const due = nextOfSubject(rule, memory, situation);
  return due === null || due >= at ? null : due;
}

/** What is told at the very moment of a reading comes by the clock, right after it. */
function hearValues(
  rule: RuleDefinition,
  memory: RuleMemory,
  { values, at }: { values: Values; at: Instant },
  situation: Situation,
  beside: IsRelated = NOTHING_THERE,
): { turns: Turn[]; memory: RuleMemory } {
  const own = Object.entries(values).map(([field, value]): [string, Latest] => [field, { value, at }]);
  const asOld = (latest: Latest): Latest => ({ ...latest, at: at - (beside.at - latest.at) });
  const read = new Map([...[...beside.read].map(([key, latest]): [string, Latest] => [key, asOld(latest)]), ...own]);
  const others = new Map([...beside.groups].map(([key, members]) => [key, members.map(asOld)]));
  const heard = hearSubject(rule, memory, { of: 'run', at, moment: at, own: true, read, groups: others }, situation);
  const known = heard.at(-1)?.memory ?? memory;
  const woken = wakeSubject(rule, known, at, situation);
  return { turns: [...heard, ...woken], memory: woken.at(-1)?.memory ?? known };
}

/** The field of a clause that is met, or else of the first. */
function turnedOn(
  { when }: RuleDefinition,
  findings: readonly (Finding | null)[],
  values: Values,
  before: Values,
): Pick<RehearsedReading, 'field' | 'value' | 'previous' | 'values'> {
  const fields = clausesOf(when).map((clause) => asksIn(clause)[0]?.field ?? '');
  const met = fields.filter((_, at) => findings[at]?.is === 'met');
  const field = [...met, ...fields, ...Object.keys(values)].find((key) => key in values) ?? '';
  return { field, value: values[field] ?? { kind: 'absent' }, previous: before[field] ?? null, values };
}

/**
 * The next values to pretend: such as meet it, or, where they do so to no avail, such as leave it. Null where none
 * would.
 */
function nextValues(rule: RuleDefinition, { judged: { state } }: RuleMemory, values: Values): Values | null {
  if (state.is === 'holding') return values;
  let moved = false;
  const next = { ...values };
  for (const clause of affirmed(rule.when)) {
    const [asked] = asksIn(clause);
    const value = asked === undefined ? undefined : next[asked.field];
    const pretended = kindOf(clause).pretend?.(clause) ?? null;
    if (asked === undefined || value === undefined || pretended === null) continue;
    const made = pretended.stands(value) ? pretended.leaves(value) : pretended.meets(value);
    if (made === null) return null;
    next[asked.field] = made;
    moved = true;
  }
  return moved ? next : null;
}

/** The clauses that have to be met: of several ways the first. */
function affirmed(condition: Condition): Clause[] {
  if ('kind' in condition) return [condition];
  if ('none' in condition) return [];
  const parts = childrenOf(condition);
  return 'all' in condition ? parts.flatMap(affirmed) : parts.slice(0, 1).flatMap(affirmed);
}
