import { DateTime } from 'luxon';
import { add, compareDecimals, decimal, divide, multiply, subtract, type Decimal } from '../value/decimal';
import { alike, isMeasure, sameValue, type Measure, type Value } from '../value/value';
import type { Instant } from '../when/interval';
import { keyOf, type Asked, type Limits, type JudgedWindow } from './asked';
import type { Facts, Observation, Latest, Share, Why } from './observation';

/** Readings that are kept for one stretch; a rule that would need more is refused. */
export const MOST_KEPT = 2_000;

/**
 * What a clause keeps of a stretch: of those that only sum up, a tally; of the others, the readings in it. At most some
 * 80 kB.
 */
export interface WindowMemory {
  /** The readings of the stretch by their own time, and the one before them. */
  points: Latest[];
  before: Latest | null;
  /** The last before it that brought a value, where the one before it did not. */
  valued?: Latest;
  /** Instead of them, where their order does not matter. */
  tally: Tally | null;
  /** Late points, until the next reading or the end. */
  late: Latest[];
  /** The first reading that the series is known to have. */
  first: Instant | null;
  /** The beginning of the calendar stretch that runs, and whether its clause was met before its end. */
  begin: Instant | null;
  early: boolean;
}

interface Tally {
  readings: number;
  sum: Measure | null;
  low: Measure | null;
  high: Measure | null;
  values: number;
  unlike: Measure | null;
}

/** What a stretch comes to. */
export type WindowResult =
  /**
   * As it is; of the calendar with what was read of it where that is not nearly all. Of a pace, with what it is made
   * of.
   */
  | { is: 'whole'; value: Value; of?: Share; total?: Total }
  /** It may still change: in which direction it cannot be undone, if any. */
  | { is: 'unfinished'; value: Value | null; certain: 'above' | 'below' | null; read: number; due: number }
  /** A calendar stretch runs, and says nothing yet. */
  | { is: 'running'; value: Value | null; certain: 'above' | 'below' | null; read: number; due: number }
  | { is: 'nothing'; why: Why }
  | { is: 'unlike'; value: Value }
  /** It ended, and was met before. */
  | { is: 'left' };

export interface WindowTurn {
  memory: WindowMemory;
  /** Null where what stood stands. */
  result: WindowResult | null;
}

/** A stretch about which nothing was heard yet; of the calendar the one in which its rule was saved. */
export function freshWindow({ of }: JudgedWindow, savedAt: Instant): WindowMemory {
  const begin = 'this' in of ? beginOf(of, savedAt) : null;
  return { points: [], before: null, tally: null, late: [], first: null, begin, early: false };
}

/** Takes a reading of before the rule was saved. */
export function learnWindow(stretch: JudgedWindow, memory: WindowMemory, reading: Latest): WindowMemory {
  return put(stretch, memory, [reading]);
}

/** What a stretch comes to by what was heard; null where it is none of its business. */
export function observeWindow(
  stretch: JudgedWindow,
  memory: WindowMemory,
  asked: Asked,
  heard: Observation,
  facts: Facts,
): WindowTurn | null {
  if (heard.of !== 'run') return null;
  const key = keyOf(asked);
  const late = heard.late?.get(key) ?? [];
  const reading = heard.read.get(key);
  const waiting = late.length === 0 ? memory : { ...memory, late: [...memory.late, ...late].slice(-MOST_KEPT) };
  if (reading === undefined) return waiting === memory ? null : { memory: waiting, result: null };
  const now = put(stretch, rolled(stretch, waiting, reading.at), [...waiting.late, reading]);
  return comesTo(stretch, { ...now, late: [] }, reading.at, facts);
}

/** What a stretch comes to by the clock. */
export function windowAt(stretch: JudgedWindow, memory: WindowMemory, at: Instant, facts: Facts): WindowTurn {
  // What the clock finds to have left is kept: a reading may still come that is older than this, and is judged as of
  // its own time.
  if (!('this' in stretch.of)) return { memory, result: comesTo(stretch, memory, at, facts).result };
  const end = memory.begin === null ? null : endOf(stretch.of, memory.begin);
  if (end === null || at < end) return comesTo(stretch, memory, at, facts);
  const whole = put(stretch, memory, memory.late);
  return { memory: rolled(stretch, { ...whole, late: [] }, at), result: atEnd(stretch, whole, end, facts) };
}

