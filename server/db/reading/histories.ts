import type { SeriesId, WatchId } from '#core/id';
import type { History, StoredReading } from '#core/judge/past';
import { ALL_RECORDS, withNumber } from '#core/read/all-records';
import type { WatchDefinition } from '#core/read/definition';
import { valueOfColumns, type ValueColumns } from '#core/value/value';
import { numberOverTime } from './number-over-time';
import { moment, type Db } from '../base/pool';
import type { Span } from '../base/span';

/**
 * What of a watch's past a rule is tried on: of so many records, and so many readings of each of their series at most.
 */
const MOST_RECORDS = 60;
const MOST_READINGS = 20_000;
const MOST_OF_ONE = 6_000;
/** Of a longer text a rule is tried on its beginning. */
const MOST_OF_A_TEXT = 400;

const SERIES = `
SELECT s.id, s.field, r.identity, coalesce(r.name, r.identity) AS name, r.labels
FROM (SELECT id, identity, name, labels FROM record WHERE watch_id = $1
ORDER BY identity <> '${ALL_RECORDS}', gone_since IS NOT NULL, id LIMIT ${MOST_RECORDS + 1}) r
JOIN series s ON s.record_id = r.id
WHERE s.field = ANY($2)
ORDER BY r.id, s.field`;

const READINGS = `
SELECT q.id AS "seriesId", r.first_seen AS at, r.last_seen AS until, r.runs, r.kind, r.amount, r.unit,
  left(r.words, ${MOST_OF_A_TEXT}) AS words
FROM unnest($1::bigint[]) AS q(id)
CROSS JOIN LATERAL (
  SELECT * FROM reading_seen x
  WHERE x.series_id = q.id AND x.quality IS DISTINCT FROM 'bad' AND x.first_seen <= $4
    AND x.first_seen >= coalesce((SELECT max(o.first_seen) FROM reading o
    WHERE o.series_id = q.id AND o.first_seen <= $2), $2)
  ORDER BY x.first_seen DESC LIMIT $3
) r
ORDER BY q.id, r.first_seen`;

type Row = Omit<StoredReading, 'value'> & { seriesId: SeriesId } & ValueColumns;

/**
 * What was read of some series in a span, with what was in force when it began, the oldest first; of each the latest so
 * many.
 */
export async function readingsIn(
  db: Db,
  series: readonly SeriesId[],
  { since, until }: Span,
  most: number,
): Promise<Map<SeriesId, StoredReading[]>> {
  const { rows } = await db.query<Row>(READINGS, [series, moment(since), most, moment(until)]);
  const readings = new Map<SeriesId, StoredReading[]>();
  for (const { seriesId, at, until, runs, ...columns } of rows) {
    const own = readings.get(seriesId) ?? [];
    own.push({ at, until, runs, value: valueOfColumns(columns) });
    readings.set(seriesId, own);
  }
  return readings;
}

const isCut = ({ value }: StoredReading) => value.kind === 'text' && value.text.length >= MOST_OF_A_TEXT;

/**
 * What was read of a watch in a span, record by record, as far as fields are drawn or judged; bounded, and says whether
 * something was left out.
 */
export async function historiesOf(
  db: Db,
  id: WatchId,
  definition: WatchDefinition,
  span: Span,
): Promise<{ histories: History[]; whole: boolean }> {
  const stepwise = new Map(withNumber(definition).map(({ key, mode }) => [key, mode === 'stepwise']));
  const { rows: series } = await db.query<{
    id: SeriesId;
    field: string;
    identity: string;
    name: string;
    labels: Record<string, string>;
  }>(SERIES, [id, [...stepwise.keys()]]);
  const most = Math.max(100, Math.min(MOST_OF_ONE, Math.floor(MOST_READINGS / Math.max(1, series.length))));
  const readings = await readingsIn(
    db,
    series.map((each) => each.id),
    span,
    most,
  );
  const histories = new Map<
    string,
    {
      identity: string;
      name: string;
      labels: Record<string, string>;
      fields: Record<string, { stepwise: boolean; readings: StoredReading[] }>;
    }
  >();
  for (const { id: seriesId, field, identity, name, labels } of series) {
    const record = histories.get(identity) ?? { identity, name, labels, fields: {} };
    record.fields[field] = { stepwise: stepwise.get(field) ?? true, readings: readings.get(seriesId) ?? [] };
    histories.set(identity, record);
  }
  const all = histories.has(ALL_RECORDS) ? [] : await numberOverTime(db, id, definition, span);
  return {
    histories: [...histories.values(), ...all],
    whole:
      [...readings.values()].every((own) => own.length < most && !own.some(isCut)) && histories.size < MOST_RECORDS,
  };
}
