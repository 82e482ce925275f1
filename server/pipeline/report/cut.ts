import type { CutId, ReportId } from '#core/id';
import { cutsDue, nextCut } from '#core/when/cadence';
import type { Gathered } from '#core/tell/edition/gathered';
import { linesOf } from '#core/tell/edition/lines';
import type { ReportDefinition } from '#core/tell/definition';
import { HOUR, type Instant } from '#core/when/interval';
import {
  cutBy,
  cutReport,
  dueAgain,
  dueReport,
  lockReport,
  readReport,
  type DueReport,
  type Planned,
  type ReportRow,
} from '../../db/report/cuts';
import { theRow, writeAndCommit, type Db } from '../../db/base/pool';
import { placeNews } from '../../db/report/reports';
import { takeDue } from '../claim';
import type { Keeping } from '../keeping';
import { gather } from './gather';

/** Planned moments that one cut makes up for are counted so far and no further. */
const MOST_MISSED = 1_000;

/** What a cut at a moment is for: all that came due until then, which is made up for once. */
export function plannedAt(
  { dueAt, order: { cadence }, begun }: Pick<DueReport, 'dueAt' | 'order' | 'begun'>,
  now: Instant,
): Planned {
  const next = nextCut(cadence, now);
  // A cut ends what is gathered, whether its time is up or not.
  if (cadence.cut === 'at once' || begun !== null)
    return { dueAt: dueAt === null || dueAt > now ? null : dueAt, count: 1, next };
  if (dueAt === null || dueAt > now) return { dueAt: null, count: 0, next: dueAt ?? next };
  return { dueAt, count: 1 + cutsDue(cadence, dueAt, now, MOST_MISSED).length, next };
}

/** Cuts the report that has been due for longest; null where none is. */
export function cutNextReport(pipeline: Keeping, now: Instant): Promise<true | null> {
  return takeDue<ReportRow, true>(pipeline, {
    due: dueReport(now),
    work: async (db, [row]) => {
      const report = readReport(row);
      const due = await gatheredUntil(pipeline, db, report, now);
      if (due === null || due > now) {
        await writeAndCommit(db, [dueAgain(report.id, due ?? nextCut(report.order.cadence, now), due !== null)]);
        return true;
      }
      await cutReport(db, await pipeline.ids.one<CutId>(db), report, plannedAt(report, now), now);
      await db.query('COMMIT');
      return true;
    },
    layBy: ([{ id }]) => ({
      statement: dueAgain(id, now + HOUR, true),
      of: { report: id },
      said: 'a report could not be cut',
      done: true,
    }),
  });
}

/**
 * Until when a report gathers: from the first news on that it takes. Of a commit it was only known of which watches it
 * is: where nothing of it is taken, nothing is gathered, and null is returned.
 */
async function gatheredUntil({ pool }: Keeping, db: Db, report: DueReport, now: Instant): Promise<Instant | null> {
  const { order } = cutBy(report);
  const { cadence } = order;
  const isOfNews = cadence.cut === 'at once' && cadence.of !== undefined && order.present.length === 0;
  if (!isOfNews || cadence.gather === undefined) return report.dueAt;
  // By itself, so that nobody who commits waits for what follows; its own news waits for the lock of the report.
  await placeNews(pool);
  const { last } = theRow(await db.query<{ last: number }>('SELECT last FROM commit_order'));
  const span = { fromSeq: report.cutSeq, toSeq: last, from: report.cutAt, until: now };
  const first = firstTaken(order, await gather(db, order, span, { report: report.id }));
  return first === null ? null : first + cadence.gather;
}

/** When the first news came that an order takes, of what a stretch holds. */
function firstTaken(order: ReportDefinition, found: Gathered): Instant | null {
  const taken = new Set(linesOf(order, found).flatMap(({ moves }) => moves));
  const came = [
    ...found.moves.flatMap(({ id, at }) => (taken.has(id) ? at : [])),
    ...found.alerts.map(({ news }) => news.seenAt),
    ...found.broken.map(({ at, since }) => at ?? since),
  ];
  return came.length === 0 ? null : Math.min(...came);
}

/**
 * Cuts a report by hand within a transaction: a cut like any other, and the planned one still comes. False where there
 * is none to cut.
 */
export async function cutByHand({ ids }: Pick<Keeping, 'ids'>, db: Db, id: ReportId, now: Instant): Promise<boolean> {
  const report = await lockReport(db, id);
  if (report === null) return false;
  await cutReport(db, await ids.one<CutId>(db), report, plannedAt(report, now), now);
  return true;
}
