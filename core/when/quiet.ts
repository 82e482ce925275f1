import type { Instant } from './interval';
import { atMinute, dayOf } from './wall-clock';

/**
 * Hours of each day in which nobody is to be disturbed, by the clock on the wall, in minutes from midnight; the end is
 * not one of them.
 */
export interface QuietHours {
  from: number;
  /** Before `from` it is of the next day. */
  to: number;
}

/** What is wrong with quiet hours, as a sentence; null where nothing is. */
export function quietFault({ from, to }: QuietHours): string | null {
  if (![from, to].every((minute) => Number.isInteger(minute) && minute >= 0 && minute < 24 * 60))
    return 'Say the hours as 22:00 and 07:00.';
  return from === to ? 'Quiet hours that begin when they end would never end. Say another end, or none.' : null;
}

/**
 * When the quiet hours end in which a moment lies; null where it lies in none. At a clock change a time that does not
 * exist is the first moment after the gap, one that exists twice its first time, at both ends.
 */
export function quietUntil({ from, to }: QuietHours, zone: string, at: Instant): Instant | null {
  const today = dayOf(at, zone);
  const ends = [-1, 0].flatMap((ahead) => {
    const day = today.plus({ days: ahead });
    const [begin, end] = [atMinute(day, from), atMinute(to > from ? day : day.plus({ days: 1 }), to)];
    return begin <= at && at < end ? [end] : [];
  });
  return ends.length === 0 ? null : Math.max(...ends);
}

/** The first time at or after a moment at which a clock on the wall of a zone shows a minute of the day. */
export function nextMinute(minute: number, zone: string, at: Instant): Instant {
  const today = dayOf(at, zone);
  return [-1, 0, 1, 2].map((ahead) => atMinute(today.plus({ days: ahead }), minute)).find((time) => time >= at) ?? at;
}
