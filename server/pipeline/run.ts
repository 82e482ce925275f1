import type { SeriesId, RecordId, SnapshotId, RunId } from '#core/id';
import type { SeenRecord } from '#core/judge/known';
import { judgeWatch } from '#core/judge/watch';
import { fail, type Result } from '#core/result';
import { cut } from '#core/value/sanitise';
import type { Instant } from '#core/when/interval';
import type { Happened } from '../db/report/followers';
import { leaveAloneUntil } from '../db/source/hosts';
import type { Ids } from '../db/base/ids';
import type { LostConnections } from '../db/base/lost-connections';
import { isOutage } from '../db/base/outage';
import { inTransaction, withClient, writeAndCommit, type Db, type Pool, type Statement } from '../db/base/pool';
import { closeMessage } from '../db/source/postings';
import type { Signals } from '../db/base/signals';
import type { ClaimedSource } from '../db/source/sources';
import type { Fetched } from '../fetch/fetcher';
import type { FetchProblem } from '../fetch/problem';
import type { SourceFetcher } from '../fetch/source-fetcher';
import type { Links } from '../links';
import type { Log } from '../log';
import type { ReadingPool } from '../reading/pool';
import type { JobQueue } from '../work/jobs';
import { beginRun, planReading, type ReadingPlan, type RunContext, type RunWatch } from './context';
import type { Notice } from './order/notice';
import { orderDeliveries } from './order/order';
import { takePosted } from './posted';
import { readWatches } from './read';
import { withSearches } from './searches';
import type { RunFacts, StoredSnapshot } from './facts';
import type { JudgedWatch } from './store/judged';
import { rulesBegun, rulesChosen } from './begin';
import type { Latest } from '#core/judge/observation';
import { loadItems, type ItemsOf } from '../db/item/known-items';
import { withReadings } from './items';
import { judgeOtherWatches, judgeFailedFetch, latestOfOtherWatches, readFor } from './other-watches';
import { throughRateLimits } from './rate-limits';
import { countJudgement, NOTHING_FOUND, storeJudgement } from './store/judgement';
import { runNewsOf, storeChanges, type RaisedAlert } from './store/news';
import { withRepeats } from './repeats';
import { storePicture } from './store/picture';
import { notAskedElsewhere } from '../actions/questions';
import { askedBy, questionNotice, storeQuestions } from './store/questions';
import { isFirstNews, newRows, storeReadings, withSeries } from './store/readings';
import { storeFailedFetch, storeRun } from './store/run';
import { storeSettled } from './store/settled';
import type { WatchVerdict } from './store/states';

/** The moments of a run that others may watch; a worker killed at any of them loses nothing. */
type RunStep = 'claimed' | 'fetched' | 'read' | 'judged' | 'ordered' | 'committed';

/** What the pipeline works with. The clock is passed in; nothing below reads another. */
export interface Pipeline {
  pool: Pool;
  lost: LostConnections;
  ids: Ids;
  sources: Pick<SourceFetcher, 'fetch'>;
  reading: ReadingPool;
  jobs: JobQueue;
  /** Tells views what moved. */
  signals: Signals;
  clock: () => Instant;
  log: Log;
  publicUrl: string;
  mailDomain: string;
  /** Seals what mails lead to. */
  links: Links;
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
  if (source.pauseMs > 0) await pipeline.pool.query(leaveAloneUntil(source.id, pipeline.clock() + source.pauseMs));
  const facts = await factsOf(pipeline, source, startedAt, performance.now() - began, fetched);
  await step('fetched');

  if (source.way !== 'posted' && isSame(source, fetched) && (await settle(pipeline, facts)))
    return { outcome: 'settled', ...NOTHING };

  const store = (outcome: Result<Fetched, FetchProblem>) =>
    outcome.ok ? readAndStore(pipeline, facts, outcome.value, step) : storeFailure(pipeline, facts, outcome.error);
  const summary = await store(fetched).catch((error: unknown) => {
    if (isOutage(error)) throw error;
    pipeline.log.error({ source: source.id, err: error }, 'what came could not be kept');
    return store(notKept(fetched, error));
  });
  await step('committed');
  return summary;
}

/** Keeps a run that brought nothing new; reports that are cut with each run are cut with this one, too. */
async function settle(pipeline: Pipeline, facts: RunFacts): Promise<boolean> {
  if (!facts.source.toldEachRun) return (await storeSettled(pipeline.pool, facts)) !== null;
  return inTransaction(pipeline.pool, async (db) => {
    const looked = await storeSettled(db, facts);
    if (looked === null) return false;
    const judged = { at: facts.startedAt, runId: facts.runId, happened: { looked, moved: [] } };
    for (const statement of await orderDeliveries(pipeline, db, judged, [], [])) await db.query(statement);
    return true;
  });
}

/** Deaths in a row after which a source is set aside. */
const MOST_DEATHS = 2;