/** When a stretch of the calendar ends. */
export const windowNextEnd = ({ of }: JudgedWindow, { begin }: WindowMemory): Instant | null =>
  'this' in of && begin !== null ? endOf(of, begin) : null;

/**
 * When the clock may move a stretch next before it ends: a reading leaves it, or its pace or mean passes one of some
 * amounts.
 */
export function windowNextAt(
  stretch: JudgedWindow,
  memory: WindowMemory,
  now: Instant,
  turning: readonly Decimal[],
): Instant | null {
  const { of } = stretch;
  if ('this' in of) {
    if (memory.begin === null || stretch.make !== 'pace') return null;
    const passing = paceTimestamps(memory, memory.begin, endOf(of, memory.begin), turning);
    return earliest(passing.filter((at) => at > now));
  }
  if (of.last === 'readings') return null;
  const inside = left(memory, now - of.ms);
  const [oldest] = inside.points;
  const leaves = oldest === undefined ? null : Math.max(oldest.at + of.ms, now + 1);
  const passing = stretch.make === 'mean' && stretch.stepwise ? meanTimestamps(inside, now, of.ms, turning) : [];
  return earliest(
    [...(leaves === null ? [] : [leaves]), ...passing].filter((at) => at > now && (leaves === null || at <= leaves)),
  );
}

const earliest = (moments: Instant[]): Instant | null => (moments.length === 0 ? null : Math.min(...moments));

/** A stretch whose clause was found met before its end. */
export const metEarly = (memory: WindowMemory): WindowMemory => (memory.early ? memory : { ...memory, early: true });

/** Begins a calendar stretch anew where another one holds the moment. */
function rolled({ of }: JudgedWindow, memory: WindowMemory, at: Instant): WindowMemory {
  if (!('this' in of)) return memory;
  const begin = beginOf(of, at);
  if (begin === memory.begin || (memory.begin !== null && begin < memory.begin)) return memory;
  return {
    ...memory,
    begin,
    early: false,
    tally: null,
    points: [],
    ...droppedFrom(memory, memory.points),
  };
}

const beginOf = ({ this: unit, zone }: Extract<JudgedWindow['of'], { this: string }>, at: Instant): Instant =>
  DateTime.fromMillis(at, { zone }).startOf(unit).toMillis();

const endOf = ({ this: unit, zone }: Extract<JudgedWindow['of'], { this: string }>, begin: Instant): Instant =>
  DateTime.fromMillis(begin, { zone })
    .plus({ [unit]: 1 })
    .startOf(unit)
    .toMillis();

/** Puts readings in their places. */
function put(stretch: JudgedWindow, memory: WindowMemory, readings: Latest[]): WindowMemory {
  const first = readings.reduce((least, { at }) => Math.min(least, at), memory.first ?? Infinity);
  const inside = readings.filter(({ at }) => memory.begin === null || at >= memory.begin);
  const outside = readings.filter((reading) => !inside.includes(reading));
  const known = { ...memory, ...droppedFrom(memory, outside), first: Number.isFinite(first) ? first : null };
  const tallied = inside.reduce(counted, memory.tally ?? EMPTY);
  if (isTally(stretch)) return { ...known, tally: tallied };
  const last = memory.points.at(-1)?.at ?? -Infinity;
  const inOrder = inside.every(({ at }, n) => at >= (inside[n - 1]?.at ?? last));
  const points = [...memory.points, ...inside];
  return trimmed(stretch, { ...known, points: inOrder ? points : points.sort((a, b) => a.at - b.at) });
}

