import type { ReportId } from '#core/id';
import { digestMail } from '#core/tell/edition/digest-mail';
import { shareWords } from '#core/tell/edition/words';
import type { ReportDefinition } from '#core/tell/definition';
import { nextCuts } from '#core/when/cadence';
import type { Instant } from '#core/when/interval';
import { placeOf, type Person } from '#server/db/person/people';
import { previewOf, type Preview } from '#server/pipeline/report/preview';
import { services } from '../../../services.server';

const CUTS_SHOWN = 3;
/** Of a report that is split so many of its editions can be looked at. */
const PARTS_SHOWN = 100;

/** The next edition as it stands now, as whoever asks would get it, with what the last week would have been. */
export interface Previewed {
  subject: string;
  html: string;
  text: string;
  /** What the editions are called that the next cut would bring, and which of them this is. */
  parts: { name: string; lines: number }[];
  part: number;
  week: Preview['week'];
  difference: Preview['difference'];
  next: Instant[];
}

/** What is previewed: of a report that is split one of its editions. */
interface Asked {
  order: ReportDefinition;
  report: ReportId | null;
  name: string;
  part?: number;
}

/** What a standing order would bring, as it is shown on a page; nothing is kept. */
export async function previewShown(asked: Asked, person: Person): Promise<Previewed> {
  const shown = await preview(asked, person);
  return { ...shown, html: await services().pictures.pageOf(shown.html, false) };
}

/** What a standing order would bring, as a mail. */
export async function preview({ order, report, name, part = 0 }: Asked, person: Person): Promise<Previewed> {
  const { pool, clock, config } = services();
  const now = clock();
  const { documents, week, difference } = await previewOf(pool, order, report, now);
  const place = documents[part] === undefined ? 0 : part;
  const document = documents[place];
  if (document === undefined) throw new Error('a preview without an edition');
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
  const parts = documents.slice(0, PARTS_SHOWN).map(({ share, counts, broken }) => ({
    name: shareWords(share),
    lines: share?.of === 'broken' ? broken.length : counts.lines,
  }));
  return { ...mail, parts, part: place, week, difference, next: nextCuts(order.cadence, now, CUTS_SHOWN) };
}
