import type { WatchId } from '#core/id';
import { describeNever, neverBy } from '#core/judge/never';
import { asksOfRule, type RuleDefinition } from '#core/judge/rule';
import type { Place } from '#core/when/format';
import { MINUTE, type Instant } from '#core/when/interval';
import { seenFor, seenOf } from '#server/db/reading/seen';
import { services } from '../services.server';

type Rows = NonNullable<ReturnType<Awaited<ReturnType<typeof seenOf>>['get']>>;

/**
 * What was read is looked through anew every few minutes: what could not be met so far is not met from one moment to
 * the next.
 */
const KEPT_MS = 10 * MINUTE;
const MOST_KEPT = 2_000;

const kept = new Map<WatchId, { until: Instant; fields: ReadonlySet<string>; rows: Rows }>();

/** A rule of a watch. */
interface Asked {
  watchId: WatchId;
  definition: RuleDefinition;
}

/**
 * Why a rule could not have been met by anything that was read so far, or is not likely to be any more, in a sentence;
 * null where it may.
 */
type Said<Rule> = ReadonlyMap<Rule, string | null>;

/** What is to be said of rules, after what was read of their watches is looked through. */
export async function neverSaid<Rule extends Asked>(
  rules: readonly Rule[],
  labelOf: (rule: Rule) => (key: string) => string,
  place: Place,
): Promise<Said<Rule>> {
  await lookThrough(rules);
  return saidOf(rules, labelOf, place);
}

/**
 * The same by what is known by now, for lists that wait for nothing: what is missing is looked through meanwhile, and
 * said next time.
 */
export function neverKnown<Rule extends Asked>(
  rules: readonly Rule[],
  labelOf: (rule: Rule) => (key: string) => string,
  place: Place,
): Said<Rule> {
  looking ??= lookThrough(rules)
    .catch((error: unknown) => services().log.error({ err: error }, 'what was read could not be looked through'))
    .finally(() => (looking = null));
  return saidOf(rules, labelOf, place);
}

/** One look at a time: lists are asked for again and again. */
let looking: Promise<void> | null = null;

async function lookThrough(rules: readonly Asked[]): Promise<void> {
  const { pool, clock } = services();
  const now = clock();
  const fields = new Set(rules.flatMap(({ definition }) => asksOfRule(definition).map(({ field }) => field)));
  const isKept = ({ watchId, definition }: Asked) => {
    const known = kept.get(watchId);
    return (
      known !== undefined && known.until > now && asksOfRule(definition).every(({ field }) => known.fields.has(field))
    );
  };
  const missing = [...new Set(rules.filter((rule) => !isKept(rule)).map(({ watchId }) => watchId))];
  if (kept.size + missing.length > MOST_KEPT) kept.clear();
  for (const [id, rows] of await seenOf(pool, missing, [...fields]))
    kept.set(id, { until: now + KEPT_MS, fields, rows });
}

function saidOf<Rule extends Asked>(
  rules: readonly Rule[],
  labelOf: (rule: Rule) => (key: string) => string,
  place: Place,
): Said<Rule> {
  const now = services().clock();
  return new Map(
    rules.map((rule) => {
      const [never] = neverBy(rule.definition, seenFor(rule.definition, kept.get(rule.watchId)?.rows ?? []), now);
      return [rule, never === undefined ? null : describeNever(never, labelOf(rule), place)];
    }),
  );
}
