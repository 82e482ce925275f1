import type { SeriesId } from '../id';
import type { Instant } from '../when/interval';
import { isOwn, keyOf } from './asked';
import { RuleJudging, knownSeries, situationOf } from './judging';
import type { GoodReading, KnownRecord, KnownRule, KnownSeries, KnownWatch, Verdict } from './known';
import type { RuleMemory } from './memory';
import { freshFor, type Latest } from './observation';
import type { Placed } from './placing';
import { choiceOf, lets, type Choice, type Filtered } from './records';
import { asksOfRule, isAbout } from './rule';
import { Sharers } from './sharing';
import { freshSubject, learnSubject, tellSubject } from './subject';

// How a rule begins on a watch that has been read: it sees the history of before, and its baseline is the latest good
// reading, if that is no older than two intervals (5).

/** What is known of before a baseline, by series, the oldest first. */
type Before = ReadonlyMap<SeriesId, readonly Latest[]>;

/** What a rule was found to be when it began: at its baseline, and what it only remembers of records without one. */
interface BegunOn {
  /** The records that it chose, where it runs for the highest or lowest. */
  choice: Choice | null;
  judged: Verdict[];
  remembered: Verdict[];
}

/** A rule that begins on a watch at a moment. */
export class Beginning {
  readonly #all: readonly KnownRecord[];
  readonly #there: readonly KnownRecord[];
  readonly #gone: readonly KnownRecord[];
  readonly #choice: Choice | null;
  readonly #learnt: ReadonlyMap<string, readonly Learnt[]>;

  constructor(
    private readonly watch: KnownWatch,
    private readonly rule: KnownRule,
    private readonly now: Instant,
  ) {
    const { only } = rule.definition;
    this.#all = [...watch.records.values()].filter(({ goneSince }) => goneSince === null);
    this.#choice = choiceOf(only, () => this.#all.map(this.#filtered), null, now);
    this.#there = this.#all.filter(this.#isOf);
    this.#gone = goneOf(watch, this.#isOf);
    const sharers = new Sharers([...this.#all]);
    this.#learnt = new Map(
      [...this.#there, ...this.#gone].map((record) => [record.identity, learntOf(rule, watch, record, sharers, now)]),
    );
  }

  /** The series whose history it asks to know. */
  get learnt(): Learnt[] {
    return [...this.#learnt.values()].flat();
  }

  /** What it is found to be, by the history of what it learns from. */
  on(before: Before): BegunOn {
    const { watch, rule, now } = this;
    const memories = new Map(this.#there.map((record) => [record.identity, this.#learned(record, before)]));
    const judging = new RuleJudging({ ...watch, rules: [{ ...rule, memories, choice: this.#choice }] }, now);
    // What those read that it does not run for may stand beside those that it does.
    const placed = this.#all.map((record) => placedOf(record, watch, now));
    judging.begin(
      placed.filter(({ good }) => good.length > 0),
      knownSeries(watch),
    );
    const heard = new Set(judging.verdicts.map(({ identity }) => identity));
    const silent = this.#there.filter(({ identity }) => !heard.has(identity));
    return {
      choice: this.#choice,
      judged: judging.verdicts.map((verdict) => ({ ...verdict, rule })),
      remembered: [
        ...silent.flatMap((record) => {
          const memory = memories.get(record.identity);
          return memory === undefined ? [] : [remembered(rule, record, memory, now)];
        }),
        ...this.#gone.map((record) => remembered(rule, record, awaited(this.#learned(record, before)), now)),
      ],
    };
  }

  readonly #filtered = (record: KnownRecord): Filtered => ({
    ...record,
    name: nameOf(record),
    fieldOf: (field) => record.series.get(field)?.value,
    item: this.watch.items?.of.get(record.identity)?.item,
  });

  readonly #isOf = (record: KnownRecord): boolean =>
    isAbout(this.rule.definition, record) && lets(this.rule.definition.only, this.#filtered(record), this.#choice);

  #learned(record: KnownRecord, before: Before): RuleMemory {
    const { definition } = this.rule;
    let memory = freshSubject(definition, situationOf(this.rule, this.watch, record, this.now));
    for (const { key, series } of this.#learnt.get(record.identity) ?? [])
      for (const reading of before.get(series) ?? []) memory = learnSubject(definition, memory, key, reading);
    return memory;
  }
}

/** Of so many records that are gone, those that went last, is their past known when they are back. */
const MOST_GONE = 500;

/** Records that are gone, of those that are asked: one that comes back goes on from what was read of it. */
const goneOf = ({ records }: KnownWatch, asked: (record: KnownRecord) => boolean): KnownRecord[] =>
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
function placedOf(record: KnownRecord, watch: KnownWatch, now: Instant): Placed {
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
const isFresh = ({ lastGoodAt }: KnownSeries, watch: KnownWatch, now: Instant): boolean =>
  now - lastGoodAt <= freshFor(watch);

/** When it was so, by the source's own time where it gives one. */
const readAt = ({ sourceAt, lastGoodAt }: KnownSeries): Instant => sourceAt ?? lastGoodAt;

/** A series that a rule learns from, by the name under which it asks it. */
export interface Learnt {
  key: string;
  series: SeriesId;
  /** Until when it is history: its latest reading may be the baseline. */
  before: Instant;
}

/** What a rule learns from for a record: its own series, and those of the records of the same watch that it names. */
function learntOf(
  { definition }: KnownRule,
  watch: KnownWatch,
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
