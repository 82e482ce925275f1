import type { CutId, DeliveryId, PersonId, ReportId } from '#core/id';
import { allReaders, storedOrder, type ReportDefinition } from '#core/tell/definition';
import { cutWith, isAtOnce, isOfRules, nextCut, type Cadence } from '#core/when/cadence';
import type { Instant } from '#core/when/interval';
import { composed, cutReport, lockReport, type DueReport } from '../../db/report/cuts';
import type { Ids } from '../../db/base/ids';
import { moment, theRow, type Db } from '../../db/base/pool';
import { setReaders, UNSENT } from '../../db/report/reports';
import { countFromCut } from '../../db/report/last-shown';
import { fallBack } from '../../db/delivery/fallback';
import { plannedAt } from './cut';

// A report is made, changed and ended under its lock: whatever was due comes first (3).

/** A standing order with its name. */
export interface ReportPlan {
  name: string;
  order: ReportDefinition;
}

const MADE = `
INSERT INTO report (name, version, cut_seq, owner_id, made_at, cut_at, cut_with) SELECT $1, 1, last, $2, $3, $3, $4
FROM commit_order RETURNING id`;
const VERSION =
  'INSERT INTO report_version (report_id, version, definition, made_by, made_at) VALUES ($1, $2, $3, $4, $5)';

/** Makes a report. That is its first cut, without an edition: it tells of what comes from here on (5). */
export async function makeReport(
  db: Db,
  ids: Ids,
  { name, order }: ReportPlan,
  madeBy: PersonId,
  now: Instant,
): Promise<ReportId> {
  const { id } = theRow(await db.query<{ id: ReportId }>(MADE, [name, madeBy, moment(now), cutWith(order.cadence)]));
  await db.query(VERSION, [id, 1, storedOrder.write(order), madeBy, moment(now)]);
  await setReaders(db, id, allReaders(order));
  const report = await lockReport(db, id);
  if (report !== null) await cutWithoutEdition(db, ids, report, now);
  await countFromCut(db, id, order.size.base === 'told');
  return id;
}

/** A cut that passes over what there was. */
async function cutWithoutEdition(db: Db, ids: Ids, report: DueReport, now: Instant): Promise<void> {
  const cut = await ids.one<CutId>(db);
  await cutReport(db, cut, report, { dueAt: null, count: 0, next: nextCut(report.order.cadence, now) }, now);
  await db.query(composed(cut, null, now));
}

/**
 * Saves a report anew. What was due is cut first, as it was, unless it goes over to 'never', where that lapses (4); so
 * is what waits of one that tells at once from now on. The next cut is by the new cadence and covers from the last one
 * (3). Leaving 'never', what waits is told with the next cut, or passed over. Null where the report has ended, was
 * saved meanwhile by somebody else, or is made by its rules.
 */
export async function saveReport(
  db: Db,
  ids: Ids,
  saved: { id: ReportId; over: number; plan: ReportPlan; passOver: boolean },
  madeBy: PersonId,
  now: Instant,
): Promise<number | null> {
  const { id, plan, over, passOver } = saved;
  const before = await lockReport(db, id);
  if (before === null || before.version !== over || isOfRules(before.order.cadence) !== isOfRules(plan.order.cadence))
    return null;
  const { cadence } = plan.order;
  const isDue = isCutFirst(before, cadence, passOver, now);
  if (isDue) await cutReport(db, await ids.one<CutId>(db), before, plannedAt(before, now), now);
  const version = before.version + 1;
  await db.query(VERSION, [id, version, storedOrder.write(plan.order), madeBy, moment(now)]);
  const next = nextDue(isDue ? null : before, cadence, now);
  await db.query('UPDATE report SET version = $2, name = $3, due_at = $4, cut_with = $5 WHERE id = $1', [
    id,
    version,
    plan.name,
    next === null ? null : moment(next),
    cutWith(cadence),
  ]);
  await setReaders(db, id, allReaders(plan.order));
  const after = passOver && before.order.cadence.cut === 'never' ? await lockReport(db, id) : null;
  if (after !== null) await cutWithoutEdition(db, ids, after, now);
  await countFromCut(db, id, plan.order.size.base === 'told');
  return version;
}

/**
 * Whether what a report has is cut before it is saved anew: what is due, and what waits of one that goes over to
 * telling at once.
 */
function isCutFirst(before: DueReport, to: Cadence, passOver: boolean, now: Instant): boolean {
  const from = before.order.cadence;
  const gathers = to.cut === 'at once' && to.gather !== undefined;
  if (to.cut === 'never') return false;
  if (before.dueAt !== null && before.dueAt <= now) return true;
  if (isAtOnce(from)) return before.dueAt !== null && isAtOnce(to) && !gathers;
  return isAtOnce(to) && !passOver;
}

/** When it is cut next by a cadence; a gathering that has begun ends as it began. */
function nextDue(before: DueReport | null, to: Cadence, now: Instant): Instant | null {
  const next = nextCut(to, now);
  if (before === null || before.dueAt === null || to.cut === 'never' || !isAtOnce(before.order.cadence)) return next;
  return next === null ? before.dueAt : Math.min(next, before.dueAt);
}

const CANCELLED = `
WITH ended AS (UPDATE report SET ended_at = $2, due_at = NULL WHERE id = $1 AND ended_at IS NULL RETURNING id),
  lapsed AS (
  UPDATE cut SET try_at = NULL, problem = 'The report was deleted before its edition was made.' FROM ended
  WHERE cut.report_id = ended.id AND cut.try_at IS NOT NULL
)
UPDATE delivery d SET state = 'given up', reason = 'deleted', next_attempt_at = NULL, held_until = NULL FROM ended
WHERE d.report_id = ended.id AND d.state IN (${UNSENT}) RETURNING d.id`;

/**
 * Ends a report: no further cut, and what is unsent is cancelled; editions stay (28). Returns how many deliveries that
 * cancels.
 */
export async function endReport(db: Db, id: ReportId, mailDomain: string, now: Instant): Promise<number> {
  await db.query('UPDATE report_rule SET left_at = $2 WHERE report_id = $1 AND left_at IS NULL', [id, moment(now)]);
  const { rows } = await db.query<{ id: DeliveryId }>(CANCELLED, [id, moment(now)]);
  await fallBack(
    db,
    rows.map((lost) => lost.id),
    mailDomain,
    now,
  );
  return rows.length;
}
