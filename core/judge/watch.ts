import { compareReadings, recordChange } from '../compare/compare';
import { formatOf, type Field } from '../read/definition';
import { doubtsOf } from '../read/frame/doubts';
import { asksOf } from '../read/formula';
import type { GuardCause } from '../read/guard';
import { oddTime, type ReadProblem } from '../read/problem';
import type { ReadValue } from '../read/agree';
import type { FieldReading, ReadRecord, WatchReading } from '../read/read';
import { fail, type Result } from '../result';
import { sameValue, type Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { GoodReading, KnownRecord, KnownRule, KnownSeries, KnownWatch, SeenRecord, Verdict, WatchOutcome } from './known';
import { UNJUDGED, type RuleMemory } from './memory';
import { counted, inOrder, placeInTime } from './place';
import { nextAt, stepRule, wakeRule, type Point } from './step';

/** What was read for a watch: its records, or why there are none, and what the page seems to be. */
export interface WatchRead {
  reading: Result<WatchReading, ReadProblem>;
  seems: GuardCause | null;
}

/** Places in time, compares and judges what was read for one watch at `now`. Pure: the same given, the same comes out. */
export function judgeWatch(watch: KnownWatch, { reading, seems }: WatchRead, now: Instant): WatchOutcome {
  const outcome = nothingYet();
  if (!reading.ok) return { ...outcome, failure: reading.error };
  const judging = new Judging(watch, outcome, now);
  for (const record of inOrder(reading.value.records)) judging.take(record);
  return {
    ...outcome,
    problems: reading.value.problems,
    offered: reading.value.offered,
    seems: outcome.bad.length > 0 ? seems : null,
    moves: movesOf(watch, reading.value),
  };
}

const nothingYet = (): WatchOutcome => ({
  good: [], bad: [], verdicts: [], failure: null, seems: null, problems: [], records: [], moves: [], offered: [], lost: {},
}); // prettier-ignore

/** What a watch knows moves on while several points of one series are judged, one after another. */
class Judging {
  readonly #fields: ReadonlyMap<string, Field>;
  readonly #seen = new Map<string, SeenRecord>();
  /** What a page shows may be another thing than before; what a program states under a name is what it states. */
  readonly #doubts: boolean;
  readonly #series = new Map<string, KnownSeries>();
  readonly #memories = new Map<KnownRule, Map<string, RuleMemory>>();

  constructor(
    private readonly watch: KnownWatch,
    private readonly outcome: WatchOutcome,
    private readonly now: Instant,
  ) {
    this.#fields = new Map(watch.definition.fields.map((field) => [field.key, field]));
    this.#doubts = formatOf(watch.definition.records) === 'html';
  }

  /** Takes one record, or one point of several series: its fields first, then every rule on what was read of it. */
  take(record: ReadRecord): void {
    const seen = this.#see(record);
    const odd = record.marks.at === null ? null : oddTime(record.marks.at, this.now);
    const good = record.fields.flatMap((read) => this.#read(seen, record, odd === null ? read : { ...read, outcome: fail(odd) }) ?? []);
    this.outcome.good.push(...good);
    const judged = good.filter(({ quality, late }) => quality !== 'bad' && !late);
    if (judged.length > 0) for (const rule of this.watch.rules) this.#judge(rule, record.identity, judged);
    for (const reading of judged) this.#moveOn(reading);
  }

  #see({ identity, name, variant, labels }: ReadRecord): SeenRecord {
    const before = this.#seen.get(identity);
    if (before !== undefined) return before;
    const known = this.watch.records.get(identity) ?? null;
    const seen = { identity, name, variant, labels, known, counters: { ...known?.counters } };
    this.#seen.set(identity, seen);
    this.outcome.records.push(seen);
    return seen;
  }

  #read(seen: SeenRecord, record: ReadRecord, read: FieldReading): GoodReading | null {
    const field = this.#fields.get(read.field);
    if (field === undefined) return null;
    if (!read.outcome.ok) {
      this.outcome.bad.push({ field, identity: record.identity, problem: read.outcome.error });
      return null;
    }
    if (read.outcome.value.lost.length > 0) this.outcome.lost[field.key] = read.outcome.value.lost;
    const value = counted(field, seen, read.outcome.value.value);
    if (value === null) return null;
    const known = this.#series.get(seriesKey(record.identity, field.key)) ?? seen.known?.series.get(field.key) ?? null;
    if (known !== null && this.#isDoubtful(record.identity, field, known, { text: read.outcome.value.text, value })) return null;
    const { at, stamped, order } = placeInTime(field, record, known, this.now);
    if (order === 'again') return null;
    const quality = qualityOf(record, read.outcome.value);
    const late = order === 'late';
    const opens = known === null || late || quality === 'bad' || !sameValue(known.value, value);
    const change = known !== null && field.mode === 'stepwise' ? compareReadings(known.value, value, field.polarity) : null;
    return { field, identity: record.identity, recordName: record.name, value, known, opens, change, at, stamped, quality, late };
  }

  /** Whether a value does by itself what is to be asked about first; then it is set aside. */
  #isDoubtful(identity: string, field: Field, known: KnownSeries, { text, value }: { text: string; value: Value }): boolean {
    const changes = this.#doubts ? doubtsOf(known.value, value, field) : [];
    if (changes.length > 0) this.outcome.bad.push({ field, identity, problem: { reason: 'in question', text, value, changes } });
    return changes.length > 0;
  }

  #judge(rule: KnownRule, identity: string, judged: GoodReading[]): void {
    const reading = judged.find(({ field }) => field.key === rule.definition.condition.field);
    if (reading === undefined) return;
    const known = this.#memories.get(rule) ?? new Map<string, RuleMemory>();
    const before = known.get(identity) ?? rule.memories.get(identity) ?? null;
    const woken = this.#wake(rule, before, reading);
    const step = stepRule(rule.definition, woken, pointOf(reading.at, judged));
    if (step === null) return;
    this.outcome.verdicts.push({ rule, before, step, reading });
    this.#memories.set(rule, known.set(identity, step.memory));
  }

  /** What the clock had to say before this reading came is said first. */
  #wake(rule: KnownRule, before: RuleMemory | null, reading: GoodReading): RuleMemory {
    if (before === null) return UNJUDGED;
    const due = nextAt(before);
    if (due === null || due >= this.now) return before;
    const step = wakeRule(rule.definition, before, due, FRESH_INTERVALS * this.watch.intervalMs);
    if (step === null) return before;
    this.outcome.verdicts.push({ rule, before, step, reading });
    return step.memory;
  }

  #moveOn({ identity, field, known, value, opens, at, stamped }: GoodReading): void {
    const openSince = opens || known === null ? at : known.openSince;
    this.#series.set(seriesKey(identity, field.key), {
      id: known?.id ?? null,
      value,
      openSince,
      lastGoodAt: this.now,
      sourceAt: stamped ? at : (known?.sourceAt ?? null),
    });
  }
}

