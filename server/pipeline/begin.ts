import type { RuleId, SeriesId } from '#core/id';
import { runsOf } from '#core/judge/backtest';
import { freshFor, type Latest } from '#core/judge/observation';
import { RuleJudging, knownSeries, situationOf } from '#core/judge/judging';
import type { GoodReading, KnownRecord, KnownRule, KnownSeries, Verdict } from '#core/judge/known';
import type { Placed } from '#core/judge/placing';
import type { RuleMemory } from '#core/judge/memory';
import { choiceOf, lets, type Choice, type Filtered } from '#core/judge/records';
import { isOwn, keyOf } from '#core/judge/asked';
import { asksOfRule, countsRuns, isAbout, seesHistory } from '#core/judge/rule';
import { Sharers } from '#core/judge/sharing';
import { freshSubject, learnSubject, tellSubject } from '#core/judge/subject';
import { valueOfColumns, type ValueColumns } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db, type Statement } from '../db/base/pool';
import { latestOfOtherWatches } from './other-watches';
import { loadItems } from '../db/item/known-items';
import { loadSubjects, type SubjectWatch } from './subjects';
import type { JudgedWatch } from './store/judged';
import type { WatchVerdict } from './store/states';

// A rule that is said of a watch which has been read: it sees the history of before, and its baseline is the latest
// good reading, if that is no older than two runs.

/**
 * What a rule was found to be when it began: what was judged at its baseline, and what is only remembered of records
 * without one.
 */
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
  const { only } = rule.definition;
  const filtered = (record: KnownRecord): Filtered => ({
    ...record,
    name: nameOf(record),
    fieldOf: (field) => record.series.get(field)?.value,
    item: items?.of.get(record.identity)?.item,
  });
  const all = [...watch.records.values()].filter(({ goneSince }) => goneSince === null);
  const choice = choiceOf(only, () => all.map(filtered), null, now);
  const there = all.filter((record) => isAbout(rule.definition, record) && lets(only, filtered(record), choice));
  const gone = goneOf(watch, (record) => isAbout(rule.definition, record) && lets(only, filtered(record), choice));
  const sharers = new Sharers(all);
  const learnt = new Map(
    [...there, ...gone].map((record) => [record.identity, learntOf(rule, watch, record, sharers, now)]),
  );
  const history = await historyOf(db, rule, [...learnt.values()].flat());
  const learned = (record: KnownRecord) =>
    learnedOf(rule, watch, { record, learnt: learnt.get(record.identity) ?? [] }, history, now);
  const memories = new Map(there.map((record) => [record.identity, learned(record)]));
  const beside = { elsewhere: await latestOfOtherWatches(db, [rule]), ...(items === undefined ? {} : { items }) };
  const known = { ...watch, ...beside, rules: [{ ...rule, memories, choice }] };
  const judging = new RuleJudging(known, now);
  // What those read that it does not run for may stand beside those that it does.
  const placed = all.map((record) => placedOf(record, watch, now));
  judging.hear(
    placed.filter(({ good }) => good.length > 0),
    knownSeries(watch),
  );
  const heard = new Set(judging.verdicts.map(({ identity }) => identity));
  const fresh = (verdict: Verdict): WatchVerdict => ({ watch, verdict: { ...verdict, rule } });
  const silent = there.filter(({ identity }) => !heard.has(identity));
  return {
    watch,
    choice,
    judged: judging.verdicts.map(fresh),
    remembered: [
      ...silent.flatMap((record) => {
        const memory = memories.get(record.identity);
        return memory === undefined ? [] : [fresh(remembered(rule, record, memory, now))];
      }),
      ...gone.map((record) => fresh(remembered(rule, record, awaited(learned(record)), now))),
    ],
  };
}

/** Of so many records that are gone, those that went last, is their past known when they are back. */
const MOST_GONE = 500;

/** Records that are gone, of those that are asked: one that comes back goes on from what was read of it. */
const goneOf = ({ records }: SubjectWatch, asked: (record: KnownRecord) => boolean): KnownRecord[] =>
  [...records.values()]
    .filter((record) => record.goneSince !== null && asked(record))
    .sort((one, other) => (other.goneSince ?? 0) - (one.goneSince ?? 0))
    .slice(0, MOST_GONE);

/** Nothing is judged of it before it is back. */
const awaited = ({ judged, telling }: RuleMemory): RuleMemory => ({ judged: { ...judged, away: 'dropped' }, telling });

