import type { Field } from '../read/definition';
import type { Instant } from '../when/interval';
import { aboutOf, carriedOf, type Standing } from './about';
import { clausesOf, groupKey, keyOf } from './clause';
import type { Situation } from './engine';
import type { Heard, Latest } from './heard';
import type { GoodReading, KnownRecord, KnownRule, KnownSeries, KnownWatch, Verdict } from './known';
import type { RuleMemory } from './memory';
import { reasonOf } from './reason';
import { asksOfRule, hearsFailures, isWide, ownFields, type RecordTest } from './rule';
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

/** Of so many others at most a place among them is worked out. */
const MOST_OTHERS = 1_000;

/** The rules of a watch, judged on what is heard of its records at one moment after another. */
export class RuleJudging {
  readonly verdicts: Verdict[] = [];
  readonly #memories = new Map<KnownRule, Map<string, RuleMemory>>();
  readonly #fields: ReadonlyMap<string, Field>;

  constructor(
    private readonly watch: KnownWatch,
    private readonly now: Instant,
  ) {
    this.#fields = new Map(watch.definition.fields.map((field) => [field.key, field]));
  }

  /** Judges every rule on what was read at one moment. */
  hear(placed: readonly Placed[], series: SeriesOf, came: ReadonlySet<string>): void {
    for (const rule of this.watch.rules) {
      const beside = isWide(rule.definition) ? new Beside(rule, this.watch, placed, series, this.now) : null;
      for (const subject of this.#subjects(placed, beside)) {
        const heard = this.#heardOf(rule, subject, came, beside);
        if (heard !== null) this.#judge(rule, subject, heard, series);
      }
    }
  }

  /** What was read of another watch, by the names under which rules ask it. */
  hearElsewhere(read: ReadonlyMap<string, Latest>): Verdict[] {
    for (const rule of this.watch.rules)
      for (const subject of this.#all().filter(({ identity }) => rule.memories.has(identity)))
        this.#judge(rule, subject, { of: 'run', at: this.now, moment: this.now, own: false, read }, knownSeries(this.watch));
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
    const subject = { identity: record.identity, name: record.name ?? record.identity, labels: record.labels, known: record, good: [] };
    for (const rule of this.watch.rules)
      if (rule.memories.has(record.identity)) this.#judge(rule, subject, { of: 'gone', at: this.now }, knownSeries(this.watch));
  }

  #all = (): Subject[] =>
    [...this.watch.records.values()].flatMap((known) =>
      known.goneSince === null ? [{ identity: known.identity, name: known.name ?? known.identity, labels: known.labels, known, good: [] }] : [],
    );

  /** Those that came; where a rule looks beside them, those that did not as well. */
  #subjects(placed: readonly Placed[], beside: Beside | null): readonly Subject[] {
    if (beside === null) return placed;
    const came = new Set(placed.map(({ identity }) => identity));
    return [...placed, ...this.#all().filter(({ identity }) => !came.has(identity))];
  }

  /** What a rule hears of a record; null where it is none of its business. */
  #heardOf(rule: KnownRule, subject: Subject, came: ReadonlySet<string>, beside: Beside | null): Heard | null {
    if (!lets(rule.definition.only, subject)) return null;
    const asked = new Set(ownFields(rule.definition));
    const own = subject.good.filter(({ field, quality }) => asked.has(field.key) && quality !== 'bad');
    const inTime = own.filter(isInTime);
    const late = own.filter((reading) => reading.late);
    // Where a rule asks no field of a record, it is enough that the record is there.
    const isThere = asked.size === 0 && (subject.good.length > 0 || came.has(subject.identity));
    const named = beside?.read ?? NOTHING_NAMED;
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
    };
  }

  #judge(rule: KnownRule, subject: Subject, heard: Heard, series: SeriesOf): void {
    const known = this.#memories.get(rule) ?? new Map<string, RuleMemory>();
    this.#memories.set(rule, known);
    const situation = situationOf(rule, this.watch, subject.known, this.now);
    const before = known.get(subject.identity) ?? rule.memories.get(subject.identity) ?? freshSubject(rule.definition, situation);
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

