/** A moment: milliseconds since 1970-01-01T00:00:00Z. */
export type Instant = number;

/** The end of the year 9999: no clock of ours goes further. */
export const LATEST: Instant = 253_402_300_799_999;

export const SECOND = 1000;
export const MINUTE = 60 * SECOND;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

/** How often: every `count` units. */
export interface Interval {
  count: number;
  unit: 'second' | 'minute' | 'hour' | 'day';
}

const LENGTHS = { second: SECOND, minute: MINUTE, hour: HOUR, day: DAY } as const;

/** The longest interval offered, in milliseconds. */
export const LONGEST_INTERVAL = 366 * DAY;

/** An interval's length in milliseconds. */
export function intervalLength(interval: Interval): number {
  return interval.count * LENGTHS[interval.unit];
}

/** `hour`, `2 hours`: what follows the word 'every'. */
export function describeInterval(interval: Interval): string {
  return interval.count === 1 ? interval.unit : `${interval.count} ${interval.unit}s`;
}

/**
 * The next due time on the grid that starts at `previousDue`: the first step after `now`. A stop of any length
 * is made up by one run, and the grid keeps its phase, so sources that start apart stay apart.
 * All in milliseconds; `length` must be positive.
 */
export function nextDue(previousDue: Instant, length: number, now: Instant): Instant {
  const steps = Math.max(1, Math.floor((now - previousDue) / length) + 1);
  return previousDue + steps * length;
}

const SPREAD = 0.1;

/**
 * The first due time after a baseline: one interval less up to a tenth, by `share` in [0, 1). Sources made at
 * one moment thus drift apart once and for all, and never all start together.
 */
export function firstDue(now: Instant, length: number, share: number): Instant {
  return now + Math.round(length * (1 - SPREAD * share));
}

/** A lasting share in [0, 1) for a name (FNV-1a, 32 bit), to spread due times without a random source. */
export function shareOf(name: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < name.length; at += 1) {
    hash = Math.imul(hash ^ name.charCodeAt(at), 0x01000193) >>> 0;
  }
  return hash / 2 ** 32;
}

/**
 * How long to wait before attempt `attempts + 1`, in milliseconds: doubling from `first`, at most `most`.
 */
export function backOff(attempts: number, first: number, most: number): number {
  return Math.min(most, first * 2 ** Math.min(Math.max(0, attempts - 1), 30));
}
