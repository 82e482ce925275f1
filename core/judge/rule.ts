import type { Measure } from '../value/value';

/** Which side of the limit is meant. */
export type Direction = 'below' | 'above';

/** The value stands beyond a limit (level), or was seen to pass it (crossing). */
export interface LimitCondition {
  kind: 'level' | 'crossing';
  field: string;
  direction: Direction;
  limit: Measure;
  /** Whether a value equal to the limit meets the condition. */
  inclusive: boolean;
}

/** Any change of a stepwise field. */
interface ChangeCondition {
  kind: 'change';
  field: string;
}

/** A condition on one field of a watch. */
export type Condition = LimitCondition | ChangeCondition;

/** What matters: a condition, and what to do when the first value judged meets it already. */
export interface RuleDefinition {
  condition: Condition;
  whenAlreadyMet: 'raise' | 'wait';
}

/** Where a rule stands on a series. */
export type RuleStateName = 'undecided' | 'calm' | 'holding' | 'raised';

/** A rule's whole memory of a series: its step is O(1) in the length of history. */
export interface RuleState {
  name: RuleStateName;
  /** True when it stands raised without having told anyone: it waits until the condition is left and met again. */
  waiting: boolean;
}

/** The state before anything was judged. */
export const UNDECIDED: RuleState = { name: 'undecided', waiting: false };
