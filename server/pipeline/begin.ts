import type { RuleId, SeriesId } from '#core/id';
import { Beginning, type Learnt } from '#core/judge/begin';
import type { Latest } from '#core/judge/observation';
import { runsOf } from '#core/judge/past-moments';
import type { KnownRule, Verdict } from '#core/judge/known';
import type { Choice } from '#core/judge/records';
import { countsRuns, seesHistory } from '#core/judge/rule';
import { valueOfColumns, type ValueColumns } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db, type Statement } from '../db/base/pool';
import type { Span } from '../db/base/span';
import { loadItems } from '../db/item/known-items';
import { runsOfWatch } from '../db/reading/histories';
import { latestOfOtherWatches } from './other-watches';
import { loadSubjects, type SubjectWatch } from './subjects';
import type { JudgedWatch } from './store/judged';
import type { WatchVerdict } from './store/states';

// A rule that is said of a watch which has been read: it sees the history of before, and its baseline is the latest
// good reading, if that is no older than two runs.

/** What a rule was found to be when it began, with its watch. */
export interface Begun {
  watch: SubjectWatch;
  /** The records that it chose, where it runs for the highest or lowest. */
  choice: Choice | null;
  judged: WatchVerdict[];
  remembered: WatchVerdict[];
}

/** Begins a rule. Its caller holds the source of its watch. Null where it is gone. */
export async function beginRule(db: Db, id: RuleId, now: Instant): Promise<Begun | null> {
  const [watch] = await loadSubjects(db, { rules: [id], records: null });
  const [rule] = watch?.rules ?? [];
  if (watch === undefined || rule === undefined) return null;
  const items = (await loadItems(db, [watch], now)).get(watch.id);
  const beside = { elsewhere: await latestOfOtherWatches(db, [rule]), ...(items === undefined ? {} : { items }) };
  const beginning = new Beginning({ ...watch, ...beside }, rule, now);
  const { choice, judged, remembered } = beginning.on(await historyOf(db, watch, rule, beginning.learnt));
  const of = (verdict: Verdict): WatchVerdict => ({ watch, verdict });
  return { watch, choice, judged: judged.map(of), remembered: remembered.map(of) };
}

/**
 * As many readings as a stretch keeps, and of many records fewer of each; of a rule that only asks what stood before,
 * that alone.
 */
const MOST_LEARNT = 2_000;
const MOST_OF_ALL = 500_000;

const HISTORY = `
SELECT s.id AS "seriesId", r.first_seen AS at, r.last_seen AS until, r.runs, r.kind, r.amount, r.unit, r.words
FROM unnest($1::bigint[], $3::timestamptz[]) AS s(id, before)
CROSS JOIN LATERAL (
  SELECT * FROM reading_seen x WHERE x.series_id = s.id AND x.first_seen < s.before AND x.quality IS DISTINCT FROM 'bad'
  ORDER BY x.first_seen DESC LIMIT $2
) r
ORDER BY s.id, r.first_seen`;

type HistoryRow = { seriesId: SeriesId; at: Instant; until: Instant; runs: number } & ValueColumns;

/**
 * The readings of before its baseline that a rule learns from, the oldest first. Where every run counts for it, a
 * value that was seen at many stands for each of them.
 */
async function historyOf(
  db: Db,
  watch: SubjectWatch,
  { definition }: KnownRule,
  learnt: readonly Learnt[],
): Promise<ReadonlyMap<SeriesId, Latest[]>> {
  const before = new Map(learnt.map((each) => [each.series, each.before]));
  if (before.size === 0) return new Map();
  const sees = seesHistory(definition);
  const most = sees ? Math.ceil(Math.min(MOST_LEARNT, MOST_OF_ALL / before.size)) : 1;
  const { rows } = await db.query<HistoryRow>(HISTORY, [[...before.keys()], most, [...before.values()].map(moment)]);
  const each = sees && countsRuns(definition);
  const read = each && rows.length > 0 ? (await runsOfWatch(db, watch.id, spanOf(rows))).runs.read : [];
  const history = new Map<SeriesId, Latest[]>([...before.keys()].map((series) => [series, []]));
  for (const { seriesId, at, until, runs, ...columns } of rows) {
    const looks = runsOf({ at, until, runs, value: valueOfColumns(columns) }, each, most + 1, read);
    for (const look of looks) if (look.at < (before.get(seriesId) ?? 0)) history.get(seriesId)?.push(look);
  }
  for (const looks of history.values()) looks.splice(0, looks.length - most);
  return history;
}

const spanOf = (rows: readonly HistoryRow[]): Span => ({
  since: rows.reduce((first, { at }) => Math.min(first, at), Infinity),
  until: rows.reduce((last, { until }) => Math.max(last, until), -Infinity),
});

/** Keeps what rules chose to run for. */
export function rulesChosen(choices: { rule: RuleId; choice: Choice }[]): Statement[] {
  if (choices.length === 0) return [];
  const text =
    'UPDATE rule u SET choice = n.choice FROM jsonb_to_recordset($1) AS n(rule int, choice jsonb) WHERE u.id = n.rule';
  return [{ name: 'rules chosen', text, values: [JSON.stringify(choices)] }];
}

/** The baselines of rules that were said before their watch was read: this is the first good run since. */
export function rulesBegun(judged: JudgedWatch[], at: Instant): Statement[] {
  const first = judged.flatMap(({ watch, outcome }) =>
    outcome.good.length === 0 ? [] : watch.rules.flatMap(({ id, baselineAt }) => (baselineAt === null ? id : [])),
  );
  if (first.length === 0) return [];
  return [
    {
      name: 'rules begun',
      text: 'UPDATE rule SET baseline_at = $2 WHERE id = ANY($1) AND baseline_at IS NULL',
      values: [first, moment(at)],
    },
  ];
}
