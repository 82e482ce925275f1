import { allFollowers, type FollowerRow } from '../db/report/followers';
import type { RuleId, SnapshotId, WatchId } from '#core/id';
import type { KnownRecord, KnownSeries, KnownWatch } from '#core/judge/known';
import type { WatchRead } from '#core/judge/watch';
import { canVanish, storedDefinition, type WatchDefinition } from '#core/read/definition';
import type { LatestValue } from '#core/read/formula';
import type { Cause } from '#core/tell/failure';
import { DAY, type Instant } from '#core/when/interval';
import type { ClaimedSource } from '../db/source/sources';
import { latestOf } from '../db/reading/latest';
import { inOneTurn, moment, type Db, type Statement } from '../db/base/pool';
import type { RunFacts } from './facts';
import { RECORD_COLUMNS, recordsOf, RULE_COLUMNS, rulesOf, type RecordRow, type RuleRow } from './known-rows';

// A run asks the database three times: for what is to be read, before anything is locked; for what was known, when the
// source is locked; and to keep what came of it.

/** A watch that a run is to be read for, in the version that is read. */
interface DueWatch {
  id: WatchId;
  version: number;
  definition: WatchDefinition;
}

/** What a run reads for, and from, where nothing new came. */
export interface ReadingPlan {
  watches: DueWatch[];
  /** The latest good values of other watches that formulas ask for. */
  latest: LatestValue[];
  /** The body that is known, where the one that came is the same. */
  kept: { id: SnapshotId; body: string; address: string } | null;
}

const DUE_WATCHES = `
SELECT w.id, w.version, v.definition
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
WHERE w.source_id = $1 AND w.state = 'running' AND w.read_due_at <= $2
ORDER BY w.id`;

const KEPT = `SELECT n.id, n.body, n.address
  FROM source s
  JOIN snapshot n ON n.id = s.snapshot_id
  WHERE s.id = $1 AND $2`;

/**
 * Loads what a run is to read. A watch is read at the tick nearest its own due time, so that those of one grid share
 * their fetches.
 */
export async function planReading(db: Db, { source, startedAt, same }: RunFacts): Promise<ReadingPlan> {
  const [watches, kept] = await inOneTurn(db, [
    {
      name: 'due watches',
      text: DUE_WATCHES,
      values: [source.id, moment(dueUntil(source, startedAt, source.intervalMs))],
    },
    ...(same ? [{ name: 'kept body', text: KEPT, values: [source.id, same] }] : []),
  ]);
  const due = ((watches?.rows ?? []) as DueWatch[]).map(({ definition, ...watch }) => ({
    ...watch,
    definition: storedDefinition.read(definition),
  }));
  const latest = await latestOf(
    db,
    due.map(({ definition }) => definition),
  );
  const [body] = (kept?.rows ?? []) as NonNullable<ReadingPlan['kept']>[];
  return { watches: due, latest, kept: body ?? null };
}

/** What is posted is read by every watch, whenever it comes. */
const ANY_TIME = 4000 * DAY;

const dueUntil = ({ way }: ClaimedSource, startedAt: Instant, intervalMs: number): Instant =>
  way === 'posted' ? startedAt + ANY_TIME : dueBy(startedAt, intervalMs);

/** The latest read-due time that a run started now still serves. */
export function dueBy(startedAt: Instant, intervalMs: number): Instant {
  return startedAt + Math.floor(intervalMs / 2);
}

/** How a watch stands when its source is locked. */
export interface WatchRow {
  id: WatchId;
  version: number;
  intervalMs: number;
  readDueAt: Instant;
  lastGoodAt: Instant | null;
  failingSince: Instant | null;
  failures: number;
  toldCause: Cause | null;
  /** What kept it from being read the last time. */
  problem: string | null;
  settled: boolean;
  readVersion: number | null;
  /** The keys of the questions that are open or were denied. */
  asks: string[];
}

/** A watch that was read, with what is known of it as far as what came concerns that. */
export interface RunWatch extends WatchRow, KnownWatch {
  read: WatchRead;
}

/** What a run finds in the record when its source is locked. */
export interface RunContext {
  snapshotId: SnapshotId | null;
  intervalMs: number;
  /** Every watch that is due. */
  due: WatchRow[];
  /** Those of them that were read, in the version that they still have. */
  watches: RunWatch[];
  /** Rules of other watches that ask these. */
  asking: RuleId[];
  /** Reports that are cut with what happens. */
  followers: FollowerRow[];
}

/** What was read, by watch. */
export interface ReadWatch extends DueWatch {
  read: WatchRead;
}

const LOCK = `
SELECT s.snapshot_id AS "snapshotId", s.interval_ms AS "intervalMs"
FROM source s JOIN due d ON d.source_id = s.id
WHERE s.id = $1 AND d.lease_token = $2 FOR UPDATE`;

