import type { PersonId } from '#core/id';
import { alertMail } from '#core/tell/mail';
import { WHOLE } from '#core/tell/mail-frame';
import type { Instant } from '#core/when/interval';
import type { RaisedAlert } from '../store/news';
import type { EditionDraft, Ordering } from './edition';
import type { OpenReport } from './reports';

/** What is of an episode that goes on can be taken on. */
const isOpen = ({ course }: RaisedAlert['news']) => course != null && course.closed === null;

/** What each at-once report tells of the alerts that it takes. */
export function alertEditions(ordering: Ordering, at: Instant, alerts: RaisedAlert[], reports: OpenReport[]): EditionDraft[] {
  return reports.flatMap((report) => {
    const taken = alerts.filter(({ ruleId, report: only }) => (only === undefined ? report.rules.includes(ruleId) : only === report.id));
    if (taken.length === 0) return [];
    const raised = taken.length === 1 ? 'one alert' : `${taken.length} alerts`;
    return [
      {
        report,
        news: taken.map(({ id }) => id),
        kind: 'alert' as const,
        render: ({ reader, number, edition, heard }) =>
          alertMail({
            report: report.name,
            edition: edition.number,
            readerName: reader.name,
            readerNumber: number,
            made: at,
            alerts: taken
              .filter(({ id }) => heard.has(id))
              .map(({ id, news, watchId }) => ({
                news,
                watch: `${ordering.publicUrl}/watches/${watchId}`,
                takeOn: isOpen(news) ? ordering.links.takeOn(id, reader.id as PersonId, at) : null,
              })),
            coverage: `Edition ${edition.number} covers one run, which raised ${raised}. ${WHOLE}`,
            reportLink: `${ordering.publicUrl}/outbox`,
            place: { locale: reader.locale, zone: reader.zone },
          }),
      },
    ];
  });
}
