import type { Field } from '../read/definition';
import type { Instant } from '../when/interval';
import { aboutOf, carriedOf, type Standing } from './about';
import { ABSENT, type Value } from '../value/value';
import { Related, MOST_OTHERS, type Around } from './related';
import { keyOf, type Asked } from './asked';
import type { Situation } from './engine';
import type { Observation, Latest } from './observation';
import type { GoodReading, KnownRecord, KnownRule, KnownSeries, KnownWatch, Verdict } from './known';
import type { RuleMemory } from './memory';
import { reasonOf } from './reason';
import { choiceOf, lets, type Choice, type Filtered } from './records';
import { asksItems, hearsFailures, isAbout, isWide, ownFields } from './rule';
import { Sharers } from './sharing';
import { freshSubject, hearSubject, type Turn } from './subject';
import { isInTime, type Placed } from './placing';

/** How the series of a watch stand. */
type SeriesOf = (identity: string, field: string) => KnownSeries | null;

/** A record that rules are judged on. */
export interface Subject {
  identity: string;
  name: string;
  labels: Record<string, string>;
  known: KnownRecord | null;
  /** What was read of it well at this moment. */
  good: GoodReading[];
}

const NOTHING_NAMED: ReadonlyMap<string, Latest> = new Map();
const NO_GROUPS: ReadonlyMap<string, Latest[]> = new Map();

/** The identities of records that came, and of those that went. */
interface Moved {
  came: ReadonlySet<string>;
  went: ReadonlySet<string>;
}

const NONE_MOVED: Moved = { came: new Set(), went: new Set() };

/** The rules of a watch, judged on what is heard of its records at one moment after another. */
export class RuleJudging {
  readonly verdicts: Verdict[] = [];
  /** What rules chose to run for now, where that is not what they chose before. */
  readonly choices = new Map<KnownRule, Choice>();
  readonly #memories = new Map<KnownRule, Map<string, RuleMemory>>();
  readonly #fields: ReadonlyMap<string, Field>;
  #begins = false;

  constructor(
    private readonly watch: KnownWatch,
    private readonly now: Instant,
  ) {
    this.#fields = new Map(watch.definition.fields.map((field) => [field.key, field]));
  }

  /** Judges rules that begin on what was known of their records when they were saved. */
  begin(placed: readonly Placed[], series: SeriesOf): void {
    this.#begins = true;
    this.hear(placed, series);
    this.#begins = false;
  }

  /** Judges every rule on what was read at one moment, with the records that came and those that went by it. */
  hear(placed: readonly Placed[], series: SeriesOf, { came, went }: Moved = NONE_MOVED): void {
    const around = this.watch.rules.some(({ definition }) => isWide(definition))
      ? aroundOf(this.watch, { placed, series, went }, this.now)
      : null;
    for (const rule of this.watch.rules) {
      const beside = around !== null && isWide(rule.definition) ? new Related(rule.definition, around) : null;
      const subjects = this.#subjects(placed, beside, went);
      const choice = this.#choose(rule, subjects, series);
      for (const subject of subjects) {
        if (!this.#runsFor(rule, subject, choice, series)) {
          this.#drop(rule, subject, series);
          continue;
        }
        const heard = this.#heardOf(rule, subject, came, beside);
        if (heard !== null) this.#judge(rule, subject, heard, series);
      }
    }
  }

