import type { WatchId } from '#core/id';
import { describeNever, neverBy } from '#core/judge/never';
import { asksOfRule, type RuleDefinition } from '#core/judge/rule';
import { MINUTE, type Instant } from '#core/when/interval';
import { seenFor, seenOf } from '#server/db/seen';
import { services } from '../services.server';

type Rows = NonNullable<ReturnType<Awaited<ReturnType<typeof seenOf>>['get']>>;

/** What was read is looked through anew every few minutes: what could not be met so far is not met from one moment to the next. */
const KEPT_MS = 10 * MINUTE;
const MOST_KEPT = 2_000;

const kept = new Map<WatchId, { until: Instant; fields: ReadonlySet<string>; rows: Rows }>();

/** Why rules of watches could not have been met by anything that was read so far, each in a sentence; null where they could. */
export async function neverSaid<Rule extends { watchId: WatchId; definition: RuleDefinition }>(
  rules: readonly Rule[],
  labelOf: (rule: Rule) => (key: string) => string,
  locale: string,
): Promise<ReadonlyMap<Rule, string | null>> {
  const { pool, clock } = services();
  const now = clock();
  const fields = new Set(rules.flatMap(({ definition }) => asksOfRule(definition).map(({ field }) => field)));
  const isKept = ({ watchId, definition }: Rule) => {
    const known = kept.get(watchId);
    return known !== undefined && known.until > now && asksOfRule(definition).every(({ field }) => known.fields.has(field));
  };
  const missing = [...new Set(rules.filter((rule) => !isKept(rule)).map(({ watchId }) => watchId))];
  if (kept.size + missing.length > MOST_KEPT) kept.clear();
  for (const [id, rows] of await seenOf(pool, missing, [...fields])) kept.set(id, { until: now + KEPT_MS, fields, rows });
  return new Map(
    rules.map((rule) => {
      const [never] = neverBy(rule.definition, seenFor(rule.definition, kept.get(rule.watchId)?.rows ?? []));
      return [rule, never === undefined ? null : describeNever(never, labelOf(rule), locale)];
    }),
  );
}
