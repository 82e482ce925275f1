import type { WatchId } from '#core/id';
import { nextDue } from '#core/when/interval';
import { moment, type Db } from '../../db/base/pool';
import { dueBy } from '../context';
import type { RunFacts } from '../facts';

const SETTLED = `
WITH held AS (
  SELECT FROM source s JOIN due d ON d.source_id = s.id
  WHERE s.id = $1 AND d.lease_token = $2 AND s.snapshot_id IS NOT NULL
    AND NOT EXISTS (SELECT FROM watch
    WHERE source_id = $1 AND state = 'running' AND read_due_at <= $6 AND (NOT settled OR told_cause IS NOT NULL))
  FOR UPDATE
), given_back AS (
  UPDATE due
  SET lease_until = NULL, lease_token = NULL, deaths = 0, due_at = CASE WHEN due_at = $7 THEN $5 ELSE due_at END
  FROM held WHERE source_id = $1
), s AS (
  UPDATE source SET last_run_at = $4, last_took_ms = $8, failing_since = NULL, failures = 0
  FROM held WHERE id = $1 RETURNING id, snapshot_id
), r AS (
  INSERT INTO run (id, source_id, due_at, started_at, took_ms, late_ms, outcome, status, bytes, snapshot_id)
  SELECT $3, s.id, $7, $4, $8, $9, 'same', $10, $11, s.snapshot_id FROM s
), w AS (
  UPDATE watch w
  SET reads = reads + 1, settled_runs = settled_runs + 1, settled_at = $4, last_read_at = $4, last_good_at = $4,
    failing_since = NULL, failures = 0, problem = NULL,
    asked_at = CASE WHEN asked_at > $4 THEN asked_at END,
    read_due_at = CASE WHEN asked_at > $4 THEN w.read_due_at
      ELSE w.read_due_at +
      greatest(1, floor(extract(epoch FROM $4::timestamptz - w.read_due_at) * 1000 / w.interval_ms) + 1) * w.interval_ms
      * interval '1 ms' END
  FROM s WHERE w.source_id = s.id AND w.state = 'running' AND w.read_due_at <= $6
  RETURNING w.id
), wr AS (
  INSERT INTO watch_run (watch_id, run_id, started_at, outcome) SELECT w.id, $3, $4, 'same' FROM w
)
SELECT count(*)::int AS done, to_jsonb(ARRAY(SELECT id FROM w)) AS watches FROM s`;

/**
 * Stores a run that brought nothing new to watches whose last reading still holds, in one statement and so in one
 * transaction; which watches those are. Null, and nothing is stored, when a watch has to be read after all or the lease
 * was lost.
 */
export async function storeSettled(db: Db, facts: RunFacts): Promise<WatchId[] | null> {
  const { source, startedAt } = facts;
  const due = nextDue(source.dueAt, source.intervalMs, startedAt);
  const { rows } = await db.query<{ done: number; watches: WatchId[] }>({
    name: 'settled',
    text: SETTLED,
    values: [
      source.id,
      source.token,
      facts.runId,
      moment(startedAt),
      moment(due),
      moment(dueBy(startedAt, source.intervalMs)),
      moment(source.dueAt),
      facts.tookMs,
      startedAt - source.dueAt,
      facts.status,
      facts.bytes,
    ],
  });
  return rows[0]?.done === 1 ? rows[0].watches : null;
}
