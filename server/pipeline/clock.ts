import type { RecordId, RuleId } from '#core/id';
import { situationOf, verdictsOf } from '#core/judge/judging';
import type { RateLimit } from '#core/judge/rate-limit';
import type { KnownRule } from '#core/judge/known';
import { storedRule } from '#core/judge/rule';
import { nextOfSubject, tellSubject, wakeSubject } from '#core/judge/subject';
import { MINUTE, type Instant } from '#core/when/interval';
import { TO_CHECK } from '../db/delivery/quotas';
import { TO_FOLD, TO_RELEASE } from '../db/delivery/deferred';
import { moment, theRow, withClient, type Db, type Statement } from '../db/base/pool';
import { beginRule, rulesChosen } from './begin';
import { RATE_LIMITED, openNextRateLimit } from './rate-limit-due';
import { throughLastRateLimit } from './rate-limits';
import { leftToTell } from './edited';
import { keep, keepAll, type Keeping } from './keeping';
import { remindNextEnd } from './ends';
import { composeNextCut } from './report/compose';
import { cutNextReport } from './report/cut';
import { foldNext, letHeldGo, releaseNextDeferred } from './order/deferred';
import { warnOfQuotas } from './quota';
import { takeNextStep } from './escalation';
import { storeStates, type WatchVerdict } from './store/states';
import { loadSubjects, standingOf, type SubjectWatch } from './subjects';

// What only the clock moves: holds, silences, ends of stretches, reminders, hours that begin; and rules that are to be
// begun.

/** How many states are moved in one transaction. */
const MOST = 200;

/**
 * States that are due, of sources that nobody else is at: their locks are what runs hold, so that a state is moved by
 * one at a time. Of rules that ask other watches the rule is held, too.
 */
const DUE = `
WITH due AS (
  SELECT t.rule_id, t.record_id, w.source_id
  FROM rule_state t JOIN rule u ON u.id = t.rule_id JOIN watch w ON w.id = u.watch_id
  WHERE t.due_at <= $1 AND t.version = u.judged_version AND u.ended_at IS NULL AND u.begun_at IS NOT NULL
    AND w.state = 'running'
  ORDER BY t.due_at LIMIT $2
), held AS (
  SELECT s.id FROM source s WHERE s.id IN (SELECT source_id FROM due) ORDER BY s.id FOR UPDATE SKIP LOCKED
)
SELECT due.rule_id AS rule, due.record_id AS record FROM due JOIN held ON held.id = due.source_id`;

/** Episodes with a step to come, of watches that run. */
const STEPS = `FROM episode e JOIN rule u ON u.id = e.rule_id JOIN watch w ON w.id = u.watch_id
  WHERE e.step_at IS NOT NULL AND e.closed_at IS NULL AND w.state = 'running'`;

/** Asked in one turn, again and again, so that where nothing waits nothing is begun. */
const WAITING = `
SELECT
  EXISTS (SELECT FROM rule WHERE begun_at IS NULL AND ended_at IS NULL AND NOT off) AS "toBegin",
  EXISTS (SELECT FROM rule_state WHERE due_at <= $1) AS due,
  EXISTS (SELECT FROM rule WHERE ends_at <= $1 AND ended_at IS NULL) AS "toEnd",
  EXISTS (SELECT ${STEPS} AND e.step_at <= $1) AS steps,
  EXISTS (SELECT FROM rule WHERE remind_at <= $1 AND ended_at IS NULL) AS reminders,
  EXISTS (SELECT ${RATE_LIMITED} AND u.gate_at <= $1) AS gates,
  EXISTS (SELECT FROM report WHERE due_at <= $1 AND ended_at IS NULL) AS reports,
  EXISTS (SELECT FROM cut WHERE try_at <= $1) AS cuts,
  EXISTS (SELECT FROM delivery WHERE state = 'kept back' AND held_until <= $1) AS held,
  EXISTS (SELECT ${TO_FOLD}) AS "toFold",
  EXISTS (SELECT ${TO_RELEASE} AND (d.next_attempt_at IS NULL OR d.next_attempt_at <= $1)) AS "toRelease",
  ${TO_CHECK} AS "toCheck"`;

/** What waits for the clock. */
interface Waiting {
  toBegin: boolean;
  due: boolean;
  toEnd: boolean;
  steps: boolean;
  reminders: boolean;
  gates: boolean;
  reports: boolean;
  cuts: boolean;
  held: boolean;
  toFold: boolean;
  toRelease: boolean;
  toCheck: boolean;
}

