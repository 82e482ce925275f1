import { storedAs } from '../versioned';
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

/** How long a level must be met before it is raised: at so many good readings in a row, or without interruption for a time in ms. */
export type Hold = { for: 'readings'; count: number } | { for: 'time'; ms: number };

/** What matters: a condition, how long it must hold, and what to do when the baseline meets it already. */
export interface RuleDefinition {
  condition: Condition;
  hold?: Hold;
  whenAlreadyMet: 'raise' | 'wait';
}

/** How the definition of a rule is stored. */
export const storedRule = storedAs<RuleDefinition>('a rule', (unnumbered) => unnumbered);
