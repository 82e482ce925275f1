import type { CutId } from '#core/id';
import { countCuts, cutFollowers, followersOf, type Happened } from '../../db/report/followers';
import type { Ids } from '../../db/base/ids';
import type { Db, Statement } from '../../db/base/pool';
import type { JobQueue } from '../../work/jobs';
import type { JudgedAt, RaisedAlert } from '../store/news';
import { gatherNews, type TakenNews } from '../../db/report/gathered';
import { alertEditions, takenBy } from './alerts';
import { countOrdered, cutEditions, orderEditions, storeEditions, toSend, type Ordering } from './edition';
import type { Notice, NoticeOfWatch } from './notice';
import { noticeEditions, noticesFor, storeNotices } from './notices';
import { describeNotices, lockReports, ownersReports, type OpenReport } from './reports';

/** What ordering works with. */
interface OrderingServices extends Ordering {
  ids: Ids;
  jobs: JobQueue;
}

/**
 * Orders the deliveries of what a run has to tell: an edition of every at-once report that takes some of it. The
 * reports are locked here, all else is worked out in memory; what is returned is to be written after the news itself,
 * last of all.
 */
export async function orderDeliveries(
  services: OrderingServices,
  db: Db,
  judged: JudgedAt,
  alerts: RaisedAlert[],
  told: Notice[],
): Promise<Statement[]> {
  const { at } = judged;
  const followers = await followersOf(db, happenedIn(judged, alerts, told));
  if (alerts.length + told.length + followers.length === 0) return [];
  const notices = await describeNotices(db, told, await services.ids.take(db, told.length));
  const own = await ownersReports(db, notices, at);
  const reports = await lockReports(
    db,
    {
      rules: alerts.flatMap(({ ruleId, report }) => (report === undefined ? ruleId : [])),
      watches: notices.map(({ watchId }) => watchId),
      named: [
        ...own.values(),
        ...alerts.flatMap(({ report }) => report ?? []),
        ...followers.map(({ report }) => report),
      ],
    },
    at,
  );
  const telling = reports.filter(({ gather }) => gather === null);
  const drafts = [
    ...alertEditions(services, at, alerts, telling),
    ...noticeEditions(services, at, notices, telling, own),
  ];
  const editions = orderEditions(services, drafts, await services.ids.take(db, countOrdered(drafts)), at);
  const mails = await services.jobs.mailStatements(toSend(editions));
  const gathered = gatherNews(takenToGather(reports, alerts, notices, own), at);
  const cuts = cutFollowers(followers, (await services.ids.take(db, countCuts(followers))) as CutId[], at);
  return [
    ...storeNotices(judged, notices),
    ...gathered,
    ...storeEditions(editions, at),
    ...mails,
    ...cutEditions(editions, at),
    ...cuts,
  ];
}

/** Of which watches this commit is: what is raised and told is news of its watch, too. */
function happenedIn({ happened }: JudgedAt, alerts: RaisedAlert[], told: Notice[]): Happened {
  const news = [...alerts, ...told].map(({ watchId }) => watchId);
  return { ...happened, looked: happened?.looked ?? [], moved: [...new Set([...(happened?.moved ?? []), ...news])] };
}

/** What reports that gather take of a commit. */
function takenToGather(
  reports: OpenReport[],
  alerts: RaisedAlert[],
  notices: NoticeOfWatch[],
  own: ReadonlyMap<number, number>,
): TakenNews[] {
  return reports.flatMap((report): TakenNews[] => {
    if (report.gather === null) return [];
    const taken = {
      alerts: takenBy(report, alerts).map(({ id }) => id),
      notices: noticesFor(report, notices, own).map(({ id }) => id),
    };
    return taken.alerts.length + taken.notices.length === 0
      ? []
      : [{ report: report.id, gather: report.gather, ...taken }];
  });
}