const HOLD_ASKING = `SELECT
    FROM rule u
    WHERE u.id = ANY($1) AND (u.asks_items OR EXISTS (SELECT FROM rule_asks a WHERE a.rule_id = u.id))
    ORDER BY u.id
    FOR UPDATE`;

/** A state whose time has come. */
interface DueState {
  rule: RuleId;
  record: RecordId;
}

/** What the clock brought about. */
export interface ClockSummary {
  /** Rules that were begun, rules that ended, and states that were looked at. */
  begun: number;
  ended: number;
  woken: number;
  /** Steps that were taken of episodes that nobody took on. */
  steps: number;
  alerts: number;
  /** Reports that were cut; and deliveries that their editions ordered, that were gathered or let go. */
  cuts: number;
  mails: number;
}

/** Begins the rules that are to be begun, and moves on those whose time has come, as long as there are any. */
export async function moveClock(pipeline: Keeping, now: Instant, signal?: AbortSignal): Promise<ClockSummary> {
  const waiting = theRow(
    await pipeline.pool.query<Waiting>({ name: 'what waits for the clock', text: WAITING, values: [moment(now)] }),
  );
  const all = <T>(wanted: boolean, next: () => Promise<T | null>) => (wanted ? asLongAsThereAre(next, signal) : []);
  const begun = await all(waiting.toBegin, () => beginNextRule(pipeline, now));
  // What was begun may be due at once.
  const woken = await all(waiting.due || begun.length > 0, () => wakeRules(pipeline, now));
  const gated = await all(waiting.gates, () => openNextRateLimit(pipeline, now));
  await all(waiting.reminders, () => remindNextEnd(pipeline, now));
  const ended = await all(waiting.toEnd, () => endNextRule(pipeline, now));
  const steps = await all(waiting.steps, () => takeNextStep(pipeline, now));
  // What the clock brought about by now is in what is cut now.
  const cuts = await all(waiting.reports, () => cutNextReport(pipeline, now));
  const mails = await all(waiting.cuts || cuts.length > 0, () => composeNextCut(pipeline, now));
  const folded = await all(waiting.toFold, () => foldNext(pipeline, now));
  const released = await all(waiting.toRelease || folded.length > 0, () => releaseNextDeferred(pipeline, now));
  await all(waiting.toCheck, () => warnOfQuotas(pipeline, now));
  const letGo = waiting.held ? await letHeldGo(pipeline, now) : 0;
  return {
    begun: begun.length,
    ended: ended.length,
    woken: sum(woken.map((each) => each.woken)),
    steps: steps.length,
    alerts: sum([...begun, ...woken.map((each) => each.alerts), ...ended, ...gated, ...steps]),
    cuts: cuts.length,
    mails: sum(mails) + folded.length + released.length + letGo,
  };
}

const sum = (counts: readonly number[]): number => counts.reduce((total, each) => total + each, 0);

/** Takes one after another until there is none, or until it is to stop. */
async function asLongAsThereAre<T>(next: () => Promise<T | null>, signal: AbortSignal | undefined): Promise<T[]> {
  const taken: T[] = [];
  while (signal?.aborted !== true) {
    const one = await next();
    if (one === null) break;
    taken.push(one);
  }
  return taken;
}

const NEXT_DUE = `
SELECT least((SELECT min(t.due_at) FROM rule_state t JOIN rule u ON u.id = t.rule_id JOIN watch w ON w.id = u.watch_id
  WHERE t.version = u.judged_version AND u.ended_at IS NULL AND u.begun_at IS NOT NULL AND w.state = 'running'),
  (SELECT min(ends_at) FROM rule WHERE ends_at IS NOT NULL AND ended_at IS NULL),
  (SELECT min(remind_at) FROM rule WHERE remind_at IS NOT NULL AND ended_at IS NULL),
  (SELECT min(u.gate_at) ${RATE_LIMITED}),
  (SELECT min(due_at) FROM report WHERE due_at IS NOT NULL AND ended_at IS NULL),
  (SELECT min(try_at) FROM cut WHERE try_at IS NOT NULL),
  (SELECT min(held_until) FROM delivery WHERE state = 'kept back'),
  (SELECT min(e.step_at) ${STEPS})) AS at`;