/** Of the last k readings those, and the one before; of any other stretch as many as may be kept. */
function trimmed({ of }: JudgedWindow, memory: WindowMemory): WindowMemory {
  const most = 'last' in of && of.last === 'readings' ? of.count : MOST_KEPT;
  const over = memory.points.length - most;
  return over <= 0
    ? memory
    : { ...memory, ...droppedFrom(memory, memory.points.slice(0, over)), points: memory.points.slice(over) };
}

/** Whether a stretch keeps no readings, but sums them up: a calendar one in which their order does not matter. */
export function isTally({ of, make, stepwise }: JudgedWindow): boolean {
  if (!('this' in of)) return false;
  return (
    make === 'sum' ||
    make === 'pace' ||
    make === 'readings' ||
    (!stepwise && ['minimum', 'maximum', 'mean', 'range'].includes(make))
  );
}

const EMPTY: Tally = { readings: 0, sum: null, low: null, high: null, values: 0, unlike: null };

function counted(tally: Tally, { value }: Latest): Tally {
  const readings = tally.readings + 1;
  if (!isMeasure(value)) return { ...tally, readings };
  const { sum, low, high, values } = tally;
  if (sum === null || low === null || high === null)
    return { ...tally, readings, values: 1, sum: value, low: value, high: value };
  if (!alike(sum, value)) return { ...tally, readings, unlike: value };
  return {
    ...tally,
    readings,
    values: values + 1,
    sum: { ...sum, amount: add(sum.amount, value.amount) },
    low: compareDecimals(value.amount, low.amount) < 0 ? value : low,
    high: compareDecimals(value.amount, high.amount) > 0 ? value : high,
  };
}

/** What a stretch comes to at a moment. */
function comesTo(stretch: JudgedWindow, memory: WindowMemory, at: Instant, facts: Facts): WindowTurn {
  const { of } = stretch;
  if ('this' in of) return { memory, result: running(stretch, memory, at, facts) };
  const now = of.last === 'time' ? left(memory, at - of.ms) : memory;
  return { memory: now, result: sliding(stretch, now, at, facts) };
}

/** Without the readings that a sliding stretch, which begins after `from`, has left behind. */
function left(memory: WindowMemory, from: Instant): WindowMemory {
  const gone = memory.points.findIndex((point) => point.at > from);
  const count = gone < 0 ? memory.points.length : gone;
  return count === 0
    ? memory
    : { ...memory, ...droppedFrom(memory, memory.points.slice(0, count)), points: memory.points.slice(count) };
}

/**
 * What was before a stretch once it has left some readings behind: the last of them, and the last that brought a value.
 */
function droppedFrom(
  { before, valued }: Pick<WindowMemory, 'before' | 'valued'>,
  dropped: readonly Latest[],
): Pick<WindowMemory, 'before'> & { valued?: Latest } {
  const last = dropped.reduce(later, before);
  const withValue = dropped.filter(({ value }) => value.kind !== 'absent').reduce(later, valued ?? before);
  return withValue === null || withValue.value.kind === 'absent'
    ? { before: last }
    : { before: last, valued: withValue };
}

/** A late point may be older than what was known to be before the stretch. */
const later = (known: Latest | null, dropped: Latest): Latest =>
  known !== null && known.at > dropped.at ? known : dropped;

function sliding(stretch: JudgedWindow, memory: WindowMemory, at: Instant, { intervalMs }: Facts): WindowResult {
  const made = makeOf(
    stretch,
    memory,
    'last' in stretch.of && stretch.of.last === 'time' ? { from: at - stretch.of.ms, to: at } : null,
  );
  const read = memory.points.length;
  if ('last' in stretch.of && stretch.of.last === 'readings' && read < stretch.of.count)
    return { is: 'nothing', why: { code: 'needs more', has: read, of: stretch.of.count } };
  if (!made.ok) return { is: 'unlike', value: made.value };
  if ('last' in stretch.of && stretch.of.last === 'readings') {
    return made.value === null ? { is: 'nothing', why: { code: 'absent' } } : { is: 'whole', value: made.value };
  }
  const ms = 'last' in stretch.of && stretch.of.last === 'time' ? stretch.of.ms : 0;
  const due = ms / intervalMs;
  const whole = memory.first !== null && at - ms >= memory.first && read * 2 >= due;
  if (!whole) return { is: 'unfinished', value: made.value, certain: certainty(stretch), read, due };
  return made.value === null ? { is: 'nothing', why: { code: 'absent' } } : { is: 'whole', value: made.value };
}