  /** The records that a rule chose; those that it chose before and does not now are no longer its business. */
  #choose(rule: KnownRule, subjects: readonly Subject[], series: SeriesOf): Choice | null {
    const before = this.choices.get(rule) ?? rule.choice ?? null;
    const { only } = rule.definition;
    const choice = choiceOf(only, () => subjects.map((subject) => this.#filtered(subject, series)), before, this.now);
    if (choice === null || choice === before) return choice;
    this.choices.set(rule, choice);
    const left = new Set(
      (before?.in ?? []).filter((identity) => !choice.in.includes(identity) && rule.memories.has(identity)),
    );
    for (const subject of subjects) if (left.has(subject.identity)) this.#drop(rule, subject, series);
    return choice;
  }

  /** A record that a rule runs for no longer: what was open of it is over, once. */
  #drop(rule: KnownRule, subject: Subject, series: SeriesOf): void {
    const memory = this.#memories.get(rule)?.get(subject.identity) ?? rule.memories.get(subject.identity);
    if (memory === undefined || memory.judged.away === 'dropped') return;
    this.#judge(rule, subject, { of: 'dropped', at: this.now }, series);
  }

  /** Most rules run for all that there are: of their records nothing is looked up. */
  #runsFor({ definition }: KnownRule, subject: Subject, choice: Choice | null, series: SeriesOf): boolean {
    const { only } = definition;
    return isAbout(definition, subject) && (only === undefined || lets(only, this.#filtered(subject, series), choice));
  }

  #filtered(subject: Subject, series: SeriesOf): Filtered {
    const { identity, name, labels, good } = subject;
    const read = (field: string): Value | undefined =>
      good.findLast((reading) => reading.field.key === field && isInTime(reading))?.value ??
      series(identity, field)?.value;
    return { identity, name, labels, fieldOf: read, item: this.watch.items?.of.get(identity)?.item };
  }

  /**
   * What was read of other watches, by the names under which rules ask it, and of other offers of the items of some
   * records.
   */
  hearElsewhere(read: ReadonlyMap<string, Latest>, touched: ReadonlySet<string>): Verdict[] {
    const series = knownSeries(this.watch);
    const around = aroundOf(this.watch, { placed: [], series, went: NONE_MOVED.went }, this.now);
    for (const rule of this.watch.rules) {
      const beside = new Related(rule.definition, around);
      for (const subject of this.#all().filter(({ identity }) => rule.memories.has(identity))) {
        const asked = asksItems(rule.definition) && touched.has(subject.identity);
        const heard = asked ? new Map([...read, ...beside.readOf(subject.identity)]) : read;
        if (!asked && heard.size === 0) continue;
        const groups = asked ? beside.offersOf(subject.identity) : NO_GROUPS;
        if (!this.#runsFor(rule, subject, rule.choice ?? null, series)) continue;
        this.#judge(
          rule,
          subject,
          {
            of: 'run',
            at: this.now,
            moment: this.now,
            own: false,
            read: heard,
            ...(groups.size === 0 ? {} : { groups }),
          },
          series,
        );
      }
    }
    return this.verdicts;
  }

