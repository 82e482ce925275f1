import type { Instant } from '../when/interval';
import { firstFrom } from '../when/ordered';
import type { Situation } from './engine';
import { freshFor, type Latest } from './observation';
import { cameAt, isThere, type History, type PastAround, type PastRuns, type StoredReading } from './past';
import { countsRuns, countsRunsAlone, hearsFailures, ownFields, type RuleDefinition } from './rule';

// What a rule would have heard of a record in the past, moment by moment.

/** A record's past, with what stood beside it, and the runs of its watch. */
export interface PastOfOne {
  history: History;
  around: PastAround | null;
  runs: PastRuns;
}

/** What stood when a rule was saved, as far as it was seen within two runs: as it was read last. */
export function baselineOf(
  before: ReplayedMoment[],
  { savedAt, intervalMs }: Situation,
  { read }: PastRuns,
): Map<string, Seen> {
  const last = new Map<string, Seen>();
  for (const moment of before) for (const [field, seen] of moment.read) last.set(field, seen);
  return new Map(
    [...last].flatMap(([field, seen]): [string, Seen][] => {
      const { at, came } = lastSeen(seen, savedAt, read);
      return savedAt - came > freshFor({ intervalMs }) ? [] : [[field, { ...seen, at, until: at }]];
    }),
  );
}

/** When a value was seen last before a moment. */
export function lastSeen(
  { at, until, came, of }: Pick<Seen, 'at' | 'until' | 'came'> & { of?: Pick<StoredReading, 'runs'> },
  now: Instant,
  read: readonly Instant[],
): Pick<Seen, 'at' | 'came'> {
  if (of === undefined || of.runs < 2 || until <= at) return { at, came };
  if (until + came - at < now) return { at: until, came: until + came - at };
  const later = came - at;
  const known = read[firstRun(read, now) - 1];
  const step = (until - at) / (of.runs - 1);
  const evenly = Math.round(at + Math.max(0, Math.ceil((now - later - at) / step) - 1) * step) + later;
  const seen = Math.max(came, known ?? evenly);
  return { at: seen - later, came: seen };
}

/**
 * A value as it was read at a moment, until when it was seen, and whether it only stood there while others were read.
 */
export interface Seen extends Latest {
  until: Instant;
  filled: boolean;
  /** When it came. */
  came: Instant;
  /** It came after later ones of its series. */
  late?: true;
  /** What it stands for. */
  of?: StoredReading;
}

/** A moment at which something was heard: of the record itself, or only of what stands beside it. */
export interface ReplayedMoment {
  /** When it came. */
  at: Instant;
  /** When it was so. */
  so: Instant;
  own: boolean;
  read: Map<string, Seen>;
  /** What came after later points of its series. */
  late?: Map<string, Seen[]>;
  is?: 'baseline' | 'came' | 'gone' | 'failure';
}

/** Of one record at most so many moments are replayed, the latest. */
const MOST_TIMESTAMPS = 200_000;

/**
 * What was heard of a record, moment by moment as it came: what was read at one moment is judged together, with what
 * was in force then of fields that only move in steps. Where every run counts for a rule, a value that was seen at many
 * stands for each of them.
 */
export function timestampsOf(
  rule: RuleDefinition,
  { history, around, runs }: PastOfOne,
  { intervalMs, savedAt }: Situation,
  to: Instant,
): ReplayedMoment[] {
  const { identity, fields } = history;
  const named = ownFields(rule);
  const asked = (named.length === 0 ? Object.keys(fields) : named).flatMap((field) =>
    fields[field] === undefined ? [] : [{ field, ...fields[field] }],
  );
  // Beside what it says by itself a run counts where something that stands beside the record has turned since the one
  // before, and where it is the baseline.
  const turns = (around?.turns(rule, identity, intervalMs) ?? []).sort((one, other) => one - other);
  const turnsOf = (reading: StoredReading) =>
    isStaleAt(reading, { intervalMs, savedAt }, runs.read) ? [...turns, savedAt] : turns;
  const each = around === null ? countsRuns(rule) : countsRunsAlone(rule);
  const moments = new Moments();
  for (const { field, readings } of asked) {
    const looks = readings.flatMap((reading) => [
      ...runsOf(reading, each, MOST_TIMESTAMPS, runs.read),
      ...(each ? [] : runsAfter(reading, turnsOf(reading), runs.read)),
    ]);
    moments.take(field, looks, to);
  }
  const ordered = moments.inOrder();
  if (asked.length > 1) for (const { field, stepwise } of asked) if (stepwise) fillIn(ordered, field);
  const besides = (around?.moves(rule, identity) ?? []).filter(
    (at) => at <= to && !moments.has(at) && isThere(history, at),
  );
  const failed = hearsFailures(rule) ? runs.failed.filter((at) => at <= to && at > (ordered[0]?.at ?? to)) : [];
  const nothing = { own: false, read: new Map<string, Seen>() };
  const all = [
    ...present(ordered, history, named.length === 0, to),
    ...besides.map((at) => ({ at, so: at, ...nothing })),
    ...failed.map((at) => ({ at, so: at, ...nothing, is: 'failure' as const })),
  ];
  return all.sort(byArrival).slice(-MOST_TIMESTAMPS);
}

