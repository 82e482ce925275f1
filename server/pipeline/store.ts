import { describeProblem } from '#core/read/read';
import type { News } from '#core/tell/news';
import { isMeasure, unitOf, type Value } from '#core/value/value';
import { compareDecimals } from '#core/value/decimal';
import { nextDue, type Instant } from '#core/when/interval';
import type { Ids } from '../db/ids';
import { moment, type Db } from '../db/pool';
import { spreadDue, type ClaimedSource } from '../db/sources';
import type { FetchedPage } from '../fetch/fetcher';
import { describeFetchProblem, type FetchProblem } from '../fetch/problem';
import { dueBy, type DueWatch, type RunContext } from './context';
import { lookedBefore, outcomeOf, type GoodField, type WatchOutcome } from './judge';

/** What is known of a run as soon as its fetch is back. */
export interface RunFacts {
  runId: number;
  source: ClaimedSource;
  startedAt: Instant;
  tookMs: number;
  same: boolean;
  status: number | null;
  bytes: number;
}

/** The body that is read: a stored snapshot (with an id), or a page to be stored. */
export interface StoredSnapshot {
  id: number | null;
  body: string;
  page: FetchedPage | null;
}

/** A problem as kept on a run, a watch or a series: which link broke, and why in a sentence. */
interface StoredProblem {
  link: 'source' | 'value';
  reason: string;
  sentence: string;
}

/** A read field with the ids its rows have. */
interface StoredField {
  watch: DueWatch;
  good: GoodField;
  seriesId: number;
}

/** An alert that this run raised, with its news. */
export interface RaisedAlert {
  id: number;
  seq: number;
  ruleId: number;
  watchId: number;
  news: News;
}

const SETTLED = `
WITH s AS (
  UPDATE source SET lease_until = NULL, lease_token = NULL, last_run_at = $4, failing_since = NULL,
    due_at = CASE WHEN due_at = $7 THEN $5 ELSE due_at END
  WHERE id = $1 AND lease_token = $2 AND snapshot_id IS NOT NULL
    AND NOT EXISTS (SELECT FROM watch WHERE source_id = $1 AND state = 'running' AND read_due_at <= $6 AND NOT settled)
  RETURNING id, snapshot_id, interval_ms
), r AS (
  INSERT INTO run (id, source_id, due_at, started_at, took_ms, late_ms, outcome, status, bytes, snapshot_id)
  SELECT $3, s.id, $7, $4, $8, $9, 'same', $10, $11, s.snapshot_id FROM s
), w AS (
  UPDATE watch w SET reads = reads + 1, last_read_at = $4, last_good_at = $4, failing_since = NULL, problem = NULL,
    asked_at = CASE WHEN asked_at > $4 THEN asked_at END,
    read_due_at = CASE WHEN asked_at > $4 THEN w.read_due_at ELSE w.read_due_at + greatest(1, floor(extract(epoch FROM $4::timestamptz - w.read_due_at) * 1000 / w.interval_ms) + 1) * w.interval_ms * interval '1 ms' END
  FROM s WHERE w.source_id = s.id AND w.state = 'running' AND w.read_due_at <= $6
  RETURNING w.id
), wr AS (
  INSERT INTO watch_run (watch_id, run_id, started_at, outcome) SELECT w.id, $3, $4, 'same' FROM w
), seen AS (
  UPDATE reading SET last_seen = $4, runs = reading.runs + 1
  FROM w JOIN series ON series.watch_id = w.id
  WHERE reading.series_id = series.id AND reading.first_seen = series.open_since
)
SELECT count(*)::int AS done FROM s`;

/**
 * Stores a run that brought nothing new to watches whose last reading still holds, in one statement and so in one
 * transaction. False, and nothing is stored, when a watch has to be read after all or the lease was lost.
 */
export async function storeSettled(db: Db, facts: RunFacts): Promise<boolean> {
  const { source, startedAt } = facts;
  const due = nextDue(source.dueAt, source.intervalMs, startedAt);
  const { rows } = await db.query<{ done: number }>({
    name: 'settled',
    text: SETTLED,
    values: [
      source.id, source.token, facts.runId, moment(startedAt), moment(due), moment(dueBy(startedAt, source.intervalMs)),
      moment(source.dueAt), facts.tookMs, startedAt - source.dueAt, facts.status, facts.bytes,
    ], // prettier-ignore
  });
  return rows[0]?.done === 1;
}

