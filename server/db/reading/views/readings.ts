import type { SeriesId } from '#core/id';
import { valueOfColumns, type Value, type ValueColumns } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../base/pool';

/** One reading of a series. */
export interface ReadingRow {
  seriesId: SeriesId;
  firstSeen: Instant;
  lastSeen: Instant;
  runs: number;
  value: Value;
  /** It stands for many: the least or the most of a stretch. */
  thinned: boolean;
}

type ReadingColumns = Omit<ReadingRow, 'value' | 'thinned'> & ValueColumns & { highest: string | null };

/** As many as a chart can show. */
const MOST_READINGS = 2000;

const READINGS = `
WITH asked AS (
  SELECT s.id, s.value->>'kind' IN ('number', 'money') AS drawn,
    -- The reading that stood when the window began may have been first seen long before.
    coalesce((SELECT max(r.first_seen) FROM reading r WHERE r.series_id = s.id AND r.first_seen <= $2), $2) AS since
  FROM series s WHERE s.id = ANY($1::bigint[])
), counted AS (
  SELECT a.id, a.since, a.drawn AND (SELECT count(*)
  FROM (SELECT FROM reading r WHERE r.series_id = a.id AND r.first_seen >= a.since LIMIT $3 + 1) n) > $3 AS thin
  FROM asked a
), whole AS (
  SELECT r.* FROM counted c CROSS JOIN LATERAL (
    SELECT * FROM reading_seen r
    WHERE r.series_id = c.id AND r.first_seen >= c.since AND r.last_seen >= $2 AND r.quality IS DISTINCT FROM 'bad'
    ORDER BY r.first_seen DESC LIMIT $3
  ) r WHERE NOT c.thin
), bounded AS (
  SELECT c.id, c.since, (SELECT extract(epoch FROM min(r.first_seen)) FROM reading r
  WHERE r.series_id = c.id AND r.first_seen >= c.since) AS low,
    (SELECT extract(epoch FROM max(r.first_seen)) + 1 FROM reading r WHERE r.series_id = c.id) AS high
  FROM counted c WHERE c.thin
), thinned AS (
  SELECT r.series_id, min(r.first_seen) AS first_seen, max(r.last_seen) AS last_seen, sum(r.runs)::bigint AS runs,
    r.kind, min(r.amount) AS amount, r.unit,
    max(r.amount) AS highest
  FROM bounded b JOIN reading_seen r ON r.series_id = b.id AND r.first_seen >= b.since
  WHERE r.amount IS NOT NULL AND r.last_seen >= $2 AND r.quality IS DISTINCT FROM 'bad'
  GROUP BY r.series_id, r.kind, r.unit, width_bucket(extract(epoch FROM r.first_seen), b.low, b.high, $3 / 2)
)
SELECT series_id AS "seriesId", first_seen AS "firstSeen", last_seen AS "lastSeen", runs, kind, amount, unit,
  left(words, 300) AS words, NULL AS highest FROM whole
UNION ALL SELECT series_id, first_seen, last_seen, runs, kind, amount, unit, NULL, highest FROM thinned
ORDER BY "firstSeen"`;

/**
 * The good readings of series that reach into a window, the oldest first. Where a series of numbers has more than
 * `most` of them, the window is cut into `most / 2` stretches, and the least and the most of each stand for the rest.
 */
export async function listReadings(
  db: Db,
  seriesIds: number[],
  from: Instant,
  most = MOST_READINGS,
): Promise<ReadingRow[]> {
  const { rows } = await db.query<ReadingColumns>({
    name: 'list readings',
    text: READINGS,
    values: [seriesIds, moment(from), most],
  });
  return rows.flatMap(expanded);
}

function expanded({ kind, amount, unit, words, highest, ...row }: ReadingColumns): ReadingRow[] {
  const valued = (exact: string | null) => valueOfColumns({ kind, amount: exact, unit, words });
  if (highest === null) return [{ ...row, value: valued(amount), thinned: false }];
  const middle = Math.round((row.firstSeen + row.lastSeen) / 2);
  return [
    { ...row, lastSeen: middle, value: valued(amount), thinned: true },
    { ...row, firstSeen: middle, value: valued(highest), thinned: true },
  ];
}