const byArrival = (one: ReplayedMoment, other: ReplayedMoment): number => one.at - other.at || one.so - other.so;
export const byMoment = (one: ReplayedMoment, other: ReplayedMoment): number => one.so - other.so || one.at - other.at;

/** A moment, and what came late at it, each as of its own time. */
export const lateOnes = ({ late = new Map<string, Seen[]>(), ...moment }: ReplayedMoment): ReplayedMoment[] => [
  ...(moment.read.size === 0 ? [] : [moment]),
  ...[...late].flatMap(([field, points]) =>
    points.map((point) => ({ at: moment.at, so: point.at, own: true, read: new Map([[field, point]]) })),
  ),
];

/**
 * With when the record came and went. That it is there is heard of by itself only where a rule asks for no field.
 */
function present(moments: ReplayedMoment[], { presence = [] }: History, alone: boolean, to: Instant): ReplayedMoment[] {
  const known = presence.filter(({ at }) => at <= to);
  if (known.length === 0) return moments;
  const came = new Set(known.flatMap(({ at, there }) => (there ? at : [])));
  const seen = new Set(moments.map(({ at }) => at));
  const others = known.flatMap(({ at, there }): ReplayedMoment[] =>
    there && (seen.has(at) || !alone) ? [] : [{ at, so: at, own: there, read: new Map(), is: there ? 'came' : 'gone' }],
  );
  const read = moments.map((moment) => (came.has(moment.at) ? { ...moment, is: 'came' as const } : moment));
  return [...read, ...others].sort(byArrival);
}

/** Moments in the making, by when what they bring came and was so. */
class Moments {
  readonly #made = new Map<number | string, ReplayedMoment>();
  readonly #arrivals = new Set<Instant>();
  #stamped = false;

  has(at: Instant): boolean {
    return this.#arrivals.has(at);
  }

  /** Takes what was read of a field; what is older than what came before it only takes its place. */
  take(field: string, looks: readonly Seen[], to: Instant): void {
    const stamped = looks.some(({ at, came }) => at !== came);
    this.#stamped ||= stamped;
    const ordered = stamped ? [...looks].sort((one, other) => one.came - other.came || one.at - other.at) : looks;
    let before: Seen | null = null;
    for (const look of ordered) {
      if (look.came > to) continue;
      const moment = this.#at(look);
      if (look.late === true || (before !== null && look.at < before.at)) {
        moment.late ??= new Map<string, Seen[]>();
        moment.late.set(field, [...(moment.late.get(field) ?? []), look]);
      } else {
        moment.read.set(field, before === null ? look : { ...look, before: before.value });
        before = look;
      }
    }
  }