/** A calendar stretch that runs: what it comes to so far, or its pace. */
function running(stretch: JudgedWindow, memory: WindowMemory, at: Instant, { intervalMs }: Facts): WindowResult | null {
  const { of, make } = stretch;
  if (!('this' in of) || memory.begin === null) return null;
  const [begin, end] = [memory.begin, endOf(of, memory.begin)];
  const made = makeOf(stretch, memory, { from: begin, to: at });
  if (!made.ok) return { is: 'unlike', value: made.value };
  if (make !== 'pace') {
    return {
      is: 'running',
      value: made.value,
      certain: certainty(stretch),
      read: readIn(memory),
      due: (end - begin) / intervalMs,
    };
  }
  if (made.value === null || at < begin + (end - begin) / 10) return null;
  const total = { amount: made.value.amount, begin, end, at };
  return { is: 'whole', value: { ...made.value, amount: paceOf(total) }, total };
}

/** What a stretch that runs came to by a moment. */
interface Total {
  amount: Decimal;
  begin: Instant;
  end: Instant;
  at: Instant;
}

/** The total over the share of a stretch that has passed. */
const paceOf = ({ amount, begin, end, at }: Total) =>
  divide(multiply(amount, asDecimal(end - begin)), asDecimal(at - begin));

/** When a total that goes on at its pace comes to the limit, within its stretch; null where it does not (19). */
export function reachedAt({ amount, begin, end, at }: Total, limits: Limits): Instant | null {
  if (!('limit' in limits) || limits.is !== 'above' || compareDecimals(amount, ZERO) <= 0) return null;
  const reached = begin + Math.ceil(Number(divide(multiply(limits.limit.amount, asDecimal(at - begin)), amount)));
  return reached >= begin && reached < end ? reached : null;
}

const asDecimal = (whole: number) => decimal(String(Math.round(whole))) as Decimal;

/**
 * The moments at which the mean of a stepwise field over a sliding stretch may pass a limit while nothing is read: it
 * moves all the time, as what is in force at the end grows by what is lost at the beginning. A sum and a time that both
 * move evenly meet a limit once.
 */
function meanTimestamps(
  { points, before }: WindowMemory,
  now: Instant,
  ms: number,
  turning: readonly Decimal[],
): Instant[] {
  const newest = (points.at(-1) ?? before)?.value;
  const { sum, time } = weights(points, before, { from: now - ms, to: now });
  const gains = newest !== undefined && isMeasure(newest) ? newest.amount : null;
  const loses = before !== null && isMeasure(before.value) ? before.value.amount : null;
  const bySum = subtract(gains ?? ZERO, loses ?? ZERO);
  const byTime = asDecimal((gains === null ? 0 : 1) - (loses === null ? 0 : 1));
  return turning.flatMap((limit) => {
    const apart = subtract(multiply(limit, asDecimal(time)), sum);
    const speed = subtract(bySum, multiply(limit, byTime));
    if (compareDecimals(speed, ZERO) === 0) return [];
    const passed = Number(divide(apart, speed));
    return passed < 0 || passed > ms ? [] : [now + Math.ceil(passed), now + Math.floor(passed) + 1];
  });
}

/** The moments at which a pace may pass one of some amounts: from its first tenth on it falls as time passes. */
function paceTimestamps({ tally }: WindowMemory, begin: Instant, end: Instant, turning: readonly Decimal[]): Instant[] {
  const total = tally?.sum;
  const tenth = begin + Math.ceil((end - begin) / 10);
  if (total === null || total === undefined) return [tenth];
  const passing = turning.flatMap((amount) => {
    if (compareDecimals(amount, ZERO) === 0) return [];
    const passed = Number(divide(multiply(total.amount, asDecimal(end - begin)), amount));
    return [begin + Math.ceil(passed), begin + Math.floor(passed) + 1];
  });
  return [tenth, ...passing.filter((at) => at > tenth && at < end)];
}

