import type { RuleId, WatchId } from '#core/id';
import { compareReadings } from '#core/compare/compare';
import { shownPair, shownValue } from '#core/compare/shown';
import type { GoodReading, Verdict } from '#core/judge/known';
import { hasMoved, isTaken } from '#core/judge/watch';
import { storedNews, type News } from '#core/tell/news';
import { moment, type Statement } from '../../db/pool';
import type { RunWatch } from '../context';
import type { RunFacts } from '../facts';
import type { JudgedWatch, StoredReading } from './judged';

/** An alert that this run raised, with its news. */
export interface RaisedAlert {
  id: number;
  ruleId: RuleId;
  watchId: WatchId;
  news: News;
}

/** A verdict that is to be kept, with what it was given on. */
interface KeptVerdict extends StoredReading {
  verdict: Verdict;
}

/** What a run has to tell, before it has numbers. */
export interface Telling {
  changed: StoredReading[];
  verdicts: KeptVerdict[];
  alerting: KeptVerdict[];
  moves: { watch: RunWatch; move: JudgedWatch['outcome']['moves'][number] }[];
}

/** What of a run is news, or a decision on it. */
export function tellingOf(judged: JudgedWatch[], readings: StoredReading[]): Telling {
  const stored = new Map(readings.map((each) => [each.reading, each]));
  const verdicts = judged.flatMap(({ outcome }) =>
    outcome.verdicts.flatMap((verdict) => {
      const reading = stored.get(verdict.reading);
      return reading === undefined ? [] : [{ ...reading, verdict }];
    }),
  );
  return {
    changed: readings.filter(({ reading }) => reading.change !== null),
    verdicts: verdicts.filter(({ reading, verdict }) => reading.change !== null || isDecision(verdict)),
    alerting: verdicts.filter(({ verdict }) => isTaken(verdict)),
    moves: judged.flatMap(({ watch, outcome }) => outcome.moves.map((move) => ({ watch, move }))),
  };
}

/** A verdict that moved a state, or was the first; what a rule merely remembers anew is none. */
function isDecision(verdict: Verdict): boolean {
  const { before, step } = verdict;
  if (!hasMoved(verdict)) return false;
  return before?.state.is !== step.memory.state.is || before.clause !== step.memory.clause || isTaken(verdict);
}

/** How many rows of news need a number. */
export const countNews = ({ changed, verdicts, alerting, moves }: Telling): number =>
  changed.length + verdicts.length + alerting.length + moves.length;

/** Keeps changes, verdicts and alerts in one statement. `ids` has a number for each. */
export function storeNews(
  facts: RunFacts,
  telling: Telling,
  ids: number[],
  episodeOf: ReadonlyMap<Verdict, number>,
): { statements: Statement[]; alerts: RaisedAlert[] } {
  if (countNews(telling) === 0) return { statements: [], alerts: [] };
  const next = () => {
    const [id] = ids.splice(0, 1);
    if (id === undefined) throw new Error('news without a number');
    return id;
  };
  const changeOf = new Map(telling.changed.map(({ reading }) => [reading, next()]));
  const changes = telling.changed.map((each) => changeRow(facts, each, changeOf.get(each.reading)));
  const verdicts = telling.verdicts.map((each) => verdictRow(each, next(), changeOf.get(each.reading) ?? null));
  const alerts = telling.alerting.map((each) => alertRow(facts, each, next(), changeOf.get(each.reading) ?? null, episodeOf));
  const moves = telling.moves.map((each) => moveRow(facts, each, next()));
  const stored = alerts.map(({ news, ...alert }) => ({ ...alert, news: storedNews.write(news) }));
  const values = [changes, verdicts, stored, moves].map((rows) => JSON.stringify(rows));
  return { statements: [{ name: 'store news', text: NEWS, values: [...values, facts.runId, moment(facts.startedAt)] }], alerts };
}