/** Stores a run whose fetch failed: the source's watches keep their last good values, stale. */
export async function storeFailedFetch(db: Db, facts: RunFacts, context: RunContext, problem: FetchProblem): Promise<void> {
  const stored: StoredProblem = { link: 'source', reason: problem.reason, sentence: describeFetchProblem(problem) };
  await insertRun(db, facts, 'failed', stored, context.snapshotId);
  await releaseSource(db, facts, context.intervalMs, { page: null, snapshotId: null, failed: true });
  await updateWatches(db, facts, context.intervalMs, context.watches.map((watch) => ({ watch, outcome: 'failed', problem: stored, settled: watch.settled }))); // prettier-ignore
}

/** Stores snapshot, run, readings and rule states; returns the fields with the ids of their series. */
export async function storeReadings(
  db: Db,
  ids: Ids,
  facts: RunFacts,
  context: RunContext,
  snapshot: StoredSnapshot,
  outcomes: WatchOutcome[],
): Promise<StoredField[]> {
  const changed = outcomes.some((outcome) => outcome.good.some((good) => good.change !== null));
  const snapshotId = snapshot.id ?? (await insertSnapshot(db, ids, facts, context, snapshot.page, snapshot.body, changed));
  await insertRun(db, facts, context.snapshotId === null ? 'first' : facts.same ? 'same' : 'changed', null, snapshotId);
  await releaseSource(db, facts, context.intervalMs, { page: snapshot.page, snapshotId, failed: false });
  await updateWatches(db, facts, context.intervalMs, outcomes.map(watchUpdate));
  const fields = await withSeries(db, ids, facts, outcomes);
  await storeValues(db, facts, fields);
  await markUnread(db, outcomes);
  await storeStates(db, facts, fields);
  return fields;
}

