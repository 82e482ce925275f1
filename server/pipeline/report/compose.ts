import type { AlertId, PersonId } from '#core/id';
import type { Weight } from '#core/judge/rule';
import { editionFacts } from '#core/tell/cloud-event';
import { digestMail } from '#core/tell/edition/digest-mail';
import { storedDocument, tellsSomething, type EditionDocument, type EditionWindow } from '#core/tell/edition/document';
import { everyLine } from '#core/tell/edition/lines';
import type { MoveId } from '#core/tell/edition/move';
import { withoutNotified } from '#core/tell/edition/not-notified';
import type { ReportDefinition } from '#core/tell/definition';
import { cutWith, isAtOnce, isOfRules } from '#core/when/cadence';
import { HOUR, MINUTE, backOff, type Instant } from '#core/when/interval';
import { composed, cutProblem, readCut, waitingCut, type WaitingCut, type WaitingRow } from '../../db/report/cuts';
import { writeAndCommit, type Db } from '../../db/base/pool';
import type { Span } from '../../db/report/window';
import { showed } from '../../db/report/last-shown';
import { brokenNotifiedAtOnce, quietCutsBefore, notifiedAtOnce } from '../../db/report/editions';
import { notifiedBefore } from '../../db/report/gathered';
import { filesOf } from '../../files/edition-files';
import { takeDue } from '../claim';
import type { Keeping } from '../keeping';
import { countOrdered, orderEditions, storeEditions, toSend, type EditionDraft } from '../order/edition';
import { lockReports, type OpenReport } from '../order/reports';
import { gather } from './gather';
import { composeGathered } from './gathered';
import { whoHears, type NotifiedPart } from './already-notified';
import { partsOf } from './parts';

/** A cut that cannot be made into editions is tried so often, and then waits for a person. */
const MOST_TRIES = 6;
/** A cut this long after its time says that it is late. */
const LATE_AFTER = MINUTE;

/** Makes the editions of the next cut that waits; how many deliveries that ordered, null where none waits. */
export function composeNextCut(pipeline: Keeping, now: Instant): Promise<number | null> {
  return takeDue<WaitingRow, number>(pipeline, {
    due: waitingCut(now),
    work: (db, [row]) => composeCut(pipeline, db, readCut(row), now),
    layBy: ([{ id, report, number, tries }]) => {
      const again = tries + 1 >= MOST_TRIES ? null : now + backOff(tries + 1, MINUTE, HOUR);
      return {
        statement: cutProblem(id, NOT_MADE, again),
        of: { report, cut: number },
        said: 'a cut could not be made into editions',
        done: 0,
      };
    },
  });
}

/** At once it is cut with news alone: that there was none is nothing to tell. */
const quietBefore = (db: Db, cut: WaitingCut): Promise<number> =>
  cutWith(cut.order.cadence) === 'news' ? Promise.resolve(0) : quietCutsBefore(db, cut);

const NOT_MADE = 'Its edition could not be made. The fault is Shrike’s own: the log of the worker says more.';

async function composeCut(pipeline: Keeping, db: Db, cut: WaitingCut, now: Instant): Promise<number> {
  if (isOfRules(cut.order.cadence)) return composeGathered(pipeline, db, cut, now);
  const span: Span = { fromSeq: cut.fromSeq, toSeq: cut.toSeq, from: cut.fromAt, until: cut.madeAt };
  const found = await gather(db, cut.order, span, { report: cut.report, quietCuts: await quietBefore(db, cut) });
  const parts = partsOf(cut.order, windowOf(cut), found);
  const [report] = parts.length === 0 ? [] : await lockReports(db, { named: [cut.report] }, now);
  if (report === undefined) {
    await writeAndCommit(db, [composed(cut.id, 0, now)]);
    return 0;
  }
  const heard = await whoHears(db, report, cut.order, parts, now);
  const drafts: EditionDraft[] = [];
  for (const [place, part] of heard.entries())
    drafts.push(
      await draftOf(
        pipeline,
        db,
        { ...report, version: cut.version },
        { ...cut, edition: report.editions + place + 1 },
        part,
      ),
    );
  const told = await notifiedElsewhere(db, cut.order, drafts, cut.madeAt);
  const editions = orderEditions(pipeline, drafts, await pipeline.ids.take(db, countOrdered(drafts)), now, told);
  const mails = await pipeline.jobs.mailStatements(toSend(editions));
  const shown = cut.order.size.base === 'told' ? [showed(cut.report, shownChanges(heard), cut.toSeq, cut.madeAt)] : [];
  const lines = heard.reduce((sum, { document }) => sum + document.counts.lines, 0);
  await writeAndCommit(db, [...storeEditions(editions, cut.madeAt), ...mails, ...shown, composed(cut.id, lines, now)]);
  return editions.reduce((sum, { deliveries }) => sum + deliveries.length, 0);
}