const ZERO = decimal('0') as Decimal;

/**
 * A calendar stretch at its end: judged whole by the share that was read, unless it was met before, which is left then.
 */
function atEnd(stretch: JudgedWindow, memory: WindowMemory, end: Instant, { intervalMs }: Facts): WindowResult | null {
  if (memory.early) return { is: 'left' };
  if (stretch.make === 'pace') return null;
  const begin = memory.begin ?? end;
  const made = makeOf(stretch, memory, { from: begin, to: end });
  if (!made.ok) return { is: 'unlike', value: made.value };
  const [read, due] = [readIn(memory), (end - begin) / intervalMs];
  if (read * 2 < due || made.value === null)
    return { is: 'nothing', why: { code: 'unfinished', value: made.value, read, due } };
  return read * 10 < due * 9
    ? { is: 'whole', value: made.value, of: { read, due } }
    : { is: 'whole', value: made.value };
}

const readIn = ({ tally, points }: WindowMemory) => tally?.readings ?? points.length;

/** In which direction what is made of an unfinished stretch cannot be undone. */
function certainty({ make, grows }: JudgedWindow): 'above' | 'below' | null {
  if (make === 'sum') return grows ? 'above' : null;
  if (make === 'minimum') return 'below';
  return ['maximum', 'readings', 'moves', 'increase', 'range'].includes(make) ? 'above' : null;
}

type Made = { ok: true; value: Measure | null } | { ok: false; value: Measure };

const number = (amount: number): Measure => ({ kind: 'number', amount: asDecimal(amount), unit: null });

/** What is made of the readings; null where there are none with a value. `span` is of a stretch by time. */
function makeOf(stretch: JudgedWindow, memory: WindowMemory, span: Span | null): Made {
  const { make } = stretch;
  if (isTally(stretch)) return ofTally(make, memory.tally ?? EMPTY);
  if (make === 'readings' || make === 'moves') {
    const unlike = unlikeIn(memory.points);
    if (unlike !== null) return { ok: false, value: unlike };
    return { ok: true, value: number(make === 'readings' ? memory.points.length : movesIn(memory)) };
  }
  return ofMeasures(stretch, memory, span);
}

/** The first of some readings that is counted in something else than those before. */
function unlikeIn(points: readonly Latest[]): Measure | null {
  const [first, ...others] = points.flatMap(({ value }) => (isMeasure(value) ? value : []));
  return (first === undefined ? undefined : others.find((each) => !alike(each, first))) ?? null;
}

interface Span {
  from: Instant;
  to: Instant;
}

function ofMeasures(stretch: JudgedWindow, memory: WindowMemory, span: Span | null): Made {
  const { make, stepwise } = stretch;
  const before = make === 'increase' ? stoodBefore(memory) : span === null ? null : inForce(stretch, memory, span);
  const values = memory.points.flatMap(({ value }) => (isMeasure(value) ? value : []));
  const all = before === null ? values : [before, ...values];
  const [first] = all;
  if (first === undefined) return { ok: true, value: make === 'increase' ? number(0) : null };
  const other = all.find((each) => !alike(each, first));
  if (other !== undefined) return { ok: false, value: other };
  if (make === 'mean' && stepwise && span !== null)
    return { ok: true, value: weighted(first, memory, span, before !== null) };
  return {
    ok: true,
    value: {
      ...first,
      amount: aggregate(
        make,
        all.map(({ amount }) => amount),
      ),
    },
  };
}

/** What stood before a stretch, which its first reading moved from: absences are passed over. */
function stoodBefore({ before, valued = before ?? undefined }: WindowMemory): Measure | null {
  return valued !== undefined && isMeasure(valued.value) ? valued.value : null;
}

