import { fractionDigits } from '../value/decimal';
import { isMeasure } from '../value/value';
import type { Instant } from '../when/interval';
import { runsOf } from './past-moments';
import { NO_RUNS, type History, type PastRuns } from './past';
import { scaled, unitName, type WholeSteps } from './whole-steps';

/**
 * What a cell of a column holds: nothing was read then, a value, none that is known to be missing, or what is no
 * number.
 */
export const CELL = { none: 0, value: 1, absent: 2, other: 3 } as const;

/** Set beside it where what was in force only stands there while others were read. */
export const FILLED = 8;

/**
 * A field of a record, in the order of its moments: amounts in whole steps of `10 ** -places`, each in one of the
 * units.
 */
export interface Column {
  cell: Uint8Array;
  amount: Float64Array;
  unit: Uint16Array;
  /** Until when it was seen, and at how many runs. */
  until: Float64Array;
  runs: Float64Array;
  /** Until when what it stands for was seen. */
  stood: Float64Array;
}

/** The readings of a record as columns, a row for each moment at which something was read, as it came. */
export interface Table {
  history: History;
  at: Float64Array;
  /** When it was so. */
  so: Float64Array;
  fields: ReadonlyMap<string, Column>;
}

/** Histories as columns, with what their numbers are counted in. */
export interface Columns extends WholeSteps {
  tables: Table[];
  /** Some of it came later than it was so. */
  stamped: boolean;
  /** When the watch was read, as far as that is known. */
  read: readonly Instant[];
}

const MOST_PLACES = 9;
/** As many as a cell can number. */
const MOST_UNITS = 65_535;

/**
 * Histories as columns of whole numbers, exact up to 2^53; null where an amount is larger than that, or has more than
 * nine decimal places, or where a record was away: such are judged one by one, in exact decimals. `each` says whether
 * every run is a row, or only those that brought something new.
 */
export function columnsOf(histories: readonly History[], each: boolean, { read }: PastRuns = NO_RUNS): Columns | null {
  const places = placesIn(histories);
  if (places > MOST_PLACES || histories.some(({ presence = [] }) => presence.some(({ there }) => !there))) return null;
  const units = new Map<string, number>();
  const tables: Table[] = [];
  for (const history of histories) {
    const table = tableOf(history, { places, units, each, read });
    if (table === null) return null;
    tables.push(table);
  }
  const stamped = histories.some(({ fields }) =>
    Object.values(fields).some(({ readings }) => readings.some(({ came }) => came !== undefined)),
  );
  return { places, units: [...units.keys()], tables, stamped, read };
}

function placesIn(histories: readonly History[]): number {
  const series = histories.flatMap(({ fields }) => Object.values(fields));
  return series.reduce(
    (most, { readings }) =>
      readings.reduce((so, { value }) => (isMeasure(value) ? Math.max(so, fractionDigits(value.amount)) : so), most),
    0,
  );
}

type RunColumns = ReturnType<typeof runsOf>;

function tableOf(history: History, scale: Scale): Table | null {
  const looks = Object.entries(history.fields).map(([field, { stepwise, readings }]) => ({
    field,
    stepwise,
    looks: inTime(readings.flatMap((reading) => runsOf(reading, scale.each, undefined, scale.read))),
  }));
  const moments = timestampsIn(looks.map((own) => own.looks));
  const rowOf = new Map(moments.map((moment, row) => [rowName(moment), row]));
  const columns = new Map<string, Column>();
  for (const { field, stepwise, looks: own } of looks) {
    const column = columnOf(own, rowOf, scale);
    if (column === null) return null;
    if (stepwise && looks.length > 1) fillIn(column, moments);
    columns.set(field, column);
  }
  return {
    history,
    at: Float64Array.from(moments, ({ came }) => came),
    so: Float64Array.from(moments, ({ at }) => at),
    fields: columns,
  };
}

type Timed = Pick<RunColumns[number], 'at' | 'came'>;

/** What names the row of a moment. */
const rowName = ({ at, came }: Timed): number | string => (at === came ? at : `${came} ${at}`);

/** Looks as they came, but for those that came after later ones of their series. */
function inTime(looks: RunColumns): RunColumns {
  if (looks.every(({ at, came, late }) => at === came && late !== true)) return looks;
  let latest = -Infinity;
  return looks
    .sort((one, other) => one.came - other.came || one.at - other.at)
    .filter(({ at, late }) => {
      const is = late !== true && at >= latest;
      if (is) latest = at;
      return is;
    });
}

function timestampsIn(series: readonly RunColumns[]): Timed[] {
  const moments = new Map<number | string, Timed>();
  for (const looks of series) for (const look of looks) moments.set(rowName(look), look);
  return [...moments.values()].sort((one, other) => one.came - other.came || one.at - other.at);
}

interface Scale {
  each: boolean;
  read: readonly Instant[];
  places: number;
  units: Map<string, number>;
}

function columnOf(
  looks: RunColumns,
  rowOf: ReadonlyMap<number | string, number>,
  { places, units }: Scale,
): Column | null {
  const rows = rowOf.size;
  const column = {
    cell: new Uint8Array(rows),
    amount: new Float64Array(rows),
    unit: new Uint16Array(rows),
    until: new Float64Array(rows),
    runs: new Float64Array(rows),
    stood: new Float64Array(rows),
  };
  for (const look of looks) {
    const { until, value, of } = look;
    const row = rowOf.get(rowName(look)) ?? 0;
    column.until[row] = until;
    column.runs[row] = of?.runs ?? 1;
    column.stood[row] = of?.until ?? until;
    column.cell[row] = isMeasure(value) ? CELL.value : value.kind === 'absent' ? CELL.absent : CELL.other;
    if (!isMeasure(value)) continue;
    const amount = scaled(value.amount, places);
    if (amount === null) return null;
    const name = unitName(value);
    const unit = units.get(name) ?? units.size;
    units.set(name, unit);
    if (unit > MOST_UNITS) return null;
    column.amount[row] = amount;
    column.unit[row] = unit;
  }
  return column;
}

/** What was in force stands at the moments at which only others moved. */
function fillIn({ cell, amount, unit, until, runs, stood }: Column, moments: readonly Timed[]): void {
  for (let row = 1; row < cell.length; row += 1) {
    if (cell[row] !== CELL.none) continue;
    const before = cell[row - 1] ?? CELL.none;
    if (before === CELL.none || (moments[row] as Timed).came > (stood[row - 1] as number)) continue;
    cell[row] = before | FILLED;
    amount[row] = amount[row - 1] ?? 0;
    unit[row] = unit[row - 1] ?? 0;
    until[row] = until[row - 1] ?? 0;
    runs[row] = runs[row - 1] ?? 0;
    stood[row] = stood[row - 1] ?? 0;
  }
}
