import type { News } from '#core/tell/news';
import { compareDecimals } from '#core/value/decimal';
import { shownPair, shownValue } from '#core/compare/shown';
import { isMeasure, type Value } from '#core/value/value';
import type { Ids } from '../../db/ids';
import { moment, type Db } from '../../db/pool';
import type { DueWatch } from '../context';
import { lookedBefore, type GoodField, type WatchOutcome } from '../judge';
import type { RunFacts, StoredField } from './facts';

/** An alert that this run raised, with its news. */
export interface RaisedAlert {
  id: number;
  ruleId: number;
  watchId: number;
  news: News;
}

/** The rows of news. */
interface NewsRows {
  changes: object[];
  verdicts: object[];
  alerts: RaisedAlert[];
}

/** Stores changes, verdicts, episodes and alerts. Their places in the order of commits are given by the commit. */
export async function storeNews(db: Db, ids: Ids, facts: RunFacts, fields: StoredField[], outcomes: WatchOutcome[]): Promise<RaisedAlert[]> {
  await storeMoves(db, ids, facts, outcomes);
  const telling = fields.filter(({ good }) => good.change !== null || good.judged.some(({ moved }) => moved) || raisedAnew(good));
  if (telling.length === 0) return [];
  const episodes = await moveEpisodes(db, ids, telling);
  const rows = await newsRows(ids, facts, telling, episodes);
  await insertNews(db, facts, rows);
  return rows.alerts;
}

/** Records that came or went are changes of their own, of no field. */
async function storeMoves(db: Db, ids: Ids, facts: RunFacts, outcomes: WatchOutcome[]): Promise<void> {
  const moves = outcomes.flatMap(({ watch, moves: each }) => each.map((move) => ({ watch, ...move })));
  if (moves.length === 0) return;
  const given = await ids.take(moves.length);
  const rows = moves.map(({ watch, identity, change }, at) => ({
    id: given[at], watch: watch.id, version: watch.version, identity, was: change.from, now: change.to, before: moment(watch.lastGoodAt ?? facts.startedAt),
  })); // prettier-ignore
  await db.query(
    `INSERT INTO change (id, run_id, watch_id, watch_version, record_id, field, kind, was, now, sense, seen_at, looked_before)
     SELECT n.id, $2, n.watch, n.version, r.id, 'record', 'record', n.was, n.now, 'neither', $3, n.before
     FROM jsonb_to_recordset($1) AS n(id bigint, watch int, version int, identity text, was jsonb, now jsonb, before timestamptz)
     JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity`,
    [JSON.stringify(rows), facts.runId, moment(facts.startedAt)],
  );
}

/** A raised rule whose value moved on: its episode may have a new peak. */
function raisedAnew(good: GoodField): boolean {
  return good.judged.some(({ step }) => step.state.name === 'raised' && !step.state.waiting && good.opens);
}

async function newsRows(ids: Ids, facts: RunFacts, telling: StoredField[], episodes: Map<string, number>): Promise<NewsRows> {
  const changed = telling.filter(({ good }) => good.change !== null);
  const judged = telling.flatMap((field) => field.good.judged.map((each) => ({ ...field, judged: each })));
  const decided = judged.filter(({ good, judged: { moved } }) => moved || good.change !== null);
  const alerting = judged.filter(({ judged: { step } }) => step.alert);
  const given = await ids.take(changed.length + decided.length + alerting.length);
  const next = () => given.shift() ?? 0;
  const changeOf = new Map(changed.map(({ good }) => [good, next()]));
  return {
    changes: changed.map((field) => changeRow(facts, field, changeOf.get(field.good) ?? 0)),
    verdicts: decided.map((field) => verdictRow(field, next(), changeOf.get(field.good) ?? null)),
    alerts: alerting.map((field) => alertRow(facts, field, next(), changeOf.get(field.good) ?? null, episodes)),
  };
}

type JudgedField = StoredField & { judged: GoodField['judged'][number] };

function changeRow(facts: RunFacts, { watch, good, seriesId }: StoredField, id: number): object {
  const { change, field, known } = good;
  return {
    id,
    watch: watch.id,
    version: watch.version,
    series: seriesId,
    field: field.key,
    kind: change?.kind,
    was: change?.from,
    now: change?.to,
    ...shownSides(change),
    difference: change?.difference,
    percent: change?.percent,
    sense: change?.sense,
    before: moment(lookedBefore(known) ?? facts.startedAt),
  };
}

