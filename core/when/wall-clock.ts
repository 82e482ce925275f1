import { DateTime } from 'luxon';
import type { Instant } from './interval';

/** A time of day, as a clock on the wall shows it. */
export interface TimeOfDay {
  hour: number;
  minute: number;
  second?: number;
  millisecond?: number;
}

/** Whether a text is a day of the calendar, as 2026-11-27 (ISO 8601). */
export const isDay = (text: string): boolean => /^\d{4}-\d{2}-\d{2}$/.test(text) && DateTime.fromISO(text).isValid;

/** The day of the calendar of a moment in a zone, as 2026-11-27. */
export const dayAt = (at: Instant, zone: string): string => DateTime.fromMillis(at, { zone }).toISODate() ?? '';

/** A day of the calendar in a zone, from its beginning to that of the next, which is not in it. */
export function windowOfDay(day: string, zone: string): { from: Instant; until: Instant } {
  const begin = DateTime.fromISO(day, { zone }).startOf('day');
  return { from: begin.toMillis(), until: begin.plus({ days: 1 }).toMillis() };
}

/**
 * The moment at which a clock on the wall shows a time on a date, in the zone of the date: the first moment after the
 * gap where there is no such time, the first of two where there are two.
 */
export function atWallClock(date: DateTime, time: TimeOfDay): Instant {
  const wanted = date.set({ second: 0, millisecond: 0, ...time });
  if (wanted.hour === time.hour && wanted.minute === time.minute)
    return Math.min(...wanted.getPossibleOffsets().map((each) => each.toMillis()));
  return firstAfterGap(wanted);
}

/** The day of a moment in a zone, at its beginning. */
export const dayOf = (at: Instant, zone: string): DateTime => DateTime.fromMillis(at, { zone }).startOf('day');

/** The moment at which a clock on the wall shows so many minutes from midnight on a day. */
export const atMinute = (day: DateTime, minutes: number): Instant =>
  atWallClock(day, { hour: Math.floor(minutes / 60), minute: minutes % 60 });

/** A time that is not there is pushed over the gap by its length: the gap ends where the offset changed. */
function firstAfterGap(pushed: DateTime): Instant {
  let [from, to] = [pushed.minus({ hours: 4 }).toMillis(), pushed.toMillis()];
  while (to - from > 1) {
    const middle = Math.floor((from + to) / 2);
    if (DateTime.fromMillis(middle, { zone: pushed.zone }).offset === pushed.offset) to = middle;
    else from = middle;
  }
  return to;
}

/** The same time by the clock on the wall a day, a week or a month before; of a day that a month lacks, on its last. */
export function sameTimeBefore(at: Instant, by: 'day' | 'week' | 'month', zone: string): Instant {
  const now = DateTime.fromMillis(at, { zone });
  const { hour, minute, second, millisecond } = now;
  return atWallClock(now.startOf('day').minus({ [by]: 1 }), { hour, minute, second, millisecond });
}

/**
 * The first moment after `from`, less than `most` ms later, at which the same time before is `at` or later; null where
 * there is none. The same time before may not go back meanwhile.
 */
export function firstReaching(
  at: Instant,
  from: Instant,
  by: 'day' | 'week' | 'month',
  zone: string,
  most: number,
): Instant | null {
  let [low, high] = [from, from + most - 1];
  if (high <= low || sameTimeBefore(high, by, zone) < at) return null;
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (sameTimeBefore(middle, by, zone) >= at) high = middle;
    else low = middle;
  }
  return high;
}

/** Whether a name is that of a zone of the tz database. */
export const isZone = (name: string): boolean => name !== '' && DateTime.local({ zone: name }).isValid;

/**
 * Reads a moment as a form says it, `2026-12-03T08:00` in a zone; null where it is none. What does not exist there is
 * the first moment after the gap.
 */
export function readLocal(text: string, zone: string): Instant | null {
  if (!/^\d{4}-\d\d-\d\dT\d\d:\d\d$/.test(text)) return null;
  const date = DateTime.fromISO(text.slice(0, 10), { zone });
  const [hour, minute] = [Number(text.slice(11, 13)), Number(text.slice(14))];
  return !date.isValid || hour > 23 || minute > 59 ? null : atWallClock(date, { hour, minute });
}

/** Writes a moment as a form says it, `2026-12-03T08:00` in a zone. */
export const writeLocal = (at: Instant, zone: string): string =>
  DateTime.fromMillis(at, { zone }).toFormat("yyyy-MM-dd'T'HH:mm");
