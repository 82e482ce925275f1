import type { ReportId } from '#core/id';
import { digestMail } from '#core/tell/edition/digest-mail';
import type { StandingOrder } from '#core/tell/standing-order';
import { nextCuts } from '#core/when/cadence';
import type { Instant } from '#core/when/interval';
import { placeOf, type Person } from '#server/db/people';
import { previewOf, type Preview } from '#server/pipeline/report/preview';
import { services } from '../../services.server';

const CUTS_SHOWN = 3;

/** The next edition as it stands now, as whoever asks would get it, with what the last week would have been. */
export interface Previewed {
  subject: string;
  html: string;
  text: string;
  week: Preview['week'];
  next: Instant[];
  lines: number;
}

/** Shows what a standing order would bring; nothing is kept. */
export async function preview(order: StandingOrder, report: ReportId | null, name: string, person: Person): Promise<Previewed> {
  const { pool, clock, config } = services();
  const now = clock();
  const { document, week } = await previewOf(pool, order, report, now);
  const mail = digestMail({
    document,
    report: name === '' ? 'A report' : name,
    edition: null,
    readerName: person.name,
    readerNumber: null,
    made: now,
    reportLink: `${config.publicUrl}/reports`,
    home: config.publicUrl,
    told: new Map(),
    next: null,
    place: placeOf(person),
  });
  return { ...mail, week, next: nextCuts(order.cadence, now, CUTS_SHOWN), lines: document.counts.lines };
}
