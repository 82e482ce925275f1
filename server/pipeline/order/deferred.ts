import type { AlertId, DeliveryId } from '#core/id';
import { randomUUID } from 'node:crypto';
import { tellsSomething } from '#core/tell/edition/document';
import { onlyAlerts } from '#core/tell/edition/not-notified';
import { digestParts } from '#core/tell/edition/digest-mail';
import { greatest } from '#core/tell/hold';
import { deferredMail, type DeferredPart } from '#core/tell/deferred-mail';
import { alertParts } from '#core/tell/mail';
import type { Parts } from '#core/tell/mail-frame';
import { noticeParts } from '#core/tell/notice-mail';
import { DAY, HOUR, MINUTE, type Instant } from '#core/when/interval';
import type { EditionContents } from '../../db/report/edition-contents';
import { notifiedAtOnce } from '../../db/report/editions';
import { mailQuotaUsedUntil } from '../../db/delivery/quotas';
import {
  alreadyMailed,
  fold,
  stillDeferred,
  deferredEditions,
  deferredLater,
  deferredToRelease,
  nextToFold,
  nothingLeft,
  released,
  type DeferredRow,
} from '../../db/delivery/deferred';
import { inTransaction, writeAndCommit, type Db } from '../../db/base/pool';
import { releaseHeld } from '../../db/delivery/deliveries';
import { takeDue } from '../claim';
import type { Keeping } from '../keeping';
import { itemOf } from './alerts';
import { addressed, type Addressed } from './edition';
import { noticeItem } from './notices';
import { findReader, type Reader } from './reports';

// What is kept back for somebody who cannot be reached goes as one mail of each report when she can (21).

/** An edition that is older by then is only kept in the app. */
const TOO_OLD = 30 * DAY;
/** So many editions are looked at; those before them are counted. */
const MOST = 200;

/** Lets go of what quiet hours or a mail hour held until now; how many there were. */
export function letHeldGo({ pool, jobs }: Keeping, now: Instant): Promise<number> {
  return inTransaction(pool, async (db) => {
    const deliveries = await releaseHeld(db, now);
    await jobs.enqueueMail(db, deliveries);
    return deliveries.length;
  });
}

/** Gathers what is unsent for one whose address does not work; null where there is none. */
export function foldNext(pipeline: Keeping, now: Instant): Promise<true | null> {
  return takeDue<DeferredRow, true | null>(pipeline, {
    due: nextToFold,
    work: async (db, [row]) => {
      const id = await pipeline.ids.one<DeliveryId>(db);
      await writeAndCommit(db, [fold(row, { id, messageId: `<${id}.${randomUUID()}@${pipeline.mailDomain}>` }, now)]);
      return true;
    },
    layBy: ([{ id }]) => ({
      statement: deferredLater(id, now + HOUR),
      of: { delivery: id },
      said: 'what is unsent could not be gathered',
      done: null,
    }),
  });
}

/**
 * Sends what was kept back for somebody who can be reached now, as one mail of its report; null where there is none.
 */
export function releaseNextDeferred(pipeline: Keeping, now: Instant): Promise<true | null> {
  return takeDue<DeferredRow, true>(pipeline, {
    due: deferredToRelease(now),
    work: async (db, [row]) => {
      await release(pipeline, db, row, now);
      return true;
    },
    layBy: ([{ id }]) => ({
      statement: deferredLater(id, now + HOUR),
      of: { delivery: id },
      said: 'what was kept back could not be made a mail',
      done: true,
    }),
  });
}