  inOrder(): ReplayedMoment[] {
    const all = [...this.#made.values()].sort(byArrival);
    return (this.#stamped ? together(all) : all).map((moment) => ({ ...moment, own: moment.read.size > 0 }));
  }

  #at({ at, came }: Seen): ReplayedMoment {
    this.#arrivals.add(came);
    const key = at === came ? at : `${came} ${at}`;
    const known = this.#made.get(key);
    if (known !== undefined) return known;
    const made = { at: came, so: at, own: true, read: new Map<string, Seen>() };
    this.#made.set(key, made);
    return made;
  }
}

/** What has no time of the source's own is judged with the latest point that came with it. */
function together(moments: ReplayedMoment[]): ReplayedMoment[] {
  return moments.filter((moment, n) => {
    const before = moments[n - 1];
    if (moment.so !== moment.at || before?.at !== moment.at) return true;
    if ([...moment.read.keys()].some((field) => before.read.has(field) || before.late?.has(field) === true))
      return true;
    for (const [field, seen] of moment.read) before.read.set(field, seen);
    return false;
  });
}

/**
 * What a stored reading stands for: one run, or, where each counts, those at which it was seen: the first and the last
 * as they were, the others as the runs of its watch were, or evenly between where those are not known; of more than so
 * many the latest.
 */
export function runsOf(
  stored: StoredReading,
  each: boolean,
  most = MOST_TIMESTAMPS,
  read: readonly Instant[] = [],
): Seen[] {
  const { at, until, runs, value } = stored;
  const came = cameAt(stored);
  const late = stored.late === true ? { late: stored.late } : {};
  if (!each) return [{ value, at, until, came, filled: false, of: stored, ...late }];
  if (runs < 2 || until <= at) return [{ value, at, until: at, came, filled: false, of: stored, ...late }];
  const first = Math.max(0, runs - most);
  // As far as each run brought it, and each point is as long after it was so as the first one.
  const exact = runsBetween(read, came, until + came - at);
  return Array.from({ length: runs - first }, (_, look) => {
    const run = exact.length === runs ? exact[first + look] : undefined;
    const time = run === undefined ? Math.round(at + ((until - at) * (first + look)) / (runs - 1)) : run - (came - at);
    return {
      value,
      at: time,
      until: time,
      came: run ?? (came === at ? time : arrivalOf(time, stored, read)),
      filled: false,
      of: stored,
    };
  });
}

/** Of moments in order, those from one to another, with both. */
function runsBetween(read: readonly Instant[], from: Instant, to: Instant): readonly Instant[] {
  const [first, last] = [firstRun(read, from), firstRun(read, to + 1)];
  return read.slice(first, last);
}

/** The place of the first run that is no earlier than a moment. */
const firstRun = (read: readonly Instant[], at: Instant): number => firstFrom(read, at, (each) => each);

/** When a point that was stated once more came: with the first run after it. */
function arrivalOf(time: Instant, { at, came = at }: StoredReading, read: readonly Instant[]): Instant {
  return time === at ? came : (read[firstRun(read, Math.max(time, came))] ?? Math.max(came, time + came - at));
}

/** The looks at which a value was seen next after each of some moments. */
function runsAfter(reading: StoredReading, turns: readonly Instant[], read: readonly Instant[]): Seen[] {
  const { at, until, runs, value } = reading;
  if (runs < 2 || until <= at || turns.length === 0) return [];
  const step = (until - at) / (runs - 1);
  const later = cameAt(reading) - at;
  return turns.flatMap((turn) => {
    if (turn <= at + later || turn > until + later) return [];
    const evenly = at + Math.ceil((turn - later - at) / step) * step;
    const time = Math.min(until, (read[firstRun(read, turn)] ?? Math.round(evenly) + later) - later);
    return [{ value, at: time, until: time, came: time + later, filled: false, of: reading }];
  });
}

/**
 * Whether a value that was seen before a rule was saved, and after it, was not read for so long by then that it is no
 * baseline: the next run is.
 */
export function isStaleAt(
  reading: StoredReading,
  { intervalMs, savedAt }: Pick<Situation, 'intervalMs' | 'savedAt'>,
  read: readonly Instant[],
): boolean {
  const { at, until, runs } = reading;
  const came = cameAt(reading);
  if (runs < 2 || came >= savedAt || until + came - at < savedAt) return false;
  return savedAt - lastSeen({ at, until, came, of: { runs } }, savedAt, read).came > freshFor({ intervalMs });
}

/** Gives every moment what was in force, and was still seen then, of a field. */
function fillIn(moments: ReplayedMoment[], field: string): void {
  let last: Seen | null = null;
  for (const { at, own, read } of moments) {
    const here = read.get(field);
    if (here !== undefined) last = here;
    else if (last !== null && own && at <= (last.of?.until ?? last.until))
      read.set(field, { ...last, at, came: at, filled: true });
  }
}