const NEWS = `
WITH changes AS (
  INSERT INTO change (id, run_id, watch_id, watch_version, series_id, field, kind, was, now, was_shown, now_shown, difference, percent, sense, seen_at, looked_before)
  SELECT id, $5, watch, version, series, field, kind, was, now, "wasShown", "nowShown", difference, percent, sense, $6, before
  FROM jsonb_to_recordset($1) AS n(id bigint, watch int, version int, series bigint, field text, kind text, was jsonb, now jsonb,
    "wasShown" jsonb, "nowShown" jsonb, difference numeric, percent numeric, sense text, before timestamptz)
), verdicts AS (
  INSERT INTO verdict (id, run_id, change_id, rule_id, rule_version, series_id, state_before, state_after, taken, reason, inputs, made_at)
  SELECT id, $5, change, rule, version, series, before, after, taken, reason, inputs, $6
  FROM jsonb_to_recordset($2) AS n(id bigint, change bigint, rule int, version int, series bigint, before text, after text, taken boolean, reason jsonb, inputs jsonb)
), moves AS (
  -- Records that came or went are changes of their own, of no field.
  INSERT INTO change (id, run_id, watch_id, watch_version, record_id, field, kind, was, now, sense, seen_at, looked_before)
  SELECT n.id, $5, n.watch, n.version, r.id, 'record', 'record', n.was, n.now, 'neither', $6, n.before
  FROM jsonb_to_recordset($4) AS n(id bigint, watch int, version int, identity text, was jsonb, now jsonb, before timestamptz)
  JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
)
INSERT INTO alert (id, run_id, rule_id, rule_version, watch_id, series_id, change_id, episode_id, news, seen_at)
SELECT id, $5, "ruleId", version, "watchId", series, change, episode, news, $6
FROM jsonb_to_recordset($3) AS n(id bigint, "ruleId" int, version int, "watchId" int, series bigint, change bigint, episode bigint, news jsonb)`;

function changeRow(facts: RunFacts, { watch, reading, seriesId }: StoredReading, id: number | undefined): object {
  const { change, field, known } = reading;
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
    before: moment(known?.lastGoodAt ?? facts.startedAt),
  };
}

function moveRow(facts: RunFacts, { watch, move: { identity, change } }: Telling['moves'][number], id: number): object {
  const before = moment(watch.lastGoodAt ?? facts.startedAt);
  return { id, watch: watch.id, version: watch.version, identity, was: change.from, now: change.to, before };
}

/** The two sides of a change between long texts as they are shown; nothing where they are short enough to be shown whole. */
function shownSides(change: GoodReading['change']): { wasShown?: unknown; nowShown?: unknown } {
  if (change === null) return {};
  const [wasShown, nowShown] = shownPair(change.from, change.to);
  return wasShown === change.from && nowShown === change.to ? {} : { wasShown, nowShown };
}

function verdictRow({ reading, seriesId, verdict }: KeptVerdict, id: number, change: number | null): object {
  const { rule, before, step } = verdict;
  const previous = reading.known === null ? null : shownValue(reading.known.value);
  return {
    id,
    change,
    rule: rule.id,
    version: rule.version,
    series: seriesId,
    before: before?.state.is ?? 'undecided',
    after: step.memory.state.is,
    taken: isTaken(verdict),
    reason: step.reason,
    inputs: { v: 1, value: shownValue(reading.value), previous, condition: rule.definition.condition },
  };
}

function alertRow(
  facts: RunFacts,
  { watch, reading, seriesId, verdict }: KeptVerdict,
  id: number,
  change: number | null,
  episodeOf: ReadonlyMap<Verdict, number>,
) {
  const { rule } = verdict;
  const news = newsOf(facts, watch, reading, rule.definition.condition);
  return { id, ruleId: rule.id, version: rule.version, watchId: watch.id, series: seriesId, change, episode: episodeOf.get(verdict) ?? null, news };
}

/** News is told, and so carries what of long texts is told, and of a measured field how it moved. */
function newsOf(facts: RunFacts, watch: RunWatch, reading: GoodReading, condition: News['condition']): News {
  const { known, field } = reading;
  const [previous, value] = known === null ? [null, shownValue(reading.value)] : shownPair(known.value, reading.value);
  const change = reading.change ?? (known === null ? null : compareReadings(known.value, reading.value, field.polarity));
  const [from, to] = change === null ? [] : shownPair(change.from, change.to);
  return {
    subject: watch.definition.records.from === 'page' ? watch.definition.subject : reading.recordName,
    site: facts.source.site,
    page: facts.source.address,
    field: { key: field.key, label: field.label, ...(field.role === undefined ? {} : { role: field.role }) },
    value,
    previous,
    change: change === null ? null : { ...change, from: from ?? change.from, to: to ?? change.to },
    condition,
    seenAt: reading.at,
    lookedBefore: known?.lastGoodAt ?? null,
  };
}
