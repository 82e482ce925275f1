import type { Measure, Value } from '../value/value';
import type { Instant } from '../when/interval';

/** Why a rule could not have been met by anything that was read so far. */
export type Never =
  | { code: 'no records' }
  /** A limit beyond all values so far: the lowest of them, or the highest. */
  | { code: 'limit never reached'; field: string; side: 'lowest' | 'highest'; amount: number; like: Measure }
  | { code: 'never counted so'; field: string; like: Measure }
  | { code: 'never said'; field: string; words: string }
  /** Every record that used to move has rested for many times its usual gap between two moves. */
  | { code: 'moves no more'; field: string; since: Instant; usualMs: number };

/** By so many moves at most is told at which pace something moves. */
export const MOST_MOVES = 40;

/** What was read so far of the records that a rule runs for. */
export interface Seen {
  /** It runs for none of them; where none is known that is not said. */
  none: boolean;
  /** Whether anything was read of a field, and the least and the most that is counted like a measure. */
  read: (field: string) => boolean;
  extent: (field: string, like: Measure) => [least: number, most: number] | null;
  says: (field: string, wanted: Value) => boolean;
  hasPhrase: (field: string, folded: string) => boolean;
  /** Of each record the moments at which a field moved of late, in any order; of one that is measured none. */
  moves: (field: string) => Instant[][];
}