const latestOf = ({ value, at, known }: GoodReading): Latest => ({ value, at, ...(known === null ? {} : { before: known.value }) });

/** How the series of a watch stood before this run. */
export const knownSeries =
  ({ records }: KnownWatch): SeriesOf =>
  (identity, field) =>
    records.get(identity)?.series.get(field) ?? null;

/** What the engine has to know beside a rule. A record that turned up after the rule's baseline has a choice of its own. */
export function situationOf(
  { savedAt, baselineAt }: KnownRule,
  { intervalMs }: Pick<KnownWatch, 'intervalMs'>,
  record: KnownRecord | null,
  now: Instant,
): Situation {
  const later = baselineAt !== null && (record?.firstSeen ?? now) > baselineAt;
  return { intervalMs, savedAt, ...(later ? { later } : {}) };
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
  return turns.map((turn): Verdict => {
    const { definition } = rule;
    const verdict = {
      rule, identity, recordName: name, before, turn, reason: reasonOf(definition, before, turn),
      about: aboutOf(definition, turn.findings, standing), carried: carriedOf(definition, standing),
    }; // prettier-ignore
    before = turn.memory;
    return verdict;
  });
}

/** Whether a rule runs for a record. */
export function lets(
  only: RecordTest[] = [],
  { identity, name, labels }: { identity: string; name: string; labels: Record<string, string> },
): boolean {
  return only.every((test) => {
    if (test.by === 'identity') return test.in.includes(identity);
    return test.by === 'label' ? labels[test.label] === test.is : name.toLowerCase().includes(test.holds.toLowerCase());
  });
}

/** What a rule hears beside a record's own fields: records that it names, and the others of a group. */
class Beside {
  /** What was read now of the records that it names. */
  readonly read = new Map<string, Latest>();
  readonly #groups: { key: string; field: string; members: Map<string, Latest> }[];

  constructor(
    { definition }: KnownRule,
    watch: KnownWatch,
    placed: readonly Placed[],
    private readonly series: SeriesOf,
    now: Instant,
  ) {
    const good = new Map(
      placed.flatMap(({ identity, good: each }) => each.filter(isInTime).map((reading) => [`${reading.field.key} ${identity}`, reading])),
    );
    for (const asked of asksOfRule(definition)) {
      const elsewhere = watch.elsewhere?.get(keyOf(asked));
      if (elsewhere !== undefined) this.read.set(keyOf(asked), elsewhere);
      const reading = asked.record === undefined || asked.watch !== undefined ? undefined : good.get(`${asked.field} ${asked.record}`);
      if (reading !== undefined) this.read.set(keyOf(asked), latestOf(reading));
    }
    const identities = [...new Set([...watch.records.keys(), ...placed.map(({ identity }) => identity)])];
    this.#groups = clausesOf(definition.when).flatMap((clause) => {
      if ((clause.kind !== 'place' && clause.kind !== 'rank') || identities.length > MOST_OTHERS) return [];
      const { field } = clause.asked;
      const members = identities.flatMap((identity): [string, Latest][] => {
        const reading = good.get(`${field} ${identity}`);
        const known = this.#isGone(watch, identity) ? null : this.series(identity, field);
        if (reading !== undefined) return [[identity, { value: reading.value, at: now }]];
        return known === null ? [] : [[identity, { value: known.value, at: known.lastGoodAt }]];
      });
      return [{ key: groupKey(clause), field, members: new Map(members) }];
    });
  }

  #isGone = ({ records }: KnownWatch, identity: string) => records.get(identity)?.goneSince != null;

  /** The others of each group that a record is in. */
  groupsOf(identity: string): ReadonlyMap<string, Latest[]> {
    return new Map(this.#groups.map(({ key, members }) => [key, [...members].flatMap(([each, latest]) => (each === identity ? [] : latest))]));
  }
}