/** How far the source vouches for a value: for it by itself, or for its whole record. */
const qualityOf = ({ marks }: ReadRecord, { quality }: ReadValue) => (quality === undefined ? marks.quality : quality);

/** Intervals after which the latest reading is too old for the clock to lean on. */
const FRESH_INTERVALS = 2;

const seriesKey = (identity: string, field: string) => `${field} ${identity}`;

const pointOf = (at: Instant, judged: GoodReading[]): Point => ({
  at,
  fields: new Map(judged.map(({ field, value, known }) => [field.key, { value, previous: known?.value ?? null }])),
});

/** Records that came or went since the last good read under this version; of a feed only those that came. */
function movesOf({ definition, readVersion, version, records, missing }: KnownWatch, reading: WatchReading): WatchOutcome['moves'] {
  const { from } = definition.records;
  if (from === 'page' || from === 'metrics' || from === 'senml' || readVersion !== version) return [];
  const appeared = reading.records.flatMap(({ identity, name }) => {
    const record = records.get(identity) ?? null;
    return record === null || record.goneSince !== null ? [{ record, identity, change: recordChange('appeared', name) }] : [];
  });
  if (from === 'feed' || reading.problems.length > 0) return appeared;
  return [...appeared, ...missing.map((record) => ({ record, identity: record.identity, change: vanished(record) }))];
}

const vanished = ({ name, identity }: KnownRecord) => recordChange('vanished', name ?? identity);

/** True when even a body that brings nothing new has to be read: time itself moves what it means. */
export function alwaysRead({ definition, rules }: Pick<KnownWatch, 'definition' | 'rules'>): boolean {
  const { from } = definition.records;
  if (from === 'senml' || from === 'metrics') return true;
  if (rules.some((rule) => rule.definition.hold !== undefined)) return true;
  return definition.fields.some(({ type }) => type.kind === 'number' && type.increase === true) || asksOf(definition).length > 0;
}

/** How a watch's part of a run came out. Of many records some may fail; of a page every field counts. */
export function outcomeOf({ definition, lastGoodAt }: KnownWatch, result: WatchOutcome): 'first' | 'same' | 'changed' | 'failed' {
  const single = definition.records.from === 'page';
  if (result.failure !== null || (result.bad.length > 0 && (single || result.good.length === 0))) return 'failed';
  if (lastGoodAt === null || (result.good.length > 0 && result.good.every((each) => each.known === null))) return 'first';
  return result.moves.length > 0 || result.good.some((each) => each.opens) ? 'changed' : 'same';
}

/** True when a verdict's step moved what the rule remembers. */
export const hasMoved = ({ before, step }: Verdict): boolean => before !== step.memory;

/** True of a verdict that tells someone. */
export const isTaken = ({ step }: Verdict): boolean => step.effects.some((effect) => effect.do === 'alert');
