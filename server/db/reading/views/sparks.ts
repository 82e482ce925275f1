import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../base/pool';

/** A small series: moments and heights, the oldest first. Exactness does not matter at this size. */
export interface Spark {
  at: Instant[];
  height: number[];
}

const SECONDS = (moment: string) => `extract(epoch FROM ${moment})`;
const STRETCH =
  `width_bucket(${SECONDS('r.first_seen')}, ${SECONDS('$2::timestamptz')}, ` + `${SECONDS('$3::timestamptz')}, $4)`;
const GOOD = `r.amount IS NOT NULL AND r.quality IS DISTINCT FROM 'bad'`;

const SPARKS = `
SELECT a.id, array_agg(${SECONDS('b.at')} * 1000 ORDER BY b.at) AS at, array_agg(b.amount::float8
ORDER BY b.at) AS height
FROM unnest($1::bigint[]) AS a(id) CROSS JOIN LATERAL (
  -- What was in force when it begins, the first good reading, and the last of each stretch.
  (SELECT $2::timestamptz AS at, r.amount FROM reading r WHERE r.series_id = a.id AND r.first_seen < $2 AND ${GOOD}
  ORDER BY r.first_seen DESC LIMIT 1)
  UNION
  (SELECT r.first_seen, r.amount FROM reading r
   WHERE r.series_id = a.id AND r.first_seen >= $2 AND r.first_seen < $3 AND ${GOOD} ORDER BY r.first_seen LIMIT 1)
  UNION
  (SELECT DISTINCT ON (${STRETCH}) r.first_seen, r.amount FROM reading r
   WHERE r.series_id = a.id AND r.first_seen >= $2 AND r.first_seen < $3 AND ${GOOD}
   ORDER BY ${STRETCH}, r.first_seen DESC)
) b GROUP BY a.id`;

/**
 * The course of series of numbers between two moments, in so many stretches; one without readings there is left out.
 */
export async function listSparks(
  db: Db,
  seriesIds: number[],
  from: Instant,
  to: Instant,
  stretches: number,
): Promise<Map<number, Spark>> {
  if (seriesIds.length === 0) return new Map();
  const { rows } = await db.query<{ id: number; at: (number | string)[]; height: number[] }>({
    name: 'sparks',
    text: SPARKS,
    values: [seriesIds, moment(from), moment(to), stretches],
  });
  return new Map(rows.map(({ id, at, height }) => [id, { at: at.map(Number), height }]));
}
