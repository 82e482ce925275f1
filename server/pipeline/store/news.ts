import type { ReportId, RuleId, RunId, SeriesId, WatchId } from '#core/id';
import { shownPair, shownValue } from '#core/compare/shown';
import type { About, GoodReading, Verdict } from '#core/judge/known';
import type { Sense } from '#core/compare/compare';
import { asksOfRule, ownFields, type RuleDefinition } from '#core/judge/rule';
import { isNotifying, type Turn } from '#core/judge/subject';
import { hasMoved, isTaken } from '#core/judge/watch';
import { storedNews, type News } from '#core/tell/news';
import { ABSENT } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import type { Happened } from '../../db/report/followers';
import { moment, type Statement } from '../../db/base/pool';
import type { RunWatch } from '../context';
import type { RunFacts } from '../facts';
import { seriesName, type JudgedWatch, type StoredReading } from './judged';
import type { RuledWatch, WatchVerdict } from './states';

/** An alert that was raised, with its news. */
export interface RaisedAlert {
  id: number;
  ruleId: RuleId;
  watchId: WatchId;
  news: News;
  /** Told through this report alone, and not through those of its rule. */
  report?: ReportId;
}

/**
 * What the watches of a run have to tell besides what their rules say: fields that changed, and records that came or
 * went.
 */
export interface RunNews {
  changed: StoredReading[];
  moves: { watch: RunWatch; move: JudgedWatch['outcome']['moves'][number] }[];
}

/** What of a run is news of itself. */
export function runNewsOf(judged: JudgedWatch[], readings: StoredReading[]): RunNews {
  return {
    changed: readings.filter(({ reading }) => reading.change !== null),
    moves: judged.flatMap(({ watch, outcome }) => outcome.moves.map((move) => ({ watch, move }))),
  };
}

/** What came of judging, and when: in a run, or by the clock or a person's deed. */
export interface JudgedAt {
  at: Instant;
  runId: RunId | null;
  /** In a run, the watches that were looked at, and those of them that moved. */
  happened?: Happened;
}

/** How many rows these verdicts need numbers for at most: each with every field that changed, and whatever it tells. */
export const mostVerdictRows = (verdicts: WatchVerdict[]): number =>
  verdicts.reduce(
    (sum, { verdict: { rule, turn } }) => sum + 1 + ownFields(rule.definition).length + turn.told.length,
    0,
  );

/** Hands out numbers one by one. */
function numbering(ids: number[]): () => number {
  let next = 0;
  return () => {
    const id = ids[next++];
    if (id === undefined) throw new Error('news without a number');
    return id;
  };
}

/** The changes of a run, by the watch, record and field that they are of. */
type ChangeIds = ReadonlyMap<string, number>;

/** Keeps the changes of a run, and gives each its number. */
export function storeChanges(
  facts: RunFacts,
  { changed, moves }: RunNews,
  ids: number[],
): { statements: Statement[]; changeOf: ChangeIds } {
  const next = numbering(ids);
  const changeOf = new Map(
    changed.map(({ watch, reading }) => [seriesName(watch.id, reading.identity, reading.field.key), next()]),
  );
  if (changed.length + moves.length === 0) return { statements: [], changeOf };
  const changes = changed.map((each) =>
    changeRow(facts, each, changeOf.get(seriesName(each.watch.id, each.reading.identity, each.reading.field.key))),
  );
  const values = [JSON.stringify(changes), JSON.stringify(moves.map((each) => moveRow(facts, each, next())))];
  return {
    statements: [{ name: 'store changes', text: CHANGES, values: [...values, facts.runId, moment(facts.startedAt)] }],
    changeOf,
  };
}

const CHANGES = `
WITH moves AS (
  -- Records that came or went are changes of their own, of no field.
  INSERT INTO change (id, run_id, watch_id, watch_version, record_id, field, kind, was, now, sense, seen_at,
    looked_before)
  SELECT n.id, $3, n.watch, n.version, r.id, 'record', 'record', n.was, n.now, 'neither', $4, n.before
  FROM jsonb_to_recordset($2) AS n(id bigint, watch int, version int, identity text, was jsonb, now jsonb,
    before timestamptz)
  JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
)
INSERT INTO change (id, run_id, watch_id, watch_version, series_id, field, kind, was, now, was_shown, now_shown,
  difference, percent, sense, seen_at, looked_before)
SELECT id, $3, watch, version, series, field, kind, was, now, "wasShown", "nowShown", difference, percent, sense, $4,
  before
FROM jsonb_to_recordset($1) AS n(id bigint, watch int, version int, series bigint, field text, kind text, was jsonb,
  now jsonb,
  "wasShown" jsonb, "nowShown" jsonb, difference numeric, percent numeric, sense text, before timestamptz)`;