/** Whatever a fetch does is an outcome of it; and what has ended a process twice is not fetched again so soon. */
async function fetchSource(
  { pool, sources, log }: Pipeline,
  source: ClaimedSource,
): Promise<Result<Fetched, FetchProblem>> {
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

/** Keeps a failed fetch. */
function storeFailure(pipeline: Pipeline, facts: RunFacts, problem: FetchProblem): Promise<RunSummary> {
  return withClient(pipeline.pool, async (db) => {
    const context = await beginRun(db, facts, []);
    if (context === null) return loseLease(db);
    const { statements, notices } = storeFailedFetch(facts, context, problem);
    const { verdicts, statements: gates } = await throughRateLimits(
      db,
      await judgeFailedFetch(db, context, facts.startedAt),
    );
    const judged = {
      at: facts.startedAt,
      runId: facts.runId,
      happened: { looked: context.due.map(({ id }) => id), moved: [], followers: context.followers },
    };
    const written = storeJudgement(
      judged,
      verdicts,
      await pipeline.ids.take(db, countJudgement(verdicts)),
      NOTHING_FOUND,
    );
    const ordered = await orderDeliveries(pipeline, db, judged, written.alerts, notices);
    const closed = closing(problem.reason === 'not kept' ? problem.message : undefined);
    await writeAndCommit(db, [...closed, ...statements, ...written.statements, ...gates, ...ordered]);
    return { outcome: 'failed', ...NOTHING, alerts: written.alerts.length, notices: notices.length };
  });
}

/** A message that was taken is settled first: whether another waits decides when the source is due. */
const closing = (message: number | undefined): Statement[] => (message === undefined ? [] : [closeMessage(message)]);

async function loseLease(db: Db): Promise<RunSummary> {
  await db.query('ROLLBACK');
  return { outcome: 'lease lost', ...NOTHING };
}

/**
 * The failure that stands in the record in place of what could not be kept; a message that brought it is settled with
 * it.
 */
function notKept(fetched: Result<Fetched, FetchProblem> | null, error: unknown): Result<Fetched, FetchProblem> {
  const message = fetched?.ok && fetched.value.kind === 'page' ? fetched.value.message : undefined;
  return fail({
    reason: 'not kept',
    detail: cut(error instanceof Error ? error.message : String(error), LONGEST_DETAIL),
    message,
  });
}

const LONGEST_DETAIL = 300;

/**
 * Reads what came before anything is locked; then, in one transaction, compares and judges it and keeps what came of
 * that.
 */
async function readAndStore(
  pipeline: Pipeline,
  facts: RunFacts,
  fetched: Fetched,
  step: (step: RunStep) => Promise<void>,
): Promise<RunSummary> {
  const plan = await planReading(pipeline.pool, facts);
  const snapshot = snapshotOf(facts, plan, fetched);
  const reads = await readWatches(pipeline.reading, plan, snapshot, facts);
  await step('read');
  return withClient(pipeline.pool, async (db) => {
    const context = await beginRun(db, facts, reads);
    if (context === null) return loseLease(db);
    const elsewhere = await latestOfOtherWatches(
      db,
      context.watches.flatMap(({ rules }) => rules),
    );
    const items = await loadItems(db, context.watches, facts.startedAt);
    const watches = await withRepeats(db, context.watches);
    const judged = await withSearches(pipeline.reading, () =>
      judgeTogether(pipeline, watches, { elsewhere, items }, facts.startedAt),
    );
    await step('judged');
    const beside = await judgeOtherWatches(db, context, judged, facts.startedAt);
    const written = await writeOutcome(pipeline, db, { facts, context, snapshot, judged, beside });
    const at = {
      at: facts.startedAt,
      runId: facts.runId,
      happened: { ...happenedTo(judged), followers: context.followers },
    };
    const ordered = await orderDeliveries(pipeline, db, at, written.alerts, written.notices);
    await step('ordered');
    await writeAndCommit(db, [
      ...closing(fetched.kind === 'page' ? fetched.message : undefined),
      ...written.statements,
      ...ordered,
    ]);
    return {
      outcome: 'read',
      changes: countChanges(judged),
      alerts: written.alerts.length,
      notices: written.notices.length,
    };
  });
}

const happenedTo = (judged: JudgedWatch[]): Happened => ({
  looked: judged.map(({ watch }) => watch.id),
  moved: judged
    .filter((each) => countChanges([each]) > 0 || each.outcome.good.some(isFirstNews))
    .map(({ watch }) => watch.id),
});

/** What is to be written of a run, and what there is to tell of it. */
interface Written {
  statements: Statement[];
  alerts: RaisedAlert[];
  notices: Notice[];
}

/** What a run came to, before any of it is written. */
interface Outcome {
  facts: RunFacts;
  context: RunContext;
  snapshot: StoredSnapshot;
  judged: JudgedWatch[];
  /** Of watches that were not read, and that what was read concerns. */
  beside: WatchVerdict[];
}

/** Works out all that is to be written, each row with its number. */
async function writeOutcome(
  { ids, picturesKept }: Pipeline,
  db: Db,
  { facts, context, snapshot, judged, beside }: Outcome,
): Promise<Written> {
  const fresh = newRows(judged);
  const { verdicts, statements: gates } = await throughRateLimits(db, [
    ...judged.flatMap((each) => verdictsOf(facts, each)),
    ...beside,
  ]);
  const given = await ids.take(
    db,
    1 + fresh.records.length + fresh.series.length + mostChanges(judged) + countJudgement(verdicts),
  );
  const take = (count: number) => given.splice(0, count);
  const snapshotId = snapshot.id ?? (sure(take(1)[0]) as SnapshotId);
  const records = new Map(zip<SeenRecord, RecordId>(fresh.records, take(fresh.records.length)));
  const series = new Map(zip<string, SeriesId>(fresh.series, take(fresh.series.length)));
  const readings = withSeries(judged, series);
  const asked = judged.map(askedBy);
  const run = storeRun(facts, context, snapshot, snapshotId, asked);
  const changes = storeChanges(facts, runNewsOf(judged, readings), take(mostChanges(judged)));
  const judgement = storeJudgement({ at: facts.startedAt, runId: facts.runId }, verdicts, given, {
    changeOf: changes.changeOf,
    seriesOf: series,
  });
  const statements = [
    ...run.statements,
    ...storePicture(facts, snapshotId, snapshot.page?.picture, picturesKept),
    ...storeReadings(facts, judged, readings, { records, series }),
    ...changes.statements,
    ...rulesBegun(judged, facts.startedAt),
    ...rulesChosen(judged.flatMap(({ outcome }) => outcome.choices)),
    ...judgement.statements,
    ...gates,
    ...storeQuestions(facts, asked, snapshotId, context.snapshotId),
  ];
  const questions = await notAskedElsewhere(
    db,
    facts.source.id,
    asked.flatMap((each) => questionNotice(each, facts) ?? []),
  );
  return { statements, alerts: judgement.alerts, notices: [...run.notices, ...questions] };
}

/** The verdicts on a watch, with what is told of it. */
function verdictsOf({ source }: RunFacts, { watch, outcome }: JudgedWatch): WatchVerdict[] {
  const ruled = { ...watch, site: source.site, page: source.address };
  return outcome.verdicts.map((verdict) => ({ watch: ruled, verdict }));
}

/** A number for each reading that changed, and each record that came or went. */
const mostChanges = (judged: JudgedWatch[]): number =>
  judged.reduce(
    (sum, { outcome: { good, moves } }) => sum + good.filter(({ change }) => change !== null).length + moves.length,
    0,
  );

function zip<Key, Id extends number>(keys: Key[], numbers: number[]): [Key, Id][] {
  return keys.map((key, at) => [key, sure(numbers[at]) as Id]);
}

function sure(number: number | undefined): number {
  if (number === undefined) throw new Error('fewer numbers were taken than are needed');
  return number;
}

/** What is known beside the watches of a run: the latest of others, and the items that records are offers of. */
interface KnownRelated {
  elsewhere: ReadonlyMap<string, Latest>;
  items: ItemsOf;
}

/**
 * Watches of one source may ask one another, and offers of one item each other: such as do are judged with what was
 * read of the others.
 */
function judgeTogether(
  pipeline: Pipeline,
  watches: RunWatch[],
  { elsewhere, items }: KnownRelated,
  now: Instant,
): JudgedWatch[] {
  const judge = (watch: RunWatch, known: KnownRelated) => {
    const own = known.items.get(watch.id);
    return judgeAlone(
      pipeline,
      { ...watch, elsewhere: known.elsewhere, ...(own === undefined ? {} : { items: own }) },
      now,
    );
  };
  const alone = watches.map((watch) => judge(watch, { elsewhere, items }));
  const renewed = withReadings(items, alone, now);
  return alone.map((judged) => {
    const read = readFor(judged.watch, alone);
    if (read.size === 0 && !items.has(judged.watch.id)) return judged;
    return judge(judged.watch, { elsewhere: new Map([...elsewhere, ...read]), items: renewed });
  });
}

/** Each watch is judged by itself: what goes wrong with one is its own failure, and none of its neighbours'. */
function judgeAlone({ log }: Pipeline, watch: RunWatch, now: Instant): JudgedWatch {
  try {
    return { watch, outcome: judgeWatch(watch, watch.read, now) };
  } catch (error) {
    log.error({ watch: watch.id, err: error }, 'a watch could not be judged');
    const failure = fail({ reason: 'not workable' as const, said: JUDGING_FAILED });
    return { watch, outcome: judgeWatch(watch, { reading: failure, seems: null }, now) };
  }
}

const JUDGING_FAILED = 'What was read could not be judged. The fault is Shrike’s own: the log of the worker says more.';

const countChanges = (judged: JudgedWatch[]): number =>
  judged.reduce(
    (sum, { outcome: { good, moves } }) => sum + good.filter(({ change }) => change !== null).length + moves.length,
    0,
  );

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
  const runId = await pipeline.ids.one<RunId>(pipeline.pool);
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
function snapshotOf(facts: RunFacts, { kept }: ReadingPlan, fetched: Fetched): StoredSnapshot {
  if (kept !== null) return { ...kept, page: null };
  if (fetched.kind === 'not modified')
    throw new Error(`source ${facts.source.id} is not modified, but its snapshot is gone`);
  return { id: null, body: fetched.body(), address: fetched.finalAddress, page: fetched };
}
