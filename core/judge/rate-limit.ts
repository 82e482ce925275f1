import type { Instant } from '../when/interval';
import type { Verdict } from './known';
import type { RuleDefinition } from './rule';
import { heldBack, nextWithin, type Throttle, type ThrottleMemory, type Notification } from './throttle';

/** What is remembered of a rule that is told at most once in a time as a whole (27): of all its records together. */
export interface RateLimit {
  /** Until when nothing more is told of it. */
  until: Instant;
  /** How many alerts have come since, the first of them when, and of which records, that of the latest last. */
  held: number;
  since: Instant | null;
  records: string[];
  /** How many of those that are held each of them brought; what was remembered before does not say. */
  counts?: Record<string, number>;
}

/**
 * Of so many records is it remembered that theirs is held; of those beyond nobody is reminded, nor is told that it is
 * over.
 */
const MOST_RECORDS = 1_000;

const openUntil = (until: Instant): RateLimit => ({ until, held: 0, since: null, records: [] });

/**
 * How long nothing more is told of a rule as a whole after something was, in ms; null of a rule that says no such
 * thing.
 */
export const rateLimitOf = ({ together, atMostEvery }: Throttle = {}): number | null =>
  together === true ? (atMostEvery ?? null) : null;

/**
 * Takes one thing that would be told of a record: it passes, and its time begins, or it is held. What is due by then
 * has to be let out first (`letOut`), else it is held with it.
 */
function passRateLimit(
  every: number,
  gate: RateLimit | null,
  at: Instant,
  record: string,
  count = 1,
): { gate: RateLimit; passes: boolean } {
  if (gate === null || (gate.until <= at && gate.held === 0)) return { gate: openUntil(at + every), passes: true };
  const records = [...gate.records.filter((each) => each !== record), record].slice(-MOST_RECORDS);
  const before = new Map(Object.entries(gate.counts ?? {}));
  const counts = Object.fromEntries(
    records.flatMap((each) => {
      const brought = (before.get(each) ?? 0) + (each === record ? count : 0);
      return brought === 0 ? [] : [[each, brought]];
    }),
  );
  return { gate: { ...gate, held: gate.held + count, since: gate.since ?? at, records, counts }, passes: false };
}

/**
 * When what is held is told, or, where nothing is, when its time is up: within the hours in which it is told, and no
 * longer put off.
 */
export function rateLimitDue({ hours, putOff }: Throttle, { until, held }: RateLimit): Instant {
  if (held === 0) return until;
  const from = Math.max(until, putOff?.until ?? until);
  return hours === undefined ? from : nextWithin(hours, from);
}

/** What the clock brings at a moment at which a gate is due: what was held is told as one, and its time begins anew. */
export function letOut(
  every: number,
  { held, since, records, counts = {} }: RateLimit,
  at: Instant,
): { gate: RateLimit | null; out: Held | null } {
  if (held === 0 || since === null) return { gate: null, out: null };
  return { gate: openUntil(at + every), out: { count: held, since, records, counts } };
}

/** What was held, told as one: how many alerts, since when, and of which records, that of the latest last. */
export interface Held {
  count: number;
  since: Instant;
  records: string[];
  counts: Record<string, number>;
}

/** Something that would be told of a record at a moment. */
interface Telt {
  identity: string;
  at: Instant;
  told: string;
}

/**
 * What a rule as a whole tells of what would be told record by record, in the order of time: for replays, in which
 * nothing else happens. What stands outside of it (reminders, ends) is told as it comes.
 */
export function throughRateLimit<Each extends Telt>(telling: Throttle, all: readonly Each[], to: Instant): Each[] {
  const every = rateLimitOf(telling);
  if (every === null) return [...all];
  const told: Each[] = [];
  let gate: RateLimit | null = null;
  let last: Each | null = null;
  const until = (now: Instant) => {
    for (; gate !== null && rateLimitDue(telling, gate) <= now;) {
      const at: Instant = rateLimitDue(telling, gate);
      const { gate: next, out } = letOut(every, gate, at);
      if (out !== null && last !== null) told.push({ ...last, at, told: out.count === 1 ? 'alert' : 'several' });
      gate = next;
    }
  };
  for (const each of all) {
    // What comes at the very end of the time comes before that ends.
    until(each.at - 1);
    if (!isRateLimited(each.told)) {
      told.push(each);
      continue;
    }
    const { gate: next, passes } = passRateLimit(every, gate, each.at, each.identity);
    gate = next;
    if (passes) told.push(each);
    else last = each;
  }
  until(to);
  return told;
}

/**
 * A verdict with what passes a gate and what is held behind it, and what is remembered of telling where something of
 * its record is held.
 */
export interface HeldBack {
  verdict: Verdict;
  gate: RateLimit | null;
  held: ThrottleMemory | null;
}

/**
 * Takes a verdict to a gate, after those before it of its moment; `held` is what was remembered by them of its record
 * where theirs is held.
 */
export function heldBehind(verdict: Verdict, gate: RateLimit | null, held: ThrottleMemory | null = null): HeldBack {
  const { rule, before, turn } = verdict;
  const every = rateLimitOf(rule.definition.telling);
  if (every === null) return { verdict, gate, held };
  let known = gate;
  let isHeld = held !== null;
  const told = turn.told.map((each) => {
    if (each.what !== 'alert' && each.what !== 'several') return each;
    const count = each.what === 'several' ? each.count : 1;
    const { gate: next, passes } = passRateLimit(every, known, each.at, verdict.identity, count);
    known = next;
    isHeld = !passes;
    return passes ? each : ({ at: each.at, what: 'kept', because: 'told lately', count } satisfies Notification);
  });
  if (!isHeld) return { verdict: { ...verdict, turn: { ...turn, told } }, gate: known, held: null };
  const since = held ?? before.telling;
  const begins = since.untold === true || turn.effects.some((effect) => effect.do === 'open');
  const telling = heldBack(since, turn.memory.telling, begins);
  return {
    verdict: { ...verdict, turn: { ...turn, told, memory: { ...turn.memory, telling } } },
    gate: known,
    held: telling,
  };
}

/** A rule as it is told where there is but one record: of each and of all is the same then. */
export function asOfOne(rule: RuleDefinition): RuleDefinition {
  const { together: _together, ...telling } = rule.telling ?? {};
  return rule.telling === undefined ? rule : { ...rule, telling };
}

/** A rule as it is told where it is not put off: what it would have done on the past has nothing to do with that. */
export function takenUp(rule: RuleDefinition): RuleDefinition {
  const { putOff: _putOff, ...telling } = rule.telling ?? {};
  return rule.telling?.putOff === undefined ? rule : { ...rule, telling };
}

/** Whether what is told counts for a gate: reminders, ends and what cannot be judged stand outside of it. */
export const isRateLimited = (told: string): boolean => told === 'alert' || told === 'several';