/** When the clock moves something next, a rule or a report; null where nothing waits for it. */
export async function nextByClockAt(db: Db): Promise<Instant | null> {
  return theRow(await db.query<{ at: Instant | null }>(NEXT_DUE)).at;
}

/** Moves rules on whose time has come, as many as one transaction takes; null where there are none. */
async function wakeRules(pipeline: Keeping, now: Instant): Promise<Pick<ClockSummary, 'woken' | 'alerts'> | null> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const { rows } = await db.query<DueState>({ name: 'due rules', text: DUE, values: [moment(now), MOST] });
    if (rows.length === 0) return end(db);
    const rules = [...new Set(rows.map(({ rule }) => rule))];
    await db.query(HOLD_ASKING, [rules]);
    const { verdicts, moved } = await wakeDue(pipeline, db, rows, now);
    const alerts = await keep(pipeline, db, now, verdicts, { first: [undue(moved, now)], last: [later(rows, now)] });
    return { woken: rows.length, alerts };
  });
}

/**
 * Judges at once what is due; where that fails rule by rule, so that one that cannot be judged holds up none beside it.
 */
async function wakeDue(
  pipeline: Keeping,
  db: Db,
  due: DueState[],
  now: Instant,
): Promise<{ verdicts: WatchVerdict[]; moved: DueState[] }> {
  const rules = [...new Set(due.map(({ rule }) => rule))];
  try {
    const watches = await loadSubjects(db, { rules, records: [...new Set(due.map(({ record }) => record))] });
    return {
      verdicts: watches.flatMap((watch) => watch.rules.flatMap((rule) => wakeRule(rule, watch, now))),
      moved: due,
    };
  } catch (error) {
    if (rules.length > 1) {
      const parts = [];
      for (const rule of rules)
        parts.push(
          await wakeDue(
            pipeline,
            db,
            due.filter((each) => each.rule === rule),
            now,
          ),
        );
      return { verdicts: parts.flatMap(({ verdicts }) => verdicts), moved: parts.flatMap(({ moved }) => moved) };
    }
    pipeline.log.error({ rule: rules[0], err: error }, 'a rule could not be moved by the clock');
    return { verdicts: [], moved: [] };
  }
}

async function end(db: Db): Promise<null> {
  await db.query('ROLLBACK');
  return null;
}

/** A rule moved on for each record of which its time has come. */
function wakeRule(rule: KnownRule, watch: SubjectWatch, now: Instant): WatchVerdict[] {
  return [...rule.memories].flatMap(([identity, memory]) => {
    const record = watch.records.get(identity) ?? null;
    const situation = situationOf(rule, watch, record, now);
    const due = nextOfSubject(rule.definition, memory, situation);
    if (due === null || due > now) return [];
    const turns = wakeSubject(rule.definition, memory, now, situation);
    const subject = { identity, name: record?.name ?? identity };
    return verdictsOf(rule, subject, memory, turns, standingOf(watch, identity)).map((verdict) => ({ watch, verdict }));
  });
}

/** What was due and did not move is not due before it is judged again: no state is looked at over and over. */
function undue(rows: DueState[], now: Instant): Statement {
  return {
    name: 'rules not due',
    text: `UPDATE rule_state t SET due_at = NULL FROM unnest($1::int[], $2::bigint[]) AS n(rule, record)
      WHERE t.rule_id = n.rule AND t.record_id = n.record AND t.due_at <= $3`,
    values: [rows.map(({ rule }) => rule), rows.map(({ record }) => record), moment(now)],
  };
}

/** Should a state still be due after it was moved, it is looked at again in a minute, and not for ever. */
function later(rows: DueState[], now: Instant): Statement {
  return {
    name: 'rules due later',
    text: `UPDATE rule_state t SET due_at = $4 FROM unnest($1::int[], $2::bigint[]) AS n(rule, record)
      WHERE t.rule_id = n.rule AND t.record_id = n.record AND t.due_at <= $3`,
    values: [rows.map(({ rule }) => rule), rows.map(({ record }) => record), moment(now), moment(now + MINUTE)],
  };
}

/** What judging a rule comes to; null where it fails: it is not judged then, and holds up none that comes after it. */
async function unlessItFails<T>(
  { log }: Keeping,
  rule: RuleId,
  what: string,
  judge: () => Promise<T>,
): Promise<T | null> {
  try {
    return await judge();
  } catch (error) {
    log.error({ rule, err: error }, `a rule could not be ${what} as it should`);
    return null;
  }
}

