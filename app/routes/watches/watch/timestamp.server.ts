import { setImmediate as breathe } from 'node:timers/promises';
import type { RuleId } from '#core/id';
import { replayedAt } from '#core/judge/backtest';
import type { History, PastRuns } from '#core/judge/past';
import { timedFields } from '#core/judge/place';
import type { Reason } from '#core/judge/reason';
import { lets, type Filtered } from '#core/judge/records';
import { PastAround } from '#core/judge/past';
import { askedRelated, isRanking, isWide, ownFields, type RuleDefinition } from '#core/judge/rule';
import { DAY, intervalLength, type Instant } from '#core/when/interval';
import {
  labelsOf,
  readingAt,
  readUpTo,
  rulesAt,
  verdictsUpTo,
  type ReadingAt,
  type RuleThen,
  type WrittenDown,
} from '#server/db/rule/views/timestamps';
import { pastOf } from '#server/db/rule/past-related';
import { runsOfWatch } from '#server/db/reading/histories';
import type { RecordNow } from '#server/db/reading/records';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { services } from '../../../services.server';

// What was made of one reading: why she heard of it, or why she did not.

/** What a rule made of a reading, and how that is known. */
export interface RuleOnReading {
  id: RuleId;
  version: number;
  definition: RuleDefinition;
  /**
   * Written down when it happened; worked out anew from what was read until then; or, of a rule that asks more, what
   * was written down last.
   */
  known: 'written down' | 'worked out' | 'last written down' | 'not known' | 'filtered out';
  /** When it was so. */
  at: Instant | null;
  state: string | null;
  reason: Reason | null;
}

/** A reading with what each rule made of it. */
export interface TimestampView {
  field: string;
  reading: ReadingAt;
  rules: RuleOnReading[];
  /** Rules that do not ask what was read. */
  others: number;
  /** Rules that ask it now, and were saved later. */
  later: number;
  /** Those beyond as many as are looked at. */
  more: number;
  /** Everything that was read before was looked at. */
  whole: boolean;
}

const MOST_RULES = 12;
/** So far back is looked at what stood beside a record. */
const LOOKED_BACK = 28 * DAY;

/**
 * What was made of the reading of a field of a record that was in force at a moment; null where nothing was read by
 * then.
 */
export async function timestampViewOf(
  watch: WatchNow,
  record: RecordNow,
  field: string,
  at: Instant,
): Promise<TimestampView | null> {
  const { pool } = services();
  const series = record.series.find((each) => each.field === field);
  const reading = series === undefined ? null : await readingAt(pool, series.id, at);
  if (reading === null) return null;
  const all = await rulesAt(pool, watch.id, reading.came);
  const asking = all.filter(({ definition }) => ownFields(definition).includes(field));
  const rules = asking.slice(0, MOST_RULES);
  const written = await verdictsUpTo(
    pool,
    record.id,
    rules.map(({ id }) => id),
    reading.came,
  );
  const { startOf, runs } = await runsOfWatch(pool, watch.id, {
    since: reading.came - LOOKED_BACK,
    until: reading.came,
  });
  const past = await readUpTo(
    pool,
    record.id,
    [...new Set(rules.flatMap(({ definition }) => ownFields(definition)))],
    reading.came,
    { startOf, timed: timedFields(watch.definition.fields, watch.definition.records) },
  );
  const stepwise = new Map(watch.definition.fields.map(({ key, mode }) => [key, mode === 'stepwise']));
  const fields = Object.fromEntries(
    [...past.readings].map(([key, readings]) => [key, { stepwise: stepwise.get(key) ?? true, readings }]),
  );
  const history: History = { identity: record.identity, name: record.name ?? record.identity, fields };
  const filtered = { ...history, labels: await labelsOf(pool, record.id) };
  const around = await aroundThen(watch, rules, reading.came);
  const judged: RuleOnReading[] = [];
  for (const rule of rules) {
    judged.push(
      isFilteredOut(rule.definition, filtered)
        ? { ...ruleSaid(rule), ...FILTERED_OUT }
        : ruleOn(
            rule,
            reading,
            written.find((each) => each.rule === rule.id) ?? null,
            { history, around, runs },
            intervalLength(watch.frequency),
          ),
    );
    await breathe();
  }
  const later = watch.rules.filter(
    ({ id, definition }) => ownFields(definition).includes(field) && all.every((each) => each.id !== id),
  ).length;
  return {
    field,
    reading,
    rules: judged,
    later,
    others: all.length - asking.length,
    more: asking.length - rules.length,
    whole: past.whole,
  };
}

const FILTERED_OUT = { known: 'filtered out', at: null, state: null, reason: null } as const;

const ruleSaid = ({ id, version, definition }: RuleThen) => ({ id, version, definition });

/**
 * Whether all is known that a rule turns on: not which records it had chosen then, nor what stood beside them where
 * that is too much.
 */
const isKnown = ({ when, only = [], off }: RuleDefinition, { around }: Then): boolean =>
  off !== true && !only.some(isRanking) && (around !== null || !isWide({ when }));

/** Whether a rule runs for other records alone, as far as that is said of their names and labels. */
function isFilteredOut({ only = [] }: RuleDefinition, record: Filtered): boolean {
  const tests = only.filter(({ by }) => by === 'identity' || by === 'name' || by === 'label');
  return !lets(tests, record);
}

/**
 * How everything stood beside a watch until a moment, where its rules ask that, and all of it is known; of items as
 * they are now.
 */
async function aroundThen(watch: WatchNow, rules: readonly RuleThen[], at: Instant): Promise<PastAround | null> {
  const wide = rules.map(({ definition }) => definition).filter(({ when }) => isWide({ when }));
  if (wide.length === 0) return null;
  const { histories, beside, whole } = await pastOf(services().pool, watch, askedRelated(...wide), {
    since: at - LOOKED_BACK,
    until: at,
  });
  return whole ? new PastAround(histories, beside) : null;
}

interface Then {
  history: History;
  around: PastAround | null;
  runs: PastRuns;
}

function ruleOn(
  rule: RuleThen,
  reading: ReadingAt,
  written: WrittenDown | null,
  then: Then,
  intervalMs: number,
): RuleOnReading {
  const { definition, savedAt } = rule;
  const said = ruleSaid(rule);
  if (written !== null && written.at >= reading.came)
    return { ...said, known: 'written down', at: written.at, state: written.after, reason: written.reason };
  const replayed = isKnown(definition, then)
    ? replayedAt(definition, then.history, { intervalMs, savedAt }, reading.came, then)
    : null;
  if (replayed !== null)
    return { ...said, known: 'worked out', at: replayed.at, state: replayed.state, reason: replayed.reason };
  return written === null
    ? { ...said, known: 'not known', at: null, state: null, reason: null }
    : { ...said, known: 'last written down', at: written.at, state: written.after, reason: written.reason };
}