  /** A look that failed, as far as a rule wants to hear of it. */
  fails(): Verdict[] {
    for (const rule of this.watch.rules.filter(({ definition }) => hearsFailures(definition)))
      for (const subject of this.#all().filter((each) => rule.memories.has(each.identity)))
        this.#judge(rule, subject, { of: 'failure', at: this.now }, knownSeries(this.watch));
    return this.verdicts;
  }

  /** A record that is no longer there. */
  loses(record: KnownRecord): void {
    const subject = {
      identity: record.identity,
      name: record.name ?? record.identity,
      labels: record.labels,
      known: record,
      good: [],
    };
    for (const rule of this.watch.rules)
      if (rule.memories.has(record.identity))
        this.#judge(rule, subject, { of: 'gone', at: this.now }, knownSeries(this.watch));
  }

  #all = (): Subject[] =>
    [...this.watch.records.values()].flatMap((known) =>
      known.goneSince === null
        ? [{ identity: known.identity, name: known.name ?? known.identity, labels: known.labels, known, good: [] }]
        : [],
    );

  /**
   * Those that were read; where a rule looks beside them, those that were not as well, but for those that are gone by
   * now.
   */
  #subjects(placed: readonly Placed[], beside: Related | null, went: ReadonlySet<string>): readonly Subject[] {
    if (beside === null) return placed;
    const read = new Set(placed.map(({ identity }) => identity));
    return [...placed, ...this.#all().filter(({ identity }) => !read.has(identity) && !went.has(identity))];
  }

  /** What a rule hears of a record; null where it is none of its business. */
  #heardOf(rule: KnownRule, subject: Subject, came: ReadonlySet<string>, beside: Related | null): Observation | null {
    const asked = new Set(ownFields(rule.definition));
    const own = subject.good.filter(({ field, quality }) => asked.has(field.key) && quality !== 'bad');
    const inTime = own.filter(isInTime);
    const late = own.filter((reading) => reading.late);
    // Where a rule asks no field of a record, it is enough that the record is there.
    const isThere = asked.size === 0 && (subject.good.length > 0 || came.has(subject.identity));
    const named = beside?.readOf(subject.identity) ?? NOTHING_NAMED;
    const groups = beside?.groupsOf(subject.identity) ?? NO_GROUPS;
    if (own.length + named.size + groups.size === 0 && !isThere) return null;
    return {
      of: 'run',
      at: this.now,
      moment: inTime.length === 0 ? this.now : Math.max(...inTime.map(({ at }) => at)),
      own: inTime.length > 0 || isThere,
      read: new Map([...named, ...inTime.map((reading) => [reading.field.key, latestOf(reading)] as const)]),
      ...(late.length === 0 ? {} : { late: new Map(late.map((reading) => [reading.field.key, [latestOf(reading)]])) }),
      ...(groups.size === 0 ? {} : { groups }),
      ...(came.has(subject.identity) ? { came: true } : {}),
      ...(this.#begins ? { known: true } : {}),
    };
  }

  #judge(rule: KnownRule, subject: Subject, heard: Observation, series: SeriesOf): void {
    const known = this.#memories.get(rule) ?? new Map<string, RuleMemory>();
    this.#memories.set(rule, known);
    const situation = situationOf(rule, this.watch, subject.known, this.now);
    const before =
      known.get(subject.identity) ?? rule.memories.get(subject.identity) ?? freshSubject(rule.definition, situation);
    const turns = hearSubject(rule.definition, before, heard, situation);
    const verdicts = verdictsOf(rule, subject, before, turns, this.#standing(subject, series));
    this.verdicts.push(...verdicts);
    known.set(subject.identity, turns.at(-1)?.memory ?? before);
  }

  #standing({ identity, good }: Subject, series: SeriesOf): Standing {
    return {
      fields: this.#fields,
      read: new Map(good.filter(isInTime).map((reading) => [reading.field.key, reading])),
      series: (field) => series(identity, field),
    };
  }
}

/** Whether a record of a watch is not there any more. */
const isGone = ({ records, missing }: KnownWatch, identity: string): boolean =>
  records.get(identity)?.goneSince != null || missing.some((record) => record.identity === identity);

const latestOf = ({ value, at, known }: GoodReading): Latest => ({
  value,
  at,
  ...(known === null ? {} : { before: known.value }),
});

/** How the series of a watch stood before this run. */
export const knownSeries =
  ({ records }: KnownWatch): SeriesOf =>
  (identity, field) =>
    records.get(identity)?.series.get(field) ?? null;

/**
 * What the engine has to know beside a rule. A record that turned up after the rule's baseline has a choice of its own.
 */
export function situationOf(
  { savedAt, baselineAt }: KnownRule,
  { intervalMs }: Pick<KnownWatch, 'intervalMs'>,
  record: KnownRecord | null,
  now: Instant,
): Situation {
  const later = baselineAt !== null && (record?.firstSeen ?? now) > baselineAt;
  return { intervalMs, savedAt, ...(later ? { later } : {}) };
}

