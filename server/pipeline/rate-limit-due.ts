import type { RuleId } from '#core/id';
import type { RateLimit } from '#core/judge/rate-limit';
import { storedRule } from '#core/judge/rule';
import type { Instant } from '#core/when/interval';
import { moment } from '../db/base/pool';
import { takeDue } from './claim';
import { rateLimitStatement, letOutDue } from './rate-limits';
import { keepAll, type Keeping } from './keeping';

// The clock lets out what is held of rules as a whole.

/** Rules that are told at most once in a time as a whole, and told of something lately. */
export const RATE_LIMITED = `FROM rule u JOIN watch w ON w.id = u.watch_id JOIN source s ON s.id = w.source_id
  WHERE u.gate_at IS NOT NULL AND u.ended_at IS NULL AND NOT u.off AND w.state = 'running'`;

/**
 * What is asked of the rule is asked of its own row, so that who waited for that sees what the other one made of it.
 */
const NEXT = `
SELECT u.id, u.gate, (SELECT definition FROM rule_version v
WHERE v.rule_id = u.id AND v.version = u.version) AS definition
${RATE_LIMITED} AND u.gate_at <= $1 ORDER BY u.gate_at LIMIT 1 FOR UPDATE OF s, u SKIP LOCKED`;

interface RuleRateLimit {
  id: RuleId;
  gate: RateLimit;
  definition: unknown;
}

/** Tells what is held of the next rule whose time is up; how many alerts that brought, null where there is none. */
export function openNextRateLimit(pipeline: Keeping, now: Instant): Promise<number | null> {
  return takeDue<RuleRateLimit, number>(pipeline, {
    due: { text: NEXT, values: [moment(now)] },
    work: async (db, [{ id, gate, definition }]) => {
      const rule = storedRule.read(definition);
      const { verdicts, gate: next } = await letOutDue(db, id, rule, gate, now);
      return keepAll(pipeline, db, now, verdicts, { last: [rateLimitStatement([{ id, rule, gate: next }])] });
    },
    layBy: ([{ id }]) => {
      const statement = { text: 'UPDATE rule SET gate = NULL, gate_at = NULL WHERE id = $1', values: [id] };
      return { statement, of: { rule: id }, said: 'what was held of a rule could not be told', done: 0 };
    },
  });
}