/** The two sides of a change between long texts as they are shown; nothing where they are short enough to be shown whole. */
function shownSides(change: GoodField['change']): { wasShown?: Value; nowShown?: Value } {
  if (change === null) return {};
  const [wasShown, nowShown] = shownPair(change.from, change.to);
  return wasShown === change.from && nowShown === change.to ? {} : { wasShown, nowShown };
}

function verdictRow({ good, seriesId, judged: { rule, before, step } }: JudgedField, id: number, change: number | null): object {
  const inputs = {
    value: shownValue(good.value),
    previous: good.known === null ? null : shownValue(good.known.value),
    condition: rule.definition.condition,
  };
  return {
    id,
    change,
    rule: rule.id,
    version: rule.version,
    series: seriesId,
    before: before.name,
    after: step.state.name,
    taken: step.alert,
    reason: step.reason,
    inputs,
  };
}

function alertRow(
  facts: RunFacts,
  { watch, good, seriesId, judged: { rule } }: JudgedField,
  id: number,
  change: number | null,
  episodes: Map<string, number>,
) {
  const news = newsOf(facts, watch, good, rule.definition.condition);
  const episode = episodes.get(episodeKey(rule.id, seriesId)) ?? null;
  return { id, ruleId: rule.id, version: rule.version, watchId: watch.id, series: seriesId, change, episode, news };
}

const NEWS = `
WITH changes AS (
  INSERT INTO change (id, run_id, watch_id, watch_version, series_id, field, kind, was, now, was_shown, now_shown, difference, percent, sense, seen_at, looked_before)
  SELECT id, $4, watch, version, series, field, kind, was, now, "wasShown", "nowShown", difference, percent, sense, $5, before
  FROM jsonb_to_recordset($1) AS n(id bigint, watch int, version int, series bigint, field text, kind text, was jsonb, now jsonb,
    "wasShown" jsonb, "nowShown" jsonb, difference numeric, percent numeric, sense text, before timestamptz)
), verdicts AS (
  INSERT INTO verdict (id, run_id, change_id, rule_id, rule_version, series_id, state_before, state_after, taken, reason, inputs, made_at)
  SELECT id, $4, change, rule, version, series, before, after, taken, reason, inputs, $5
  FROM jsonb_to_recordset($2) AS n(id bigint, change bigint, rule int, version int, series bigint, before text, after text, taken boolean, reason text, inputs jsonb)
)
INSERT INTO alert (id, run_id, rule_id, rule_version, watch_id, series_id, change_id, episode_id, news, seen_at)
SELECT id, $4, "ruleId", version, "watchId", series, change, episode, news, $5
FROM jsonb_to_recordset($3) AS n(id bigint, "ruleId" int, version int, "watchId" int, series bigint, change bigint, episode bigint, news jsonb)`;

/** One statement for all news of a run. */
async function insertNews(db: Db, facts: RunFacts, rows: NewsRows): Promise<void> {
  await db.query({
    name: 'insert news',
    text: NEWS,
    values: [JSON.stringify(rows.changes), JSON.stringify(rows.verdicts), JSON.stringify(rows.alerts), facts.runId, moment(facts.startedAt)],
  });
}

const episodeKey = (ruleId: number, seriesId: number) => `${ruleId} ${seriesId}`;

async function moveEpisodes(db: Db, ids: Ids, telling: StoredField[]): Promise<Map<string, number>> {
  const opened = new Map<string, number>();
  for (const { good, seriesId } of telling) {
    for (const { rule, step } of good.judged) {
      const at = moment(good.at);
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

/** News is told, and so carries what of long texts is told. */
function newsOf(facts: RunFacts, watch: DueWatch, good: GoodField, condition: News['condition']): News {
  const { change, known } = good;
  const [previous, value] = known === null ? [null, shownValue(good.value)] : shownPair(known.value, good.value);
  const [from, to] = change === null ? [] : shownPair(change.from, change.to);
  return {
    subject: watch.definition.records.from === 'page' ? watch.definition.subject : good.recordName,
    site: facts.source.site,
    field: { key: good.field.key, label: good.field.label },
    value,
    previous,
    change: change === null ? null : { ...change, from: from ?? change.from, to: to ?? change.to },
    condition,
    seenAt: good.at,
    lookedBefore: lookedBefore(good.known),
  };
}