/** Reminders that fell due one after another while nobody moved the clock become one, the last (26). */
function withoutMissed(turns: Turn[]): Turn[] {
  const reminders = turns.flatMap(({ told }) => told.filter(({ what }) => what === 'reminder'));
  const last = reminders.at(-1);
  if (reminders.length < 2) return turns;
  return turns.map((turn) => ({
    ...turn,
    told: turn.told.filter((told) => told.what !== 'reminder' || told === last),
  }));
}

/** The verdicts that turns of a rule on a record come to. */
export function verdictsOf(
  rule: KnownRule,
  { identity, name }: Pick<Subject, 'identity' | 'name'>,
  first: RuleMemory,
  turns: Turn[],
  standing: Standing,
): Verdict[] {
  let before = first;
  return withoutMissed(turns).map((turn): Verdict => {
    const { definition } = rule;
    const verdict = {
      rule,
      identity,
      recordName: name,
      before,
      turn,
      reason: reasonOf(definition, before, turn),
      about: aboutOf(definition, turn.findings, standing),
      carried: carriedOf(definition, standing),
    };
    before = turn.memory;
    return verdict;
  });
}

/** How all that stands beside the records of a watch is known when some of them were read, and some went. */
function aroundOf(
  watch: KnownWatch,
  { placed, series, went }: { placed: readonly Placed[]; series: SeriesOf; went: ReadonlySet<string> },
  now: Instant,
): Around {
  const good = new Map(
    placed.flatMap(({ identity, good: each }) =>
      each.filter(isInTime).map((reading) => [`${reading.field.key} ${identity}`, reading]),
    ),
  );
  const identities = [...new Set([...watch.records.keys(), ...placed.map(({ identity }) => identity)])].filter(
    (identity) => !went.has(identity),
  );
  const sharers = once(() => new Sharers(labelled(watch, placed, went)));
  const member = (field: string, identity: string): Latest | undefined => {
    const reading = good.get(`${field} ${identity}`);
    if (reading !== undefined) return { value: reading.value, at: now };
    const known = watch.records.get(identity)?.goneSince != null ? null : series(identity, field);
    return known === null ? undefined : { value: known.value, at: known.lastGoodAt };
  };
  return {
    now,
    watch: watch.items?.watch ?? null,
    roleOf: (key) => watch.definition.fields.find((field) => field.key === key)?.role ?? key,
    item: (identity) => watch.items?.of.get(identity),
    named: (asked) =>
      watch.elsewhere?.get(keyOf(asked)) ?? namedHere(watch, asked, good.get(`${asked.field} ${asked.record}`), now),
    shared: (field, sharing, identity) => {
      const other = sharers().of(sharing, identity);
      if (other === null) return { value: ABSENT, at: now };
      const reading = good.get(`${field} ${other}`);
      return reading === undefined ? undefined : latestOf(reading);
    },
    members: (field) =>
      identities.length > MOST_OTHERS
        ? new Map()
        : new Map(
            identities.flatMap((identity) => {
              const latest = member(field, identity);
              return latest === undefined ? [] : [[identity, latest]];
            }),
          ),
  };
}

/** The records that are there, with their labels as they came now. */
const labelled = ({ records }: KnownWatch, placed: readonly Placed[], went: ReadonlySet<string>) =>
  new Map(
    [
      ...[...records.values()].filter(({ goneSince, identity }) => goneSince === null && !went.has(identity)),
      ...placed,
    ].map((record) => [record.identity, record]),
  ).values();

/** Worked out where it is asked for, and once. */
function once<T>(make: () => T): () => T {
  let made: { is: T } | null = null;
  return () => (made ??= { is: make() }).is;
}

/** What was read of a record of the same watch; of one that is gone there is nothing to hold anything against. */
function namedHere(
  watch: KnownWatch,
  { record, watch: other }: Asked,
  reading: GoodReading | undefined,
  now: Instant,
): Latest | undefined {
  if (other !== undefined || record === undefined) return undefined;
  if (reading !== undefined) return latestOf(reading);
  return isGone(watch, record) ? { value: ABSENT, at: now } : undefined;
}
