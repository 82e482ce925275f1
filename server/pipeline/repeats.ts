import type { SeriesId } from '#core/id';
import { timedFields } from '#core/judge/place';
import { pointName } from '#core/judge/placing';
import type { ReadRecord } from '#core/read/reading';
import { sameValue, valueOfColumns, type Value, type ValueColumns } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../db/base/pool';
import type { RunWatch } from './context';

// A source may send what it sent before with what is new, look after look: a point of a time that its series has
// already is taken once.

/** A point that is older than the latest of its series. */
interface Older {
  series: SeriesId;
  at: Instant;
  name: string;
  value: Value;
}

/**
 * The reading of a series that holds a moment. It is `known` where it was stated at that very time, and `perhaps` where
 * it was stated so often that not all times are kept.
 */
const KNOWN = `
SELECT n.place, r.kind, r.amount, r.unit, r.words, r.first_seen = n.at
  OR coalesce(n.at = ANY (r.stamps), false) AS known,
  r.runs > 1 + coalesce(cardinality(r.stamps), 0) AND coalesce(n.at < r.stamps[1], true) AS perhaps
FROM unnest($1::bigint[], $2::timestamptz[]) WITH ORDINALITY AS n(id, at, place)
CROSS JOIN LATERAL (
  SELECT * FROM reading x WHERE x.series_id = n.id AND x.first_seen <= n.at
    AND (x.first_seen = n.at OR NOT (x.late OR x.quality IS NOT DISTINCT FROM 'bad')) ORDER BY x.first_seen DESC LIMIT 1
) r
WHERE r.last_seen >= n.at`;

type KnownRow = { place: string | number; known: boolean; perhaps: boolean } & ValueColumns;

/**
 * A watch with the names of those points that its series have already; where none is older than the latest nothing is
 * asked.
 */
export async function withRepeats(db: Db, watches: RunWatch[]): Promise<RunWatch[]> {
  const older = watches.map(olderPoints);
  const all = older.flat();
  if (all.length === 0) return watches;
  const { rows } = await db.query<KnownRow>({
    name: 'points known',
    text: KNOWN,
    values: [all.map(({ series }) => series), all.map(({ at }) => moment(at))],
  });
  const repeated = new Set(
    rows.flatMap((row) => (isThat(all[Number(row.place) - 1], row) ? [all[Number(row.place) - 1]] : [])),
  );
  return watches.map((watch, n) => {
    const names = (older[n] ?? []).flatMap((point) => (repeated.has(point) ? point.name : []));
    return names.length === 0 ? watch : { ...watch, repeated: new Set(names) };
  });
}

const isThat = (point: Older | undefined, { known, perhaps, ...columns }: KnownRow): boolean =>
  point !== undefined && (known || (perhaps && sameValue(valueOfColumns(columns), point.value)));

function olderPoints({ definition, records, read: { reading } }: RunWatch): Older[] {
  if (!reading.ok) return [];
  const timed = timedFields(definition.fields, definition.records);
  return reading.value.records.flatMap((record) =>
    record.marks.at === null ? [] : olderOf(record, record.marks.at, timed, records),
  );
}

function olderOf(
  { identity, fields }: ReadRecord,
  at: Instant,
  timed: ReadonlySet<string>,
  records: RunWatch['records'],
): Older[] {
  const known = records.get(identity)?.series;
  if (known === undefined) return [];
  return fields.flatMap(({ field, outcome }) => {
    const series = known.get(field);
    if (!outcome.ok || !timed.has(field) || series?.id == null || series.sourceAt === null || at >= series.sourceAt)
      return [];
    return [{ series: series.id, at, name: pointName(identity, field, at), value: outcome.value.value }];
  });
}
