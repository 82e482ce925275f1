import type { Instant } from './interval';

/** The place of the first of things in the order of their times that is no earlier than a moment; O(log n). */
export function firstFrom<Timed>(ordered: readonly Timed[], at: Instant, timeOf: (each: Timed) => Instant): number {
  let [low, high] = [0, ordered.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (timeOf(ordered[middle] as Timed) < at) low = middle + 1;
    else high = middle;
  }
  return low;
}
