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
import { notifiedTurn, type Turn } from '#core/judge/subject';
import { isPutOff, notifiedTogether, waitsPutOff, type ThrottleMemory } from '#core/judge/throttle';
import type { Instant } from '#core/when/interval';
import { moment, type Db, type Statement } from '../db/base/pool';
import { subjectOf, type WatchVerdict } from './store/states';
import { loadSubjects, standingOf, type SubjectWatch } from './subjects';

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
  return letOutAt(db, { id, rule, gate }, at);
}

/** The same where a rule ends: what is held by then is told with that. */
export async function throughLastRateLimit(
  db: Db,
  verdicts: WatchVerdict[],
  { id, gate, rule }: RuleRateLimit,
  at: Instant,
  watch?: SubjectWatch,
): Promise<WatchVerdict[]> {
  let known = gate;
  const passed = verdicts.map((each) => {
    const { verdict, gate: next } = heldBehind(each.verdict, known);
    known = next;
    return { ...each, verdict };
  });
  return known === null ? passed : [...(await letOutAt(db, { id, rule, gate: known }, at, watch)).verdicts, ...passed];
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
  { id, rule: { telling }, gate }: RuleRateLimit & { gate: RateLimit },
  at: Instant,
  watch?: SubjectWatch,
): Promise<{ verdicts: WatchVerdict[]; gate: RateLimit | null }> {
  const { gate: next, out } = letOut(rateLimitOf(telling) ?? 0, gate, at);
  if (out === null) return { verdicts: [], gate: next };
  const { verdicts, tells } = heldVerdicts(watch ?? (await watchOf(db, id, out)), out, at);
  // Where nothing was told, no time begins in which nothing more is.
  return { verdicts, gate: tells ? next : null };
}

const RECORDS =
  'SELECT r.id FROM record r JOIN rule u ON u.watch_id = r.watch_id WHERE u.id = $1 AND r.identity = ANY($2)';

/** The watch of a rule with what that remembers of the records of which something is held. */
async function watchOf(db: Db, id: RuleId, { records }: Held): Promise<SubjectWatch | undefined> {
  const { rows } = await db.query<{ id: RecordId }>(RECORDS, [id, records]);
  return (await loadSubjects(db, { rules: [id], records: rows.map((row) => row.id) }))[0];
}

/**
 * What was held is told of the latest of its records; of all of them it is remembered that it is. Of a record that is
 * put off it waits for the end of that.
 */
function heldVerdicts(
  watch: SubjectWatch | undefined,
  { count, since, records, counts }: Held,
  at: Instant,
): { verdicts: WatchVerdict[]; tells: boolean } {
  const [rule] = watch?.rules ?? [];
  if (watch === undefined || rule === undefined) return { verdicts: [], tells: false };
  const remembered = records.flatMap((identity) => {
    const memory = rule.memories.get(identity);
    return memory === undefined ? [] : [{ identity, memory, isOff: isPutOff(memory.telling, at) }];
  });
  const brought = new Map(Object.entries(counts));
  const put = remembered.filter(({ isOff }) => isOff);
  const left = count - put.reduce((sum, { identity }) => sum + (brought.get(identity) ?? 1), 0);
  const last = remembered.findLast(({ isOff }) => !isOff)?.identity;
  const told: Turn['told'][number] =
    left <= 1 ? { at, what: 'alert' } : { at, what: 'several', count: left, since, together: true };
  const verdicts = remembered.flatMap(({ identity, memory, isOff }) => {
    const telling = isOff
      ? waitsPutOff(memory.telling, brought.get(identity) ?? 1, at)
      : notifiedTogether(rule.definition.telling ?? {}, memory.telling, at);
    const turn = notifiedTurn({ ...memory, telling }, at, identity === last ? [told] : []);
    const subject = { identity, name: watch.records.get(identity)?.name ?? identity };
    return verdictsOf(rule, subject, memory, [turn], standingOf(watch, identity)).map((verdict) => ({
      watch,
      verdict,
    }));
  });
  return { verdicts, tells: last !== undefined };
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
