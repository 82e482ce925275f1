import type { CutId, DeliveryId, PersonId, ReportId } from '#core/id';
import { allReaders, storedOrder, type ReportDefinition } from '#core/tell/definition';
import { cutWith, isAtOnce, isOfRules, nextCut, type Cadence } from '#core/when/cadence';
import type { Instant } from '#core/when/interval';
import { composed, cutBy, cutReport, lockReport, type DueReport } from '../../db/report/cuts';
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
 * (3). What has begun to gather ends as it began. Leaving 'never', what waits is told with the next cut, or passed
 * over. Null where the report has ended, was saved meanwhile by somebody else, or is made by its rules.
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
  const ends = endsFirst(before, cadence, passOver, now);
  const gathers = ends?.what === 'gathering';
  if (ends?.what === 'cut') await cutReport(db, await ids.one<CutId>(db), before, plannedAt(before, now), now);
  const version = before.version + 1;
  await db.query(VERSION, [id, version, storedOrder.write(plan.order), madeBy, moment(now)]);
  const next = gathers ? before.dueAt : nextCut(cadence, now);
  await db.query(SAVED, [
    id,
    version,
    plan.name,
    next === null ? null : moment(next),
    cutWith(cadence),
    gathers ? cutBy(before).version : null,
  ]);
  await setReaders(db, id, allReaders(plan.order));
  const passes = passOver && !gathers && before.order.cadence.cut === 'never';
  const after = passes ? await lockReport(db, id) : null;
  if (after !== null) await cutWithoutEdition(db, ids, after, now);
  await countFromCut(db, id, plan.order.size.base === 'told');
  return version;
}

const SAVED = `
UPDATE report SET version = $2, name = $3, due_at = $4, cut_with = $5, gathers_by = $6 WHERE id = $1`;

/**
 * What ends as it was said before, where a report is saved anew: what it gathers, at its time; what is due, or waits of
 * one that tells at once from now on, by a cut while it is saved. What is said anew holds after it. Null where it holds
 * for the whole running stretch.
 */
export function endsFirst(before: DueReport, to: Cadence, passOver: boolean, now: Instant): EndsFirst | null {
  const { dueAt } = before;
  const isDue = dueAt !== null && dueAt <= now;
  const gathers = dueAt !== null && isAtOnce(cutBy(before).order.cadence);
  if (gathers) return isDue ? { what: 'cut' } : { what: 'gathering', until: dueAt };
  if (to.cut === 'never') return null;
  const goesOver = isAtOnce(to) && !isAtOnce(before.order.cadence) && !passOver;
  return goesOver || isDue ? { what: 'cut' } : null;
}

export type EndsFirst = { what: 'cut' } | { what: 'gathering'; until: Instant };

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
