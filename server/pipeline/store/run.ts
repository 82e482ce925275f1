import { describeCause } from '#core/read/guard';
import { describeProblem } from '#core/read/problem';
import { causeOfFetch, causeOfReading, isSettled, type Cause } from '#core/tell/failure';
import { DAY, nextDue, type Instant } from '#core/when/interval';
import type { Ids } from '../../db/ids';
import { leaveAlone, noteRefused } from '../../db/hosts';
import { moment, type Db } from '../../db/pool';
import { describeFetchProblem, type FetchProblem } from '../../fetch/problem';
import type { DueWatch, RunContext } from '../context';
import { alwaysRead, outcomeOf, type WatchOutcome } from '../judge';
import type { Notice } from '../order/notices';
import { dueAfter, dueAfterFailure, type RunFacts, type StoredProblem, type StoredSnapshot } from './facts';

/** Stores a run whose fetch failed: the source's watches keep their last good values, stale. */
export async function storeFailedFetch(db: Db, facts: RunFacts, context: RunContext, problem: FetchProblem): Promise<Notice[]> {
  const cause = causeOfFetch(problem.reason, facts.status);
  const stored: StoredProblem = { link: 'source', reason: problem.reason, sentence: describeFetchProblem(problem) };
  await insertRun(db, facts, context, {
    outcome: 'failed',
    problem: stored,
    snapshot: null,
    changed: false,
    notBefore: notBeforeOf(problem, facts.startedAt),
  });
  await heedHost(db, facts, problem);
  const suffers = { problem: stored, cause, atOnce: problem.reason === 'ended the process' || isSettled(cause, facts.status) };
  const updates = context.watches.map((watch) => ({ watch, outcome: 'failed' as const, ...suffers, settled: watch.settled, lost: null }));
  return updateWatches(db, facts, context.intervalMs, updates);
}

/** A host that asks us to slow down is left alone as a whole, for as long as it says; a certificate that it showed in vain is kept. */
async function heedHost(db: Db, { source, startedAt }: RunFacts, problem: FetchProblem): Promise<void> {
  if (problem.reason === 'bad certificate' && problem.fingerprint !== undefined) await noteRefused(db, problem.host ?? '', problem.fingerprint, 1);
  const until = problem.reason === 'status' ? notBeforeOf(problem, startedAt) : null;
  if (until !== null) await leaveAlone(db, source.id, until);
}

function notBeforeOf(problem: FetchProblem, startedAt: Instant): Instant | null {
  if (problem.reason === 'ended the process') return startedAt + DAY;
  return problem.reason === 'status' && problem.retryAfterSeconds != null ? startedAt + problem.retryAfterSeconds * 1000 : null;
}

/** Stores a run that was read, with its snapshot, and what it means for each of its watches. */
export async function storeRun(
  db: Db,
  ids: Ids,
  facts: RunFacts,
  context: RunContext,
  snapshot: StoredSnapshot,
  outcomes: WatchOutcome[],
): Promise<{ snapshotId: number; notices: Notice[] }> {
  const changed = outcomes.some((outcome) => outcome.moves.length > 0 || outcome.good.some((good) => good.change !== null));
  const outcome = context.snapshotId === null ? 'first' : facts.same ? 'same' : 'changed';
  const [id = 0] = snapshot.page === null ? [snapshot.id ?? 0] : await ids.take(1);
  await insertRun(db, facts, context, { outcome, problem: null, snapshot: { ...snapshot, id }, changed });
  const notices = await updateWatches(db, facts, context.intervalMs, outcomes.map(watchUpdate));
  return { snapshotId: id, notices };
}

interface RunRow {
  outcome: 'first' | 'same' | 'changed' | 'failed';
  problem: StoredProblem | null;
  snapshot: StoredSnapshot | null;
  /** A change was read from this snapshot, so it and the one before it are kept. */
  changed: boolean;
  /** The source asked not to be asked again before. */
  notBefore?: Instant | null;
}

