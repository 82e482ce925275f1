import { compareReadings, type Change } from '#core/compare/compare';
import { UNDECIDED } from '#core/judge/rule';
import { stepRule, type Step } from '#core/judge/step';
import type { Field } from '#core/read/definition';
import { readPage, type FieldReading, type ReadProblem, type ReadRecord } from '#core/read/read';
import type { Document } from '#core/read/html';
import { sameValue, type Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import type { DueWatch, KnownRule, KnownSeries } from './context';

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
  value: Value;
  known: KnownSeries | null;
  /** A new reading opens; otherwise the open one is seen once more. */
  opens: boolean;
  change: Change | null;
  judged: Judged[];
}

/** A field that was not read: its last good value stands. */
interface BadField {
  field: Field;
  known: KnownSeries | null;
  problem: ReadProblem;
}

/** Everything one run means for one watch, worked out without touching the world. */
export interface WatchOutcome {
  watch: DueWatch;
  good: GoodField[];
  bad: BadField[];
}

/** Reads, compares and judges one watch from a parsed page. */
export function judgeWatch(watch: DueWatch, document: Document): WatchOutcome {
  const records = readPage(document, watch.definition);
  const outcome: WatchOutcome = { watch, good: [], bad: [] };
  for (const record of records) {
    for (const reading of record.fields) judgeField(outcome, record, reading);
  }
  return outcome;
}

function judgeField(outcome: WatchOutcome, record: ReadRecord, reading: FieldReading): void {
  const { watch } = outcome;
  const field = watch.definition.fields.find((each) => each.key === reading.field);
  if (field === undefined) return;
  const known = watch.series.find((each) => each.field === field.key && each.identity === record.identity) ?? null;
  if (!reading.outcome.ok) {
    outcome.bad.push({ field, known, problem: reading.outcome.error });
    return;
  }
  const { value } = reading.outcome.value;
  const opens = known === null || !sameValue(known.value, value);
  const change = known !== null && field.mode === 'stepwise' ? compareReadings(known.value, value, field.polarity) : null;
  const rules = watch.rules.filter((rule) => rule.definition.condition.field === field.key);
  const judged = rules.map((rule) => judgeRule(rule, known, value));
  outcome.good.push({ field, identity: record.identity, value, known, opens, change, judged });
}

function judgeRule(rule: KnownRule, known: KnownSeries | null, value: Value): Judged {
  const stored = known === null ? undefined : rule.states.find((state) => state.seriesId === known.id && state.version === rule.version);
  const before = stored ?? UNDECIDED;
  const step = stepRule(rule.definition, before, { value, previous: known?.value ?? null, judgedBefore: stored !== undefined });
  const moved = stored === undefined || step.state.name !== before.name || step.state.waiting !== before.waiting;
  return { rule, before, step, moved };
}

/** How a watch's part of a run came out. */
export function outcomeOf(result: WatchOutcome): 'first' | 'same' | 'changed' | 'failed' {
  if (result.bad.length > 0) return 'failed';
  if (result.good.every((each) => each.known === null)) return 'first';
  return result.good.some((each) => each.opens) ? 'changed' : 'same';
}

/** When the last good look at a series was, before this run. */
export function lookedBefore(known: KnownSeries | null): Instant | null {
  return known?.lastGoodAt ?? null;
}
