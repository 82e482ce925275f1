import type { AlertId, PersonId } from '#core/id';
import type { Weight } from '#core/judge/rule';
import { alertFact } from '#core/tell/cloud-event';
import { alertMail, type AlertItem } from '#core/tell/mail';
import { WHOLE } from '#core/tell/mail-frame';
import type { News } from '#core/tell/news';
import type { Instant } from '#core/when/interval';
import type { RaisedAlert } from '../store/news';
import type { EditionDraft, Ordering } from './edition';
import type { OpenReport } from './reports';

/** What is of an episode that goes on can be taken on. */
const isOpen = ({ course }: News) => course != null && course.closed === null;

/** How much alerts matter. */
const weightsOf = (alerts: Pick<RaisedAlert, 'id' | 'news'>[]): ReadonlyMap<number, Weight> =>
  new Map(alerts.map(({ id, news }) => [id, news.weight ?? 'usual']));

/** An alert as a mail to one person tells it. */
export function itemOf(
  { publicUrl, links }: Pick<Ordering, 'publicUrl' | 'links'>,
  { id, news, watchId }: Pick<RaisedAlert, 'id' | 'news' | 'watchId'>,
  person: PersonId,
  now: Instant,
): AlertItem {
  return {
    news,
    watch: `${publicUrl}/watches/${watchId}`,
    takeOn: isOpen(news) ? links.takeOn(id, person, now) : null,
    alert: id as AlertId,
  };
}

/** Those of some alerts that a report takes. */
export const takenBy = (report: OpenReport, alerts: RaisedAlert[]): RaisedAlert[] =>
  alerts.filter(({ ruleId, report: only }) =>
    only === undefined ? report.rules.includes(ruleId) : only === report.id,
  );

/** What each at-once report tells of the alerts that it takes. */
export function alertEditions(
  ordering: Ordering,
  at: Instant,
  alerts: RaisedAlert[],
  reports: OpenReport[],
): EditionDraft[] {
  return reports.flatMap((report) => {
    const taken = takenBy(report, alerts);
    return taken.length === 0 ? [] : [alertDraft(ordering, report, taken, at, 'one run')];
  });
}

type TakenAlert = Pick<RaisedAlert, 'id' | 'news' | 'watchId'>;

/** An edition that tells of alerts at once. `covers` says of which stretch. */
export function alertDraft(
  ordering: Ordering,
  report: OpenReport,
  alerts: TakenAlert[],
  at: Instant,
  covers: string,
): EditionDraft {
  const raised = alerts.length === 1 ? 'one alert' : `${alerts.length} alerts`;
  return {
    report,
    readers: report.readers,
    news: alerts.map(({ id }) => id),
    weights: weightsOf(alerts),
    kind: 'alert',
    atOnce: true,
    once: true,
    facts: (heard) => alerts.filter(({ id }) => heard.has(id)).map(({ news }) => alertFact(news)),
    render: ({ edition, heard, person, ...to }) =>
      alertMail({
        ...to,
        report: report.name,
        edition: edition.number,
        made: at,
        alerts: alerts.filter(({ id }) => heard.has(id)).map((alert) => itemOf(ordering, alert, person, at)),
        coverage: `Edition ${edition.number} covers ${covers}, which raised ${raised}. ${WHOLE}`,
        reportLink: `${ordering.publicUrl}/editions/${edition.id}`,
      }),
  };
}
