import type { SnapshotId } from '#core/id';
import { alwaysRead, outcomeOf } from '#core/judge/watch';
import { isAllRecords } from '#core/read/all-records';
import { describeCause } from '#core/read/guard';
import { describeProblem } from '#core/read/problem';
import { causeOfFetch, causeOfReading, isForGood, type Cause } from '#core/tell/failure';
import { DAY, nextDue, type Instant } from '#core/when/interval';
import { leaveAloneUntil, noteRefused } from '../../db/source/hosts';
import { moment, type Statement } from '../../db/base/pool';
import { describeFetchProblem, type FetchProblem } from '../../fetch/problem';
import type { RunContext, WatchRow } from '../context';
import type { Notice } from '../order/notice';
import { dueAfter, dueAfterFailure, type RunFacts, type StoredProblem, type StoredSnapshot } from '../facts';
import { type JudgedWatch } from './judged';
import type { Asked } from './questions';

/** What is written of a run, and what there is to tell of its watches: that one is not read any more, or is again. */
interface RunWritten {
  statements: Statement[];
  notices: Notice[];
}

/** Keeps a run whose fetch failed: the source's watches keep their last good values, stale. */
export function storeFailedFetch(facts: RunFacts, context: RunContext, problem: FetchProblem): RunWritten {
  const cause = causeOfFetch(problem.reason, facts.status);
  const stored: StoredProblem = { link: 'source', reason: problem.reason, sentence: describeFetchProblem(problem) };
  const run = runStatement(facts, context, {
    outcome: 'failed',
    problem: stored,
    snapshot: null,
    changed: false,
    notBefore: notBeforeOf(problem, facts.startedAt),
  });
  const suffers = {
    problem: stored,
    cause,
    atOnce: problem.reason === 'ended the process' || isForGood(cause, facts.status),
  };
  const updates = context.due.map((watch) => ({
    watch,
    outcome: 'failed' as const,
    ...suffers,
    settled: watch.settled,
    lost: null,
    more: 0,
    asks: watch.asks,
  }));
  const written = updateWatches(facts, context.intervalMs, updates);
  return { statements: [run, ...heedHost(facts, problem), ...written.statements], notices: written.notices };
}

/**
 * A host that asks us to slow down is left alone as a whole, for as long as it says; a certificate that it showed in
 * vain is kept.
 */
function heedHost({ source, startedAt }: RunFacts, problem: FetchProblem): Statement[] {
  const until = problem.reason === 'status' ? notBeforeOf(problem, startedAt) : null;
  const left = until === null ? [] : [leaveAloneUntil(source.id, until)];
  if (problem.reason !== 'bad certificate' || problem.fingerprint === undefined) return left;
  return [noteRefused(problem.host ?? '', problem.fingerprint, 1), ...left];
}

function notBeforeOf(problem: FetchProblem, startedAt: Instant): Instant | null {
  if (problem.reason === 'ended the process') return startedAt + DAY;
  return problem.reason === 'status' && problem.retryAfterSeconds != null
    ? startedAt + problem.retryAfterSeconds * 1000
    : null;
}