const WATCHES = `
SELECT w.id, w.version, w.interval_ms AS "intervalMs", w.read_due_at AS "readDueAt", w.last_good_at AS "lastGoodAt",
  w.failing_since AS "failingSince", w.failures, w.told_cause AS "toldCause", w.problem->>'sentence' AS problem,
    w.settled, w.read_version AS "readVersion", w.asks
FROM watch w WHERE w.source_id = $1 AND w.state = 'running' AND w.read_due_at <= $2 ORDER BY w.id`;

const CAME = 'unnest($1::int[], $2::text[]) AS came(watch, identity)';

/**
 * Each record that came, looked up by itself: a statement that was planned while the tables were empty must not look
 * through all of them for each that came once they are not.
 */
const CAME_RECORDS = `${CAME}
  CROSS
  JOIN LATERAL (SELECT * FROM record x WHERE x.watch_id = came.watch AND x.identity = came.identity OFFSET 0) r`;

/** The records that came, each with its series: a row a series, or one alone. */
const RECORDS = `
SELECT ${RECORD_COLUMNS}
FROM ${CAME_RECORDS} JOIN watch w ON w.id = r.watch_id LEFT
JOIN LATERAL (SELECT * FROM series y WHERE y.record_id = r.id OFFSET 0) s ON true
UNION ALL
-- Of those watches of which some rule looks beyond the records that came, all.
SELECT ${RECORD_COLUMNS}
FROM rule u JOIN watch w ON w.id = u.watch_id JOIN record r ON r.watch_id = w.id AND r.gone_since IS NULL LEFT
JOIN series s ON s.record_id = r.id
WHERE u.watch_id = ANY($3) AND u.whole AND u.ended_at IS NULL`;

/** Records that were there and did not come. */
const MISSING = `
SELECT r.watch_id AS "watchId", r.id, r.identity, r.name, r.first_seen AS "firstSeen" FROM record r
WHERE r.watch_id = ANY($3) AND r.gone_since IS NULL AND (r.watch_id, r.identity) NOT IN (SELECT watch, identity
FROM ${CAME})`;

/**
 * The rules of the watches that were read, each with what it remembers of the records that came, of those that were to
 * come ($4) and did not, and, where it looks beyond them, of all.
 */
const RULES = `
SELECT ${RULE_COLUMNS}, m.memories
FROM rule u JOIN rule_version uv ON uv.rule_id = u.id AND uv.version = u.version
LEFT JOIN LATERAL (
  SELECT jsonb_object_agg(q.identity, q.memory) AS memories
  FROM (
    SELECT r.identity, t.memory
    FROM ${CAME_RECORDS} CROSS
    JOIN LATERAL (SELECT * FROM rule_state y WHERE y.rule_id = u.id AND y.record_id = r.id OFFSET 0) t
    WHERE came.watch = u.watch_id AND t.version = u.judged_version
    UNION ALL
    SELECT r.identity, t.memory
    FROM record r JOIN rule_state t ON t.record_id = r.id AND t.rule_id = u.id AND t.version = u.judged_version
    WHERE u.watch_id = ANY($4) AND r.watch_id = u.watch_id AND r.gone_since IS NULL
      AND (r.watch_id, r.identity) NOT IN (SELECT watch, identity FROM ${CAME})
    UNION ALL
    SELECT r.identity, t.memory FROM rule_state t JOIN record r ON r.id = t.record_id
    WHERE u.whole AND t.rule_id = u.id AND t.version = u.judged_version
  ) q
) m ON true
WHERE u.watch_id = ANY($3) AND u.ended_at IS NULL AND u.begun_at IS NOT NULL AND (u.ends_at IS NULL OR u.ends_at >= $5)
ORDER BY u.id`;

/**
 * Rules of these watches that ask other watches or items, and rules of other watches that ask these, or items of which
 * these have offers: all of them held to the end and taken in one order, since each of those runs moves the states of
 * the others' rules, too.
 */
const ASKING = `
SELECT u.id, u.watch_id = ANY($1) AS own
FROM rule u JOIN watch w ON w.id = u.watch_id
WHERE u.ended_at IS NULL AND u.begun_at IS NOT NULL AND w.state = 'running' AND u.id IN (
  SELECT o.id FROM rule o WHERE o.watch_id = ANY($1) AND EXISTS (SELECT FROM rule_asks a WHERE a.rule_id = o.id)
  UNION SELECT o.id FROM rule o WHERE o.watch_id = ANY($1) AND o.asks_items AND o.ended_at IS NULL
  UNION SELECT a.rule_id FROM rule_asks a WHERE a.watch_id = ANY($1)
  -- Of each joined record the others of its item, and of each of those the rules that ask: step by step, however
-- many are joined elsewhere.
  UNION SELECT o.id FROM record mine
    CROSS JOIN LATERAL (SELECT x.watch_id FROM record x WHERE x.item_id = mine.item_id OFFSET 0) other
    CROSS
    JOIN LATERAL (SELECT y.id FROM rule y WHERE y.watch_id = other.watch_id AND y.asks_items AND y.ended_at IS NULL
    OFFSET 0) o
    WHERE mine.watch_id = ANY($1) AND mine.item_id IS NOT NULL
)
ORDER BY u.id FOR UPDATE OF u`;

