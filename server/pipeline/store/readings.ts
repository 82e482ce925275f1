import { describeProblem } from '#core/read/problem';
import { valueColumns } from '#core/value/value';
import type { Ids } from '../../db/ids';
import { moment, type Db } from '../../db/pool';
import type { GoodField, WatchOutcome } from '../judge';
import type { RunFacts, StoredField } from './facts';

/** Stores records, readings and rule states; returns the fields with the ids of their series. */
export async function storeReadings(db: Db, ids: Ids, facts: RunFacts, outcomes: WatchOutcome[]): Promise<StoredField[]> {
  await storeRecords(db, ids, facts, outcomes);
  const fields = await withSeries(db, ids, facts, outcomes);
  await storeValues(db, facts, fields);
  await markUnread(db, outcomes);
  await storeStates(db, facts, fields);
  return fields;
}

const RECORDS = `
WITH new AS (
  SELECT * FROM jsonb_to_recordset($1) AS n(id bigint, watch int, identity text, name text, variant text, labels jsonb, counters jsonb)
), gone AS (
  UPDATE record SET gone_since = $2 FROM unnest($3::bigint[]) AS g(id) WHERE record.id = g.id
), offered AS (
  INSERT INTO offered_record (watch_id, identity, name, first_seen)
  SELECT watch, identity, name, $2 FROM jsonb_to_recordset($4) AS o(watch int, identity text, name text) ON CONFLICT DO NOTHING
)
INSERT INTO record (id, watch_id, identity, name, variant, labels, counters, first_seen)
SELECT id, watch, identity, name, variant, labels, counters, $2 FROM new
ON CONFLICT (watch_id, identity) DO UPDATE
SET name = excluded.name, variant = excluded.variant, labels = excluded.labels, counters = excluded.counters, gone_since = NULL`;

/** Records that are new, back, named anew or count further, those that went, and those that are offered. */
async function storeRecords(db: Db, ids: Ids, facts: RunFacts, outcomes: WatchOutcome[]): Promise<void> {
  const seen = outcomes.flatMap(({ watch, records }) => records.map((record) => ({ watch, record })));
  const touched = seen.filter(
    ({ record: { known, name, counters } }) =>
      known === null || known.goneSince !== null || known.name !== name || JSON.stringify(known.counters) !== JSON.stringify(counters),
  );
  const gone = outcomes.flatMap(({ moves }) =>
    moves.flatMap(({ record, change }) => (change.to.kind === 'absent' && record !== null ? record.id : [])),
  );
  const offered = outcomes.flatMap(({ watch, offered: each }) => each.map((record) => ({ watch: watch.id, ...record })));
  if (touched.length === 0 && gone.length === 0 && offered.length === 0) return;
  const given = await ids.take(touched.filter(({ record }) => record.known === null).length);
  const rows = touched.map(({ watch, record: { known, identity, name, variant, labels, counters } }) => ({
    id: known?.id ?? given.shift(), watch: watch.id, identity, name, variant, labels, counters,
  })); // prettier-ignore
  await db.query({ name: 'store records', text: RECORDS, values: [JSON.stringify(rows), moment(facts.startedAt), gone, JSON.stringify(offered)] });
}

const keyOf = ({ watch, good }: Pick<StoredField, 'watch' | 'good'>) => `${watch.id} ${good.field.key} ${good.identity}`;

async function withSeries(db: Db, ids: Ids, facts: RunFacts, outcomes: WatchOutcome[]): Promise<StoredField[]> {
  const fields = outcomes.flatMap(({ watch, good }) => good.map((each) => ({ watch, good: each })));
  const fresh = new Map<string, (typeof fields)[number]>();
  for (const field of fields) if ((field.good.known?.id ?? 0) === 0) fresh.set(keyOf(field), field);
  if (fresh.size === 0) return fields.map((field) => ({ ...field, seriesId: field.good.known?.id ?? 0 }));

  const given = await ids.take(fresh.size);
  const seriesIds = new Map([...fresh.keys()].map((key, at) => [key, given[at] ?? 0]));
  const rows = [...fresh].map(([key, { watch, good }]) => ({
    series: seriesIds.get(key), watch: watch.id, identity: good.identity, field: good.field.key, value: good.value, at: moment(good.at),
    stamp: good.stamped ? moment(good.at) : null, quality: good.quality,
  })); // prettier-ignore
  await db.query(
    `WITH new AS (SELECT * FROM jsonb_to_recordset($1)
       AS n(series bigint, watch int, identity text, field text, value jsonb, at timestamptz, stamp timestamptz, quality text))
     INSERT INTO series (id, watch_id, record_id, field, value, open_since, last_good_at, source_at, quality)
     SELECT n.series, n.watch, r.id, n.field, n.value, n.at, $2, n.stamp, n.quality FROM new n JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity`,
    [JSON.stringify(rows), moment(facts.startedAt)],
  );
  return fields.map((field) => ({ ...field, seriesId: field.good.known?.id || (seriesIds.get(keyOf(field)) ?? 0) }));
}

