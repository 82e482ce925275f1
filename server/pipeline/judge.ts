import { compareReadings, recordChange, type Change } from '#core/compare/compare';
import { UNDECIDED } from '#core/judge/rule';
import { stepRule, type Step } from '#core/judge/step';
import type { Field } from '#core/read/definition';
import type { Quality } from '#core/read/found';
import type { GuardCause } from '#core/read/guard';
import { oddTime, type ReadProblem } from '#core/read/problem';
import type { FieldReading, ReadRecord, WatchReading } from '#core/read/read';
import { fail } from '#core/result';
import { compareDecimals, subtract, type Decimal } from '#core/value/decimal';
import { sameValue, type Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import type { ReadDone } from '../reading/tasks';
import type { DueWatch, KnownRecord, KnownRule, KnownSeries } from './context';
import { asksOf } from '#core/read/formula';

/** One rule's step on one series in this run. */
interface Judged {
  rule: KnownRule;
  before: { name: string; waiting: boolean };
  step: Step;
  /** The state moved, so it is to be written. */
  moved: boolean;
}

/** A field that was read: what became of its series, and what the rules made of it. */
export interface GoodField {
  field: Field;
  identity: string;
  recordName: string;
  value: Value;
  known: KnownSeries | null;
  /** A new reading opens; otherwise the open one is seen once more. */
  opens: boolean;
  change: Change | null;
  judged: Judged[];
  /** When it was so: by the source's own time, or the run's. */
  at: Instant;
  stamped: boolean;
  quality: Quality | null;
  /** It came after later points of its series: it takes its place there, and nothing more. */
  late: boolean;
}

/** A field that was not read: its last good value stands. */
interface BadField {
  field: Field;
  known: KnownSeries | null;
  problem: ReadProblem;
}

/** A record that was seen in this run. */
interface SeenRecord {
  identity: string;
  name: string;
  variant: string | null;
  labels: Record<string, string>;
  known: KnownRecord | null;
  counters: Record<string, Decimal>;
}

/** Everything one run means for one watch, worked out without touching the world. */
export interface WatchOutcome {
  watch: DueWatch;
  good: GoodField[];
  bad: BadField[];
  /** Why nothing at all was read; null when something was. */
  failure: ReadProblem | null;
  /** What the page seems to be, where something was not read and its words say so. */
  seems: GuardCause | null;
  /** What was wrong with some records while others were read. */
  problems: ReadProblem[];
  records: SeenRecord[];
  /** Records that came or went, as news. */
  moves: { record: KnownRecord | null; identity: string; change: Change }[];
  offered: WatchReading['offered'];
  /** Ways that no longer find a field, by field. */
  lost: Record<string, string[]>;
}

/** Compares and judges one watch from what was read for it. */
export function judgeWatch(watch: DueWatch, { reading, seems }: ReadDone, now: Instant): WatchOutcome {
  const outcome: WatchOutcome = { watch, good: [], bad: [], failure: null, seems: null, problems: [], records: [], moves: [], offered: [], lost: {} };
  if (!reading.ok) return failAll(outcome, reading.error);
  const index = indexOf(watch);
  for (const record of inOrder(reading.value.records)) judgeRecord(outcome, index, record, now);
  outcome.problems = reading.value.problems;
  outcome.offered = reading.value.offered;
  if (outcome.bad.length > 0) outcome.seems = seems;
  outcome.moves = movesOf(watch, index, reading.value);
  return outcome;
}

/** What one run means for a watch that could not be judged at all. */
export function failedWatch(watch: DueWatch, failure: ReadProblem): WatchOutcome {
  return judgeWatch(watch, { reading: fail(failure), seems: null }, 0);
}

function failAll(outcome: WatchOutcome, failure: ReadProblem): WatchOutcome {
  const bad = outcome.watch.series.flatMap((known): BadField[] => {
    const field = outcome.watch.definition.fields.find((each) => each.key === known.field);
    return field === undefined ? [] : [{ field, known, problem: failure }];
  });
  return { ...outcome, failure, bad };
}

/** What a watch knows, to be found by name; it moves on while several points of one series are judged. */
interface Index {
  series: Map<string, KnownSeries>;
  records: Map<string, KnownRecord>;
  fields: Map<string, Field>;
  seen: Map<string, SeenRecord>;
  states: Map<string, { name: Step['state']['name']; waiting: boolean }>;
}

const seriesKey = (identity: string, field: string) => `${field} ${identity}`;

function indexOf({ series, records, definition, rules }: DueWatch): Index {
  const states = rules.flatMap((rule) =>
    rule.states.filter((state) => state.version === rule.version).map((state) => [`${rule.id} ${state.seriesId}`, state] as const),
  );
  return {
    series: new Map(series.map((each) => [seriesKey(each.identity, each.field), each])),
    records: new Map(records.map((each) => [each.identity, each])),
    fields: new Map(definition.fields.map((field) => [field.key, field])),
    seen: new Map(),
    states: new Map(states),
  };
}

/** Points of one series are taken in the order of the source's own time. */
function inOrder(records: ReadRecord[]): ReadRecord[] {
  return records.some((record) => record.marks.at !== null) ? [...records].sort((a, b) => (a.marks.at ?? 0) - (b.marks.at ?? 0)) : records;
}

function judgeRecord(outcome: WatchOutcome, index: Index, record: ReadRecord, now: Instant): void {
  const { identity, name, variant, labels } = record;
  const known = index.records.get(identity) ?? null;
  const seen = index.seen.get(identity) ?? { identity, name, variant, labels, known, counters: { ...known?.counters } };
  if (!index.seen.has(identity)) {
    index.seen.set(identity, seen);
    outcome.records.push(seen);
  }
  const odd = record.marks.at === null ? null : oddTime(record.marks.at, now);
  for (const { field, outcome: read } of record.fields)
    judgeField(outcome, index, seen, record, { field, outcome: odd === null ? read : fail(odd) }, now);
}

function judgeField(outcome: WatchOutcome, index: Index, seen: SeenRecord, record: ReadRecord, reading: FieldReading, now: Instant): void {
  const field = index.fields.get(reading.field);
  if (field === undefined) return;
  const key = seriesKey(record.identity, field.key);
  const known = index.series.get(key) ?? null;
  if (!reading.outcome.ok) {
    outcome.bad.push({ field, known, problem: reading.outcome.error });
    return;
  }
  if (reading.outcome.value.lost.length > 0) outcome.lost[field.key] = reading.outcome.value.lost;
  const value = counted(field, seen, reading.outcome.value.value);
  if (value === null) return;
  const good = judgePoint(outcome, index, { field, record, value, known, now });
  if (good === null) return;
  outcome.good.push(good);
  if (good.quality === 'bad' || good.late) return;
  index.series.set(key, {
    id: known?.id ?? 0, recordId: known?.recordId ?? 0, identity: record.identity, field: field.key, value, problem: null,
    openSince: good.opens ? good.at : (known?.openSince ?? good.at), lastGoodAt: now, sourceAt: record.marks.at,
  }); // prettier-ignore
}

/** A running counter as what was added since the last run; after it began anew, all that it shows. Null on its first reading. */
function counted(field: Field, seen: SeenRecord, value: Value): Value | null {
  if (field.type.kind !== 'number' || field.type.increase !== true || value.kind !== 'number') return value;
  const before = seen.counters[field.key];
  seen.counters[field.key] = value.amount;
  if (before === undefined) return null;
  return { ...value, amount: compareDecimals(value.amount, before) < 0 ? value.amount : subtract(value.amount, before) };
}

interface PointRead {
  field: Field;
  record: ReadRecord;
  value: Value;
  known: KnownSeries | null;
  now: Instant;
}

/** One point of a series; null when it was seen before, at the same time of the source's. */
function judgePoint({ watch }: WatchOutcome, index: Index, { field, record, value, known, now }: PointRead): GoodField | null {
  const { quality } = record.marks;
  const { at, stamped, order } = placeInTime(field, record, known, now);
  if (order === 'again') return null;
  const late = order === 'late';
  const bad = quality === 'bad';
  const opens = known === null || late || bad || !sameValue(known.value, value);
  const change = known !== null && field.mode === 'stepwise' ? compareReadings(known.value, value, field.polarity) : null;
  const rules = late || bad ? [] : watch.rules.filter((rule) => rule.definition.condition.field === field.key);
  const judged = rules.map((rule) => judgeRule(index, rule, known, value));
  return { field, identity: record.identity, recordName: record.name, value, known, opens, change, judged, at, stamped, quality, late };
}

/** When a point was so, by the source's own time for measured fields, and how that stands to what was seen before. */
function placeInTime(field: Field, { marks }: ReadRecord, known: KnownSeries | null, now: Instant) {
  if (marks.at === null || field.mode !== 'measured') return { at: now, stamped: false, order: 'next' };
  const before = known?.sourceAt ?? null;
  const order = before === null || marks.at > before ? 'next' : marks.at === before ? 'again' : 'late';
  return { at: marks.at, stamped: true, order };
}

function judgeRule(index: Index, rule: KnownRule, known: KnownSeries | null, value: Value): Judged {
  const key = `${rule.id} ${known?.id ?? 0}`;
  const stored = known === null || known.id === 0 ? undefined : index.states.get(key);
  const before = stored ?? UNDECIDED;
  const step = stepRule(rule.definition, before, { value, previous: known?.value ?? null, judgedBefore: stored !== undefined });
  const moved = stored === undefined || step.state.name !== before.name || step.state.waiting !== before.waiting;
  if (known !== null && known.id !== 0) index.states.set(key, step.state);
  return { rule, before, step, moved };
}

/** Records that came or went since the last good read under this version; of a feed only those that came. */
function movesOf(watch: DueWatch, index: Index, reading: WatchReading): WatchOutcome['moves'] {
  const { from } = watch.definition.records;
  if (from === 'page' || from === 'metrics' || from === 'senml' || watch.readVersion !== watch.version) return [];
  const appeared = reading.records.flatMap(({ identity, name }) => {
    const record = index.records.get(identity) ?? null;
    return record === null || record.goneSince !== null ? [{ record, identity, change: recordChange('appeared', name) }] : [];
  });
  if (from === 'feed' || reading.problems.length > 0) return appeared;
  return [...appeared, ...vanishedFrom(watch, index)];
}

function vanishedFrom(watch: DueWatch, index: Index): WatchOutcome['moves'] {
  const { chosen } = watch.definition;
  const followed = chosen === null ? null : new Set(chosen);
  const isFollowed = ({ identity }: KnownRecord) => followed === null || followed.has(identity);
  const gone = watch.records.filter((record) => record.goneSince === null && !index.seen.has(record.identity) && isFollowed(record));
  return gone.map((record) => ({ record, identity: record.identity, change: recordChange('vanished', record.name ?? record.identity) }));
}

/** True when even a body that brings nothing new has to be read: time itself moves what it means. */
export function alwaysRead({ definition }: DueWatch): boolean {
  const { from } = definition.records;
  if (from === 'senml' || from === 'metrics') return true;
  return definition.fields.some(({ type }) => type.kind === 'number' && type.increase === true) || asksOf(definition).length > 0;
}

/** How a watch's part of a run came out. Of many records some may fail; of a page every field counts. */
export function outcomeOf(result: WatchOutcome): 'first' | 'same' | 'changed' | 'failed' {
  const single = result.watch.definition.records.from === 'page';
  if (result.failure !== null || (result.bad.length > 0 && (single || result.good.length === 0))) return 'failed';
  if (result.watch.lastGoodAt === null || (result.good.length > 0 && result.good.every((each) => each.known === null))) return 'first';
  return result.moves.length > 0 || result.good.some((each) => each.opens) ? 'changed' : 'same';
}

/** When the last good look at a series was, before this run. */
export function lookedBefore(known: KnownSeries | null): Instant | null {
  return known?.lastGoodAt ?? null;
}
