import { formatDuration } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { composed, type WaitingCut } from '../../db/report/cuts';
import { takeGathered, notifiedBefore } from '../../db/report/gathered';
import { writeAndCommit, type Db } from '../../db/base/pool';
import type { Keeping } from '../keeping';
import { alertDraft } from '../order/alerts';
import { countOrdered, orderEditions, storeEditions, toSend, type EditionDraft } from '../order/edition';
import { noticeDraft } from '../order/notices';
import { lockReports } from '../order/reports';

/**
 * Makes the editions of a report that gathers: what it took meanwhile, each alert told once. How many deliveries that
 * ordered.
 */
export async function composeGathered(pipeline: Keeping, db: Db, cut: WaitingCut, now: Instant): Promise<number> {
  const [report] = await lockReports(db, { named: [cut.report] }, now);
  const { alerts, notices } = await takeGathered(db, cut.report, cut.toSeq);
  if (report === undefined || alerts.length + notices.length === 0) {
    await writeAndCommit(db, [composed(cut.id, 0, now)]);
    return 0;
  }
  const begun = Math.min(...alerts.map(({ news }) => news.seenAt), cut.madeAt);
  const covers = `what was gathered in ${formatDuration(cut.madeAt - begun)}`;
  const of = { cut: cut.id, fromSeq: cut.fromSeq, toSeq: cut.toSeq, files: [] };
  const drafts: EditionDraft[] = [
    ...(alerts.length === 0 ? [] : [{ ...alertDraft(pipeline, report, alerts, cut.madeAt, covers), of }]),
    ...(notices.length === 0 ? [] : [{ ...noticeDraft(pipeline, report, notices, cut.madeAt), of }]),
  ];
  const told = await notifiedBefore(
    db,
    alerts.map(({ id }) => id),
  );
  const editions = orderEditions(pipeline, drafts, await pipeline.ids.take(db, countOrdered(drafts)), now, told);
  const mails = await pipeline.jobs.mailStatements(toSend(editions));
  await writeAndCommit(db, [
    ...storeEditions(editions, cut.madeAt),
    ...mails,
    composed(cut.id, alerts.length + notices.length, now),
  ]);
  return editions.reduce((sum, { deliveries }) => sum + deliveries.length, 0);
}
