import type { AlertId, EpisodeId, PersonId, RecordId, RuleId, SeriesId, WatchId } from '#core/id';
import { verdictsOf } from '#core/judge/judging';
import { storedMemory } from '#core/judge/memory';
import { storedRule } from '#core/judge/rule';
import { notifiedTurn } from '#core/judge/subject';
import { storedNews, type News } from '#core/tell/news';
import { MINUTE, type Instant } from '#core/when/interval';
import { moment, writeAndCommit, type Db, type Statement } from '../db/base/pool';
import { ensureAtOnceReport, presentOf } from '../db/report/reports';
import { takeDue } from './claim';
import type { Keeping } from './keeping';
import { orderDeliveries } from './order/order';
import { newsOf } from './store/news';
import { loadSubjects, standingOf } from './subjects';

// Who is told of an episode that nobody takes on: step by step, each so long after the one before.

/** An episode whose next step is due, as it stands. */
interface DueStep {
  id: EpisodeId;
  rule: RuleId;
  version: number;
  watch: WatchId;
  record: RecordId;
  series: SeriesId | null;
  change: number | null;
  owner: PersonId;
  step: number;
  taken: boolean;
  definition: unknown;
  memory: unknown;
  news: unknown;
}

/** Its source is held, so that nobody takes it on or closes it meanwhile; the news is what was told of it last. */
const DUE = `
SELECT e.id, e.rule_id AS rule, u.version, w.id AS watch, e.record_id AS record, a.series_id AS series,
  a.change_id AS change, w.owner_id AS owner, e.step,
  e.taken_on_by IS NOT NULL AS taken, v.definition, t.memory, a.news
FROM episode e
JOIN rule u ON u.id = e.rule_id
JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
JOIN watch w ON w.id = u.watch_id
JOIN source s ON s.id = w.source_id
LEFT JOIN rule_state t ON t.rule_id = e.rule_id AND t.record_id = e.record_id AND t.version = u.judged_version
LEFT
JOIN LATERAL (SELECT x.* FROM alert x WHERE x.episode_id = e.id ORDER BY x.seen_at DESC, x.id DESC LIMIT 1) a ON true
WHERE e.step_at <= $1 AND e.closed_at IS NULL AND w.state = 'running'
ORDER BY e.step_at LIMIT 1 FOR UPDATE OF s, e SKIP LOCKED`;

const MOVED = 'UPDATE episode SET step = $2, step_at = $3 WHERE id = $1';

/** Takes the next step that is due; how many alerts that brought, null where none is. */
export function takeNextStep(pipeline: Keeping, now: Instant): Promise<number | null> {
  return takeDue<DueStep, number>(pipeline, {
    due: { text: DUE, values: [moment(now)] },
    work: (db, [due]) => takeStep(pipeline, db, due, now),
    layBy: ([{ id, step }]) => {
      const statement = { text: MOVED, values: [id, step, null] };
      return { statement, of: { episode: id }, said: 'an episode could not be passed on', done: 0 };
    },
  });
}

async function takeStep(pipeline: Keeping, db: Db, due: DueStep, now: Instant): Promise<number> {
  const steps = storedRule.read(due.definition).steps ?? [];
  const step = steps[due.step];
  const to = (at: number, next: Instant | null): Statement => ({
    text: MOVED,
    values: [due.id, at, next === null ? null : moment(next)],
  });
  const held = heldUntil(due, now);
  if (due.taken || step === undefined || held === 'for good') {
    await writeAndCommit(db, [to(due.step, null)]);
    return 0;
  }
  if (held !== null) {
    await writeAndCommit(db, [to(due.step, held)]);
    return 0;
  }
  const news = await newsOfStep(db, due, steps.length, now);
  if (news === null) {
    await writeAndCommit(db, [to(due.step, null)]);
    return 0;
  }
  const after = steps[due.step + 1];
  const next = after === undefined ? null : now + after.after;
  const audiences = await presentOf(db, step.audiences);
  // Whoever was to be told has been taken out since: it is for the next.
  if (audiences.length === 0) {
    await writeAndCommit(db, [to(due.step + 1, next)]);
    return 0;
  }
  const report = await ensureAtOnceReport(db, audiences, due.owner, now);
  const alert = { id: await pipeline.ids.one<AlertId>(db), ruleId: due.rule, watchId: due.watch, news, report };
  const ordered = await orderDeliveries(pipeline, db, { at: now, runId: null }, [alert], []);
  await writeAndCommit(db, [alertStatement(due, alert, now), to(due.step + 1, next), ...ordered]);
  return 1;
}

/**
 * What is put off, waits for its hours or was not told yet is passed on to nobody: until when. A rule that rests for
 * the record tells nobody for good. Null where nothing holds it.
 */
function heldUntil({ memory, news }: Pick<DueStep, 'memory' | 'news'>, now: Instant): Instant | 'for good' | null {
  if (memory === null) return news === null ? now + LOOKED_AGAIN : null;
  const { putOffUntil, resting, waiting, untold } = storedMemory.read(memory).telling;
  if (putOffUntil !== null && putOffUntil > now) return putOffUntil;
  if (untold === true && resting) return 'for good';
  return untold === true || waiting !== null ? now + LOOKED_AGAIN : null;
}

const LOOKED_AGAIN = 10 * MINUTE;

/**
 * What is passed on: what was told of it last, or, where it was told with others alone, what stands now; null where
 * nothing is known of it.
 */
async function newsOfStep(db: Db, due: DueStep, of: number, now: Instant): Promise<News | null> {
  const news = due.news === null ? await standingNews(db, due, now) : storedNews.read(due.news);
  return news === null ? null : { ...news, told: { what: 'escalation', step: due.step + 1, of }, seenAt: now };
}

async function standingNews(db: Db, { rule: id, record }: DueStep, now: Instant): Promise<News | null> {
  const [watch] = await loadSubjects(db, { rules: [id], records: [record] });
  const [rule] = watch?.rules ?? [];
  const [[identity, memory] = []] = rule?.memories ?? [];
  if (watch === undefined || rule === undefined || identity === undefined || memory === undefined) return null;
  const told = { at: now, what: 'alert' } as const;
  const subject = { identity, name: watch.records.get(identity)?.name ?? identity };
  const [verdict] = verdictsOf(rule, subject, memory, [notifiedTurn(memory, now, [told])], standingOf(watch, identity));
  return verdict === undefined ? null : newsOf(watch, verdict, told);
}

function alertStatement(
  { rule, version, watch, record, series, change, id: episode }: DueStep,
  { id, news }: { id: number; news: News },
  at: Instant,
): Statement {
  return {
    text: `INSERT INTO alert (id, rule_id, rule_version, watch_id, series_id, record_id, change_id, episode_id, told,
      news, seen_at)
      VALUES ($1, $2, $3, $4, $5, $6, $7, $8, 'escalation', $9, $10)`,
    values: [id, rule, version, watch, series, record, change, episode, storedNews.write(news), moment(at)],
  };
}