/** Keeps a run that was read, with its snapshot (under `snapshotId`), and what it means for each of its watches. */
export function storeRun(
  facts: RunFacts,
  context: RunContext,
  snapshot: StoredSnapshot,
  snapshotId: SnapshotId,
  asked: Asked[],
): RunWritten {
  const changed = asked.some(
    ({ fresh, judged: { outcome } }) =>
      fresh.length > 0 || outcome.moves.length > 0 || outcome.good.some((good) => good.change !== null),
  );
  const outcome = context.snapshotId === null ? 'first' : facts.same ? 'same' : 'changed';
  const run = runStatement(facts, context, {
    outcome,
    problem: null,
    snapshot: { ...snapshot, id: snapshotId },
    changed,
  });
  const { statements, notices } = updateWatches(facts, context.intervalMs, asked.map(watchUpdate));
  return { statements: [run, ...statements], notices };
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
), given_back AS (
  UPDATE due d SET lease_until = NULL, lease_token = NULL,
    -- What was set aside stays suspect: the next end of a process sets it aside again.
    deaths = CASE WHEN d.deaths >= 2 THEN 1 ELSE 0 END,
    -- Somebody who asked for another look meanwhile has set another due time, and it stays.
    -- One that is posted to is due while a message waits, and at no other time.
    -- Where a watch is due that was not read in its present version, the next look is at once.
    due_at = CASE WHEN s.interval_ms IS NULL THEN NULL WHEN d.due_at <> $3 OR $22 THEN d.due_at
      WHEN s.way <> 'posted' THEN $19
      WHEN EXISTS (SELECT FROM posted_message m JOIN posting p ON p.token = m.token
      WHERE p.source_id = $2 AND m.body IS NOT NULL) THEN $4 END
  FROM source s WHERE s.id = $2 AND d.source_id = $2
)
UPDATE source SET last_run_at = $4, last_took_ms = $5,
  failing_since = CASE WHEN $7 = 'failed' THEN coalesce(failing_since, $4) END,
  failures = CASE WHEN $7 = 'failed' THEN failures + 1 ELSE 0 END, skipped = skipped + $21,
  snapshot_id = coalesce($10, snapshot_id),
  etag = CASE WHEN $12::bytea IS NULL THEN etag ELSE $15 END,
  last_modified = CASE WHEN $12::bytea IS NULL THEN last_modified ELSE $16 END,
  body_hash = coalesce($12, body_hash)
