import { DateTime } from 'luxon';
import { DAY, HOUR, type Instant } from '../when/interval';

/** On which side of its band a value is unusual. */
type Side = 'high' | 'low' | 'either';

/** What is asked of a band: on which side, and about one false alarm in how many readings. */
export interface BandAsked {
  side: Side;
  oneIn: number;
  /** The place whose days and weeks a season follows. */
  zone: string;
}

/**
 * A season that a series may have, as far as it is known: what its slots lie above or below the level, and how well
 * that told what came.
 */
interface Season {
  by: 'nothing' | 'hour of day' | 'hour of week' | 'day of week' | 'day of month';
  /** The latest values of each slot, less the level of their time. */
  slots: Record<string, number[]>;
  /** The latest values less their slot, a whole season of them at least: their middle is the level. */
  recent: number[];
  /** What was missed by, lately. */
  missed: number[];
  /** The mean of what was missed by, the latest counting most. */
  error: number;
}

/** What is remembered of a band: a bounded number of values whatever lies behind it, at most some 2,500. */
export interface BandMemory {
  readings: number;
  seasons: Season[];
  /** How many scales from the expected value the band reaches; it learns from its own alarms. */
  reach: number;
  alarms: number;
  outside: boolean;
}

/** A band at one moment. */
export interface Band {
  expected: number;
  low: number;
  high: number;
}

/** Readings before a band says anything, and how many each part of it leans on. */
const LEAST = 30;
const RECENT = 24;
const MISSED = 60;
const IN_SLOT = 10;
const LEAST_IN_SLOT = 3;
/**
 * By what share the reach grows with an alarm: first much, then less. An alarm of twice its reach is hardly noise, and
 * counts less.
 */
const STEP = 0.08;
const FIRST_STEP = 0.25;
const FAR = 2;
/** What lies within one scale is usual, however even the noise. */
const LEAST_REACH = 1;
const FAR_COUNTS = 0.6;
/** By how much a season has to tell better than none. */
const BETTER = 0.97;
/** From the median absolute deviation to the standard deviation of normal noise. */
const MAD_SCALE = 1.4826;

/** A band of which nothing is known yet. The seasons that may be are those that the pace of the readings can show. */
export function freshBand(asked: BandAsked, intervalMs: number): BandMemory {
  const by: Season['by'][] =
    intervalMs < DAY / 2 ? ['nothing', 'hour of day', 'hour of week'] : ['nothing', 'day of week', 'day of month'];
  return {
    readings: 0,
    seasons: by.map((each) => ({ by: each, slots: {}, recent: [], missed: [], error: 0 })),
    reach: normalQuantile(1 - 1 / asked.oneIn / (asked.side === 'either' ? 2 : 1)),
    alarms: 0,
    outside: false,
  };
}

/** Readings that are still wanted before the band says anything. */
export const wanted = ({ readings }: BandMemory): { has: number; of: number } => ({ has: readings, of: LEAST });

/**
 * The band for a moment, made of what came before it; null with too short a history. Robust and seasonal: the middle of
 * what came lately, with what its hour of the day or of the week, or its day of the week or of the month, usually lies
 * above or below it (medians throughout), as wide as its scale, by the median absolute deviation (F. R. Hampel, The
 * influence curve and its role in robust estimation, 1974), and its reach say.
 */
export function bandAt(asked: BandAsked, memory: BandMemory, at: Instant): Band | null {
  if (memory.readings < LEAST) return null;
  const season = bestOf(memory.seasons);
  const expected = levelOf(season) + offsetOf(season, slotAt(season.by, at, asked.zone));
  const scale = scaleOf(season);
  return {
    expected,
    low: asked.side === 'high' ? -Infinity : expected - memory.reach * scale,
    high: asked.side === 'low' ? Infinity : expected + memory.reach * scale,
  };
}

/**
 * Takes a reading, after it was held against its band. The reach grows with an alarm and shrinks a little with each
 * reading that is none, so that over time it lets through one in as many as was asked, whatever the noise is like (I.
 * Gibbs, E. Candès, Adaptive Conformal Inference Under Distribution Shift, 2021). Of a run of readings outside, which
 * no noise brings about, only the first counts.
 */
export function learnBand(asked: BandAsked, memory: BandMemory, value: number, at: Instant): BandMemory {
  const band = bandAt(asked, memory, at);
  const isOutside = band !== null && (value > band.high || value < band.low);
  return {
    readings: memory.readings + 1,
    seasons: memory.seasons.map((season) => taught(season, value, slotAt(season.by, at, asked.zone))),
    reach: band === null || memory.outside ? memory.reach : learned(asked, memory, band, isOutside ? value : null),
    alarms: memory.alarms + (isOutside && !memory.outside ? 1 : 0),
    outside: isOutside,
  };
}

