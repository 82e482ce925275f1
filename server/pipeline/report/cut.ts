import type { CutId, ReportId } from '#core/id';
import { cutsDue, nextCut } from '#core/when/cadence';
import { HOUR, type Instant } from '#core/when/interval';
import {
  cutReport,
  dueReport,
  laterReport,
  lockReport,
  readReport,
  type DueReport,
  type Planned,
  type ReportRow,
} from '../../db/report/cuts';
import type { Db } from '../../db/base/pool';
import { takeDue } from '../claim';
import type { Keeping } from '../keeping';

/** Planned moments that one cut makes up for are counted so far and no further. */
const MOST_MISSED = 1_000;

/** What a cut at a moment is for: all that came due until then, which is made up for once. */
export function plannedAt({ dueAt, order: { cadence } }: Pick<DueReport, 'dueAt' | 'order'>, now: Instant): Planned {
  const next = nextCut(cadence, now);
  // A cut ends what is gathered, whether its time is up or not.
  if (cadence.cut === 'at once') return { dueAt: dueAt === null || dueAt > now ? null : dueAt, count: 1, next: null };
  if (dueAt === null || dueAt > now) return { dueAt: null, count: 0, next: dueAt ?? next };
  return { dueAt, count: 1 + cutsDue(cadence, dueAt, now, MOST_MISSED).length, next };
}

/** Cuts the report that has been due for longest; null where none is. */
export function cutNextReport(pipeline: Keeping, now: Instant): Promise<true | null> {
  return takeDue<ReportRow, true>(pipeline, {
    due: dueReport(now),
    work: async (db, [row]) => {
      const report = readReport(row);
      await cutReport(db, await pipeline.ids.one<CutId>(db), report, plannedAt(report, now), now);
      await db.query('COMMIT');
      return true;
    },
    layBy: ([{ id }]) => ({
      statement: laterReport(id, now + HOUR),
      of: { report: id },
      said: 'a report could not be cut',
      done: true,
    }),
  });
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
