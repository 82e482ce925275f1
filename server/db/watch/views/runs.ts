import type { RunId, WatchId } from '#core/id';
import type { MovedRecord, StoodRecord } from '#core/compare/run-sheet';
import { ALL_RECORDS } from '#core/read/all-records';
import { valueOfColumns, type ValueColumns } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../base/pool';
import { side } from '../../report/window';

/** A look of a watch, with what it brought. */
export interface WatchRun {
  id: RunId;
  at: Instant;
  outcome: 'first' | 'same' | 'changed' | 'failed';
  sentence: string | null;
  tookMs: number;
  lateMs: number;
  bytes: number;
  /** Records that came, records that went, and fields that moved. */
  appeared: number;
  vanished: number;
  moved: number;
}

const RUNS = `
SELECT w.run_id AS id, w.started_at AS at, w.outcome, w.problem->>'sentence' AS sentence, r.took_ms AS "tookMs",
  r.late_ms AS "lateMs", r.bytes,
  c.appeared, c.vanished, c.moved
FROM watch_run w JOIN run r ON r.id = w.run_id AND r.started_at = w.started_at
CROSS JOIN LATERAL (
  SELECT count(*) FILTER (WHERE x.kind = 'record' AND x.now->>'kind' <> 'absent')::int AS appeared,
    count(*) FILTER (WHERE x.kind = 'record' AND x.now->>'kind' = 'absent')::int AS vanished,
      count(*) FILTER (WHERE x.kind <> 'record')::int AS moved
  FROM change x WHERE x.run_id = w.run_id AND x.watch_id = w.watch_id
) c
WHERE w.watch_id = $1`;

/** The runs of a watch, the latest first; those before one, at most so many. */
export async function listWatchRuns(
  db: Db,
  watch: WatchId,
  before: { at: Instant; id: RunId } | null,
  most: number,
): Promise<WatchRun[]> {
  const from = before === null ? '' : 'AND (w.started_at, w.run_id) < ($3, $4)';
  const values = [watch, most, ...(before === null ? [] : [moment(before.at), before.id])];
  return (await db.query<WatchRun>(`${RUNS} ${from} ORDER BY w.started_at DESC, w.run_id DESC LIMIT $2`, values)).rows;
}

/** When a run of a watch was; null where there was none, or it failed. */
export async function findWatchRun(db: Db, watch: WatchId, run: RunId): Promise<Instant | null> {
  const { rows } = await db.query<{ at: Instant }>(
    `SELECT started_at AS at FROM watch_run WHERE watch_id = $1 AND run_id = $2 AND outcome <> 'failed'`,
    [watch, run],
  );
  return rows[0]?.at ?? null;
}

/** A file holds no more rows, and of a text no more of it. */
const MOST_ROWS = 50_000;
const LONGEST_TEXT = 4_000;

/** Of each series the reading that stood when a run was over: what it read, or what was read before. */
const STOOD = `
SELECT coalesce(o.name, o.identity) AS name, o.identity, s.field, r.kind, r.amount, r.unit,
  CASE WHEN length(r.words) > ${LONGEST_TEXT} THEN left(r.words, ${LONGEST_TEXT}) || '…' ELSE r.words END AS words
FROM (
  SELECT * FROM record o
  WHERE o.watch_id = $1 AND o.identity <> '${ALL_RECORDS}' AND o.first_seen <= $2
    AND (o.gone_since IS NULL OR o.gone_since > $2)
  ORDER BY o.id LIMIT ${MOST_ROWS}
) o JOIN series s ON s.record_id = o.id
JOIN LATERAL (SELECT * FROM reading x WHERE x.series_id = s.id AND x.first_seen <= $2 AND x.quality
IS DISTINCT FROM 'bad' ORDER BY x.first_seen DESC LIMIT 1) r ON true
ORDER BY o.id, s.id`;

/** The records of a watch as they stood after a run, those that are known still; at most 50,000. */
export async function recordsAt(db: Db, watch: WatchId, at: Instant): Promise<StoodRecord[]> {
  const { rows } = await db.query<{ name: string; identity: string; field: string } & ValueColumns>(STOOD, [
    watch,
    moment(at),
  ]);
  const records = new Map<string, StoodRecord>();
  for (const { name, identity, field, ...columns } of rows) {
    const record = records.get(identity) ?? { name, identity, values: {} };
    record.values[field] = valueOfColumns(columns);
    records.set(identity, record);
  }
  return [...records.values()];
}

const CHANGES = `
SELECT coalesce(o.name, o.identity, v.definition->>'subject') AS record, c.kind, ${side('was')} AS from,
  ${side('now')} AS to, c.difference, c.percent, c.sense, c.seen_at AS at,
  CASE WHEN c.kind = 'record' THEN ''
    ELSE coalesce((SELECT f->>'label' FROM jsonb_array_elements(v.definition->'fields') f WHERE f->>'key' = c.field
  LIMIT 1), c.field) END AS field
FROM change c JOIN watch w ON w.id = c.watch_id JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
LEFT JOIN series s ON s.id = c.series_id LEFT
JOIN record o ON o.id = coalesce(c.record_id, s.record_id) AND o.identity <> '${ALL_RECORDS}'
WHERE c.run_id = $2 AND c.watch_id = $1 ORDER BY c.id LIMIT ${MOST_ROWS}`;

/** What moved with a run; at most 50,000 changes. */
export async function changesOfRun(db: Db, watch: WatchId, run: RunId): Promise<MovedRecord[]> {
  return (await db.query<MovedRecord>(CHANGES, [watch, run])).rows;
}
