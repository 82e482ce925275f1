import type { PersonId, RuleId, WatchId } from '#core/id';
import { describeCondition, namesOf } from '#core/judge/describe';
import { remindedAt, storedRule } from '#core/judge/rule';
import type { Instant } from '#core/when/interval';
import { isOutage } from '../db/outage';
import { moment, withClient, writeAndCommit, type Db, type Statement } from '../db/pool';
import type { Keeping } from './keeping';
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

const NEXT = `
SELECT u.id, u.watch_id AS watch, NOT u.off AND w.state = 'running' AS live, o.id AS owner, o.locale, u.ends_at AS "endsAt", v.definition,
  (SELECT jsonb_object_agg(f->>'key', f->>'label') FROM jsonb_array_elements(x.definition->'fields') f) AS labels
FROM rule u
JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
JOIN watch w ON w.id = u.watch_id
JOIN watch_version x ON x.watch_id = w.id AND x.version = w.version
JOIN person o ON o.id = coalesce((SELECT id FROM person WHERE id = (v.definition->>'owner')::int), w.owner_id)
WHERE u.remind_at <= $1 AND u.ended_at IS NULL
ORDER BY u.remind_at LIMIT 1 FOR UPDATE OF u SKIP LOCKED`;

const REMINDED = 'UPDATE rule SET remind_at = $2 WHERE id = $1';

/** Reminds whoever answers for the next rule whose end is near: which rule; null where there is none. */
export async function remindNextEnd(pipeline: Keeping, now: Instant): Promise<RuleId | null> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const { rows } = await db.query<Ending>(NEXT, [moment(now)]);
    const [rule] = rows;
    if (rule === undefined) {
      await db.query('ROLLBACK');
      return null;
    }
    try {
      await remind(pipeline, db, rule, now);
    } catch (error) {
      if (isOutage(error)) throw error;
      // What cannot be said holds up nothing that comes after it.
      pipeline.log.error({ rule: rule.id, err: error }, 'a reminder of a last day could not be sent');
      await db.query('ROLLBACK');
      await db.query(REMINDED, [rule.id, null]);
    }
    return rule.id;
  });
}

async function remind(pipeline: Keeping, db: Db, rule: Ending, now: Instant): Promise<void> {
  const definition = storedRule.read(rule.definition);
  const next = remindedAt(definition, now);
  const reminded: Statement = { text: REMINDED, values: [rule.id, next === null ? null : moment(next)] };
  const sentence =
    definition.name ??
    describeCondition(
      definition.when,
      namesOf((key) => rule.labels?.[key] ?? key, rule.locale),
    );
  const notice = {
    watchId: rule.watch,
    kind: 'ends' as const,
    cause: null,
    sentence,
    since: rule.endsAt,
    rule: { id: rule.id, owner: rule.owner },
  };
  // What is over by now is not announced any more.
  const told = rule.live && rule.endsAt > now ? [notice] : [];
  const ordered = await orderDeliveries(pipeline, db, { at: now, runId: null }, [], told);
  await writeAndCommit(db, [reminded, ...ordered]);
}