/** The run, its snapshot if it brought one, and the source: its lease given back, its next due time set. */
const RUN = `
WITH previous_kept AS (
  UPDATE snapshot SET kept = true WHERE $18 AND $12::bytea IS NOT NULL AND id = $17 AND NOT kept
), previous_dropped AS (
  DELETE FROM snapshot WHERE NOT $18 AND $12::bytea IS NOT NULL AND id = $17 AND NOT kept
), snapshot_stored AS (
  INSERT INTO snapshot (id, source_id, run_id, taken_at, body_hash, body, address, kept, content_type)
  SELECT $10, $2, $1, $4, $12, $13, $14, $18, $20 WHERE $12::bytea IS NOT NULL
), run_stored AS (
  INSERT INTO run (id, source_id, due_at, started_at, took_ms, late_ms, outcome, status, bytes, problem, snapshot_id)
  VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $11, coalesce($10, $17))
)
UPDATE source SET lease_until = NULL, lease_token = NULL, last_run_at = $4,
  -- What was set aside stays suspect: the next end of a process sets it aside again.
  deaths = CASE WHEN deaths >= 2 THEN 1 ELSE 0 END,
  -- Somebody who asked for another look meanwhile has set another due time, and it stays.
  -- One that is posted to is due while a message waits, and at no other time.
  due_at = CASE WHEN interval_ms IS NULL THEN NULL WHEN due_at <> $3 THEN due_at
    WHEN way <> 'posted' THEN $19
    WHEN EXISTS (SELECT FROM posted_message m JOIN posting p ON p.token = m.token WHERE p.source_id = $2 AND m.body IS NOT NULL) THEN $4 END,
  failing_since = CASE WHEN $7 = 'failed' THEN coalesce(failing_since, $4) END,
  failures = CASE WHEN $7 = 'failed' THEN failures + 1 ELSE 0 END, skipped = skipped + $21,
  snapshot_id = coalesce($10, snapshot_id),
  etag = CASE WHEN $12::bytea IS NULL THEN etag ELSE $15 END,
  last_modified = CASE WHEN $12::bytea IS NULL THEN last_modified ELSE $16 END,
  body_hash = coalesce($12, body_hash)
WHERE id = $2`;

async function insertRun(db: Db, facts: RunFacts, context: RunContext, row: RunRow): Promise<void> {
  const { source, startedAt } = facts;
  await db.query({
    name: 'store run',
    text: RUN,
    values: [
      facts.runId, source.id, moment(source.dueAt), moment(startedAt), facts.tookMs, startedAt - source.dueAt, row.outcome, facts.status, facts.bytes,
      row.snapshot?.id ?? null, row.problem, ...pageColumns(row.snapshot), context.snapshotId, row.changed, moment(nextLook(facts, context, row)),
      row.snapshot?.page?.contentType ?? '', skippedBy(facts, context.intervalMs),
    ], // prettier-ignore
  });
}

/** Hash, body, address and marks of a page that is to be stored; nulls where a known snapshot was read. */
function pageColumns(snapshot: StoredSnapshot | null): unknown[] {
  if (snapshot === null || snapshot.page === null) return [null, null, null, null, null];
  const { hash, finalAddress, etag, lastModified } = snapshot.page;
  return [hash, snapshot.body, finalAddress, etag, lastModified];
}

function nextLook({ source, startedAt }: RunFacts, context: RunContext, row: RunRow): Instant {
  if (row.outcome !== 'failed') return dueAfter(source, startedAt, context.intervalMs);
  return Math.max(dueAfterFailure(source, startedAt, context.intervalMs, source.failures + 1), row.notBefore ?? 0);
}

/** Looks that fell due while this one was on its way: a slow source is never asked twice at once. */
function skippedBy({ source, startedAt, tookMs }: RunFacts, intervalMs: number): number {
  return Math.max(0, Math.floor((startedAt + tookMs - source.dueAt) / intervalMs));
}

interface WatchUpdate {
  watch: DueWatch;
  outcome: ReturnType<typeof outcomeOf>;
  problem: StoredProblem | null;
  /** What it suffers from when nothing was read, and whether one such run is enough to tell it. */
  cause: Cause | null;
  atOnce: boolean;
  settled: boolean;
  lost: Record<string, string[]> | null;
}

function watchUpdate(result: WatchOutcome): WatchUpdate {
  const problem = problemOf(result);
  const lost = Object.keys(result.lost).length === 0 ? null : result.lost;
  const outcome = outcomeOf(result);
  const suffered = outcome === 'failed' ? (result.failure ?? result.bad[0]?.problem) : undefined;
  const cause = suffered === undefined ? null : causeOfReading(suffered, result.seems);
  const atOnce = cause !== null && isSettled(cause, null);
  return { watch: result.watch, outcome, problem, cause, atOnce, settled: problem === null && !alwaysRead(result.watch), lost };
}

