import type { Result } from '../result';
import { compareMeasures, isMeasure, sameValue, type Value } from '../value/value';
import { UNDECIDED, type LimitCondition, type RuleDefinition, type RuleState } from './rule';

/** What a rule is stepped with: the present good value, and the one before it in the same series. */
export interface StepInput {
  value: Value;
  /** Null on the first reading of the series. */
  previous: Value | null;
  /** True when this rule, in its present version, has judged this series before. */
  judgedBefore: boolean;
}

/** Why a step came out as it did; each has one sentence in `describeReason`. */
export type Reason =
  | 'met'
  | 'met at the first look'
  | 'met already, waiting'
  | 'still raised'
  | 'still waiting'
  | 'no longer met'
  | 'not met'
  | 'not seen to cross'
  | 'changed'
  | 'unchanged'
  | 'baseline'
  | 'unlike the limit';

/** One verdict: the state after, whether an alert is raised, and the reason. */
export interface Step {
  state: RuleState;
  alert: boolean;
  reason: Reason;
  /** What becomes of the episode: opened by an alert on a limit, closed when the condition is left. */
  episode: 'open' | 'close' | 'keep' | null;
}

const CALM: RuleState = { name: 'calm', waiting: false };
const RAISED: RuleState = { name: 'raised', waiting: false };
const WAITING: RuleState = { name: 'raised', waiting: true };

/** Advances one rule on one series by one good reading. Pure; a series that was not read is not stepped. */
export function stepRule(rule: RuleDefinition, state: RuleState, input: StepInput): Step {
  if (rule.condition.kind === 'change') return stepChange(input);
  const met = meets(rule.condition, input.value);
  if (!met.ok) return { state: UNDECIDED, alert: false, reason: 'unlike the limit', episode: state.name === 'raised' ? 'close' : null };
  return met.value ? stepMet(rule, rule.condition, state, input) : stepUnmet(state);
}

/** Whether a value stands beyond a limit; the error is `unlike` where the two cannot be compared. */
export function meets(condition: LimitCondition, value: Value): Result<boolean, 'unlike'> {
  if (!isMeasure(value)) return { ok: false, error: 'unlike' };
  const order = compareMeasures(value, condition.limit);
  if (!order.ok) return order;
  if (order.value === 0) return { ok: true, value: condition.inclusive };
  return { ok: true, value: order.value < 0 === (condition.direction === 'below') };
}

function stepMet(rule: RuleDefinition, condition: LimitCondition, state: RuleState, input: StepInput): Step {
  if (state.name === 'raised') {
    return { state, alert: false, reason: state.waiting ? 'still waiting' : 'still raised', episode: 'keep' };
  }
  if (state.name === 'calm') return { state: RAISED, alert: true, reason: 'met', episode: 'open' };
  if (!input.judgedBefore) {
    return rule.whenAlreadyMet === 'raise'
      ? { state: RAISED, alert: true, reason: 'met at the first look', episode: 'open' }
      : { state: WAITING, alert: false, reason: 'met already, waiting', episode: null };
  }
  return condition.kind === 'level'
    ? { state: RAISED, alert: true, reason: 'met', episode: 'open' }
    : { state: WAITING, alert: false, reason: 'not seen to cross', episode: null };
}

function stepUnmet(state: RuleState): Step {
  if (state.name === 'raised') return { state: CALM, alert: false, reason: 'no longer met', episode: 'close' };
  return { state: CALM, alert: false, reason: 'not met', episode: null };
}

function stepChange({ value, previous }: StepInput): Step {
  if (previous === null) return { state: CALM, alert: false, reason: 'baseline', episode: null };
  const same = sameValue(previous, value);
  return { state: CALM, alert: !same, reason: same ? 'unchanged' : 'changed', episode: null };
}

const SENTENCES: Record<Reason, string> = {
  met: 'the condition was not met before and is met now',
  'met at the first look': 'the condition was met at the first look, and you chose to hear of it then',
  'met already, waiting': 'the condition was met at the first look; it waits until that is left and met again',
  'still raised': 'it was raised already, and is told once an episode',
  'still waiting': 'it waits until the condition is left and met again',
  'no longer met': 'the condition is no longer met; the episode is closed',
  'not met': 'the condition is not met',
  'not seen to cross': 'the limit was not seen to be crossed; it waits until the condition is left and met again',
  changed: 'the value changed',
  unchanged: 'the value did not change',
  baseline: 'this is the first reading, with nothing to compare it with',
  'unlike the limit': 'the value and the limit are in different units, so they are not compared',
};

/** Why a rule came to its verdict, as the end of a sentence. */
export function describeReason(reason: Reason): string {
  return SENTENCES[reason];
}
