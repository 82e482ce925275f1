import { arePoints, type Field, type RecordSource } from '../read/definition';
import type { ReadRecord } from '../read/reading';
import { compareDecimals, subtract } from '../value/decimal';
import type { Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { KnownSeries, SeenRecord } from './known';

/** Where a point stands in its series. */
export interface Place {
  at: Instant;
  /** The moment is the source's own. */
  stamped: boolean;
  /** Of a time that the series has already (`again`), or older than its latest (`late`). */
  order: 'next' | 'again' | 'late';
}

/**
 * Whether the time that its source gives says when a field was so: of points, and of all that is measured. The date
 * that a page or a row bears says nothing of when what moves only in steps was so.
 */
const goesByItsTime = ({ mode }: Field, records: RecordSource): boolean => mode === 'measured' || arePoints(records);

/** The fields of which the time that their source gives says when they were so. */
export const timedFields = (fields: readonly Field[], records: RecordSource): ReadonlySet<string> =>
  new Set(fields.filter((field) => goesByItsTime(field, records)).map(({ key }) => key));

/** When a reading was so, by its own time where it goes by that, and how that stands to what was seen before. */
export function placeInTime(
  field: Field,
  { marks }: ReadRecord,
  known: KnownSeries | null,
  { now, records }: { now: Instant; records: RecordSource },
): Place {
  if (marks.at === null || !goesByItsTime(field, records)) return { at: now, stamped: false, order: 'next' };
  const before = known?.sourceAt ?? null;
  const order = before === null || marks.at > before ? 'next' : marks.at === before ? 'again' : 'late';
  return { at: marks.at, stamped: true, order };
}

/** Points of one series are taken in the order of the source's own time. */
export function inOrder(records: ReadRecord[]): ReadRecord[] {
  return records.some((record) => record.marks.at !== null)
    ? [...records].sort((a, b) => (a.marks.at ?? 0) - (b.marks.at ?? 0))
    : records;
}

/**
 * A running counter as what was added since the last reading; after it began anew, all that it shows. Null on its first
 * one. What it shows is kept in `seen`.
 */
export function counted({ key, type }: Field, seen: SeenRecord, value: Value): Value | null {
  if (type.kind !== 'number' || type.increase !== true || value.kind !== 'number') return value;
  const before = seen.counters[key];
  seen.counters[key] = value.amount;
  if (before === undefined) return null;
  return {
    ...value,
    amount: compareDecimals(value.amount, before) < 0 ? value.amount : subtract(value.amount, before),
  };
}
