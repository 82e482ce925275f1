import { storedAs } from '../versioned';
import type { Measure, Value } from '../value/value';
import type { Instant } from '../when/interval';

/**
 * What a clause on a limit saw last. `unjudged`: nothing yet, so what comes next is its baseline. `afresh`: something unlike the limit, so
 * what comes next is judged afresh. `clear`: a value on the good side. `beyond`: one beyond the limit, and it counts. `passed over`: one
 * beyond it which does not count, until the limit is left: the baseline, where she chose to wait, or a crossing that nobody saw.
 */
export type ClauseMemory = 'unjudged' | 'afresh' | 'clear' | 'beyond' | 'passed over';

/** The value furthest beyond the limit since the opening, the first of equals. */
export interface Peak {
  value: Measure;
  at: Instant;
}

/** Where a rule stands on its subject. */
export type RuleState =
  | { is: 'undecided' }
  | { is: 'calm' }
  /** Met, and not yet for long enough. */
  | { is: 'holding'; since: Instant; readings: number; latestAt: Instant; until: Instant | null; value: Value; peak: Peak | null }
  /** Met and told; its episode is open from `opened` on. */
  | { is: 'raised'; opened: Instant; raised: Instant; peak: Peak | null };

/** The names of the states. */
export type RuleStateName = RuleState['is'];

/** All that a rule remembers of one subject: its step costs the same whatever lies behind it. At most some 300 bytes. */
export interface RuleMemory {
  state: RuleState;
  clause: ClauseMemory;
}

/** Before anything was judged. */
export const UNJUDGED: RuleMemory = { state: { is: 'undecided' }, clause: 'unjudged' };

/** How the memory of a rule is stored. */
export const storedMemory = storedAs<RuleMemory>('the memory of a rule', (unnumbered) => unnumbered);
