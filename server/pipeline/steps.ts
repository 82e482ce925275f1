import type { EpisodeId, PersonId, RecordId, RuleId, SeriesId, WatchId } from '#core/id';
import { storedMemory } from '#core/judge/memory';
import { storedRule } from '#core/judge/rule';
import { storedNews, type News } from '#core/tell/news';
import { MINUTE, type Instant } from '#core/when/interval';
import { moment, withClient, writeAndCommit, type Db, type Statement } from '../db/pool';
import { ensureAtOnceReport } from '../db/reports';
import type { Keeping } from './keeping';
import { orderDeliveries } from './order/order';

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
SELECT e.id, e.rule_id AS rule, u.version, w.id AS watch, e.record_id AS record, a.series_id AS series, a.change_id AS change, w.owner_id AS owner, e.step,
  e.taken_on_by IS NOT NULL AS taken, v.definition, t.memory, a.news
FROM episode e
JOIN rule u ON u.id = e.rule_id
JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
JOIN watch w ON w.id = u.watch_id
JOIN source s ON s.id = w.source_id
LEFT JOIN rule_state t ON t.rule_id = e.rule_id AND t.record_id = e.record_id AND t.version = u.judged_version
LEFT JOIN LATERAL (SELECT x.* FROM alert x WHERE x.episode_id = e.id ORDER BY x.seen_at DESC, x.id DESC LIMIT 1) a ON true
WHERE e.step_at <= $1 AND e.closed_at IS NULL
ORDER BY e.step_at LIMIT 1 FOR UPDATE OF s, e SKIP LOCKED`;

const MOVED = 'UPDATE episode SET step = $2, step_at = $3 WHERE id = $1';

/** Takes the next step that is due; how many alerts that brought, null where none is. */
export async function takeNextStep(pipeline: Keeping, now: Instant): Promise<number | null> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const { rows } = await db.query<DueStep>(DUE, [moment(now)]);
    const [due] = rows;
    if (due === undefined) {
      await db.query('ROLLBACK');
      return null;
    }
    return takeStep(pipeline, db, due, now);
  });
}

async function takeStep(pipeline: Keeping, db: Db, due: DueStep, now: Instant): Promise<number> {
  const steps = storedRule.read(due.definition).steps ?? [];
  const step = steps[due.step];
  const to = (at: number, next: Instant | null): Statement => ({ text: MOVED, values: [due.id, at, next === null ? null : moment(next)] });
  if (due.taken || step === undefined || due.news === null) {
    await writeAndCommit(db, [to(due.step, null)]);
    return 0;
  }
  const held = heldUntil(due.memory, now);
  if (held !== null) {
    await writeAndCommit(db, [to(due.step, held)]);
    return 0;
  }
  const report = await ensureAtOnceReport(db, step.audiences, due.owner, now);
  const [id] = await pipeline.ids.take(db, 1);
  const alert = { id: id ?? 0, ruleId: due.rule, watchId: due.watch, news: newsOf(due, steps.length, now), report };
  const after = steps[due.step + 1];
  const ordered = await orderDeliveries(pipeline, db, { at: now, runId: null }, [alert], []);
  await writeAndCommit(db, [alertStatement(due, alert, now), to(due.step + 1, after === undefined ? null : now + after.after), ...ordered]);
  return 1;
}

/** What is put off, or waits for hours to begin, is passed on to nobody: until when; null where nothing holds it. */
function heldUntil(stored: unknown, now: Instant): Instant | null {
  if (stored === null) return null;
  const { telling } = storedMemory.read(stored);
  if (telling.putOffUntil !== null && telling.putOffUntil > now) return telling.putOffUntil;
  return telling.waiting === null ? null : now + LOOKED_AGAIN;
}

const LOOKED_AGAIN = 10 * MINUTE;

function newsOf({ news, step }: DueStep, of: number, now: Instant): News {
  return { ...storedNews.read(news), told: { what: 'escalation', step: step + 1, of }, seenAt: now };
}

function alertStatement(
  { rule, version, watch, record, series, change, id: episode }: DueStep,
  { id, news }: { id: number; news: News },
  at: Instant,
): Statement {
  return {
    text: `INSERT INTO alert (id, rule_id, rule_version, watch_id, series_id, record_id, change_id, episode_id, told, news, seen_at)
      VALUES ($1, $2, $3, $4, $5, $6, $7, $8, 'escalation', $9, $10)`,
    values: [id, rule, version, watch, series, record, change, episode, storedNews.write(news), moment(at)],
  };
}
