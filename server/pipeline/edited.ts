import type { RuleId } from '#core/id';
import { verdictsOf } from '#core/judge/judging';
import type { KnownRule } from '#core/judge/known';
import { storedMemory } from '#core/judge/memory';
import type { RateLimit } from '#core/judge/rate-limit';
import { storedRule } from '#core/judge/rule';
import { tellSubject } from '#core/judge/subject';
import type { Instant } from '#core/when/interval';
import type { Db, Statement } from '../db/base/pool';
import { throughLastRateLimit } from './rate-limits';
import type { WatchVerdict } from './store/states';
import { loadSubjects, standingOf } from './subjects';

// A rule that judges otherwise from now on begins anew; what was still to be told of it is told first (5).

const WAITS = `(t.memory->'telling'->'waiting' <> 'null' OR (t.memory->'telling'->>'held')::int > 0)`;

/** What waits of a rule as it judged before, and is held of it as a whole. */
const LEFT = `
SELECT u.gate, v.definition, t.version, t.memories
FROM rule u
JOIN rule_version v ON v.rule_id = u.id AND v.version = u.judged_version - 1
JOIN LATERAL (
  SELECT t.version, jsonb_object_agg(r.identity, t.memory) AS memories, bool_or(${WAITS}) AS waits
  FROM rule_state t JOIN record r ON r.id = t.record_id
  WHERE t.rule_id = u.id AND t.version < u.judged_version
  GROUP BY t.version ORDER BY t.version DESC LIMIT 1
) t ON true
WHERE u.id = $1 AND (t.waits OR coalesce((u.gate->>'held')::int, 0) > 0)`;

interface LeftRow {
  gate: RateLimit | null;
  definition: unknown;
  version: number;
  memories: Record<string, unknown>;
}

/** What it was is over: nothing of that waits any more. */
const toldAll = (id: RuleId): Statement[] => [
  {
    text: 'DELETE FROM rule_state t USING rule u WHERE u.id = $1 AND t.rule_id = u.id AND t.version < u.judged_version',
    values: [id],
  },
  { text: 'UPDATE rule SET gate = NULL, gate_at = NULL WHERE id = $1', values: [id] },
];

/**
 * What is still to be told of a rule that was said otherwise, as it was said before. Its caller holds the source of its
 * watch. Null where nothing is.
 */
export async function leftToTell(
  db: Db,
  id: RuleId,
  now: Instant,
): Promise<{ verdicts: WatchVerdict[]; last: Statement[] } | null> {
  const { rows } = await db.query<LeftRow>(LEFT, [id]);
  const [left] = rows;
  const [watch] = left === undefined ? [] : await loadSubjects(db, { rules: [id], records: null });
  const [present] = watch?.rules ?? [];
  if (left === undefined || watch === undefined || present === undefined) return null;
  const definition = storedRule.read(left.definition);
  const memories = new Map(
    Object.entries(left.memories).map(([identity, memory]) => [identity, storedMemory.read(memory)]),
  );
  const rule: KnownRule = { ...present, judgedVersion: left.version, definition, memories };
  const verdicts = [...memories].flatMap(([identity, memory]) => {
    const subject = { identity, name: watch.records.get(identity)?.name ?? identity };
    const turns = tellSubject(definition, memory, { is: 'ended' }, now).filter(({ told }) => told.length > 0);
    return verdictsOf(rule, subject, memory, turns, standingOf(watch, identity)).map((verdict) => ({ watch, verdict }));
  });
  const told = await throughLastRateLimit(db, verdicts, { id, gate: left.gate, rule: definition }, now, {
    ...watch,
    rules: [rule],
  });
  return { verdicts: told, last: toldAll(id) };
}
