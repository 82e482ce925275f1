import type { Figure, Limits, JudgedWindow } from '#core/judge/asked';
import type { Latest } from '#core/judge/observation';
import { isMeasure, sameValue, unitOf, type Measure, type Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';

// Plain arithmetic for the reference: with binary numbers, which are exact for the small whole amounts that it is
// given.

export const num = (value: Measure) => Number(value.amount);
export const alike = (a: Value, b: Value) =>
  isMeasure(a) && isMeasure(b) && a.kind === b.kind && unitOf(a) === unitOf(b);
export const likeOf = (value: Measure, amount: number): Measure => ({
  ...value,
  amount: String(amount) as Measure['amount'],
});

/** The middle of some numbers, or the mean of the two in the middle; nought of none. */
export function middle(numbers: number[]): number {
  const sorted = [...numbers].sort((a, b) => a - b);
  return ((sorted[Math.floor((sorted.length - 1) / 2)] ?? 0) + (sorted[Math.ceil((sorted.length - 1) / 2)] ?? 0)) / 2;
}

/** Whether a value stands where limits say; null where it is counted in something else. */
export function stands(limits: Limits, value: Value): boolean | null {
  const all = 'limit' in limits ? [limits.limit] : [limits.low, limits.high];
  if (!isMeasure(value) || all.some((limit) => !alike(limit, value))) return null;
  const at = num(value);
  if ('limit' in limits)
    return at === num(limits.limit)
      ? limits.inclusive
      : limits.is === 'below'
        ? at < num(limits.limit)
        : at > num(limits.limit);
  const [low, high] = [num(limits.low), num(limits.high)];
  if (limits.is === 'between') return limits.inclusive ? at >= low && at <= high : at > low && at < high;
  return limits.inclusive ? at <= low || at >= high : at < low || at > high;
}

/** Whether a value is back on the good side by a margin. */
export function backBy(limits: Limits, margin: Figure, at: number): boolean {
  const far = (limit: Measure) =>
    margin.by === 'amount' ? num(margin.amount) : (Math.abs(num(limit)) * Number(margin.percent)) / 100;
  if ('limit' in limits)
    return limits.is === 'below'
      ? at >= num(limits.limit) + far(limits.limit)
      : at <= num(limits.limit) - far(limits.limit);
  const [low, high] = [num(limits.low), num(limits.high)];
  if (limits.is === 'between') return at <= low - far(limits.low) || at >= high + far(limits.high);
  return at >= low + far(limits.low) && at <= high - far(limits.high);
}

/** Whether a value lies by at least a figure to one side of its base; null where there is no percent, from zero. */
export function far(base: Measure, value: Measure, figure: Figure | null, side: 1 | -1): boolean | null {
  const difference = num(value) - num(base);
  if (figure === null || difference === 0) return false;
  if (figure.by === 'percent' && num(base) === 0) return null;
  const least = figure.by === 'amount' ? num(figure.amount) : (Math.abs(num(base)) * Number(figure.percent)) / 100;
  return Math.sign(difference) === side && Math.abs(difference) >= least;
}

const plain = (amount: number): Measure => ({
  kind: 'number',
  amount: String(amount) as Measure['amount'],
  unit: null,
});

/**
 * What is made of a stretch, (from, to] where it slides, else [from, to); of some readings alone where they are given.
 */
export function make(
  over: JudgedWindow,
  all: Latest[],
  from: Instant,
  to: Instant,
  slides: boolean,
  few?: Latest[],
): Measure | null | 'unlike' {
  const inside = few ?? all.filter(slides ? ({ at }) => at > from && at <= to : ({ at }) => at >= from && at < to);
  const valued = all.filter(({ value }) => value.kind !== 'absent');
  const moved = few === undefined ? beforeOf(valued, from, slides) : valuedBefore(all, few);
  if (over.make === 'readings' || over.make === 'moves') return counted(over.make, inside, moved);
  const counts = leads(over) && few === undefined && (slides || inside[0]?.at !== from);
  const led = over.make === 'increase' ? moved : counts ? beforeOf(all, from, slides) : undefined;
  const inForce = [led].flatMap((each) => (each !== undefined && isMeasure(each.value) ? [{ ...each, at: from }] : []));
  return ofMeasures(
    over,
    [...inForce, ...inside],
    Number.isFinite(to) ? to : (inside.at(-1)?.at ?? from),
    few === undefined,
  );
}

/** Whether what is in force at the beginning counts. */
const leads = ({ make: what, stepwise }: JudgedWindow) => stepwise && what !== 'sum';

function counted(what: 'readings' | 'moves', inside: Latest[], before: Latest | undefined): Measure | 'unlike' {
  const measured = inside.filter(({ value }) => isMeasure(value));
  if (measured.some(({ value }) => !alike(value, (measured[0] as Latest).value))) return 'unlike';
  return plain(what === 'readings' ? inside.length : movesIn([...(before === undefined ? [] : [before]), ...inside]));
}

/** The last value before some of the last readings. */
const valuedBefore = (all: Latest[], few: Latest[]) =>
  all
    .slice(0, all.length - few.length)
    .filter(({ value }) => value.kind !== 'absent')
    .at(-1);

/** The last reading before a stretch; one right at the beginning is before it where it slides. */
const beforeOf = (all: Latest[], from: Instant, slides: boolean) =>
  all.filter(({ at }) => at < from || (slides && at === from)).at(-1);

function movesIn(steps: Latest[]): number {
  const values = steps.filter(({ value }) => value.kind !== 'absent');
  return values.filter(({ value }, n) => n > 0 && !sameValue((values[n - 1] as Latest).value, value)).length;
}

function ofMeasures(over: JudgedWindow, steps: Latest[], end: Instant, timed: boolean): Measure | null | 'unlike' {
  const measured = steps.filter(({ value }) => isMeasure(value)).map(({ value }) => value as Measure);
  const [first] = measured;
  if (first === undefined) return over.make === 'increase' ? plain(0) : null;
  if (measured.some((value) => !alike(value, first))) return 'unlike';
  if (over.make === 'mean' && over.stepwise && timed) return weighted(steps, end);
  return likeOf(first, aggregated(over.make, measured.map(num)));
}

function weighted(steps: Latest[], end: Instant): Measure | null {
  const parts = steps
    .map(({ value, at }, n) => ({ value, length: (steps[n + 1]?.at ?? end) - at }))
    .filter(({ value, length }) => isMeasure(value) && length > 0);
  const time = parts.reduce((sum, { length }) => sum + length, 0);
  const last = steps.at(-1)?.value as Value;
  if (time === 0) return isMeasure(last) ? last : null;
  return likeOf(
    parts[0]?.value as Measure,
    parts.reduce((sum, { value, length }) => sum + num(value as Measure) * length, 0) / time,
  );
}

function aggregated(what: JudgedWindow['make'], amounts: number[]): number {
  const sum = amounts.reduce((total, each) => total + each, 0);
  const grown = (each: number, n: number) => (each < (amounts[n] as number) ? each : each - (amounts[n] as number));
  const by: Partial<Record<JudgedWindow['make'], number>> = {
    minimum: Math.min(...amounts),
    maximum: Math.max(...amounts),
    range: Math.max(...amounts) - Math.min(...amounts),
    'first to last': (amounts.at(-1) as number) - (amounts[0] as number),
    increase: amounts.slice(1).reduce((total, each, n) => total + grown(each, n), 0),
    sum,
    mean: sum / amounts.length,
    median: middle(amounts),
  };
  return by[what] as number;
}
