/** So many watches can be meant at once. */
export const MOST_AT_ONCE = 500;

/** What was asked of many at once: what it would do, or what it did. */
export interface BulkAnswer {
  problem: string | null;
  /** What it would do, before it is done. */
  effect: { words: string; changed: number; same: number; some: { name: string; said: string[] }[] } | null;
  said: string | null;
  batch: number | null;
}

export const NO_ANSWER: BulkAnswer = { problem: null, effect: null, said: null, batch: null };

/** A watch that is chosen, or a rule of it. */
export interface Chosen {
  watch: number;
  /** Of a list of rules, the rule of it. */
  rule?: number;
}

/** All that a list has, as far as that can be meant at once; and whether there are more. */
export interface Fitting {
  chosen: Chosen[];
  more: boolean;
}
