import type { DateTime } from 'luxon';
import { countOf, listed } from '../words';
import { HOUR, MINUTE, type Instant } from './interval';
import { atMinute, dayOf, isZone } from './wall-clock';

/**
 * When a report is cut (4 and 6 of what a report promises). Times of day are in minutes from midnight, by the clock on
 * the wall of a zone; the days of a week are those of ISO 8601, Monday being 1.
 */
export type Cadence =
  /**
   * With the first news, or so long after it, in ms: what the rules raise that name it, or whatever its order takes.
   */
  | { cut: 'at once'; gather?: number; of?: 'its order' }
  /** With each run of what it follows. */
  | { cut: 'after each run' }
  /** So many hours apart, counted anew from a time of each day. */
  | { cut: 'every'; hours: number; from: number; zone: string }
  | { cut: 'daily'; at: number; zone: string }
  | { cut: 'weekly'; days: number[]; at: number; zone: string }
  /** A day that a month does not have means its last. */
  | { cut: 'monthly'; day: number; at: number; zone: string }
  /** By hand alone. */
  | { cut: 'never' };

/** A cadence that goes by the clock. */
export type Planned = Extract<Cadence, { zone: string }>;

/** Whether cuts are planned: of the others one comes with what happens, or by hand. */
export const isPlanned = (cadence: Cadence): cadence is Planned => 'zone' in cadence;

/**
 * Whether a report is made by the rules that name it: what it tells is said in their sentences, and not by its order.
 */
export const isOfRules = (cadence: Cadence): boolean => cadence.cut === 'at once' && cadence.of === undefined;

/** What is told as soon as it is known, and so once to each reader (19). */
export const isAtOnce = ({ cut }: Cadence): boolean => cut === 'at once' || cut === 'after each run';

/** With what cuts come that neither the clock nor the rules make: with each run, or with news that the order takes. */
export const cutWith = (cadence: Cadence): 'run' | 'news' | null =>
  cadence.cut === 'after each run' ? 'run' : isAtOnce(cadence) && !isOfRules(cadence) ? 'news' : null;

const MINUTES_A_DAY = 24 * 60;
const MOST_HOURS = 24;
const MOST_GATHERED = 24 * HOUR;

/** What is wrong with a cadence, as a sentence; null where nothing is. */
export function cadenceFault(cadence: Cadence): string | null {
  switch (cadence.cut) {
    case 'after each run':
    case 'never':
      return null;
    case 'at once': {
      const { gather = MINUTE } = cadence;
      return gather >= MINUTE && gather <= MOST_GATHERED
        ? null
        : 'What is gathered waits for a minute at the least, and for a day at most.';
    }
    default:
      return plannedFault(cadence);
  }
}

function plannedFault(cadence: Planned): string | null {
  if (!isZone(cadence.zone)) return 'Say in which time zone.';
  const time = cadence.cut === 'every' ? cadence.from : cadence.at;
  if (!isWhole(time, 0, MINUTES_A_DAY - 1)) return 'Say at which time of day, as 07:30.';
  if (cadence.cut === 'every' && !isWhole(cadence.hours, 1, MOST_HOURS))
    return `Say every how many hours, from 1 to ${MOST_HOURS}.`;
  if (cadence.cut === 'weekly' && (cadence.days.length === 0 || !cadence.days.every((day) => isWhole(day, 1, 7))))
    return 'Say on which days of the week.';
  if (cadence.cut === 'monthly' && !isWhole(cadence.day, 1, 31)) return 'Say on which day of the month, from 1 to 31.';
  return null;
}

const isWhole = (number: number, least: number, most: number): boolean =>
  Number.isInteger(number) && number >= least && number <= most;

/**
 * The first planned cut after a moment; null where none is planned. A time that does not exist is the first moment
 * after the gap, one that exists twice the first of them; so each day, week or month has one.
 */
export function nextCut(cadence: Cadence, after: Instant): Instant | null {
  if (!isPlanned(cadence)) return null;
  if (cadence.cut === 'every') return nextHourly(cadence, after);
  for (const day of daysFrom(cadence, after)) {
    const at = atMinute(day, cadence.at);
    if (at > after) return at;
  }
  return null;
}

/** The next planned cuts after a moment, so many at most. */
export const nextCuts = (cadence: Cadence, after: Instant, count: number): Instant[] =>
  cutsDue(cadence, after, Infinity, count);