const TO_BEGIN = `
SELECT u.id FROM rule u JOIN watch w ON w.id = u.watch_id JOIN source s ON s.id = w.source_id
WHERE u.begun_at IS NULL AND u.ended_at IS NULL AND NOT u.off AND w.state <> 'deleted' ORDER BY u.id LIMIT 1
FOR UPDATE OF s, u SKIP LOCKED`;

const BEGUN = 'UPDATE rule SET begun_at = $2, baseline_at = CASE WHEN $3 THEN $2::timestamptz END WHERE id = $1';

/**
 * Begins a rule that was said of a watch which has been read, what was still to be told of it as it was said before
 * first; how many alerts that brought, null where there is none.
 */
async function beginNextRule(pipeline: Keeping, now: Instant): Promise<number | null> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const { rows } = await db.query<{ id: RuleId }>(TO_BEGIN);
    const [rule] = rows;
    if (rule === undefined) return end(db);
    const left = await unlessItFails(pipeline, rule.id, 'told of', () => leftToTell(db, rule.id, now));
    if (left !== null) return keepAll(pipeline, db, now, left.verdicts, left);
    const begun = await unlessItFails(pipeline, rule.id, 'begun', () => beginRule(db, rule.id, now));
    const judged = begun?.judged ?? [];
    const mark = { text: BEGUN, values: [rule.id, moment(now), judged.length > 0] };
    const chosen = begun?.choice == null ? [] : rulesChosen([{ rule: rule.id, choice: begun.choice }]);
    return keep(pipeline, db, now, judged, {
      first: [mark, ...chosen, ...storeStates(now, begun?.remembered ?? [])],
    });
  });
}

const TO_END = `
SELECT u.id, u.ends_at AS "endsAt", u.gate, v.definition
FROM rule u JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version JOIN watch w ON w.id = u.watch_id
JOIN source s ON s.id = w.source_id
WHERE u.ends_at <= $1 AND u.ended_at IS NULL ORDER BY u.ends_at LIMIT 1 FOR UPDATE OF s, u SKIP LOCKED`;

interface EndingRule {
  id: RuleId;
  endsAt: Instant;
  gate: RateLimit | null;
  definition: unknown;
}

const ENDED = `
WITH closed AS (UPDATE episode SET closed_at = $2, closed_because = 'ended' WHERE rule_id = $1 AND closed_at IS NULL)
UPDATE rule SET ended_at = $2 WHERE id = $1`;

/**
 * Ends a rule whose last day is over: what came until then is judged, what is held or waits is told, and its episodes
 * are closed. How many alerts that brought; null where there is none.
 */
async function endNextRule(pipeline: Keeping, now: Instant): Promise<number | null> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const { rows } = await db.query<EndingRule>(TO_END, [moment(now)]);
    const [rule] = rows;
    if (rule === undefined) return end(db);
    const verdicts = await unlessItFails(pipeline, rule.id, 'ended', async () => {
      const watches = await loadSubjects(db, { rules: [rule.id], records: null });
      return watches.flatMap((watch) => watch.rules.flatMap((known) => endRule(known, watch, rule.endsAt)));
    });
    const told = await throughLastRateLimit(
      db,
      verdicts ?? [],
      { ...rule, rule: storedRule.read(rule.definition) },
      rule.endsAt,
    );
    return keepAll(pipeline, db, rule.endsAt, told, {
      last: [{ text: ENDED, values: [rule.id, moment(rule.endsAt)] }],
    });
  });
}

function endRule(rule: KnownRule, watch: SubjectWatch, at: Instant): WatchVerdict[] {
  return [...rule.memories].flatMap(([identity, memory]) => {
    const record = watch.records.get(identity) ?? null;
    const woken = wakeSubject(rule.definition, memory, at, situationOf(rule, watch, record, at));
    const turns = [...woken, ...tellSubject(rule.definition, woken.at(-1)?.memory ?? memory, { is: 'ended' }, at)];
    return verdictsOf(
      rule,
      { identity, name: record?.name ?? identity },
      memory,
      turns,
      standingOf(watch, identity),
    ).map((verdict) => ({
      watch,
      verdict,
    }));
  });
}
