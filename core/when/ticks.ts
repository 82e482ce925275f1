import { DateTime } from 'luxon';
import { formatInstant, type Place } from './format';
import { DAY, HOUR, MINUTE, SECOND, type Instant } from './interval';

/** A mark on a time axis, and what is written there. */
export interface TimeTick {
  at: Instant;
  words: string;
}

type Unit = 'second' | 'minute' | 'hour' | 'day' | 'week' | 'month' | 'year';

/** The steps of an axis, the finest first, each about `length` milliseconds long. */
const STEPS: { unit: Unit; count: number; length: number }[] = [
  ...[1, 5, 15, 30].map((count) => ({ unit: 'second' as const, count, length: count * SECOND })),
  ...[1, 5, 15, 30].map((count) => ({ unit: 'minute' as const, count, length: count * MINUTE })),
  ...[1, 3, 6, 12].map((count) => ({ unit: 'hour' as const, count, length: count * HOUR })),
  ...[1, 2].map((count) => ({ unit: 'day' as const, count, length: count * DAY })),
  ...[1, 2].map((count) => ({ unit: 'week' as const, count, length: count * 7 * DAY })),
  ...[1, 3, 6].map((count) => ({ unit: 'month' as const, count, length: count * 30 * DAY })),
  ...[1, 5, 20, 100, 1000].map((count) => ({ unit: 'year' as const, count, length: count * 365 * DAY })),
];

/**
 * Where a time axis from `from` to `to` is marked: at whole hours, midnights, Mondays or firsts of the month of the
 * reader's own place, evenly by that place's calendar, about `most` marks at the most. A midnight is written as its
 * day.
 */
export function timeTicks(from: Instant, to: Instant, place: Place, most = 6): TimeTick[] {
  const step = STEPS.find(({ length }) => (to - from) / length <= most) ?? STEPS.at(-1);
  if (step === undefined || to <= from) return [];
  const { unit, count } = step;
  const ticks: TimeTick[] = [];
  const start = DateTime.fromMillis(from, { zone: place.zone }).startOf(beginning(unit));
  for (let at = 0; ticks.length <= 2 * most; at += 1) {
    const moment = start.plus({ [unit]: at * count });
    if (moment.toMillis() > to) break;
    if (moment.toMillis() >= from) ticks.push({ at: moment.toMillis(), words: words(moment, unit, place) });
  }
  return ticks;
}

/** Counting starts one unit up, so that hours fall on 0, 6, 12 and months on January, April, July. */
function beginning(unit: Unit): Unit {
  if (unit === 'second') return 'minute';
  if (unit === 'minute') return 'hour';
  if (unit === 'hour') return 'day';
  return unit === 'month' ? 'year' : unit;
}

function words(moment: DateTime, unit: Unit, place: Place): string {
  const at = moment.toMillis();
  if (unit === 'year') return String(moment.year);
  if (unit === 'month') return formatInstant(at, 'month', place);
  if (unit === 'second') return formatInstant(at, 'second', place);
  const midnight = +moment === +moment.startOf('day');
  return formatInstant(at, midnight ? 'day' : 'time', place);
}
