import { fail, type Result } from '#core/result';
import { cut } from '#core/value/sound';
import type { Instant } from '#core/when/interval';
import { leaveAlone } from '../db/hosts';
import type { Ids } from '../db/ids';
import { isOutage } from '../db/outage';
import { inTransaction, type Db, type Pool } from '../db/pool';
import { settleMessage } from '../db/postings';
import type { ClaimedSource } from '../db/sources';
import type { Fetched } from '../fetch/fetcher';
import type { FetchProblem } from '../fetch/problem';
import type { SourceFetcher } from '../fetch/source-fetcher';
import type { Log } from '../log';
import type { JobQueue } from '../work/jobs';
import type { ReadDone } from '../reading/tasks';
import type { ReadingPool } from '../reading/pool';
import { loadContext, type DueWatch, type RunContext } from './context';
import { readWatches } from './read';
import { failedWatch, judgeWatch, type WatchOutcome } from './judge';
import { orderDeliveries } from './order/alerts';
import { orderNotices } from './order/notices';
import { takePosted } from './posted';
import type { RunFacts, StoredSnapshot } from './store/facts';
import { storeNews } from './store/news';
import { storeReadings } from './store/readings';
import { storePicture } from './store/picture';
import { storeFailedFetch, storeRun } from './store/run';
import { storeSettled } from './store/settled';

/** The moments of a run that others may watch; a worker killed at any of them loses nothing. */
type RunStep = 'claimed' | 'fetched' | 'judged' | 'stored' | 'ordered' | 'committed';

/** What the pipeline works with. The clock is passed in; nothing below reads another. */
export interface Pipeline {
  pool: Pool;
  ids: Ids;
  sources: Pick<SourceFetcher, 'fetch'>;
  reading: ReadingPool;
  jobs: JobQueue;
  clock: () => Instant;
  log: Log;
  publicUrl: string;
  mailDomain: string;
  /** How many pictures of changed runs are kept for each source. */
  picturesKept: number;
  onStep?: (step: RunStep) => Promise<void>;
}

/** How a run came out, for the log. */
export interface RunSummary {
  outcome: 'settled' | 'read' | 'failed' | 'lease lost';
  changes: number;
  alerts: number;
  /** Watches of which it was told that they are not read, or are again. */
  notices: number;
}

const NOTHING = { changes: 0, alerts: 0, notices: 0 };

/** One run of one source: fetch, then read, compare, judge, store and order deliveries in one transaction. */
export async function runSource(pipeline: Pipeline, source: ClaimedSource): Promise<RunSummary> {
  const step = pipeline.onStep ?? (() => Promise.resolve());
  await step('claimed');
  const startedAt = pipeline.clock();
  const began = performance.now();
  const fetched = await fetchSource(pipeline, source);
  if (source.pauseMs > 0) await leaveAlone(pipeline.pool, source.id, pipeline.clock() + source.pauseMs);
  const facts = await factsOf(pipeline, source, startedAt, performance.now() - began, fetched);
  await step('fetched');

  if (source.way !== 'posted' && isSame(source, fetched) && (await storeSettled(pipeline.pool, facts))) return { outcome: 'settled', ...NOTHING };

  const store = (outcome: Result<Fetched, FetchProblem>) => inTransaction(pipeline.pool, (db) => storeOutcome(pipeline, db, facts, outcome, step));
  const summary = await store(fetched).catch((error: unknown) => {
    if (isOutage(error)) throw error;
    pipeline.log.error({ source: source.id, err: error }, 'what came could not be kept');
    return store(notKept(fetched, error));
  });
  await step('committed');
  return summary;
}

/** Deaths in a row after which a source is set aside. */
const MOST_DEATHS = 2;

/** Whatever a fetch does is an outcome of it; and what has ended a process twice is not fetched again so soon. */
async function fetchSource({ pool, sources, log }: Pipeline, source: ClaimedSource): Promise<Result<Fetched, FetchProblem>> {
  if (source.deaths >= MOST_DEATHS) return fail({ reason: 'ended the process' });
  if (source.way === 'posted') return takePosted(pool, source);
  try {
    return await sources.fetch(source);
  } catch (error) {
    if (isOutage(error)) throw error;
    log.error({ source: source.id, err: error }, 'a fetch threw');
    return notKept(null, error);
  }
}

async function storeOutcome(
  pipeline: Pipeline,
  db: Db,
  facts: RunFacts,
  fetched: Result<Fetched, FetchProblem>,
  step: (step: RunStep) => Promise<void>,
): Promise<RunSummary> {
  const context = await loadContext(db, facts.source, facts.startedAt);
  if (context === null) return { outcome: 'lease lost', ...NOTHING };
  if (fetched.ok) return readAndStore(pipeline, db, facts, context, fetched.value, step);
  if (fetched.error.reason === 'not kept' && fetched.error.message !== undefined) await settleMessage(db, fetched.error.message);
  const notices = await storeFailedFetch(db, facts, context, fetched.error);
  await orderNotices(pipeline, db, facts, notices);
  return { outcome: 'failed', ...NOTHING, notices: notices.length };
}

