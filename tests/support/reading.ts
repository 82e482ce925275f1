import { ReadingPool } from '#server/reading/pool';

/** Threads of a test's own, as a worker has them. */
export function openThreads(deadlineMs = 5_000): ReadingPool {
  return new ReadingPool({ threads: 1, deadlineMs, hold: false });
}
