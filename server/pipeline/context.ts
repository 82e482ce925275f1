import type { WatchDefinition } from '#core/read/definition';
import type { LatestValue } from '#core/read/formula';
import type { RuleDefinition, RuleStateName } from '#core/judge/rule';
import type { Decimal } from '#core/value/decimal';
import type { Value } from '#core/value/value';
import { DAY, type Instant } from '#core/when/interval';
import type { ClaimedSource } from '../db/sources';
import { latestOf } from '../db/latest';
import { moment, type Db } from '../db/pool';

/** One field of one record as it stood before this run. */
export interface KnownSeries {
  id: number;
  recordId: number;
  identity: string;
  field: string;
  value: Value;
  openSince: Instant;
  lastGoodAt: Instant;
  problem: unknown;
  /** The latest time the source itself gave; null where it gives none. */
  sourceAt: Instant | null;
}

/** One record as it stood before this run. */
export interface KnownRecord {
  id: number;
  identity: string;
  name: string | null;
  goneSince: Instant | null;
  /** The last raw state of its counters, by field. */
  counters: Record<string, Decimal>;
}

/** Where a rule stood on a series, and under which of its versions that was judged. */
interface KnownRuleState {
  seriesId: number;
  version: number;
  name: RuleStateName;
  waiting: boolean;
  since: Instant;
}

/** A rule of a watch in its present version. */
export interface KnownRule {
  id: number;
  version: number;
  definition: RuleDefinition;
  states: KnownRuleState[];
}

/** A watch that this run is to be read for. */
export interface DueWatch {
  id: number;
  version: number;
  intervalMs: number;
  readDueAt: Instant;
  lastGoodAt: Instant | null;
  failingSince: Instant | null;
  settled: boolean;
  /** The version under which its records were last read. */
  readVersion: number | null;
  definition: WatchDefinition;
  records: KnownRecord[];
  series: KnownSeries[];
  rules: KnownRule[];
}

/** What a run finds in the record when its fetch is back. */
export interface RunContext {
  snapshotId: number | null;
  intervalMs: number;
  watches: DueWatch[];
  /** The latest good values of other watches that formulas ask for. */
  latest: LatestValue[];
}

const MS = (column: string) => `(extract(epoch FROM ${column}) * 1000)::bigint`;

const SERIES = `SELECT jsonb_agg(jsonb_build_object('id', s.id, 'recordId', s.record_id, 'identity', r.identity, 'field', s.field,
  'value', s.value, 'openSince', ${MS('s.open_since')}, 'problem', s.problem, 'sourceAt', ${MS('s.source_at')},
  'lastGoodAt', ${MS('CASE WHEN s.problem IS NULL THEN greatest(s.last_good_at, w.last_good_at) ELSE s.last_good_at END')}))
  FROM series s JOIN record r ON r.id = s.record_id WHERE s.watch_id = w.id`;

const RECORDS = `SELECT jsonb_agg(jsonb_build_object('id', r.id, 'identity', r.identity, 'name', r.name, 'goneSince', ${MS('r.gone_since')}, 'counters', r.counters))
  FROM record r WHERE r.watch_id = w.id`;

const STATES = `SELECT jsonb_agg(jsonb_build_object('seriesId', t.series_id, 'version', t.version, 'name', t.name,
  'waiting', t.waiting, 'since', ${MS('t.since')})) FROM rule_state t WHERE t.rule_id = u.id`;

const RULES = `SELECT jsonb_agg(jsonb_build_object('id', u.id, 'version', u.version, 'definition', uv.definition,
  'states', coalesce((${STATES}), '[]')) ORDER BY u.id)
  FROM rule u JOIN rule_version uv ON uv.rule_id = u.id AND uv.version = u.version WHERE u.watch_id = w.id AND u.ended_at IS NULL`;

const LOAD = `
SELECT w.id, w.version, w.interval_ms AS "intervalMs", w.read_due_at AS "readDueAt", w.last_good_at AS "lastGoodAt",
  w.failing_since AS "failingSince", w.settled, w.read_version AS "readVersion", v.definition,
  coalesce((${RECORDS}), '[]') AS records, coalesce((${SERIES}), '[]') AS series, coalesce((${RULES}), '[]') AS rules
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
WHERE w.source_id = $1 AND w.state = 'running' AND w.read_due_at <= $2
ORDER BY w.id`;

/**
 * Locks the source for this transaction and loads what the run needs of it. Null when the lease was lost meanwhile:
 * another worker has the source, and this run must leave no trace. A watch is read at the tick nearest its own due
 * time, so that watches with intervals of the same grid share their fetches.
 */
export async function loadContext(db: Db, source: ClaimedSource, startedAt: Instant): Promise<RunContext | null> {
  const locked = await db.query<{ snapshotId: number | null; intervalMs: number | null }>({
    name: 'lock source',
    text: 'SELECT snapshot_id AS "snapshotId", interval_ms AS "intervalMs" FROM source WHERE id = $1 AND lease_token = $2 FOR UPDATE',
    values: [source.id, source.token],
  });
  const [row] = locked.rows;
  if (row === undefined) return null;
  const intervalMs = row.intervalMs ?? source.intervalMs;
  const watches = await db.query<DueWatch>({
    name: 'load watches',
    text: LOAD,
    values: [source.id, moment(source.way === 'posted' ? startedAt + ANY_TIME : dueBy(startedAt, intervalMs))],
  });
  return {
    snapshotId: row.snapshotId,
    intervalMs,
    watches: watches.rows,
    latest: await latestOf(
      db,
      watches.rows.map(({ definition }) => definition),
    ),
  };
}

/** What is posted is read by every watch, whenever it comes. */
const ANY_TIME = 4000 * DAY;

/** The latest read-due time that a run started now still serves. */
export function dueBy(startedAt: Instant, intervalMs: number): Instant {
  return startedAt + Math.floor(intervalMs / 2);
}