/** Whether records of a watch can be missed: of a page that is one record, of feeds and of points none is. */
const hasMissing = ({ definition: { records } }: DueWatch) => canVanish(records);

/**
 * Begins the run's transaction, locks its source and loads what the run needs of it, in one turn. Null when the lease
 * was lost meanwhile: another worker has the source, and this run must leave no trace.
 */
export async function beginRun(
  db: Db,
  { source, startedAt }: RunFacts,
  reads: ReadWatch[],
): Promise<RunContext | null> {
  const due = moment(dueUntil(source, startedAt, source.intervalMs));
  const asked: [part: string, statement: Statement][] = [
    ['begin', { text: 'BEGIN' }],
    ['locked', { name: 'lock source', text: LOCK, values: [source.id, source.token] }],
    ['due', { name: 'load watches', text: WATCHES, values: [source.id, due] }],
    ['followers', allFollowers],
    ...knownStatements(reads, startedAt),
  ];
  const results = await inOneTurn(
    db,
    asked.map(([, statement]) => statement),
  );
  const rows = new Map(asked.map(([part], at) => [part, results[at]?.rows ?? []]));
  const of = <Row>(part: string) => (rows.get(part) ?? []) as Row[];
  const [row] = of<{ snapshotId: SnapshotId | null; intervalMs: number | null }>('locked');
  if (row === undefined) return null;
  const loaded = { rules: of<RuleRow>('rules'), records: of<RecordRow>('records'), missing: of<MissingRow>('missing') };
  // Those of watches that this run reads by itself are judged with them.
  const asking = of<{ id: RuleId; own: boolean }>('asking').flatMap(({ id, own }) => (own ? [] : id));
  return {
    ...contextOf(row, source.intervalMs, of<WatchRow>('due'), reads, loaded),
    asking,
    followers: of<FollowerRow>('followers'),
  };
}

/** What loads the rest, as far as there is any: rules, the records that came, and those that did not. */
function knownStatements(reads: ReadWatch[], startedAt: Instant): [part: string, statement: Statement][] {
  const came = reads.flatMap(({ id, read }) => identitiesIn(read).map((identity) => ({ id, identity })));
  const keys = [came.map(({ id }) => id), came.map(({ identity }) => identity)];
  const lists = reads.filter((watch) => watch.read.reading.ok && hasMissing(watch)).map(({ id }) => id);
  const found: [string, Statement][] = [];
  if (reads.length > 0)
    found.push(['asking', { name: 'hold asking rules', text: ASKING, values: [reads.map(({ id }) => id)] }]);
  if (reads.length > 0)
    found.push([
      'rules',
      { name: 'load rules', text: RULES, values: [...keys, reads.map(({ id }) => id), lists, moment(startedAt)] },
    ]);
  if (reads.length > 0)
    found.push(['records', { name: 'load records', text: RECORDS, values: [...keys, reads.map(({ id }) => id)] }]);
  if (lists.length > 0) found.push(['missing', { name: 'load missing', text: MISSING, values: [...keys, lists] }]);
  return found;
}

const identitiesIn = ({ reading }: WatchRead): string[] =>
  reading.ok ? [...new Set(reading.value.records.map(({ identity }) => identity))] : [];

type MissingRow = Pick<RecordRow, 'watchId' | 'id' | 'identity' | 'name' | 'firstSeen'>;

interface LoadedRows {
  rules: RuleRow[];
  records: RecordRow[];
  missing: MissingRow[];
}

function contextOf(
  source: { snapshotId: SnapshotId | null; intervalMs: number | null },
  usualMs: number,
  due: WatchRow[],
  reads: ReadWatch[],
  loaded: LoadedRows,
): Omit<RunContext, 'asking' | 'followers'> {
  const records = recordsOf(loaded.records);
  const watches = due.flatMap((watch): RunWatch[] => {
    const read = reads.find(({ id, version }) => id === watch.id && version === watch.version);
    return read === undefined ? [] : [{ ...watch, ...read, ...knownOf(read, records, loaded) }];
  });
  return { snapshotId: source.snapshotId, intervalMs: source.intervalMs ?? usualMs, due, watches };
}

function knownOf(
  { id, definition: { chosen } }: DueWatch,
  records: Map<WatchId, Map<string, KnownRecord>>,
  loaded: LoadedRows,
) {
  const followed = chosen === null ? null : new Set(chosen);
  const missing = loaded.missing.filter(
    ({ watchId, identity }) => watchId === id && (followed === null || followed.has(identity)),
  );
  return {
    records: records.get(id) ?? new Map<string, KnownRecord>(),
    missing: missing.map((record) => ({
      ...record,
      labels: {},
      goneSince: null,
      counters: {},
      series: new Map<string, KnownSeries>(),
    })),
    rules: rulesOf(loaded.rules.filter(({ watchId }) => watchId === id)),
  };
}
