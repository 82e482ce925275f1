import type { RuleId } from '#core/id';
import type { Gate } from '#core/judge/gate';
import { storedRule } from '#core/judge/rule';
import type { Instant } from '#core/when/interval';
import { moment } from '../db/pool';
import { takeDue } from './claim';
import { gateStatement, letOutDue } from './gates';
import { keepAll, type Keeping } from './keeping';

// The clock lets out what is held of rules as a whole.

/** Rules that are told at most once in a time as a whole, and told of something lately. */
export const GATED = `FROM rule u JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version JOIN watch w ON w.id = u.watch_id
  WHERE u.gate_at IS NOT NULL AND u.ended_at IS NULL AND NOT u.off AND w.state = 'running'`;

const NEXT = `
WITH due AS (SELECT u.id, u.gate, v.definition, u.gate_at, w.source_id ${GATED} AND u.gate_at <= $1)
SELECT due.id, due.gate, due.definition
FROM due JOIN rule u ON u.id = due.id JOIN source s ON s.id = due.source_id
ORDER BY due.gate_at LIMIT 1 FOR UPDATE OF s, u SKIP LOCKED`;

interface RuleGate {
  id: RuleId;
  gate: Gate;
  definition: unknown;
}

/** Tells what is held of the next rule whose time is up; how many alerts that brought, null where there is none. */
export function openNextGate(pipeline: Keeping, now: Instant): Promise<number | null> {
  return takeDue<RuleGate, number>(pipeline, {
    due: { text: NEXT, values: [moment(now)] },
    work: async (db, [{ id, gate, definition }]) => {
      const rule = storedRule.read(definition);
      const { verdicts, gate: next } = await letOutDue(db, id, rule, gate, now);
      return keepAll(pipeline, db, now, verdicts, [], [gateStatement([{ id, rule, gate: next }])]);
    },
    layBy: ([{ id }]) => {
      const statement = { text: 'UPDATE rule SET gate = NULL, gate_at = NULL WHERE id = $1', values: [id] };
      return { statement, of: { rule: id }, said: 'what was held of a rule could not be told', done: 0 };
    },
  });
}
