import { HOUR, type Instant } from '#core/when/interval';
import { moment, theRow, type Db } from '../base/pool';

/** What the record of a stretch rests on. */
export interface Coverage {
  runs: number;
  failed: number;
  changes: number;
  told: number;
}

/** What began in one hour may be stored in the next, but is by the end of that. */
const OVER_AFTER = HOUR;
/** So many hours are counted at a time, from the first that has not been. */
const MOST_HOURS = 48;

const COUNT = (from: string, until: string) => `
  (SELECT count(*) FROM run WHERE started_at >= ${from} AND started_at < ${until})::int AS runs,
  (SELECT count(*) FROM watch_run
  WHERE started_at >= ${from} AND started_at < ${until} AND outcome = 'failed')::int AS failed,
  (SELECT count(*) FROM change WHERE seen_at >= ${from} AND seen_at < ${until})::int AS changes,
  (SELECT count(*) FROM delivery WHERE sent_at >= ${from} AND sent_at < ${until})::int AS told`;

const TALLY = `
INSERT INTO hour_tally (hour, runs, failed, changes, told)
SELECT h.hour, n.* FROM generate_series(
  coalesce((SELECT max(hour) + interval '1 hour' FROM hour_tally),
    date_trunc('hour', (SELECT min(started_at) FROM run), 'UTC')),
  date_trunc('hour', $1::timestamptz, 'UTC') - interval '1 hour', interval '1 hour') WITH ORDINALITY AS h(hour, place)
CROSS JOIN LATERAL (SELECT ${COUNT('h.hour', "h.hour + interval '1 hour'")}) n
WHERE h.place <= ${MOST_HOURS}
ON CONFLICT DO NOTHING`;

/** Counts the hours that are over and have not been counted; returns how many were now. */
export async function tallyHours(db: Db, now: Instant): Promise<number> {
  const { rowCount } = await db.query(TALLY, [moment(now - OVER_AFTER)]);
  return rowCount ?? 0;
}

// Whole hours that were counted are summed; what lies before the first of them and after the last is counted now.
const SINCE = `
WITH counted AS (
  SELECT min(hour) AS from, max(hour) + interval '1 hour' AS until, sum(runs) AS runs, sum(failed) AS failed,
    sum(changes) AS changes, sum(told) AS told
  FROM hour_tally WHERE hour >= $1
), stretch AS (
  SELECT $1::timestamptz AS a, c.from AS b FROM counted c WHERE c.from IS NOT NULL
  UNION ALL SELECT coalesce(c.until, $1), 'infinity' FROM counted c
), parts AS (
  SELECT n.* FROM stretch CROSS JOIN LATERAL (SELECT ${COUNT('stretch.a', 'stretch.b')}) n
  UNION ALL SELECT runs, failed, changes, told FROM counted
)
SELECT coalesce(sum(runs), 0)::bigint AS runs, coalesce(sum(failed), 0)::bigint AS failed,
  coalesce(sum(changes), 0)::bigint AS changes,
  coalesce(sum(told), 0)::bigint AS told
FROM parts`;

/** Counts runs, failures, changes and sent mails since a moment. */
export async function coverageSince(db: Db, since: Instant): Promise<Coverage> {
  return theRow(await db.query<Coverage>(SINCE, [moment(since + 1)]));
}
