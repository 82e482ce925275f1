import { storedAs } from '../versioned';
import type { Memory } from './engine';
import type { ThrottleMemory } from './throttle';

/** All that a rule remembers of one record: how it stands, and what of it was told or waits to be. */
export interface RuleMemory {
  judged: Memory;
  telling: ThrottleMemory;
}

/** The names of the states. */
export type StateName = Memory['state']['is'];

/**
 * How the memory of a rule is stored; what was remembered of one limit alone is brought to its present shape by a
 * migration.
 */
export const storedMemory = storedAs<RuleMemory>(
  'the memory of a rule',
  (unnumbered) => unnumbered,
  (older) => older,
);