async function storeValues(db: Db, facts: RunFacts, fields: StoredField[]): Promise<void> {
  const opened = fields.filter(({ good }) => good.opens);
  const seen = fields.filter(({ good }) => !good.opens);
  if (opened.length > 0) await openReadings(db, facts, opened);
  if (seen.length > 0) await seeAgain(db, facts, seen);
}

/** A late or bad point takes its place among the readings, and leaves what the series stands at. */
const standsAside = (good: GoodField) => good.late || good.quality === 'bad';

const OPEN = `
WITH new AS (
  SELECT * FROM jsonb_to_recordset($1) AS n(id bigint, value jsonb, kind text, amount numeric, unit text, words text, at timestamptz,
    stamp timestamptz, quality text, late boolean, aside boolean)
), latest AS (
  SELECT DISTINCT ON (id) * FROM new WHERE NOT aside ORDER BY id, at DESC
), moved AS (
  UPDATE series s SET value = latest.value, open_since = latest.at, last_good_at = $2, problem = NULL, source_at = latest.stamp, quality = latest.quality
  FROM latest WHERE s.id = latest.id
), heard AS (
  UPDATE series s SET source_at = greatest(s.source_at, n.stamp), quality = n.quality FROM new n
  WHERE n.aside AND NOT n.late AND s.id = n.id AND NOT EXISTS (SELECT FROM latest WHERE latest.id = n.id)
)
INSERT INTO reading (series_id, first_seen, last_seen, kind, amount, unit, words, run_id, quality, late)
SELECT id, at, at, kind, amount, unit, words, $3, quality, late FROM new ON CONFLICT DO NOTHING`;

async function openReadings(db: Db, facts: RunFacts, opened: StoredField[]): Promise<void> {
  const rows = opened.map(({ good, seriesId }) => ({
    id: seriesId, value: good.value, ...valueColumns(good.value), at: moment(good.at), stamp: good.stamped ? moment(good.at) : null,
    quality: good.quality, late: good.late, aside: standsAside(good),
  })); // prettier-ignore
  await db.query({ name: 'open readings', text: OPEN, values: [JSON.stringify(rows), moment(facts.startedAt), facts.runId] });
}

const AGAIN = `
WITH new AS (
  SELECT id, max(at) AS at, max(stamp) AS stamp, max(quality) AS quality, count(*) AS times
  FROM jsonb_to_recordset($1) AS n(id bigint, at timestamptz, stamp timestamptz, quality text) GROUP BY id
), again AS (
  UPDATE series SET last_good_at = $2, problem = NULL, source_at = coalesce(new.stamp, source_at), quality = new.quality
  FROM new WHERE series.id = new.id RETURNING series.id, series.open_since, new.at, new.times
)
UPDATE reading SET last_seen = again.at, runs = runs + again.times FROM again WHERE series_id = again.id AND first_seen = again.open_since`;

async function seeAgain(db: Db, facts: RunFacts, seen: StoredField[]): Promise<void> {
  const rows = seen.map(({ good, seriesId }) => ({
    id: seriesId, at: moment(good.at), stamp: good.stamped ? moment(good.at) : null, quality: good.quality,
  })); // prettier-ignore
  await db.query({ name: 'see again', text: AGAIN, values: [JSON.stringify(rows), moment(facts.startedAt)] });
}

async function markUnread(db: Db, outcomes: WatchOutcome[]): Promise<void> {
  const rows = outcomes
    .flatMap(({ bad }) => bad)
    .flatMap(({ known, problem }) =>
      known === null || known.id === 0
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
  const states = new Map<string, object>();
  for (const { good, seriesId } of fields) {
    for (const { rule, step, moved } of good.judged) {
      if (moved)
        states.set(`${rule.id} ${seriesId}`, {
          rule: rule.id,
          series: seriesId,
          version: rule.version,
          name: step.state.name,
          waiting: step.state.waiting,
        });
    }
  }
  if (states.size === 0) return;
  await db.query({
    name: 'store states',
    text: `INSERT INTO rule_state (rule_id, series_id, version, name, waiting, since)
      SELECT rule, series, version, name, waiting, $2 FROM jsonb_to_recordset($1) AS n(rule int, series bigint, version int, name text, waiting boolean)
      ON CONFLICT (rule_id, series_id) DO UPDATE SET version = excluded.version, name = excluded.name, waiting = excluded.waiting, since = excluded.since`,
    values: [JSON.stringify([...states.values()]), moment(facts.startedAt)],
  });
}
