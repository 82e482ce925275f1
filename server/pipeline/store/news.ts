import type { News } from '#core/tell/news';
import { compareDecimals } from '#core/value/decimal';
import { isMeasure, type Value } from '#core/value/value';
import type { Ids } from '../../db/ids';
import { moment, type Db } from '../../db/pool';
import type { DueWatch } from '../context';
import { lookedBefore, type GoodField } from '../judge';
import type { RunFacts, StoredField } from './facts';

/** An alert that this run raised, with its news. */
export interface RaisedAlert {
  id: number;
  seq: number;
  ruleId: number;
  watchId: number;
  news: News;
}

/** The rows of news, before the order of commits gives them their numbers. */
interface NewsRows {
  changes: object[];
  verdicts: object[];
  alerts: (Omit<RaisedAlert, 'seq'> & object)[];
}

/**
 * Stores changes, verdicts, episodes and alerts, and gives news its place in the order of commits. From that statement
 * to the commit this transaction alone makes news: that is what makes the order one of commits and not of clocks, and
 * why it comes last.
 */
export async function storeNews(db: Db, ids: Ids, facts: RunFacts, fields: StoredField[]): Promise<RaisedAlert[]> {
  const telling = fields.filter(({ good }) => good.change !== null || good.judged.some(({ moved }) => moved) || raisedAnew(good));
  if (telling.length === 0) return [];
  const episodes = await moveEpisodes(db, ids, facts, telling);
  const rows = await newsRows(ids, facts, telling, episodes);
  const count = rows.changes.length + rows.alerts.length;
  const last = await insertNews(db, facts, rows, count);
  return rows.alerts.map((alert, at) => ({ ...alert, seq: last - rows.alerts.length + 1 + at }));
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
  const changeOf = new Map(changed.map(({ seriesId }) => [seriesId, next()]));
  return {
    changes: changed.map((field) => changeRow(facts, field, changeOf.get(field.seriesId) ?? 0)),
    verdicts: decided.map((field) => verdictRow(field, next(), changeOf.get(field.seriesId) ?? null)),
    alerts: alerting.map((field) => alertRow(facts, field, next(), changeOf.get(field.seriesId) ?? null, episodes)),
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
    difference: change?.difference,
    percent: change?.percent,
    sense: change?.sense,
    before: moment(lookedBefore(known) ?? facts.startedAt),
  };
}

function verdictRow({ good, seriesId, judged: { rule, before, step } }: JudgedField, id: number, change: number | null): object {
  const inputs = { value: good.value, previous: good.known?.value ?? null, condition: rule.definition.condition };
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
WITH placed AS (
  UPDATE commit_order SET last = last + $6 WHERE $6 > 0 RETURNING last
), changes AS (
  INSERT INTO change (id, seq, run_id, watch_id, watch_version, series_id, field, kind, was, now, difference, percent, sense, seen_at, looked_before)
  SELECT id, placed.last - $6 + n.at, $4, watch, version, series, field, kind, was, now, difference, percent, sense, $5, before
  FROM placed, ROWS FROM (jsonb_to_recordset($1) AS (id bigint, watch int, version int, series bigint, field text, kind text, was jsonb, now jsonb,
    difference numeric, percent numeric, sense text, before timestamptz)) WITH ORDINALITY
    AS n(id, watch, version, series, field, kind, was, now, difference, percent, sense, before, at)
), verdicts AS (
  INSERT INTO verdict (id, run_id, change_id, rule_id, rule_version, series_id, state_before, state_after, taken, reason, inputs, made_at)
  SELECT id, $4, change, rule, version, series, before, after, taken, reason, inputs, $5
  FROM jsonb_to_recordset($2) AS n(id bigint, change bigint, rule int, version int, series bigint, before text, after text, taken boolean, reason text, inputs jsonb)
), alerts AS (
  INSERT INTO alert (id, seq, run_id, rule_id, rule_version, watch_id, series_id, change_id, episode_id, news, seen_at)
  SELECT id, placed.last - $7 + n.at, $4, rule, version, watch, series, change, episode, news, $5
  FROM placed, ROWS FROM (jsonb_to_recordset($3) AS ("ruleId" int, id bigint, version int, "watchId" int, series bigint, change bigint, episode bigint, news jsonb)) WITH ORDINALITY
    AS n(rule, id, version, watch, series, change, episode, news, at)
)
SELECT last FROM placed`;

/** One statement for all news of a run; returns the last place given in the order of commits. */
async function insertNews(db: Db, facts: RunFacts, rows: NewsRows, count: number): Promise<number> {
  const { rows: placed } = await db.query<{ last: number }>({
    name: 'insert news',
    text: NEWS,
    values: [
      JSON.stringify(rows.changes), JSON.stringify(rows.verdicts), JSON.stringify(rows.alerts), facts.runId, moment(facts.startedAt), count, rows.alerts.length,
    ], // prettier-ignore
  });
  return placed[0]?.last ?? 0;
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
