import { fail, ok, type Result } from '../result';
import { compareDecimals } from '../value/decimal';
import { compareMeasures, isMeasure, sameValue, type Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { ClauseMemory, Peak, RuleMemory, RuleState } from './memory';
import type { Reason } from './reason';
import type { LimitCondition, RuleDefinition } from './rule';

/** What a rule is stepped with: what was read of its subject at one moment, each field with the good value before. */
export interface Point {
  at: Instant;
  /** Of the fields that were read well; one that is not here neither meets nor breaks anything. */
  fields: ReadonlyMap<string, { value: Value; previous: Value | null }>;
}

/** What a step brings about in the world. */
export type Effect =
  /** It is told. */
  | { do: 'alert' }
  /** An episode opens; it may have begun to be met before it was raised. */
  | { do: 'open'; at: Instant; value: Value; peak: Peak | null }
  | { do: 'peak'; peak: Peak }
  | { do: 'close'; at: Instant; because: 'left' | 'unlike' };

/** What one step makes of a rule's memory of a subject, and why. */
export interface Step {
  /** The very object that went in where nothing moved. */
  memory: RuleMemory;
  effects: Effect[];
  reason: Reason;
}

/** Advances a rule on one subject by what was read of it at a moment; null where that is none of its business. Pure, and O(1). */
export function stepRule(rule: RuleDefinition, memory: RuleMemory, point: Point): Step | null {
  const read = point.fields.get(rule.condition.field);
  if (read === undefined) return null;
  if (rule.condition.kind === 'change') return stepChange(memory, read);
  const met = meets(rule.condition, read.value);
  if (!met.ok) return stepUnlike(memory, point.at);
  const clause = met.value ? clauseBeyond(rule, rule.condition, memory.clause) : 'clear';
  return clause === 'beyond' ? stepMet(rule, memory, { at: point.at, value: read.value }) : stepUnmet(memory, clause, point.at);
}

/** When the clock alone may move a rule on a subject next; null where it waits for a reading. */
export function nextAt({ state }: RuleMemory): Instant | null {
  return state.is === 'holding' ? state.until : null;
}

/**
 * Moves a rule on by the clock: a hold whose time is up is raised, if something was heard of it within `fresh` ms; otherwise the next
 * reading decides. Null where nothing is due.
 */
export function wakeRule(rule: RuleDefinition, memory: RuleMemory, at: Instant, fresh: number): Step | null {
  const { state } = memory;
  if (state.is !== 'holding' || state.until === null || at < state.until || rule.hold?.for !== 'time') return null;
  if (state.until - state.latestAt > fresh) {
    return { memory: { ...memory, state: { ...state, until: null } }, effects: [], reason: { code: 'held, and not heard of' } };
  }
  return raise(state, state.until, { code: 'held for a time', ms: rule.hold.ms });
}

/** Whether a value stands beyond a limit; the error is `unlike` where the two cannot be compared. */
export function meets(condition: LimitCondition, value: Value): Result<boolean, 'unlike'> {
  if (!isMeasure(value)) return fail('unlike');
  const order = compareMeasures(value, condition.limit);
  if (!order.ok) return order;
  if (order.value === 0) return ok(condition.inclusive);
  return ok(order.value < 0 === (condition.direction === 'below'));
}

/** What a clause makes of a value beyond its limit: it counts, unless it was so at the baseline, or a crossing was not seen. */
function clauseBeyond({ whenAlreadyMet }: RuleDefinition, { kind }: LimitCondition, clause: ClauseMemory): ClauseMemory {
  if (clause === 'unjudged') return whenAlreadyMet === 'raise' ? 'beyond' : 'passed over';
  if (clause === 'afresh') return kind === 'level' ? 'beyond' : 'passed over';
  return clause === 'passed over' ? 'passed over' : 'beyond';
}

interface Met {
  at: Instant;
  value: Value;
}

function stepMet(rule: RuleDefinition, memory: RuleMemory, met: Met): Step {
  const { state, clause } = memory;
  if (state.is === 'raised') return stayRaised(rule, memory, state, met);
  const holding =
    state.is === 'holding' ? { ...state, readings: state.readings + 1, latestAt: met.at, peak: further(rule, state.peak, met) } : begin(rule, met);
  const left = stillToHold(rule, holding, met.at);
  if (left !== null) return { memory: { state: holding, clause: 'beyond' }, effects: [], reason: left };
  return raise(holding, met.at, whyRaised(rule, clause, holding));
}

function begin(rule: RuleDefinition, met: Met): Extract<RuleState, { is: 'holding' }> {
  const until = rule.hold?.for === 'time' ? met.at + rule.hold.ms : null;
  return { is: 'holding', since: met.at, readings: 1, latestAt: met.at, until, value: met.value, peak: further(rule, null, met) };
}

/** How far a hold has come; null where it is up, or there is none. */
function stillToHold({ hold }: RuleDefinition, { since, readings }: Extract<RuleState, { is: 'holding' }>, at: Instant): Reason | null {
  if (hold?.for === 'readings' && readings < hold.count) return { code: 'holds', readings, of: hold.count };
  if (hold?.for === 'time' && at - since < hold.ms) return { code: 'holds for a time', passed: at - since, of: hold.ms };
  return null;
}

function whyRaised({ hold }: RuleDefinition, before: ClauseMemory, { readings }: Extract<RuleState, { is: 'holding' }>): Reason {
  if (hold?.for === 'readings') return { code: 'held', readings };
  if (hold?.for === 'time') return { code: 'held for a time', ms: hold.ms };
  return { code: before === 'unjudged' ? 'met at the baseline' : 'met' };
}

function raise({ since, value, peak }: Extract<RuleState, { is: 'holding' }>, at: Instant, reason: Reason): Step {
  const effects: Effect[] = [{ do: 'open', at: since, value, peak }, { do: 'alert' }];
  return { memory: { state: { is: 'raised', opened: since, raised: at, peak }, clause: 'beyond' }, effects, reason };
}

function stayRaised(rule: RuleDefinition, memory: RuleMemory, state: Extract<RuleState, { is: 'raised' }>, met: Met): Step {
  const peak = further(rule, state.peak, met);
  const reason: Reason = { code: 'still raised' };
  if (peak === null || peak === state.peak) return { memory, effects: [], reason };
  return { memory: { ...memory, state: { ...state, peak } }, effects: [{ do: 'peak', peak }], reason };
}

/** The furthest value beyond the limit so far: the one before, unless this one goes further. */
function further({ condition }: RuleDefinition, peak: Peak | null, { at, value }: Met): Peak | null {
  if (!isMeasure(value) || condition.kind === 'change') return peak;
  if (peak === null) return { value, at };
  return compareDecimals(value.amount, peak.value.amount) === (condition.direction === 'below' ? -1 : 1) ? { value, at } : peak;
}

function stepUnmet(memory: RuleMemory, clause: ClauseMemory, at: Instant): Step {
  const { state } = memory;
  const effects: Effect[] = state.is === 'raised' ? [{ do: 'close', at, because: 'left' }] : [];
  const settled = state.is === 'calm' && memory.clause === clause;
  return { memory: settled ? memory : { state: { is: 'calm' }, clause }, effects, reason: whyUnmet(memory, clause) };
}

function whyUnmet({ state, clause: before }: RuleMemory, clause: ClauseMemory): Reason {
  if (clause === 'passed over') {
    const codes = { unjudged: 'waits to be left', afresh: 'not seen to cross' } as const;
    return { code: before === 'unjudged' || before === 'afresh' ? codes[before] : 'still waits' };
  }
  if (state.is === 'raised') return { code: 'left' };
  return { code: state.is === 'holding' ? 'hold broken' : 'not met' };
}

function stepUnlike(memory: RuleMemory, at: Instant): Step {
  const effects: Effect[] = memory.state.is === 'raised' ? [{ do: 'close', at, because: 'unlike' }] : [];
  const settled = memory.state.is === 'undecided' && memory.clause === 'afresh';
  return { memory: settled ? memory : { state: { is: 'undecided' }, clause: 'afresh' }, effects, reason: { code: 'unlike' } };
}

const CALM: RuleMemory = { state: { is: 'calm' }, clause: 'clear' };

function stepChange(memory: RuleMemory, { value, previous }: { value: Value; previous: Value | null }): Step {
  const calm = memory.state.is === 'calm' ? memory : CALM;
  if (previous === null) return { memory: calm, effects: [], reason: { code: 'baseline' } };
  const same = sameValue(previous, value);
  return { memory: calm, effects: same ? [] : [{ do: 'alert' }], reason: { code: same ? 'unchanged' : 'changed' } };
}
