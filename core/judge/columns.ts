import { fractionDigits } from '../value/decimal';
import { isMeasure } from '../value/value';
import type { Instant } from '../when/interval';
import { runsOf } from './backtest';
import type { History } from './past';
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
  /** Until when it was seen. */
  until: Float64Array;
}

/** The readings of a record as columns, a row for each moment at which something was read. */
export interface Table {
  history: History;
  at: Float64Array;
  fields: ReadonlyMap<string, Column>;
}

/** Histories as columns, with what their numbers are counted in. */
export interface Columns extends WholeSteps {
  tables: Table[];
}

const MOST_PLACES = 9;
/** As many as a cell can number. */
const MOST_UNITS = 65_535;

/**
 * Histories as columns of whole numbers, exact up to 2^53; null where an amount is larger than that, or has more than
 * nine decimal places: such are judged one by one, in exact decimals. `each` says whether every run is a row, or only
 * those that brought something new.
 */
export function columnsOf(histories: readonly History[], each: boolean): Columns | null {
  const places = placesIn(histories);
  if (places > MOST_PLACES) return null;
  const units = new Map<string, number>();
  const tables: Table[] = [];
  for (const history of histories) {
    const table = tableOf(history, { places, units, each });
    if (table === null) return null;
    tables.push(table);
  }
  return { places, units: [...units.keys()], tables };
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
    looks: readings.flatMap((reading) => runsOf(reading, scale.each)),
  }));
  const moments = timestampsIn(looks.map((own) => own.looks));
  const rowOf = new Map(moments.map((at, row) => [at, row]));
  const columns = new Map<string, Column>();
  for (const { field, stepwise, looks: own } of looks) {
    const column = columnOf(own, rowOf, scale);
    if (column === null) return null;
    if (stepwise && looks.length > 1) fillIn(column);
    columns.set(field, column);
  }
  return { history, at: Float64Array.from(moments), fields: columns };
}

function timestampsIn(series: readonly RunColumns[]): Instant[] {
  return [...new Set(series.flatMap((looks) => looks.map(({ at }) => at)))].sort((one, other) => one - other);
}

interface Scale {
  each: boolean;
  places: number;
  units: Map<string, number>;
}

function columnOf(looks: RunColumns, rowOf: ReadonlyMap<Instant, number>, { places, units }: Scale): Column | null {
  const rows = rowOf.size;
  const column = {
    cell: new Uint8Array(rows),
    amount: new Float64Array(rows),
    unit: new Uint16Array(rows),
    until: new Float64Array(rows),
  };
  for (const { at, until, value } of looks) {
    const row = rowOf.get(at) ?? 0;
    column.until[row] = until;
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
function fillIn({ cell, amount, unit, until }: Column): void {
  for (let row = 1; row < cell.length; row += 1) {
    if (cell[row] !== CELL.none) continue;
    const before = cell[row - 1] ?? CELL.none;
    if (before === CELL.none) continue;
    cell[row] = before | FILLED;
    amount[row] = amount[row - 1] ?? 0;
    unit[row] = unit[row - 1] ?? 0;
    until[row] = until[row - 1] ?? 0;
  }
}
