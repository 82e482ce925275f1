import type { RecordId, RuleId } from '#core/id';
import {
  rateLimitDue,
  rateLimitOf,
  isRateLimited,
  heldBehind,
  letOut,
  type RateLimit,
  type Held,
} from '#core/judge/rate-limit';
import { verdictsOf } from '#core/judge/judging';
import type { RuleDefinition } from '#core/judge/rule';
import type { RuleMemory } from '#core/judge/memory';
import { notifiedTurn, type Turn } from '#core/judge/subject';
import { notifiedTogether, type ThrottleMemory } from '#core/judge/throttle';
import type { Instant } from '#core/when/interval';
import { moment, type Db, type Statement } from '../db/base/pool';
import { subjectOf, type WatchVerdict } from './store/states';
import { loadSubjects, standingOf } from './subjects';

// Rules that are told at most once in a time as a whole: what of a moment passes, what is held, and what is let out
// when its time is up.

/** What is to be kept and told of a moment, with what moves the gates. */
export interface RateLimited {
  verdicts: WatchVerdict[];
  statements: Statement[];
}

interface RateLimitRow {
  id: RuleId;
  gate: RateLimit | null;
}

const RATE_LIMITS = 'SELECT id, gate FROM rule WHERE id = ANY($1) ORDER BY id FOR UPDATE';

/**
 * Holds back what rules as a whole told of lately; what was due before is told first. Its caller holds the sources of
 * their watches.
 */
export async function throughRateLimits(db: Db, verdicts: WatchVerdict[]): Promise<RateLimited> {
  const rules = new Map(verdicts.filter(isHeldTogether).map(({ verdict: { rule } }) => [rule.id, rule.definition]));
  if (rules.size === 0) return { verdicts, statements: [] };
  const { rows } = await db.query<RateLimitRow>(RATE_LIMITS, [[...rules.keys()]]);
  const gates = new Map(rows.map(({ id, gate }) => [id, gate]));
  const held = new Map<string, ThrottleMemory | null>();
  const first: WatchVerdict[] = [];
  const passed: WatchVerdict[] = [];
  for (const each of verdicts) {
    const { id, definition } = each.verdict.rule;
    if (!rules.has(id)) {
      passed.push(each);
      continue;
    }
    const due = await letOutDue(db, id, definition, gates.get(id) ?? null, each.verdict.turn.at - 1);
    first.push(...due.verdicts);
    const kept = heldBehind(each.verdict, due.gate, held.get(subjectOf(each)));
    gates.set(id, kept.gate);
    held.set(subjectOf(each), kept.held);
    passed.push({ ...each, verdict: kept.verdict });
  }
  return {
    verdicts: [...first, ...passed],
    statements: [rateLimitStatement([...rules].map(([id, rule]) => ({ id, rule, gate: gates.get(id) ?? null })))],
  };
}

const isHeldTogether = ({ verdict: { rule, turn } }: WatchVerdict): boolean =>
  rateLimitOf(rule.definition.telling) !== null && turn.told.some(({ what }) => isRateLimited(what));

/** What is due behind a gate up to a moment: told as one, of the record that the latest of it was of. */
export async function letOutDue(
  db: Db,
  id: RuleId,
  rule: RuleDefinition,
  gate: RateLimit | null,
  to: Instant,
): Promise<{ verdicts: WatchVerdict[]; gate: RateLimit | null }> {
  if (gate === null) return { verdicts: [], gate };
  const at = rateLimitDue(rule.telling ?? {}, gate);
  if (at > to) return { verdicts: [], gate };
  return letOutAt(db, id, rule, gate, at);
}

/** The same where a rule ends: what is held by then is told with that. */
export async function throughLastRateLimit(
  db: Db,
  verdicts: WatchVerdict[],
  { id, gate, rule }: RuleRateLimit,
  at: Instant,
): Promise<WatchVerdict[]> {
  let known = gate;
  const passed = verdicts.map((each) => {
    const { verdict, gate: next } = heldBehind(each.verdict, known);
    known = next;
    return { ...each, verdict };
  });
  return known === null ? passed : [...(await letOutAt(db, id, rule, known, at)).verdicts, ...passed];
}

/** A gate as it stands, with its rule. */
interface RuleRateLimit {
  id: RuleId;
  rule: RuleDefinition;
  gate: RateLimit | null;
}

/** Lets out what is held behind a gate, at a moment. */
async function letOutAt(
  db: Db,
  id: RuleId,
  { telling }: RuleDefinition,
  gate: RateLimit,
  at: Instant,
): Promise<{ verdicts: WatchVerdict[]; gate: RateLimit | null }> {
  const { gate: next, out } = letOut(rateLimitOf(telling) ?? 0, gate, at);
  return { verdicts: out === null ? [] : await heldVerdicts(db, id, out, at), gate: next };
}

const RECORDS =
  'SELECT r.id FROM record r JOIN rule u ON u.watch_id = r.watch_id WHERE u.id = $1 AND r.identity = ANY($2)';

/** What was held is told of the latest of its records; of all of them it is remembered that it is. */
async function heldVerdicts(db: Db, id: RuleId, { count, since, records }: Held, at: Instant): Promise<WatchVerdict[]> {
  const { rows } = await db.query<{ id: RecordId }>(RECORDS, [id, records]);
  const [watch] = await loadSubjects(db, { rules: [id], records: rows.map((row) => row.id) });
  const [rule] = watch?.rules ?? [];
  if (watch === undefined || rule === undefined) return [];
  const remembered = records.filter((identity) => rule.memories.has(identity));
  const told: Turn['told'][number] =
    count === 1 ? { at, what: 'alert' } : { at, what: 'several', count, since, together: true };
  return remembered.flatMap((identity) => {
    const memory = rule.memories.get(identity) as RuleMemory;
    const telling = notifiedTogether(rule.definition.telling ?? {}, memory.telling, at);
    const turn = notifiedTurn({ ...memory, telling }, at, identity === remembered.at(-1) ? [told] : []);
    const subject = { identity, name: watch.records.get(identity)?.name ?? identity };
    return verdictsOf(rule, subject, memory, [turn], standingOf(watch, identity)).map((verdict) => ({
      watch,
      verdict,
    }));
  });
}

const MOVED = `
UPDATE rule u SET gate = n.gate, gate_at = n.due FROM jsonb_to_recordset($1) AS n(rule int, gate jsonb, due timestamptz)
WHERE u.id = n.rule`;

/** Keeps gates as they stand. */
export function rateLimitStatement(gates: RuleRateLimit[]): Statement {
  const rows = gates.map(({ id, rule, gate }) => ({
    rule: id,
    gate,
    due: gate === null ? null : moment(rateLimitDue(rule.telling ?? {}, gate)),
  }));
  return { name: 'gates moved', text: MOVED, values: [JSON.stringify(rows)] };
}