/** The value in force at the beginning of a stretch, where it counts: of stepwise fields. */
function inForce(
  { make, stepwise, of }: JudgedWindow,
  { points, before }: WindowMemory,
  { from }: Span,
): Measure | null {
  const covered = 'this' in of && points[0]?.at === from;
  const counts = stepwise && make !== 'sum';
  return before !== null && isMeasure(before.value) && counts && !covered ? before.value : null;
}

function ofTally(make: JudgedWindow['make'], { readings, sum, low, high, values, unlike }: Tally): Made {
  if (unlike !== null) return { ok: false, value: unlike };
  if (make === 'readings') return { ok: true, value: number(readings) };
  if (sum === null || low === null || high === null) return { ok: true, value: null };
  const amounts: Partial<Record<JudgedWindow['make'], Decimal>> = {
    sum: sum.amount,
    pace: sum.amount,
    minimum: low.amount,
    maximum: high.amount,
    range: subtract(high.amount, low.amount),
    mean: divide(sum.amount, asDecimal(values)),
  };
  return { ok: true, value: { ...sum, amount: amounts[make] ?? sum.amount } };
}

function aggregate(make: JudgedWindow['make'], amounts: Decimal[]): Decimal {
  const sum = () => amounts.reduce(add);
  const least = () => amounts.reduce((low, each) => (compareDecimals(each, low) < 0 ? each : low));
  const most = () => amounts.reduce((high, each) => (compareDecimals(each, high) > 0 ? each : high));
  switch (make) {
    case 'minimum':
      return least();
    case 'maximum':
      return most();
    case 'range':
      return subtract(most(), least());
    case 'mean':
      return divide(sum(), asDecimal(amounts.length));
    case 'median':
      return medianOf(amounts);
    case 'first to last':
      return subtract(amounts.at(-1) as Decimal, amounts[0] as Decimal);
    case 'increase':
      return amounts.reduce(
        (total, each, at) => (at === 0 ? total : add(total, grown(amounts[at - 1] as Decimal, each))),
        ZERO,
      );
    default:
      return sum();
  }
}

/**
 * What was added from one state of a counter to the next: after a fall it began anew, and the new state counts whole.
 */
function grown(from: Decimal, to: Decimal): Decimal {
  return compareDecimals(to, from) < 0 ? to : subtract(to, from);
}

/** The middle of some amounts; of an even number the mean of the two in the middle. */
export function medianOf(amounts: Decimal[]): Decimal {
  const sorted = [...amounts].sort(compareDecimals);
  const middle = Math.floor(sorted.length / 2);
  const upper = sorted[middle] as Decimal;
  return sorted.length % 2 === 1 ? upper : divide(add(sorted[middle - 1] as Decimal, upper), asDecimal(2));
}

/** How often the value moved: a move belongs to its later reading, and absences are passed over. */
function movesIn({ points, before, valued = before ?? undefined }: WindowMemory): number {
  const values = [...(valued === undefined ? [] : [valued]), ...points].flatMap(({ value }) =>
    value.kind === 'absent' ? [] : value,
  );
  return values.filter((value, at) => at > 0 && !sameValue(values[at - 1] as Value, value)).length;
}

/** The mean of a stepwise field: each value by how long it was in force, absent time left out. */
function weighted(like: Measure, { points, before }: WindowMemory, span: Span, begun: boolean): Measure | null {
  const { sum, time } = weights(points, begun ? before : null, span);
  const last = (points.at(-1) ?? before)?.value;
  if (time === 0) return last !== undefined && isMeasure(last) ? last : null;
  return { ...like, amount: divide(sum, asDecimal(time)) };
}

/** What was in force, each value times how long in ms, and for how long anything was. */
function weights(points: Latest[], before: Latest | null, { from, to }: Span): { sum: Decimal; time: number } {
  const steps = [...(before === null ? [] : [{ ...before, at: from }]), ...points];
  let [sum, time] = [ZERO, 0];
  for (const [n, { value, at }] of steps.entries()) {
    const length = Math.max(0, (steps[n + 1]?.at ?? to) - at);
    if (!isMeasure(value) || length === 0) continue;
    sum = add(sum, multiply(value.amount, asDecimal(length)));
    time += length;
  }
  return { sum, time };
}