/**
 * The planned cuts after one moment up to another, the first so many: where several came due while nothing ran, one cut
 * is made for all.
 */
export function cutsDue(cadence: Cadence, after: Instant, until: Instant, most: number): Instant[] {
  const cuts: Instant[] = [];
  let next = nextCut(cadence, after);
  while (next !== null && next <= until && cuts.length < most) {
    cuts.push(next);
    next = nextCut(cadence, next);
  }
  return cuts;
}

/**
 * Elapsed hours from its time on each local day; the next day's time is always one, so that two are never further apart
 * than said.
 */
function nextHourly({ hours, from, zone }: Extract<Planned, { cut: 'every' }>, after: Instant): Instant {
  const days = [-1, 0, 1, 2].map((ahead) => atMinute(dayOf(after, zone).plus({ days: ahead }), from));
  const begun = days.findLast((at) => at <= after) ?? after;
  const next = days.find((at) => at > after) ?? Infinity;
  const step = hours * HOUR;
  return Math.min(begun + (Math.floor((after - begun) / step) + 1) * step, next);
}

/**
 * The days of a cadence from the day before a moment on, for as long as the next cut may be ahead: a time may fall into
 * the day after its own.
 */
function* daysFrom(cadence: Exclude<Planned, { cut: 'every' }>, from: Instant): Generator<DateTime> {
  const today = dayOf(from, cadence.zone);
  if (cadence.cut === 'monthly') {
    for (let ahead = -1; ahead <= 2; ahead += 1) {
      const month = today.startOf('month').plus({ months: ahead });
      yield month.set({ day: Math.min(cadence.day, month.daysInMonth ?? 28) });
    }
    return;
  }
  for (let ahead = -1; ahead <= 8; ahead += 1) {
    const day = today.plus({ days: ahead });
    if (cadence.cut === 'daily' || cadence.days.includes(day.weekday)) yield day;
  }
}

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/** A time of day as it is written: 450 is 07:30. */
export const timeOfDay = (minutes: number): string =>
  `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;

/** Minutes from midnight of a time of day as it is written; null of what is none, as 24:00 is. */
export function minutesOfDay(text: string): number | null {
  const [, hours, minutes] = /^([01]\d|2[0-3]):([0-5]\d)(?::[0-5]\d)?$/.exec(text) ?? [];
  return hours === undefined || minutes === undefined ? null : Number(hours) * 60 + Number(minutes);
}

/** A cadence as a standing order begins: `each weekday at 07:30`, with its zone where that is not the reader's. */
export function describeCadence(cadence: Cadence, readersZone: string): string {
  const zone = isPlanned(cadence) && cadence.zone !== readersZone ? ` (${cadence.zone})` : '';
  return `${words(cadence)}${zone}`;
}

function words(cadence: Cadence): string {
  switch (cadence.cut) {
    case 'at once':
      return cadence.gather === undefined ? 'at once' : `at once, gathered for ${gathered(cadence.gather)}`;
    case 'after each run':
      return 'after each run';
    case 'never':
      return 'by hand only';
    case 'every':
      return `every ${cadence.hours === 1 ? 'hour' : `${cadence.hours} hours`} from ${timeOfDay(cadence.from)}`;
    case 'daily':
      return `each day at ${timeOfDay(cadence.at)}`;
    case 'weekly':
      return `each ${dayWords(cadence.days)} at ${timeOfDay(cadence.at)}`;
    case 'monthly':
      return `on the ${ordinal(cadence.day)} of each month at ${timeOfDay(cadence.at)}`;
  }
}

const gathered = (ms: number) =>
  ms % HOUR === 0 ? countOf(ms / HOUR, 'hour') : countOf(Math.round(ms / MINUTE), 'minute');

function dayWords(days: number[]): string {
  const chosen = [...new Set(days)].sort((one, other) => one - other);
  if (chosen.join() === '1,2,3,4,5') return 'weekday';
  const names = chosen.map((day) => DAYS[day - 1] ?? '');
  return listed(names);
}

const ordinal = (day: number): string => {
  const ending =
    day % 10 === 1 && day !== 11
      ? 'st'
      : day % 10 === 2 && day !== 12
        ? 'nd'
        : day % 10 === 3 && day !== 13
          ? 'rd'
          : 'th';
  return `${day}${ending}`;
};