const nameOf = ({ name, identity }: KnownRecord) => name ?? identity;

/** A record of which only history is known: it waits for its baseline. */
function remembered(
  rule: KnownRule,
  record: KnownRecord,
  memory: ReturnType<typeof freshSubject>,
  now: Instant,
): Verdict {
  const turn = { ...(tellSubject(rule.definition, memory, { is: 'started' }, now)[0] as Verdict['turn']), memory };
  return {
    rule,
    identity: record.identity,
    recordName: nameOf(record),
    before: memory,
    turn,
    reason: { code: 'undecided' },
    about: null,
    carried: [],
  };
}

/**
 * What is known of a record now, as if it had just been read: its fields whose last good reading is no older than two
 * looks.
 */
function placedOf(record: KnownRecord, watch: SubjectWatch, now: Instant): Placed {
  const good = watch.definition.fields.flatMap((field): GoodReading[] => {
    const known = record.series.get(field.key);
    if (known === undefined || !isFresh(known, watch, now)) return [];
    const { value } = known;
    return [
      {
        field,
        identity: record.identity,
        recordName: nameOf(record),
        value,
        known,
        opens: false,
        change: null,
        at: readAt(known),
        stamped: false,
        quality: null,
        late: false,
      },
    ];
  });
  return { identity: record.identity, name: nameOf(record), labels: record.labels, known: record, good };
}

/** Whether what was read last is recent enough to be a baseline. */
const isFresh = ({ lastGoodAt }: KnownSeries, watch: SubjectWatch, now: Instant): boolean =>
  now - lastGoodAt <= freshFor(watch);

/** When it was so, by the source's own time where it gives one. */
const readAt = ({ sourceAt, lastGoodAt }: KnownSeries): Instant => sourceAt ?? lastGoodAt;

type History = ReadonlyMap<SeriesId, Latest[]>;

/** A series that a rule learns from, by the name under which it asks it. */
interface Learnt {
  key: string;
  series: SeriesId;
  /** Until when it is history: its latest reading may be the baseline. */
  before: Instant;
}

/** What a rule learns from for a record: its own series, and those of the records of the same watch that it names. */
function learntOf(
  { definition }: KnownRule,
  watch: SubjectWatch,
  record: KnownRecord,
  sharers: Sharers,
  now: Instant,
): Learnt[] {
  return asksOfRule(definition).flatMap((asked): Learnt[] => {
    const named = isOwn(asked)
      ? record.identity
      : asked.sharing === undefined
        ? (asked.record ?? null)
        : sharers.of(asked.sharing, record.identity);
    const known =
      asked.watch !== undefined || named === null ? undefined : watch.records.get(named)?.series.get(asked.field);
    return known?.id == null
      ? []
      : [{ key: keyOf(asked), series: known.id, before: isFresh(known, watch, now) ? readAt(known) : now }];
  });
}

function learnedOf(
  rule: KnownRule,
  watch: SubjectWatch,
  { record, learnt }: { record: KnownRecord; learnt: readonly Learnt[] },
  history: History,
  now: Instant,
): ReturnType<typeof freshSubject> {
  let memory = freshSubject(rule.definition, situationOf(rule, watch, record, now));
  for (const { key, series } of learnt)
    for (const reading of history.get(series) ?? []) memory = learnSubject(rule.definition, memory, key, reading);
  return memory;
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
async function historyOf(db: Db, { definition }: KnownRule, learnt: readonly Learnt[]): Promise<History> {
  const before = new Map(learnt.map((each) => [each.series, each.before]));
  if (before.size === 0) return new Map();
  const sees = seesHistory(definition);
  const most = sees ? Math.ceil(Math.min(MOST_LEARNT, MOST_OF_ALL / before.size)) : 1;
  const { rows } = await db.query<HistoryRow>(HISTORY, [[...before.keys()], most, [...before.values()].map(moment)]);
  const each = sees && countsRuns(definition);
  const history = new Map<SeriesId, Latest[]>([...before.keys()].map((series) => [series, []]));
  for (const { seriesId, at, until, runs, ...columns } of rows) {
    const looks = runsOf({ at, until, runs, value: valueOfColumns(columns) }, each, most + 1);
    for (const look of looks) if (look.at < (before.get(seriesId) ?? 0)) history.get(seriesId)?.push(look);
  }
  for (const looks of history.values()) looks.splice(0, looks.length - most);
  return history;
}

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