async function insertRun(db: Db, facts: RunFacts, outcome: string, problem: StoredProblem | null, snapshotId: number | null): Promise<void> {
  const { source } = facts;
  await db.query({
    name: 'insert run',
    text: `INSERT INTO run (id, source_id, due_at, started_at, took_ms, late_ms, outcome, status, bytes, problem, snapshot_id)
      VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
    values: [
      facts.runId, source.id, moment(source.dueAt), moment(facts.startedAt), facts.tookMs, facts.startedAt - source.dueAt,
      outcome, facts.status, facts.bytes, problem, snapshotId,
    ], // prettier-ignore
  });
}

async function insertSnapshot(
  db: Db,
  ids: Ids,
  facts: RunFacts,
  context: RunContext,
  page: FetchedPage | null,
  body: string,
  changed: boolean,
): Promise<number | null> {
  if (page === null) return context.snapshotId;
  const [id = 0] = await ids.take(1);
  // The one before is kept only where a change was read against it, or it brought one itself.
  const previous = changed ? 'UPDATE snapshot SET kept = true WHERE id = $9 AND NOT kept' : 'DELETE FROM snapshot WHERE id = $9 AND NOT kept';
  await db.query({
    name: changed ? 'keep snapshot' : 'replace snapshot',
    text: `WITH previous AS (${previous})
      INSERT INTO snapshot (id, source_id, run_id, taken_at, body_hash, body, address, kept) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`,
    values: [id, facts.source.id, facts.runId, moment(facts.startedAt), page.hash, body, page.finalAddress, changed, context.snapshotId],
  });
  return id;
}

/** Gives the lease back and sets the next due time, unless somebody asked for another look meanwhile. */
async function releaseSource(
  db: Db,
  facts: RunFacts,
  intervalMs: number,
  brought: { page: FetchedPage | null; snapshotId: number | null; failed: boolean },
): Promise<void> {
  const { source, startedAt } = facts;
  const { page, snapshotId, failed } = brought;
  await db.query({
    name: 'release source',
    text: `UPDATE source SET lease_until = NULL, lease_token = NULL, last_run_at = $2,
        due_at = CASE WHEN interval_ms IS NULL THEN NULL WHEN due_at <> $9 THEN due_at ELSE $3::timestamptz END,
        failing_since = CASE WHEN $4 THEN coalesce(failing_since, $2) END,
        snapshot_id = coalesce($5, snapshot_id),
        etag = CASE WHEN $6::bytea IS NULL THEN etag ELSE $7 END,
        last_modified = CASE WHEN $6::bytea IS NULL THEN last_modified ELSE $8 END,
        body_hash = coalesce($6, body_hash)
      WHERE id = $1`,
    values: [
      source.id, moment(startedAt), moment(dueAfter(source, startedAt, intervalMs)), failed, snapshotId,
      page?.hash ?? null, page?.etag ?? null, page?.lastModified ?? null, moment(source.dueAt),
    ], // prettier-ignore
  });
}

/** After a baseline the grid starts at the source's own share of the interval. */
function dueAfter(source: ClaimedSource, startedAt: Instant, intervalMs: number): Instant {
  return source.bodyHash === null ? spreadDue(source.id, startedAt, intervalMs) : nextDue(source.dueAt, intervalMs, startedAt);
}

interface WatchUpdate {
  watch: DueWatch;
  outcome: ReturnType<typeof outcomeOf>;
  problem: StoredProblem | null;
  settled: boolean;
}

function watchUpdate(result: WatchOutcome): WatchUpdate {
  const [bad] = result.bad;
  const problem: StoredProblem | null =
    bad === undefined
      ? null
      : { link: 'value', reason: bad.problem.reason, sentence: `${capital(bad.field.label)}: ${lower(describeProblem(bad.problem))}` };
  return { watch: result.watch, outcome: outcomeOf(result), problem, settled: problem === null };
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

/** A watch as frequent as its source keeps step with it; a rarer one keeps its own time. */
function readDueAfter({ source, startedAt }: RunFacts, watch: DueWatch, intervalMs: number): Instant {
  return watch.intervalMs === intervalMs ? dueAfter(source, startedAt, intervalMs) : nextDue(watch.readDueAt, watch.intervalMs, startedAt);
}

async function updateWatches(db: Db, facts: RunFacts, intervalMs: number, updates: WatchUpdate[]): Promise<void> {
  if (updates.length === 0) return;
  const rows = updates.map(({ watch, outcome, problem, settled }) => ({
    id: watch.id,
    outcome,
    problem,
    settled,
    due: moment(readDueAfter(facts, watch, intervalMs)),
  }));
  await db.query({
    name: 'update watches',
    text: `WITH new AS (SELECT * FROM jsonb_to_recordset($1) AS n(id int, outcome text, problem jsonb, settled boolean, due timestamptz)),
      updated AS (
        UPDATE watch w SET last_read_at = $2, asked_at = CASE WHEN asked_at > $2 THEN asked_at END,
          read_due_at = CASE WHEN asked_at > $2 THEN read_due_at ELSE new.due END, settled = new.settled, problem = nullif(new.problem, 'null'),
          reads = reads + (new.outcome <> 'failed')::int,
          last_good_at = CASE WHEN new.outcome = 'failed' THEN w.last_good_at ELSE $2 END,
          failing_since = CASE WHEN new.outcome = 'failed' THEN coalesce(w.failing_since, $2) END
        FROM new WHERE w.id = new.id
      )
      INSERT INTO watch_run (watch_id, run_id, started_at, outcome, problem) SELECT id, $3, $2, outcome, nullif(problem, 'null') FROM new`,
    values: [JSON.stringify(rows), moment(facts.startedAt), facts.runId],
  });
}

async function withSeries(db: Db, ids: Ids, facts: RunFacts, outcomes: WatchOutcome[]): Promise<StoredField[]> {
  const fields = outcomes.flatMap(({ watch, good }) => good.map((each) => ({ watch, good: each })));
  const fresh = fields.filter(({ good }) => good.known === null);
  if (fresh.length === 0) return fields.map((field) => ({ ...field, seriesId: field.good.known?.id ?? 0 }));

  const given = await ids.take(fresh.length * 2);
  const rows = fresh.map(({ watch, good }, at) => ({
    series: given[at * 2],
    record: given[at * 2 + 1],
    watch: watch.id,
    identity: good.identity,
    field: good.field.key,
    value: good.value,
  }));
  await db.query(
    `WITH new AS (SELECT * FROM jsonb_to_recordset($1) AS n(series bigint, record bigint, watch int, identity text, field text, value jsonb)),
     records AS (
       INSERT INTO record (id, watch_id, identity, first_seen)
       SELECT DISTINCT ON (watch, identity) record, watch, identity, $2::timestamptz FROM new
       ON CONFLICT (watch_id, identity) DO UPDATE SET identity = excluded.identity RETURNING id, watch_id, identity
     )
     INSERT INTO series (id, watch_id, record_id, field, value, open_since, last_good_at)
     SELECT n.series, n.watch, r.id, n.field, n.value, $2, $2 FROM new n JOIN records r ON r.watch_id = n.watch AND r.identity = n.identity`,
    [JSON.stringify(rows), moment(facts.startedAt)],
  );
  const seriesIds = new Map(fresh.map((field, at) => [field.good, given[at * 2] ?? 0]));
  return fields.map((field) => ({ ...field, seriesId: field.good.known?.id ?? seriesIds.get(field.good) ?? 0 }));
}

function valueColumns(value: Value): { kind: string; amount: string | null; unit: string | null; words: string | null } {
  return {
    kind: value.kind,
    amount: isMeasure(value) ? value.amount : null,
    unit: isMeasure(value) ? unitOf(value) : null,
    words: value.kind === 'text' ? value.text : null,
  };
}

async function storeValues(db: Db, facts: RunFacts, fields: StoredField[]): Promise<void> {
  const opened = fields.filter(({ good }) => good.opens);
  const seen = fields.filter(({ good }) => !good.opens);
  if (opened.length > 0) await openReadings(db, facts, opened);
  if (seen.length > 0) await seeAgain(db, facts, seen);
}

async function openReadings(db: Db, facts: RunFacts, opened: StoredField[]): Promise<void> {
  const rows = opened.map(({ good, seriesId }) => ({ id: seriesId, value: good.value, ...valueColumns(good.value) }));
  await db.query({
    name: 'open readings',
    text: `WITH new AS (SELECT * FROM jsonb_to_recordset($1) AS n(id bigint, value jsonb, kind text, amount numeric, unit text, words text)),
      moved AS (UPDATE series s SET value = new.value, open_since = $2, last_good_at = $2, problem = NULL FROM new WHERE s.id = new.id)
      INSERT INTO reading (series_id, first_seen, last_seen, kind, amount, unit, words, run_id)
      SELECT id, $2, $2, kind, amount, unit, words, $3 FROM new`,
    values: [JSON.stringify(rows), moment(facts.startedAt), facts.runId],
  });
}

async function seeAgain(db: Db, facts: RunFacts, seen: StoredField[]): Promise<void> {
  await db.query({
    name: 'see again',
    text: `WITH again AS (
        UPDATE series SET last_good_at = $2, problem = NULL WHERE id = ANY($1::bigint[]) RETURNING id, open_since
      )
      UPDATE reading SET last_seen = $2, runs = runs + 1 FROM again WHERE series_id = again.id AND first_seen = again.open_since`,
    values: [seen.map(({ seriesId }) => seriesId), moment(facts.startedAt)],
  });
}

async function markUnread(db: Db, outcomes: WatchOutcome[]): Promise<void> {
  const rows = outcomes
    .flatMap(({ bad }) => bad)
    .flatMap(({ known, problem }) =>
      known === null
        ? []
        : { id: known.id, good: moment(known.lastGoodAt), problem: { link: 'value', reason: problem.reason, sentence: describeProblem(problem) } },
    );
  if (rows.length === 0) return;
  await db.query(
    `UPDATE series s SET problem = n.problem, last_good_at = n.good
     FROM jsonb_to_recordset($1) AS n(id bigint, good timestamptz, problem jsonb) WHERE s.id = n.id`,
    [JSON.stringify(rows)],
  );
}

async function storeStates(db: Db, facts: RunFacts, fields: StoredField[]): Promise<void> {
  const rows = fields.flatMap(({ good, seriesId }) =>
    good.judged
      .filter(({ moved }) => moved)
      .map(({ rule, step }) => ({ rule: rule.id, series: seriesId, version: rule.version, name: step.state.name, waiting: step.state.waiting })),
  );
  if (rows.length === 0) return;
  await db.query({
    name: 'store states',
    text: `INSERT INTO rule_state (rule_id, series_id, version, name, waiting, since)
      SELECT rule, series, version, name, waiting, $2 FROM jsonb_to_recordset($1) AS n(rule int, series bigint, version int, name text, waiting boolean)
      ON CONFLICT (rule_id, series_id) DO UPDATE SET version = excluded.version, name = excluded.name, waiting = excluded.waiting, since = excluded.since`,
    values: [JSON.stringify(rows), moment(facts.startedAt)],
  });
}

/**
 * Stores changes, verdicts, episodes and alerts, and gives news its place in the order of commits. From here to the
 * commit this transaction alone makes news: that is what makes the order one of commits and not of clocks.
 */
export async function storeNews(db: Db, ids: Ids, facts: RunFacts, fields: StoredField[]): Promise<RaisedAlert[]> {
  const telling = fields.filter(({ good }) => good.change !== null || good.judged.some(({ moved }) => moved) || raisedAny(good));
  if (telling.length === 0) return [];
  const changes = telling.filter(({ good }) => good.change !== null);
  const alerting = telling.flatMap((field) => field.good.judged.filter(({ step }) => step.alert).map((judged) => ({ ...field, judged })));
  const changeIds = await ids.take(changes.length);
  const changeOf = new Map(changes.map((field, at) => [field.seriesId, changeIds[at] ?? 0]));

  const first = await takeOrder(db, changes.length + alerting.length);
  await insertChanges(db, facts, changes, changeOf, first);
  await insertVerdicts(db, ids, facts, telling, changeOf);
  const episodes = await moveEpisodes(db, ids, facts, telling);
  return insertAlerts(db, ids, facts, alerting, changeOf, episodes, first + changes.length);
}

function raisedAny(good: GoodField): boolean {
  return good.judged.some(({ step }) => step.state.name === 'raised' && !step.state.waiting && good.opens);
}

async function takeOrder(db: Db, count: number): Promise<number> {
  if (count === 0) return 0;
  const { rows } = await db.query<{ last: number }>({
    name: 'take order',
    text: 'UPDATE commit_order SET last = last + $1 RETURNING last',
    values: [count],
  });
  return (rows[0]?.last ?? 0) - count + 1;
}

async function insertChanges(db: Db, facts: RunFacts, changes: StoredField[], changeOf: Map<number, number>, firstSeq: number): Promise<void> {
  if (changes.length === 0) return;
  const rows = changes.map(({ watch, good, seriesId }, at) => ({
    id: changeOf.get(seriesId),
    seq: firstSeq + at,
    watch: watch.id,
    version: watch.version,
    series: seriesId,
    field: good.field.key,
    kind: good.change?.kind,
    was: good.change?.from,
    now: good.change?.to,
    difference: good.change?.difference,
    percent: good.change?.percent,
    sense: good.change?.sense,
    before: moment(lookedBefore(good.known) ?? facts.startedAt),
  }));
  await db.query({
    name: 'insert changes',
    text: `INSERT INTO change (id, seq, run_id, watch_id, watch_version, series_id, field, kind, was, now, difference, percent, sense, seen_at, looked_before)
      SELECT id, seq, $2, watch, version, series, field, kind, was, now, difference, percent, sense, $3, before
      FROM jsonb_to_recordset($1) AS n(id bigint, seq bigint, watch int, version int, series bigint, field text, kind text, was jsonb,
        now jsonb, difference numeric, percent numeric, sense text, before timestamptz)`,
    values: [JSON.stringify(rows), facts.runId, moment(facts.startedAt)],
  });
}

async function insertVerdicts(db: Db, ids: Ids, facts: RunFacts, telling: StoredField[], changeOf: Map<number, number>): Promise<void> {
  const verdicts = telling.flatMap(({ good, seriesId }) =>
    good.judged.filter(({ moved }) => moved || good.change !== null).map((judged) => ({ judged, good, seriesId })),
  );
  if (verdicts.length === 0) return;
  const given = await ids.take(verdicts.length);
  const rows = verdicts.map(({ judged: { rule, before, step }, good, seriesId }, at) => ({
    id: given[at],
    change: changeOf.get(seriesId) ?? null,
    rule: rule.id,
    version: rule.version,
    series: seriesId,
    before: before.name,
    after: step.state.name,
    taken: step.alert,
    reason: step.reason,
    inputs: { value: good.value, previous: good.known?.value ?? null, condition: rule.definition.condition },
  }));
  await db.query({
    name: 'insert verdicts',
    text: `INSERT INTO verdict (id, run_id, change_id, rule_id, rule_version, series_id, state_before, state_after, taken, reason, inputs, made_at)
      SELECT id, $2, change, rule, version, series, before, after, taken, reason, inputs, $3
      FROM jsonb_to_recordset($1) AS n(id bigint, change bigint, rule int, version int, series bigint, before text, after text, taken boolean, reason text, inputs jsonb)`,
    values: [JSON.stringify(rows), facts.runId, moment(facts.startedAt)],
  });
}

const episodeKey = (ruleId: number, seriesId: number) => `${ruleId} ${seriesId}`;

async function moveEpisodes(db: Db, ids: Ids, facts: RunFacts, telling: StoredField[]): Promise<Map<string, number>> {
  const opened = new Map<string, number>();
  for (const { good, seriesId } of telling) {
    for (const { rule, step } of good.judged) {
      const at = moment(facts.startedAt);
      if (step.episode === 'open') {
        const [id = 0] = await ids.take(1);
        await db.query('INSERT INTO episode (id, rule_id, series_id, opened_at, peak, peak_at) VALUES ($1, $2, $3, $4, $5, $4)', [
          id,
          rule.id,
          seriesId,
          at,
          good.value,
        ]);
        opened.set(episodeKey(rule.id, seriesId), id);
      } else if (step.episode === 'close') {
        await db.query('UPDATE episode SET closed_at = $3 WHERE rule_id = $1 AND series_id = $2 AND closed_at IS NULL', [rule.id, seriesId, at]);
      } else if (step.episode === 'keep' && good.opens) {
        await raisePeak(db, rule.id, seriesId, good.value, rule.definition.condition, at);
      }
    }
  }
  return opened;
}

async function raisePeak(
  db: Db,
  ruleId: number,
  seriesId: number,
  value: Value,
  condition: { kind: string; direction?: string },
  at: string,
): Promise<void> {
  const { rows } = await db.query<{ id: number; peak: Value }>(
    'SELECT id, peak FROM episode WHERE rule_id = $1 AND series_id = $2 AND closed_at IS NULL',
    [ruleId, seriesId],
  );
  const [open] = rows;
  if (open === undefined || !isMeasure(open.peak) || !isMeasure(value)) return;
  const order = compareDecimals(value.amount, open.peak.amount);
  if (order !== (condition.direction === 'below' ? -1 : 1)) return;
  await db.query('UPDATE episode SET peak = $2, peak_at = $3 WHERE id = $1', [open.id, value, at]);
}

async function insertAlerts(
  db: Db,
  ids: Ids,
  facts: RunFacts,
  alerting: (StoredField & { judged: GoodField['judged'][number] })[],
  changeOf: Map<number, number>,
  episodes: Map<string, number>,
  firstSeq: number,
): Promise<RaisedAlert[]> {
  if (alerting.length === 0) return [];
  const given = await ids.take(alerting.length);
  const alerts = alerting.map(({ watch, good, judged, seriesId }, at) => ({
    id: given[at] ?? 0,
    seq: firstSeq + at,
    ruleId: judged.rule.id,
    version: judged.rule.version,
    watchId: watch.id,
    seriesId,
    changeId: changeOf.get(seriesId) ?? null,
    episodeId: episodes.get(episodeKey(judged.rule.id, seriesId)) ?? null,
    news: newsOf(facts, watch, good, judged.rule.definition.condition),
  }));
  await db.query({
    name: 'insert alerts',
    text: `INSERT INTO alert (id, seq, run_id, rule_id, rule_version, watch_id, series_id, change_id, episode_id, news, seen_at)
      SELECT id, seq, $2, "ruleId", version, "watchId", "seriesId", "changeId", "episodeId", news, $3
      FROM jsonb_to_recordset($1) AS n(id bigint, seq bigint, "ruleId" int, version int, "watchId" int, "seriesId" bigint,
        "changeId" bigint, "episodeId" bigint, news jsonb)`,
    values: [JSON.stringify(alerts), facts.runId, moment(facts.startedAt)],
  });
  return alerts;
}

function newsOf(facts: RunFacts, watch: DueWatch, good: GoodField, condition: News['condition']): News {
  return {
    subject: watch.definition.subject,
    site: facts.source.site,
    field: { key: good.field.key, label: good.field.label },
    value: good.value,
    previous: good.known?.value ?? null,
    change: good.change,
    condition,
    seenAt: facts.startedAt,
    lookedBefore: lookedBefore(good.known),
  };
}
