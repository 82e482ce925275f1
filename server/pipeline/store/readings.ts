import { describeProblem } from '#core/read/read';
import { isMeasure, unitOf, type Value } from '#core/value/value';
import type { Ids } from '../../db/ids';
import { moment, type Db } from '../../db/pool';
import type { WatchOutcome } from '../judge';
import type { RunFacts, StoredField } from './facts';

/** Stores readings and rule states; returns the fields with the ids of their series. */
export async function storeReadings(db: Db, ids: Ids, facts: RunFacts, outcomes: WatchOutcome[]): Promise<StoredField[]> {
  const fields = await withSeries(db, ids, facts, outcomes);
  await storeValues(db, facts, fields);
  await markUnread(db, outcomes);
  await storeStates(db, facts, fields);
  return fields;
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