/** Keeps verdicts and alerts, in one statement. `ids` has a number for each; `seriesOf` the series that are new. */
export function storeVerdicts(
  { at, runId }: JudgedAt,
  verdicts: WatchVerdict[],
  ids: number[],
  known: { changeOf: ChangeIds; seriesOf: ReadonlyMap<string, SeriesId>; episodeOf: ReadonlyMap<Verdict, number> },
): { statements: Statement[]; alerts: RaisedAlert[] } {
  const next = numbering(ids);
  const placed = verdicts.map((each) => ({
    ...each,
    changes: changesOf(each, known.changeOf),
    seriesId: seriesOf(each, known.seriesOf),
  }));
  const rows = placed.flatMap((each) => {
    if (each.changes.length > 0) return each.changes.map((change) => verdictRow(each, next(), change));
    return isDecision(each.verdict) ? [verdictRow(each, next(), null)] : [];
  });
  const alerts = placed.flatMap((each) =>
    each.verdict.turn.told
      .filter(isNotifying)
      .map((told) => alertOf(each, told, next(), known.episodeOf.get(each.verdict) ?? null)),
  );
  if (rows.length === 0 && alerts.length === 0) return { statements: [], alerts: [] };
  const stored = alerts.map(({ row, news }) => ({ ...row, news: storedNews.write(news) }));
  const values = [JSON.stringify(rows), JSON.stringify(stored), runId, moment(at)];
  return {
    statements: [{ name: 'store verdicts', text: VERDICTS, values }],
    alerts: alerts.map(({ row, news }) => ({ id: row.id, ruleId: row.ruleId, watchId: row.watchId, news })),
  };
}

const VERDICTS = `
WITH verdicts AS (
  INSERT INTO verdict (id, run_id, change_id, rule_id, rule_version, series_id, record_id, state_before, state_after,
    taken, reason, inputs, made_at)
  SELECT n.id, $3, n.change, n.rule, n.version, n.series, r.id, n.before, n.after, n.taken, n.reason, n.inputs, $4
  FROM jsonb_to_recordset($1) AS n(id bigint, change bigint, rule int, version int, series bigint, watch int,
    identity text, before text, after text,
    taken boolean, reason jsonb, inputs jsonb)
  LEFT JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
)
INSERT INTO alert (id, run_id, rule_id, rule_version, watch_id, series_id, record_id, change_id, episode_id, told, news,
  seen_at)
SELECT n.id, $3, n."ruleId", n.version, n."watchId", n.series, r.id, n.change,
  -- What is told of an episode later than at its opening belongs to the latest one.
  coalesce(n.episode, CASE WHEN n.inside THEN (
    SELECT e.id FROM episode e WHERE e.rule_id = n."ruleId" AND e.record_id = r.id ORDER BY e.opened_at DESC, e.id DESC
    LIMIT 1) END),
  n.told, n.news, $4
FROM jsonb_to_recordset($2) AS n(id bigint, "ruleId" int, version int, "watchId" int, series bigint, identity text,
  change bigint, episode bigint,
  inside boolean, told text, news jsonb)
LEFT JOIN record r ON r.watch_id = n."watchId" AND r.identity = n.identity`;

/** A verdict that moved a state, told something, or was the first; what a rule merely remembers anew is none. */
function isDecision(verdict: Verdict): boolean {
  const { rule, identity, turn } = verdict;
  if (isTaken(verdict) || turn.before !== turn.after || turn.told.length > 0) return true;
  if (!hasMoved(verdict)) return false;
  return !rule.memories.has(identity) || turn.memory.judged.heldBack.length !== verdict.before.judged.heldBack.length;
}

interface PlacedVerdict extends WatchVerdict {
  changes: number[];
  seriesId: SeriesId | null;
}

/** The changes of its record that a rule looked at: of the field that its verdict is about first. */
function changesOf({ watch, verdict: { rule, identity, about, turn } }: WatchVerdict, changeOf: ChangeIds): number[] {
  // Only a run brings changes about.
  if (turn.by !== 'run' || changeOf.size === 0) return [];
  const fields = new Set([...(about?.reading == null ? [] : [about.field.key]), ...ownFields(rule.definition)]);
  return [...fields].flatMap((field) => changeOf.get(seriesName(watch.id, identity, field)) ?? []);
}

function seriesOf(
  { watch, verdict: { identity, about } }: WatchVerdict,
  fresh: ReadonlyMap<string, SeriesId>,
): SeriesId | null {
  return about === null ? null : (about.seriesId ?? fresh.get(seriesName(watch.id, identity, about.field.key)) ?? null);
}

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

function moveRow(facts: RunFacts, { watch, move: { identity, change } }: RunNews['moves'][number], id: number): object {
  const before = moment(watch.lastGoodAt ?? facts.startedAt);
  return { id, watch: watch.id, version: watch.version, identity, was: change.from, now: change.to, before };
}

/**
 * The two sides of a change between long texts as they are shown; nothing where they are short enough to be shown
 * whole.
 */
function shownSides(change: GoodReading['change']): { wasShown?: unknown; nowShown?: unknown } {
  if (change === null) return {};
  const [wasShown, nowShown] = shownPair(change.from, change.to);
  return wasShown === change.from && nowShown === change.to ? {} : { wasShown, nowShown };
}