/** The one sentence that says what kept a watch from being read, or some of it. */
function problemOf(result: WatchOutcome): StoredProblem | null {
  const { failure, problems, bad, watch } = result;
  if (failure !== null) return { link: 'value', reason: failure.reason, sentence: describeProblem(failure) };
  const [first] = bad;
  const [other] = problems;
  if (first === undefined) return other === undefined ? null : { link: 'value', reason: other.reason, sentence: describeProblem(other) };
  const seems = result.seems === null ? '' : ` ${describeCause(result.seems)}.`;
  const said = `${capital(first.field.label)}: ${lower(describeProblem(first.problem))}${seems}`;
  const many = watch.definition.records.from === 'page' ? '' : `${bad.length} of ${bad.length + result.good.length} values were not read. `;
  return { link: 'value', reason: first.problem.reason, sentence: `${many}${said}` };
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

/** A watch as frequent as its source keeps step with it; a rarer one keeps its own time. */
function readDueAfter({ source, startedAt }: RunFacts, watch: DueWatch, intervalMs: number): Instant {
  return watch.intervalMs === intervalMs ? dueAfter(source, startedAt, intervalMs) : nextDue(watch.readDueAt, watch.intervalMs, startedAt);
}

/** Failed runs in a row after which it is told. */
const TOLD_AFTER = 3;

const WATCHES = `
WITH new AS (
  SELECT * FROM jsonb_to_recordset($1) AS n(id int, outcome text, problem jsonb, settled boolean, due timestamptz, lost jsonb, version int, cause text, "atOnce" boolean)
), updated AS (
  UPDATE watch w SET last_read_at = $2, asked_at = CASE WHEN w.asked_at > $2 THEN w.asked_at END,
    read_due_at = CASE WHEN w.asked_at > $2 THEN w.read_due_at ELSE new.due END, settled = new.settled, problem = nullif(new.problem, 'null'),
    lost = CASE WHEN new.outcome = 'failed' THEN w.lost ELSE nullif(new.lost, 'null') END,
    read_version = CASE WHEN new.outcome = 'failed' THEN w.read_version ELSE new.version END,
    reads = w.reads + (new.outcome <> 'failed')::int,
    last_good_at = CASE WHEN new.outcome = 'failed' THEN w.last_good_at ELSE $2 END,
    failing_since = CASE WHEN new.outcome = 'failed' THEN coalesce(w.failing_since, $2) END,
    failures = CASE WHEN new.outcome = 'failed' THEN w.failures + 1 ELSE 0 END,
    told_cause = CASE WHEN new.outcome <> 'failed' THEN NULL WHEN w.failures + 1 >= ${TOLD_AFTER} OR new."atOnce" THEN coalesce(w.told_cause, new.cause) ELSE w.told_cause END
  FROM new JOIN watch old ON old.id = new.id WHERE w.id = new.id
  RETURNING w.id, w.told_cause AS told, old.told_cause AS "toldBefore", coalesce(w.failing_since, old.failing_since) AS since,
    coalesce(w.problem->>'sentence', old.problem->>'sentence', '') AS sentence
), stored AS (
  INSERT INTO watch_run (watch_id, run_id, started_at, outcome, problem) SELECT id, $3, $2, outcome, nullif(problem, 'null') FROM new
)
SELECT * FROM updated WHERE (told IS NULL) <> ("toldBefore" IS NULL)`;

interface ToldAnew {
  id: number;
  told: Cause | null;
  toldBefore: Cause | null;
  since: Instant;
  sentence: string;
}

/** Moves the watches on; returns what there is to tell of them: that one is not read any more, or is again. */
async function updateWatches(db: Db, facts: RunFacts, intervalMs: number, updates: WatchUpdate[]): Promise<Notice[]> {
  if (updates.length === 0) return [];
  const rows = updates.map(({ watch, ...update }) => ({
    ...update,
    id: watch.id,
    version: watch.version,
    due: moment(readDueAfter(facts, watch, intervalMs)),
  }));
  const values = [JSON.stringify(rows), moment(facts.startedAt), facts.runId];
  const { rows: told } = await db.query<ToldAnew>({ name: 'update watches', text: WATCHES, values });
  return told.map(({ id, told: cause, toldBefore, since, sentence }) => ({
    watchId: id, kind: cause === null ? 'recovered' : 'failing', cause: cause ?? toldBefore ?? 'not readable', sentence, since,
  })); // prettier-ignore
}
