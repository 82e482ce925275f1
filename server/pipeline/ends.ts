import type { PersonId, RuleId, WatchId } from '#core/id';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import { remindedAt, storedRule, type RuleDefinition } from '#core/judge/rule';
import type { Instant } from '#core/when/interval';
import { moment, writeAndCommit, type Db, type Statement } from '../db/base/pool';
import { takeDue } from './claim';
import type { Keeping } from './keeping';
import type { Notice } from './order/notice';
import { orderDeliveries } from './order/order';

// Who answers for a rule is reminded before its last day is over.

/** A rule whose end is near. */
interface Ending {
  id: RuleId;
  watch: WatchId;
  /** Whether anything would be missed: it is judged, and its watch runs. */
  live: boolean;
  owner: PersonId;
  locale: string;
  endsAt: Instant;
  definition: unknown;
  labels: Record<string, string> | null;
}

/** So many are told of in one mail; those beyond come in the next. */
const MOST = 100;

/** Those that are due of whoever is first: many that were given one last day are one mail, and not a flood. */
const NEXT = `
WITH due AS (
  SELECT u.id, coalesce((SELECT id FROM person WHERE id = (v.definition->>'owner')::int), w.owner_id) AS owner
  FROM rule u
  JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
  JOIN watch w ON w.id = u.watch_id
  WHERE u.remind_at <= $1 AND u.ended_at IS NULL
  ORDER BY u.remind_at, u.id LIMIT 1000
)
SELECT u.id, u.watch_id AS watch, NOT u.off AND w.state = 'running' AS live, o.id AS owner, o.locale,
  u.ends_at AS "endsAt", v.definition,
  (SELECT jsonb_object_agg(f->>'key', f->>'label') FROM jsonb_array_elements(x.definition->'fields') f) AS labels
FROM due
JOIN rule u ON u.id = due.id
JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
JOIN watch w ON w.id = u.watch_id
JOIN watch_version x ON x.watch_id = w.id AND x.version = w.version
JOIN person o ON o.id = due.owner
WHERE due.owner = (SELECT owner FROM due ORDER BY id LIMIT 1) AND u.remind_at <= $1
ORDER BY u.id LIMIT ${MOST} FOR UPDATE OF u SKIP LOCKED`;

const REMINDED =
  'UPDATE rule u SET remind_at = n.at FROM unnest($1::int[], $2::timestamptz[]) AS n(id, at) WHERE u.id = n.id';

/**
 * Reminds the next who answers for rules whose end is near, of all of them at once: how many; null where there is
 * nobody.
 */
export function remindNextEnd(pipeline: Keeping, now: Instant): Promise<number | null> {
  return takeDue<Ending, number>(pipeline, {
    due: { text: NEXT, values: [moment(now)] },
    work: (db, rules) => remind(pipeline, db, rules, now),
    layBy: (rows) => {
      const rules = rows.map(({ id }) => id);
      const statement = { text: REMINDED, values: [rules, rules.map(() => null)] };
      return { statement, of: { rules }, said: 'reminders of a last day could not be sent', done: rules.length };
    },
  });
}

async function remind(pipeline: Keeping, db: Db, rules: readonly Ending[], now: Instant): Promise<number> {
  const ending = rules.map((rule) => ({ ...rule, definition: storedRule.read(rule.definition) }));
  const next = ending
    .map(({ definition }) => remindedAt(definition, now))
    .map((at) => (at === null ? null : moment(at)));
  const reminded: Statement = { text: REMINDED, values: [ending.map(({ id }) => id), next] };
  // What is over by now, or not judged, is not announced.
  const told = ending.filter(({ live, endsAt }) => live && endsAt > now).map(noticeOf);
  const ordered = await orderDeliveries(pipeline, db, { at: now, runId: null }, [], told);
  await writeAndCommit(db, [reminded, ...ordered]);
  return rules.length;
}

function noticeOf({
  id,
  watch,
  owner,
  locale,
  endsAt,
  labels,
  definition,
}: Omit<Ending, 'definition'> & { definition: RuleDefinition }): Notice {
  const names = namesOf((key) => labels?.[key] ?? key, locale);
  const named = definition.name === undefined ? 'When' : `“${definition.name}”, when`;
  const sentence = `${named} ${describeCondition(definition.when, names)}`;
  return { watchId: watch, kind: 'ends', cause: null, sentence, since: endsAt, rule: { id, owner } };
}
