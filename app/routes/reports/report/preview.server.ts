import type { ReportId } from '#core/id';
import { shareWords } from '#core/tell/edition/words';
import type { ReportDefinition } from '#core/tell/definition';
import { nextCuts } from '#core/when/cadence';
import type { Instant } from '#core/when/interval';
import { fail, ok, type Result } from '#core/result';
import { describeTaskProblem } from '#server/reading/pool';
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
  endsFirst: Preview['endsFirst'];
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
export async function previewShown(asked: Asked, person: Person): Promise<Result<Previewed, string>> {
  const shown = await preview(asked, person);
  return shown.ok ? ok({ ...shown.value, html: await services().pictures.pageOf(shown.value.html, false) }) : shown;
}

/** What a standing order would bring, as a mail. */
export async function preview(
  { order, report, name, part = 0 }: Asked,
  person: Person,
): Promise<Result<Previewed, string>> {
  const { pool, clock, config, reading } = services();
  const now = clock();
  const { documents, week, difference, endsFirst } = await previewOf(pool, order, report, now);
  const place = documents[part] === undefined ? 0 : part;
  const document = documents[place];
  if (document === undefined) throw new Error('a preview without an edition');
  const asked = {
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
  };
  const mail = await reading.run('edition mail', asked, []);
  if (!mail.ok) return fail(describeTaskProblem(mail.error, 'this edition'));
  const parts = documents.slice(0, PARTS_SHOWN).map(({ share, counts, broken }) => ({
    name: shareWords(share),
    lines: share?.of === 'broken' ? broken.length : counts.lines,
  }));
  const next = nextCuts(order.cadence, now, CUTS_SHOWN);
  return ok({ ...mail.value, parts, part: place, week, difference, endsFirst, next });
}
