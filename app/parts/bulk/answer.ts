/** What was asked of many at once: what it would do, or what it did. */
export interface BulkAnswer {
  problem: string | null;
  /** What it would do, before it is done. */
  effect: { words: string; changed: number; same: number; some: { name: string; said: string[] }[] } | null;
  said: string | null;
  batch: number | null;
}

export const NO_ANSWER: BulkAnswer = { problem: null, effect: null, said: null, batch: null };