const shownChanges = (parts: NotifiedPart[]): MoveId[] =>
  parts.flatMap(({ document }) => document.groups.flatMap(({ rows }) => rows.flatMap(({ changes }) => changes)));

function windowOf({ fromAt, madeAt, dueAt, planned }: WaitingCut): EditionWindow {
  const isLate = dueAt !== null && (planned > 1 || madeAt - dueAt >= LATE_AFTER);
  return { from: fromAt, until: madeAt, missed: isLate ? { count: planned, first: dueAt } : null };
}

async function draftOf(
  pipeline: Keeping,
  db: Db,
  report: OpenReport,
  cut: WaitingCut & { edition: number },
  { document, readers, of }: NotifiedPart,
): Promise<EditionDraft> {
  const lines = cut.order.attach.length === 0 ? [] : everyLine(cut.order, of);
  const { files, tooLarge } = await filesOf(cut.order.attach, lines, {
    report: report.name,
    edition: cut.edition,
    present: document.present,
    from: cut.fromAt,
    until: cut.madeAt,
  });
  const alerts = shownAlerts(document);
  const { cadence, toldBefore } = cut.order;
  const once = isAtOnce(cadence) || toldBefore === 'leave out';
  const people = readers.map(({ id }) => id);
  const told = await notifiedAtOnce(db, alerts, people, cut.madeAt, { sent: !isAtOnce(cadence) });
  // A digest says how all stands.
  const watches = isAtOnce(cadence) ? document.broken.map(({ watch }) => watch) : [];
  const toldBroken = await brokenNotifiedAtOnce(db, watches, people, cut.madeAt);
  /** What is left for one who hears of these alerts. */
  const forOne = (heard: ReadonlySet<number>, person: PersonId) =>
    withoutNotified(document, new Set(once ? alerts.filter((id) => !heard.has(id)) : []), toldBroken.get(person));
  return {
    report,
    readers,
    kind: 'digest',
    atOnce: isAtOnce(cadence),
    once,
    tells: (heard, person) => {
      const { document: left, leftOut } = forOne(heard, person);
      return leftOut === 0 || tellsSomething(left);
    },
    news: alerts,
    of: { cut: cut.id, fromSeq: cut.fromSeq, toSeq: cut.toSeq, document: storedDocument.write(document), files },
    weights: weightsOf(document),
    facts: (heard, person) => editionFacts(forOne(heard, person).document),
    render: ({ edition, heard, person, ...to }) =>
      digestMail({
        ...to,
        ...forOne(heard, person),
        report: report.name,
        edition: edition.number,
        made: cut.madeAt,
        reportLink: `${pipeline.publicUrl}/editions/${edition.id}`,
        home: pipeline.publicUrl,
        told: told.get(person) ?? new Map(),
        next: cut.nextDue,
        files: { attached: files.map(({ form }) => form), tooLarge },
      }),
  };
}

/**
 * Through which report readers were told of alerts at once before, where what they heard is not told here again (19,
 * 20).
 */
async function notifiedElsewhere(
  db: Db,
  { cadence, toldBefore: asked }: ReportDefinition,
  drafts: EditionDraft[],
  until: Instant,
): Promise<Map<string, number>> {
  if (!isAtOnce(cadence) && asked !== 'leave out') return new Map();
  const sentBy = isAtOnce(cadence) ? null : until;
  return notifiedBefore(db, [...new Set(drafts.flatMap(({ news }) => news))], { atOnce: true, sentBy });
}

/** How much the alerts of an edition matter: by the greatest of them its routes are chosen. */
const weightsOf = ({ alerts, groups }: EditionDocument): ReadonlyMap<number, Weight> =>
  new Map(
    [...alerts, ...groups.flatMap(({ rows }) => rows.flatMap((row) => row.alerts))].map(({ id, news }) => [
      id,
      news.weight ?? 'usual',
    ]),
  );

/** The alerts whose lines an edition shows: those alone it tells (19). */
function shownAlerts({ alerts, groups }: EditionDocument): AlertId[] {
  const onRows = groups.flatMap(({ rows }) => rows.flatMap((row) => row.alerts));
  return [...new Set([...alerts, ...onRows].map(({ id }) => id))];
}