/** The reach after a reading within the band, or after one outside of it. */
function learned(
  { oneIn }: BandAsked,
  { reach, alarms }: BandMemory,
  { expected, low, high }: Band,
  outside: number | null,
): number {
  const step = Math.max(STEP, FIRST_STEP / (1 + alarms));
  const limit = outside !== null && outside > expected ? high : low;
  const isFar = outside !== null && Math.abs(outside - expected) > FAR * Math.abs(limit - expected);
  const counts = outside === null ? 0 : isFar ? FAR_COUNTS : 1;
  return Math.max(LEAST_REACH, reach * Math.exp(step * (counts - 1 / oneIn)));
}

function taught(season: Season, value: number, slot: string): Season {
  const offset = offsetOf(season, slot);
  const miss = season.recent.length === 0 ? 0 : value - levelOf(season) - offset;
  // What a slot lies above is the level of a whole season: that of lately follows the season itself.
  const level = season.recent.length === 0 ? value : middleOf(season.recent);
  const missed = [...season.missed, miss].slice(-MISSED);
  // A single outlier says little of how well a season tells.
  const bounded = Math.min(Math.abs(miss), 4 * scaleOf(season) || Math.abs(miss));
  return {
    by: season.by,
    slots:
      season.by === 'nothing'
        ? {}
        : { ...season.slots, [slot]: [...(season.slots[slot] ?? []), value - level].slice(-IN_SLOT) },
    recent: [...season.recent, value - offset].slice(-SEASON[season.by]),
    missed,
    error: season.missed.length === 0 ? bounded : season.error + (bounded - season.error) / 50,
  };
}

/** The season that told best lately, if it told better than none. */
function bestOf([none, ...others]: Season[]): Season {
  const plain = none as Season;
  return others
    .filter(({ error }) => error < BETTER * plain.error)
    .reduce((best, each) => (each.error < best.error ? each : best), plain);
}

/** Readings that a season is long; of days in a month and of weeks as many as are kept. */
const SEASON: Record<Season['by'], number> = {
  nothing: RECENT,
  'hour of day': RECENT,
  'hour of week': 168,
  'day of week': 28,
  'day of month': 62,
};

const levelOf = ({ recent }: Season) => middleOf(recent.slice(-RECENT));

function offsetOf({ by, slots }: Season, slot: string): number {
  const known = by === 'nothing' ? [] : (slots[slot] ?? []);
  return known.length < LEAST_IN_SLOT ? 0 : middleOf(known);
}

/**
 * How far values usually miss what is expected. Where most miss by nothing the mean says it; where all do, anything
 * else is unusual.
 */
function scaleOf({ missed }: Season): number {
  const away = missed.map(Math.abs);
  const robust = MAD_SCALE * medianOf(away);
  return robust > 0 ? robust : (1.25 * away.reduce((sum, each) => sum + each, 0)) / Math.max(1, away.length);
}

function slotAt(by: Season['by'], at: Instant, zone: string): string {
  if (by === 'nothing') return '';
  const when = zone === 'UTC' ? null : DateTime.fromMillis(at, { zone });
  const hour = when?.hour ?? Math.floor(at / HOUR) % 24;
  const weekday = when?.weekday ?? ((Math.floor(at / DAY) + 3) % 7) + 1;
  if (by === 'hour of day') return String(hour);
  if (by === 'hour of week') return `${weekday} ${hour}`;
  return by === 'day of week' ? String(weekday) : String(when?.day ?? new Date(at).getUTCDate());
}

/** The mean of the middle half of some values: as robust as need be, and nearly as steady as the mean. */
function middleOf(values: number[]): number {
  if (values.length === 0) return 0;
  const sorted = Float64Array.from(values).sort();
  const cut = Math.floor(sorted.length / 4);
  const middle = sorted.subarray(cut, sorted.length - cut);
  return middle.reduce((sum, each) => sum + each, 0) / middle.length;
}

function medianOf(values: number[]): number {
  const sorted = Float64Array.from(values).sort();
  const half = sorted.length >> 1;
  return sorted.length % 2 === 1 ? (sorted[half] as number) : ((sorted[half - 1] ?? 0) + (sorted[half] ?? 0)) / 2;
}

/**
 * The quantile of the standard normal distribution, to four places (C. Hastings, Approximations for Digital Computers,
 * 1955, sheet 68).
 */
function normalQuantile(p: number): number {
  const t = Math.sqrt(-2 * Math.log(Math.min(p, 1 - p)));
  const z =
    t - (2.515517 + 0.802853 * t + 0.010328 * t * t) / (1 + 1.432788 * t + 0.189269 * t * t + 0.001308 * t ** 3);
  return p < 0.5 ? -z : z;
}
