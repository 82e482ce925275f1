import type { AlertId, ItemId } from '#core/id';
import { digestMail } from '#core/tell/edition/digest-mail';
import { composeEdition, storedDocument, tellsSomething, type EditionDocument, type Stretch } from '#core/tell/edition/document';
import type { Gathered } from '#core/tell/edition/gathered';
import { linesOf, type Line } from '#core/tell/edition/lines';
import type { StandingOrder } from '#core/tell/standing-order';
import { HOUR, MINUTE, backOff, type Instant } from '#core/when/interval';
import { composed, cutProblem, readCut, waitingCut, type WaitingCut, type WaitingRow } from '../../db/cuts';
import { writeAndCommit, type Db } from '../../db/pool';
import { alertsIn, brokenIn, followedBy, movesIn, offersAt, readingIn, stoodBefore, type Span } from '../../db/stretch';
import { quietCutsBefore, toldAtOnce } from '../../db/editions';
import { takeDue } from '../claim';
import type { Keeping } from '../keeping';
import { countOrdered, orderEditions, storeEditions, toSend, type EditionDraft } from '../order/edition';
import { lockReports, type OpenReport } from '../order/reports';

/** A cut that cannot be made into editions is tried so often, and then waits for a person. */
const MOST_TRIES = 6;
/** A cut this long after its time says that it is late. */
const LATE_AFTER = 5 * MINUTE;

/** What a report takes of a stretch, as it stood at the end of that. */
export async function gather(db: Db, order: StandingOrder, span: Span, quietCuts: number, most?: number): Promise<Gathered> {
  const followed = await followedBy(db, order);
  const { moves, leftOut, tooMany, firsts } = await movesIn(db, order, span, followed, most);
  const items = [...new Set(moves.flatMap(({ record }) => record.item?.id ?? []))];
  const [alerts, broken] = [await alertsIn(db, order, span, followed), await brokenIn(db, order, span, followed)];
  return {
    moves,
    stood: await stoodBefore(db, firsts, span),
    offers: order.by === 'item' ? await offersAt(db, items, span) : new Map<ItemId, never[]>(),
    alerts: alerts.found,
    broken: broken.found,
    coverage: { ...(await readingIn(db, span, followed)), leftOut, tooMany: tooMany || alerts.more || broken.more, quietCuts },
  };
}

/** All lines that an edition's stretch holds, also those that it has no room for. */
export async function linesIn(db: Db, order: StandingOrder, span: Span): Promise<Line[]> {
  const { moves, firsts } = await movesIn(db, order, span, await followedBy(db, order));
  return linesOf(order, moves, await stoodBefore(db, firsts, span));
}

/** Makes the editions of the next cut that waits; how many deliveries that ordered, null where none waits. */
export function composeNextCut(pipeline: Keeping, now: Instant): Promise<number | null> {
  return takeDue<WaitingRow, number>(pipeline, {
    due: waitingCut(now),
    work: (db, [row]) => composeCut(pipeline, db, readCut(row), now),
    layBy: ([{ id, report, number, tries }]) => {
      const again = tries + 1 >= MOST_TRIES ? null : now + backOff(tries + 1, MINUTE, HOUR);
      return { statement: cutProblem(id, NOT_MADE, again), of: { report, cut: number }, said: 'a cut could not be made into editions', done: 0 };
    },
  });
}

const NOT_MADE = 'Its edition could not be made. The fault is Shrike’s own: the log of the worker says more.';

async function composeCut(pipeline: Keeping, db: Db, cut: WaitingCut, now: Instant): Promise<number> {
  const span: Span = { fromSeq: cut.fromSeq, toSeq: cut.toSeq, from: cut.fromAt, until: cut.madeAt };
  const document = composeEdition(cut.order, stretchOf(cut), await gather(db, cut.order, span, await quietCutsBefore(db, cut)));
  const tells = tellsSomething(document) || cut.order.whenNothing === 'say';
  const [report] = tells ? await lockReports(db, [], [], [cut.report]) : [];
  if (report === undefined) {
    await writeAndCommit(db, [composed(cut.id, 0, now)]);
    return 0;
  }
  const drafts = [await draftOf(pipeline, db, { ...report, version: cut.version }, cut, document)];
  const editions = orderEditions(pipeline, drafts, await pipeline.ids.take(db, countOrdered(drafts)), now);
  const mails = await pipeline.jobs.mailStatements(toSend(editions));
  await writeAndCommit(db, [...storeEditions(editions, cut.madeAt), ...mails, composed(cut.id, document.counts.lines, now)]);
  return editions.reduce((sum, { deliveries }) => sum + deliveries.length, 0);
}

function stretchOf({ fromAt, madeAt, dueAt, planned }: WaitingCut): Stretch {
  const isLate = dueAt !== null && (planned > 1 || madeAt - dueAt > LATE_AFTER);
  return { from: fromAt, until: madeAt, missed: isLate ? { count: planned, first: dueAt } : null };
}

async function draftOf(pipeline: Keeping, db: Db, report: OpenReport, cut: WaitingCut, document: EditionDocument): Promise<EditionDraft> {
  const alerts = shownAlerts(document);
  const told = await toldAtOnce(db, alerts, report.readers.map(({ id }) => id), cut.madeAt); // prettier-ignore
  return {
    report,
    kind: 'digest',
    news: alerts,
    of: { cut: cut.id, fromSeq: cut.fromSeq, toSeq: cut.toSeq, document: storedDocument.write(document) },
    weights: new Map(),
    render: ({ edition, heard: _, person, ...to }) =>
      digestMail({
        ...to,
        document,
        report: report.name,
        edition: edition.number,
        made: cut.madeAt,
        reportLink: `${pipeline.publicUrl}/editions/${edition.id}`,
        home: pipeline.publicUrl,
        told: told.get(person) ?? new Map(),
        next: cut.nextDue,
      }),
  };
}

/** The alerts whose lines an edition shows: those alone it tells (19). */
function shownAlerts({ alerts, groups }: EditionDocument): AlertId[] {
  const onRows = groups.flatMap(({ rows }) => rows.flatMap((row) => row.alerts));
  return [...new Set([...alerts, ...onRows].map(({ id }) => id))];
}