/** The failure that stands in the record in place of what could not be kept; a message that brought it is settled with it. */
function notKept(fetched: Result<Fetched, FetchProblem> | null, error: unknown): Result<Fetched, FetchProblem> {
  const message = fetched?.ok && fetched.value.kind === 'page' ? fetched.value.message : undefined;
  return fail({ reason: 'not kept', detail: cut(error instanceof Error ? error.message : String(error), LONGEST_DETAIL), message });
}

const LONGEST_DETAIL = 300;

async function readAndStore(
  pipeline: Pipeline,
  db: Db,
  facts: RunFacts,
  context: RunContext,
  fetched: Fetched,
  step: (step: RunStep) => Promise<void>,
): Promise<RunSummary> {
  if (fetched.kind === 'page' && fetched.message !== undefined) await settleMessage(db, fetched.message);
  const snapshot = await snapshotOf(db, facts, context, fetched);
  const readings = await readWatches(pipeline, context, snapshot, facts);
  const outcomes = context.watches.map((watch, at) => judgeAlone(pipeline, watch, readings[at], facts.startedAt));
  await step('judged');
  const { snapshotId, notices } = await storeRun(db, pipeline.ids, facts, context, snapshot, outcomes);
  await storePicture(db, facts, snapshotId, snapshot.page?.picture, pipeline.picturesKept);
  const stored = await storeReadings(db, pipeline.ids, facts, outcomes);
  await step('stored');
  const alerts = await storeNews(db, pipeline.ids, facts, stored, outcomes);
  await orderDeliveries(pipeline, db, facts, alerts);
  await orderNotices(pipeline, db, facts, notices);
  await step('ordered');
  return { outcome: 'read', changes: countChanges(outcomes), alerts: alerts.length, notices: notices.length };
}

/** Each watch is judged by itself: what goes wrong with one is its own failure, and none of its neighbours'. */
function judgeAlone({ log }: Pipeline, watch: DueWatch, reading: ReadDone | undefined, now: Instant): WatchOutcome {
  if (reading === undefined) return failedWatch(watch, { reason: 'not workable', said: 'It was not read.' });
  try {
    return judgeWatch(watch, reading, now);
  } catch (error) {
    log.error({ watch: watch.id, err: error }, 'a watch could not be judged');
    return failedWatch(watch, { reason: 'not workable', said: JUDGING_FAILED });
  }
}

const JUDGING_FAILED = 'What was read could not be judged. The fault is Shrike’s own: the log of the worker says more.';

function countChanges(outcomes: WatchOutcome[]): number {
  const moved = outcomes.flatMap((outcome) => outcome.good).filter((good) => good.change !== null).length;
  return moved + outcomes.flatMap((outcome) => outcome.moves).length;
}

/** Nothing new came: a 304, or the body that is known already. */
function isSame(source: ClaimedSource, fetched: Result<Fetched, FetchProblem>): boolean {
  if (!fetched.ok) return false;
  return fetched.value.kind === 'not modified' || (source.bodyHash?.equals(fetched.value.hash) ?? false);
}

async function factsOf(
  pipeline: Pipeline,
  source: ClaimedSource,
  startedAt: Instant,
  tookMs: number,
  fetched: Result<Fetched, FetchProblem>,
): Promise<RunFacts> {
  const [runId = 0] = await pipeline.ids.take(1);
  return {
    runId,
    source,
    startedAt,
    tookMs: Math.round(tookMs),
    same: isSame(source, fetched),
    status: statusOf(fetched),
    bytes: fetched.ok ? fetched.value.bytes : 0,
  };
}

function statusOf(fetched: Result<Fetched, FetchProblem>): number | null {
  if (fetched.ok) return fetched.value.status;
  return fetched.error.reason === 'status' ? fetched.error.status : null;
}

/** The body to read: what was fetched, or, where nothing is new, the snapshot that is known. */
async function snapshotOf(db: Db, facts: RunFacts, context: RunContext, fetched: Fetched): Promise<StoredSnapshot> {
  if (facts.same && context.snapshotId !== null) {
    const { rows } = await db.query<{ body: string; address: string }>('SELECT body, address FROM snapshot WHERE id = $1', [context.snapshotId]);
    if (rows[0] !== undefined) return { id: context.snapshotId, ...rows[0], page: null };
  }
  if (fetched.kind === 'not modified') throw new Error(`source ${facts.source.id} is not modified, but its snapshot is gone`);
  return { id: null, body: fetched.body(), address: fetched.finalAddress, page: fetched };
}