WHERE id = $2`;

function runStatement(facts: RunFacts, context: RunContext, row: RunRow): Statement {
  const { source, startedAt } = facts;
  const leftOver = row.outcome !== 'failed' && context.watches.length < context.due.length;
  return {
    name: 'store run',
    text: RUN,
    values: [
      facts.runId,
      source.id,
      moment(source.dueAt),
      moment(startedAt),
      facts.tookMs,
      startedAt - source.dueAt,
      row.outcome,
      facts.status,
      facts.bytes,
      row.snapshot?.id ?? null,
      row.problem,
      ...pageColumns(row.snapshot),
      context.snapshotId,
      row.changed,
      moment(nextLook(facts, context, row)),
      row.snapshot?.page?.contentType ?? '',
      skippedBy(facts, context.intervalMs),
      leftOver,
    ],
  };
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
  watch: WatchRow;
  outcome: ReturnType<typeof outcomeOf>;
  problem: StoredProblem | null;
  /** What it suffers from when nothing was read, and whether one such run is enough to tell it. */
  cause: Cause | null;
  atOnce: boolean;
  settled: boolean;
  lost: Record<string, string[]> | null;
  /** How many records there are more than before, or fewer. */
  more: number;
  /** The keys of what is asked of it now. */
  asks: string[];
}

function watchUpdate({ judged, asks }: Asked): WatchUpdate {
  const { watch, outcome: result } = judged;
  const problem = problemOf(judged);
  const lost = Object.keys(result.lost).length === 0 ? null : result.lost;
  const outcome = outcomeOf(watch, result);
  const suffered = outcome === 'failed' ? (result.failure ?? result.bad[0]?.problem) : undefined;
  const cause = suffered === undefined ? null : causeOfReading(suffered, result.seems);
  const atOnce = cause !== null && isForGood(cause, null);
  return {
    watch,
    outcome,
    problem,
    cause,
    atOnce,
    settled: problem === null && !alwaysRead(watch),
    lost,
    more: recordsMore(result),
    asks,
  };
}

function recordsMore({ records, moves }: JudgedWatch['outcome']): number {
  const came = records.filter(
    (record) => !isAllRecords(record) && (record.known === null || record.known.goneSince !== null),
  );
  const went = moves.filter(({ record, change }) => change.to.kind === 'absent' && record !== null);
  return came.length - went.length;
}

/** The one sentence that says what kept a watch from being read, or some of it. */
function problemOf({ watch, outcome: result }: JudgedWatch): StoredProblem | null {
  const { failure, problems, bad } = result;
  if (failure !== null) return { link: 'value', reason: failure.reason, sentence: describeProblem(failure) };
  const [first] = bad;
  const [other] = problems;
  if (first === undefined)
    return other === undefined ? null : { link: 'value', reason: other.reason, sentence: describeProblem(other) };
  const seems = result.seems === null ? '' : ` ${describeCause(result.seems)}.`;
  const said = `${capital(first.field.label)}: ${lower(describeProblem(first.problem))}${seems}`;
  const many =
    watch.definition.records.from === 'page'
      ? ''
      : `${bad.length} of ${bad.length + result.good.length} values were not read. `;
  return { link: 'value', reason: first.problem.reason, sentence: `${many}${said}` };
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

/** A watch as frequent as its source keeps step with it; a rarer one keeps its own time. */
function readDueAfter({ source, startedAt }: RunFacts, watch: WatchRow, intervalMs: number): Instant {
  return watch.intervalMs === intervalMs
    ? dueAfter(source, startedAt, intervalMs)
    : nextDue(watch.readDueAt, watch.intervalMs, startedAt);
}

/** Failed runs in a row after which it is told. */
const TOLD_AFTER = 3;

const WATCHES = `
WITH new AS (
  SELECT *
  FROM jsonb_to_recordset($1) AS n(id int, outcome text, problem jsonb, settled boolean, due timestamptz, lost jsonb,
    version int, told text, more int, asks jsonb)
), updated AS (
  UPDATE watch w SET last_read_at = $2, asked_at = CASE WHEN w.asked_at > $2 THEN w.asked_at END,
    read_due_at = CASE WHEN w.asked_at > $2 THEN w.read_due_at ELSE new.due END, settled = new.settled,
      problem = nullif(new.problem, 'null'),
    lost = CASE WHEN new.outcome = 'failed' THEN w.lost ELSE nullif(new.lost, 'null') END,
    read_version = CASE WHEN new.outcome = 'failed' THEN w.read_version ELSE new.version END,
    reads = w.reads + (new.outcome <> 'failed')::int,
    last_good_at = CASE WHEN new.outcome = 'failed' THEN w.last_good_at ELSE $2 END,
    failing_since = CASE WHEN new.outcome = 'failed' THEN coalesce(w.failing_since, $2) END,
    failures = CASE WHEN new.outcome = 'failed' THEN w.failures + 1 ELSE 0 END,
    told_cause = new.told, asks = new.asks, record_count = w.record_count + new.more
  FROM new WHERE w.id = new.id
)
INSERT INTO watch_run (watch_id, run_id, started_at, outcome, problem)
SELECT id, $3, $2, outcome, nullif(problem, 'null') FROM new`;

/** Moves the watches on. */
function updateWatches(facts: RunFacts, intervalMs: number, updates: WatchUpdate[]): RunWritten {
  if (updates.length === 0) return { statements: [], notices: [] };
  const rows = updates.map((update) => {
    const { watch, outcome, problem, settled, lost, more, asks } = update;
    const due = moment(readDueAfter(facts, watch, intervalMs));
    return {
      id: watch.id,
      version: watch.version,
      outcome,
      problem,
      settled,
      lost,
      due,
      more,
      asks,
      told: toldAfter(update),
    };
  });
  const statement = {
    name: 'update watches',
    text: WATCHES,
    values: [JSON.stringify(rows), moment(facts.startedAt), facts.runId],
  };
  return { statements: [statement], notices: updates.flatMap((update) => noticeOf(update, facts.startedAt) ?? []) };
}

/**
 * The cause under which it has been told that a watch is not read, after this run; null where nothing is told of it.
 */
function toldAfter({ watch, outcome, cause, atOnce }: WatchUpdate): Cause | null {
  if (outcome !== 'failed') return null;
  // A question is told by itself, when it is asked.
  if (cause === 'in question') return watch.toldCause;
  return watch.failures + 1 >= TOLD_AFTER || atOnce ? (watch.toldCause ?? cause) : watch.toldCause;
}

/** What there is to tell of a watch: once that it is not read any more, and once that it is again. */
function noticeOf(update: WatchUpdate, startedAt: Instant): Notice | null {
  const { watch, problem } = update;
  const told = toldAfter(update);
  if ((told === null) === (watch.toldCause === null)) return null;
  const since = watch.failingSince ?? startedAt;
  const cause = told ?? watch.toldCause ?? 'not readable';
  return {
    watchId: watch.id,
    kind: told === null ? 'recovered' : 'failing',
    cause,
    sentence: problem?.sentence ?? watch.problem ?? '',
    since,
  };
}
