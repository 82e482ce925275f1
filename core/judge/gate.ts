import type { Instant } from '../when/interval';
import type { Verdict } from './known';
import type { RuleMemory } from './memory';
import type { RuleDefinition } from './rule';
import { nextWithin, type Told, type Telling } from './telling';

/** What is remembered of a rule that is told at most once in a time as a whole (27): of all its records together. */
export interface Gate {
  /** Until when nothing more is told of it. */
  until: Instant;
  /** How many alerts have come since, the first of them when, and of which record the latest is. */
  held: number;
  since: Instant | null;
  latest: string | null;
}

/** How long nothing more is told of a rule as a whole after something was, in ms; null of a rule that says no such thing. */
export const gateOf = ({ together, atMostEvery }: Telling = {}): number | null => (together === true ? (atMostEvery ?? null) : null);

/**
 * Takes one thing that would be told of a record: it passes, and its time begins, or it is held. What is due by then has to be let out first
 * (`letOut`), else it is held with it.
 */
function passGate(every: number, gate: Gate | null, at: Instant, record: string, count = 1): { gate: Gate; passes: boolean } {
  if (gate === null || (gate.until <= at && gate.held === 0))
    return { gate: { until: at + every, held: 0, since: null, latest: null }, passes: true };
  return { gate: { ...gate, held: gate.held + count, since: gate.since ?? at, latest: record }, passes: false };
}

/** When what is held is told, or, where nothing is, when its time is up: within the hours in which it is told, and no longer put off. */
export function gateDue({ hours, putOff }: Telling, { until, held }: Gate): Instant {
  if (held === 0) return until;
  const from = Math.max(until, putOff?.until ?? until);
  return hours === undefined ? from : nextWithin(hours, from);
}

/** What the clock brings at a moment at which a gate is due: what was held is told as one, and its time begins anew. */
export function letOut(every: number, { held, since, latest }: Gate, at: Instant): { gate: Gate | null; out: Held | null } {
  if (held === 0 || since === null || latest === null) return { gate: null, out: null };
  return { gate: { until: at + every, held: 0, since: null, latest: null }, out: { count: held, since, record: latest } };
}

/** What was held, told as one: how many alerts, since when, and of which record the latest was. */
export interface Held {
  count: number;
  since: Instant;
  record: string;
}

/** Something that would be told of a record at a moment. */
interface Telt {
  identity: string;
  at: Instant;
  told: string;
}

/**
 * What a rule as a whole tells of what would be told record by record, in the order of time: for replays, in which nothing else happens. What
 * stands outside of it (reminders, ends) is told as it comes.
 */
export function throughGate<Each extends Telt>(telling: Telling, all: readonly Each[], to: Instant): Each[] {
  const every = gateOf(telling);
  if (every === null) return [...all];
  const told: Each[] = [];
  let gate: Gate | null = null;
  let last: Each | null = null;
  const until = (now: Instant) => {
    for (; gate !== null && gateDue(telling, gate) <= now;) {
      const at: Instant = gateDue(telling, gate);
      const { gate: next, out } = letOut(every, gate, at);
      if (out !== null && last !== null) told.push({ ...last, at, told: out.count === 1 ? 'alert' : 'several' });
      gate = next;
    }
  };
  for (const each of all) {
    // What comes at the very end of the time comes before that ends.
    until(each.at - 1);
    if (!isGated(each.told)) {
      told.push(each);
      continue;
    }
    const { gate: next, passes } = passGate(every, gate, each.at, each.identity);
    gate = next;
    if (passes) told.push(each);
    else last = each;
  }
  until(to);
  return told;
}

/** A verdict with what passes a gate, and what is held behind it: of that nobody is told yet. */
export function keptBehind(verdict: Verdict, gate: Gate | null): { verdict: Verdict; gate: Gate | null } {
  const every = gateOf(verdict.rule.definition.telling);
  if (every === null) return { verdict, gate };
  let known = gate;
  const told = verdict.turn.told.map((each) => {
    if (each.what !== 'alert' && each.what !== 'several') return each;
    const count = each.what === 'several' ? each.count : 1;
    const { gate: next, passes } = passGate(every, known, each.at, verdict.identity, count);
    known = next;
    return passes ? each : ({ at: each.at, what: 'kept', because: 'told lately', count } satisfies Told);
  });
  const isHeld = told.some(({ what }, at) => what === 'kept' && verdict.turn.told[at]?.what !== 'kept');
  return { verdict: { ...verdict, turn: { ...verdict.turn, told, memory: isHeld ? untold(verdict) : verdict.turn.memory } }, gate: known };
}

/** What is remembered where the beginning of what is open is held: its end is no news then. */
function untold({ before, turn: { memory, effects } }: Verdict): RuleMemory {
  const begins = memory.telling.open && (before.telling.untold === true || effects.some((effect) => effect.do === 'open'));
  return begins ? { ...memory, telling: { ...memory.telling, untold: true } } : memory;
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
export const isGated = (told: string): boolean => told === 'alert' || told === 'several';