async function release(pipeline: Keeping, db: Db, { id, report, person }: DeferredRow, now: Instant): Promise<void> {
  const kept = await stillDeferred(db, id);
  if (kept === null) return void (await writeAndCommit(db, []));
  // As many have gone out as may: it goes on gathering.
  const spentUntil = await mailQuotaUsedUntil(db, person, now, 'ordered');
  if (spentUntil !== null)
    return void (await writeAndCommit(db, [deferredLater(id, Math.min(spentUntil, now + MINUTE))]));
  const { report: name, reader } = await findReader(db, report, person, now);
  const { kept: editions, more, tooOld } = await deferredEditions(db, id, now - TOO_OLD, MOST);
  const alerts = editions.flatMap((edition) => edition.alerts.map((alert) => alert.id));
  const told = (await notifiedAtOnce(db, alerts, [person], now)).get(person) ?? new Map<AlertId, Instant>();
  const to = addressed(pipeline, report, reader, reader.lastNumber + 1, now);
  const untold = stillToTell(editions, await alreadyMailed(db, id));
  const { parts, heard } = partsOf(pipeline, untold, { reader, told, to }, now);
  const newest = parts.at(-1);
  if (newest === undefined)
    return void (await writeAndCommit(db, nothingLeft(id, tooOld > 0 && heard === 0 ? 'too old' : 'told already')));
  const message = deferredMail({
    ...to,
    report: name,
    made: now,
    reportLink: newest.link,
    kept: parts,
    before: more,
    tooOld,
    heard,
    spent: kept.reason === 'allowance',
    standsIn: kept.reason === 'stands in' && editions.every(({ madeAt }) => madeAt <= kept.orderedAt),
  });
  const weights = editions.flatMap((edition) => edition.alerts.map(({ news }) => news.weight ?? 'usual'));
  const said = {
    id,
    number: to.readerNumber,
    address: reader.email,
    message,
    leave: to.leave,
    weight: greatest(weights),
    atOnce: editions.every(({ document }) => document === null),
  };
  await writeAndCommit(db, [...released(said, now), ...(await pipeline.jobs.mailStatements([id]))]);
}

/** Who reads it, when she was told what, and where it goes. */
interface Hearing<To> {
  reader: Reader;
  told: ReadonlyMap<number, Instant>;
  to: To;
}

/** Of an edition that she has by another mail only the alerts are left that this one owes her, if any are. */
const stillToTell = (
  kept: EditionContents[],
  { editions, owed }: Awaited<ReturnType<typeof alreadyMailed>>,
): EditionContents[] =>
  kept.flatMap((edition) => {
    if (!editions.has(edition.id)) return [edition];
    const document = edition.document === null ? null : onlyAlerts(edition.document, owed);
    const alerts = edition.alerts.filter(({ id }) => owed.has(id));
    const tells = document === null ? alerts.length > 0 : tellsSomething(document);
    return tells ? [{ ...edition, document, alerts, notices: [] }] : [];
  });

/** What each edition tells her that she has not heard, each alert once; and how many tell her nothing. */
function partsOf(pipeline: Keeping, kept: EditionContents[], { reader, told, to }: Hearing<Addressed>, now: Instant) {
  const seen = new Set<number>(told.keys());
  const parts: DeferredPart[] = [];
  for (const edition of kept) {
    const link = `${pipeline.publicUrl}/editions/${edition.id}`;
    const tells = tellsOf(
      pipeline,
      { ...edition, alerts: edition.alerts.filter(({ id }) => !seen.has(id)) },
      { reader, told, to: { ...to, link } },
      now,
    );
    for (const { id } of edition.alerts) seen.add(id);
    if (tells !== null) parts.push({ edition: edition.number, made: edition.madeAt, link, parts: tells });
  }
  return { parts, heard: kept.length - parts.length };
}

function tellsOf(
  { publicUrl, links }: Keeping,
  { document, alerts, notices }: EditionContents,
  { reader, told, to: { place, link } }: Hearing<Addressed & { link: string }>,
  now: Instant,
): Parts | null {
  if (document !== null) return digestParts({ document, place, told, home: publicUrl, reportLink: link });
  const ofAlerts = alertParts(
    alerts.map((alert) => itemOf({ publicUrl, links }, alert, reader.id, now)),
    place,
  );
  const ofNotices = noticeParts(
    notices.map((notice) => noticeItem(publicUrl, notice)),
    place,
  );
  const both = { html: [...ofAlerts.html, ...ofNotices.html], text: [...ofAlerts.text, ...ofNotices.text] };
  return both.html.length === 0 ? null : both;
}