function verdictRow({ watch, verdict, seriesId }: PlacedVerdict, id: number, change: number | null): object {
  const { rule, identity, turn, reason, about } = verdict;
  return {
    id,
    change,
    rule: rule.id,
    version: rule.version,
    series: seriesId,
    watch: watch.id,
    identity,
    before: turn.before,
    after: turn.after,
    taken: isTaken(verdict),
    reason,
    inputs: {
      v: 2,
      value: about === null ? null : shownValue(about.value),
      previous: about?.previous == null ? null : shownValue(about.previous),
      when: rule.definition.when,
    },
  };
}

type Notified = Turn['told'][number];

function alertOf(
  { watch, verdict, changes, seriesId }: PlacedVerdict,
  told: Notified,
  id: number,
  opened: number | null,
) {
  const { rule, identity, turn } = verdict;
  const inside = opened === null && (turn.before === 'raised' || turn.after === 'raised');
  const row = {
    id,
    ruleId: rule.id,
    version: rule.version,
    watchId: watch.id,
    series: seriesId,
    identity,
    change: changes[0] ?? null,
    episode: opened,
    inside,
    told: told.what,
  };
  return { row, news: newsOf(watch, verdict, told) };
}

/** News is told, and so carries what of long texts is told, and of a measured field how it moved. */
export function newsOf(watch: RuledWatch, verdict: Verdict, told: Notified): News {
  const { rule, recordName, about, carried, turn } = verdict;
  const { definition } = rule;
  const labelled = watch.definition.fields.filter(({ key }) =>
    asksOfRule(definition).some(({ field }) => field === key),
  );
  return {
    subject: watch.definition.records.from === 'page' ? watch.definition.subject : recordName,
    site: watch.site,
    page: watch.page,
    ...(about === null ? NOTHING_READ : readOf(about)),
    asked: definition.when,
    labels: Object.fromEntries(labelled.map(({ key, label }) => [key, label])),
    ...notifiedAs(verdict, told),
    ...(courseOf(verdict) ?? {}),
    ...(definition.weight === undefined ? {} : { weight: definition.weight }),
    ...(definition.name === undefined ? {} : { rule: definition.name }),
    ...ownOf(definition, about?.change?.sense),
    ...(madeOf(verdict) ?? {}),
    ...(carried.length === 0
      ? {}
      : { carried: carried.map(({ field, value }) => ({ label: field.label, value: shownValue(value) })) }),
    seenAt: turn.by === 'run' && about?.reading != null ? about.at : told.at,
    lookedBefore: about?.lookedBefore ?? null,
  };
}

/** Her own words, by how what happened is to be taken. */
function ownOf({ wording = {} }: RuleDefinition, sense: Sense = 'neither'): Pick<News, 'own'> {
  const own = wording[sense];
  return own === undefined ? {} : { own };
}

/** What the stretch of a rule of one clause came to. */
function madeOf({ rule: { definition }, turn }: Verdict): Pick<News, 'made' | 'reaches'> | null {
  const { when } = definition;
  const why = turn.findings[0]?.why;
  const isOver = 'kind' in when && 'of' in when && when.of.over !== undefined;
  if (!isOver || why?.code !== 'stands at') return null;
  return { made: why.value, ...(why.reaches === undefined ? {} : { reaches: why.reaches }) };
}

const NOTHING_READ = { field: { key: 'record', label: 'record' }, value: ABSENT, previous: null, change: null };

function readOf({ field, value, previous, change }: About): Pick<News, 'field' | 'value' | 'previous' | 'change'> {
  const [was, now] = previous === null ? [null, shownValue(value)] : shownPair(previous, value);
  const [from, to] = change === null ? [] : shownPair(change.from, change.to);
  return {
    field: { key: field.key, label: field.label, ...(field.role === undefined ? {} : { role: field.role }) },
    value: now,
    previous: was,
    change: change === null ? null : { ...change, from: from ?? change.from, to: to ?? change.to },
  };
}

/** What is told of it; nothing where it is what a rule waits for. */
function notifiedAs({ opener }: Verdict, told: Notified): Pick<News, 'told'> {
  if (told.what !== 'alert') return { told: notificationOf(told) };
  return opener === undefined ? {} : { told: { what: 'opened', ...opener } };
}

function notificationOf(told: Notified): NonNullable<News['told']> {
  if (told.what === 'several') {
    const { count, since, together } = told;
    return { what: 'several', count, since, ...(together === undefined ? {} : { together }) };
  }
  return told.what === 'kept' ? { what: 'alert' } : { what: told.what };
}

/** The episode that is told of, as far as it has come. */
function courseOf({ before, turn }: Verdict): Pick<News, 'course'> | null {
  const state = turn.memory.judged.state.is === 'raised' ? turn.memory.judged.state : before.judged.state;
  if (state.is !== 'raised') return null;
  return {
    course: { opened: state.opened, peak: state.peak?.value ?? null, closed: turn.after === 'raised' ? null : turn.at },
  };
}
