import type { CutId, DeliveryId, EditionId } from '#core/id';
import { randomUUID } from 'node:crypto';
import { chooseAtOnce, type Telling } from '#core/tell/choose';
import type { Message } from '#core/tell/mail-frame';
import type { Instant } from '#core/when/interval';
import { moment, type Statement } from '../../db/pool';
import type { Links } from '../../links';
import type { OpenReport, Reader } from './reports';

/** What ordering needs of the pipeline. */
export interface Ordering {
  publicUrl: string;
  mailDomain: string;
  links: Links;
}

/** An edition that is to be cut: what it tells, and how that is written for one reader. */
export interface EditionDraft {
  report: OpenReport;
  /** A digest is told to everyone who reads it, whatever they heard at once. */
  kind: 'alert' | 'notice' | 'digest';
  /** The numbers of the alerts or notices that it holds. */
  news: number[];
  /** The cut that it is of, where that was made before it. */
  of?: { cut: CutId; fromSeq: number; toSeq: number; document: object };
  render: (of: RenderedFor) => Message;
}

/** For whom an edition is rendered, under which numbers, and what of its news this reader hears. */
interface RenderedFor {
  reader: Reader;
  number: number;
  edition: { id: EditionId; number: number };
  heard: ReadonlySet<number>;
}

/** An edition with its number and its deliveries. */
export interface Edition {
  id: EditionId;
  draft: EditionDraft;
  number: number;
  /** The first of its report at this cut: what the record holds since the last cut is in it. */
  first: boolean;
  tellings: Telling[];
  deliveries: Delivery[];
}

interface Delivery {
  id: DeliveryId;
  reader: Reader;
  number: number;
  messageId: string;
  message: Message;
}

/** How many numbers these drafts need at most: one for each edition, and one for each of its readers. */
export const countOrdered = (drafts: EditionDraft[]): number => drafts.reduce((sum, { report }) => sum + 1 + report.readers.length, 0);

/**
 * Orders the deliveries of editions in memory: who hears of what through which report, under which number, in which words. A delivery's
 * identity is fixed here, once.
 */
export function orderEditions(ordering: Ordering, drafts: EditionDraft[], ids: number[]): Edition[] {
  const numbers = new Map<string, number>();
  const next = (name: string, last: number) => {
    const number = (numbers.get(name) ?? last) + 1;
    numbers.set(name, number);
    return number;
  };
  const id = () => {
    const [given] = ids.splice(0, 1);
    if (given === undefined) throw new Error('a delivery without a number');
    return given;
  };
  return (['alert', 'notice', 'digest'] as const).flatMap((kind) => {
    const own = drafts.filter((draft) => draft.kind === kind);
    const tellings = chooseAtOnce(own.map(({ report, news }) => ({ id: report.id, readers: report.readers, alerts: news })));
    return own.map((draft) => {
      const { report } = draft;
      const edition = { id: id() as EditionId, number: next(`${report.id}`, report.editions) };
      const decided = tellings.filter((telling) => telling.report === report.id);
      const deliveries = report.readers.flatMap((reader): Delivery[] => {
        const heard = new Set(decided.filter(({ person, decision }) => person === reader.id && decision !== 'stood back').map(({ alert }) => alert));
        if (heard.size === 0 && kind !== 'digest') return [];
        const given = id();
        const ordered = next(`${report.id} ${reader.id}`, reader.lastNumber);
        const message = draft.render({ reader, number: ordered, edition, heard });
        return [{ id: given as DeliveryId, reader, number: ordered, messageId: `<${given}.${randomUUID()}@${ordering.mailDomain}>`, message }];
      });
      return { ...edition, draft, first: edition.number === report.editions + 1, tellings: decided, deliveries };
    });
  });
}

/** The deliveries that are to be sent now; the others are kept back. */
export const toSend = (editions: Edition[]): DeliveryId[] =>
  editions.flatMap(({ deliveries }) => deliveries.filter(({ reader }) => reader.confirmed).map(({ id }) => id));

const EDITIONS = `
INSERT INTO edition (id, report_id, report_version, number, from_seq, to_seq, made_at, cut_id, document)
SELECT n.id, n.report, n.version, n.number, coalesce(n.from_seq, p.cut_seq), coalesce(n.to_seq, p.cut_seq), $2, n.cut, n.document
FROM jsonb_to_recordset($1) AS n(id bigint, report int, version int, number int, from_seq bigint, to_seq bigint, cut bigint, document jsonb)
JOIN report p ON p.id = n.report`;

/** Editions of cuts that were made before them. */
const COUNTED = `
UPDATE report p SET editions = n.number FROM jsonb_to_recordset($1) AS n(report int, number int, cut bigint) WHERE p.id = n.report AND n.cut IS NOT NULL`;

const HELD = {
  alert: `INSERT INTO edition_alert (edition_id, report_id, alert_id)
    SELECT edition, report, news FROM jsonb_to_recordset($1) AS n(edition bigint, report int, news bigint)`,
  notice: 'INSERT INTO edition_notice (edition_id, notice_id) SELECT edition, news FROM jsonb_to_recordset($1) AS n(edition bigint, news bigint)',
};

const DELIVERIES = `
WITH new AS (
  SELECT * FROM jsonb_to_recordset($1) AS n(id bigint, edition bigint, report int, person int, address text, message text, number int, state text, reason text,
    subject text, html text, plain text)
), numbered AS (
  INSERT INTO reader_number (report_id, person_id, last) SELECT report, person, max(number) FROM new GROUP BY report, person
  ON CONFLICT (report_id, person_id) DO UPDATE SET last = excluded.last
)
INSERT INTO delivery (id, edition_id, person_id, route, address, message_id, number, state, reason, subject, html, plain, ordered_at)
SELECT id, edition, person, 'mail', address, message, number, state, reason, subject, html, plain, $2 FROM new`;

const TELLINGS = `
INSERT INTO telling (alert_id, report_id, person_id, decision, in_favour_of, delivery_id)
SELECT alert, report, person, decision, "inFavourOf", delivery
FROM jsonb_to_recordset($1) AS n(alert bigint, report int, person int, decision text, "inFavourOf" int, delivery bigint)`;

const CUT = `
WITH placed AS (SELECT place_news() AS last), news AS (
  SELECT * FROM jsonb_to_recordset($1) AS n(id bigint, report int, number int, first boolean)
), cut AS (
  UPDATE report p SET cut_seq = placed.last, cut_at = greatest(p.cut_at, $2), editions = n.number FROM placed, (SELECT report, max(number) AS number FROM news GROUP BY report) n WHERE p.id = n.report
)
UPDATE edition e SET from_seq = CASE WHEN n.first THEN e.from_seq ELSE placed.last END, to_seq = placed.last FROM placed, news n WHERE e.id = n.id`;

/** Keeps editions with their deliveries: a statement each, however many they are. */
export function storeEditions(editions: Edition[], at: Instant): Statement[] {
  if (editions.length === 0) return [];
  const one = (text: string, rows: object[], ...more: unknown[]): Statement[] =>
    rows.length === 0 ? [] : [{ text, values: [JSON.stringify(rows), ...more] }];
  const held = (...kinds: EditionDraft['kind'][]) =>
    editions.flatMap(({ id, draft }) =>
      kinds.includes(draft.kind) ? draft.news.map((news) => ({ edition: id, report: draft.report.id, news })) : [],
    );
  const rows = editions.map(({ id, draft: { report, of }, number }) => ({
    id, report: report.id, version: report.version, number, from_seq: of?.fromSeq, to_seq: of?.toSeq, cut: of?.cut, document: of?.document,
  })); // prettier-ignore
  return [
    ...one(EDITIONS, rows, moment(at)),
    ...(rows.some(({ cut }) => cut !== undefined)
      ? one(
          COUNTED,
          rows.map(({ report, number, cut }) => ({ report, number, cut })),
        )
      : []),
    ...one(HELD.alert, held('alert', 'digest')),
    ...one(HELD.notice, held('notice')),
    ...one(DELIVERIES, editions.flatMap(deliveryRows), moment(at)),
    ...one(TELLINGS, editions.flatMap(tellingRows)),
  ];
}

/**
 * Gives all news its place and cuts these editions there: the last statement before the commit, since from it on until then nobody else
 * can place news.
 */
export function cutEditions(editions: Edition[], at: Instant): Statement[] {
  if (editions.length === 0) return [];
  const rows = editions.map(({ id, draft: { report }, number, first }) => ({ id, report: report.id, number, first }));
  return [{ text: CUT, values: [JSON.stringify(rows), moment(at)] }];
}

function deliveryRows({ id: edition, draft: { report }, deliveries }: Edition): object[] {
  return deliveries.map(({ id, reader, number, messageId, message: { subject, html, text } }) => ({
    id, edition, report: report.id, person: reader.id, address: reader.email, message: messageId, number,
    ...(reader.confirmed ? { state: 'queued' } : { state: 'kept back', reason: 'the address is not confirmed' }), subject, html, plain: text,
  })); // prettier-ignore
}

/** Who heard of which alert, or why not; of notices it is not kept. */
function tellingRows({ draft, tellings, deliveries }: Edition): object[] {
  if (draft.kind === 'notice') return [];
  const deliveryOf = new Map(deliveries.map(({ id, reader }) => [reader.id, id]));
  return tellings.map((telling) => ({ ...telling, delivery: telling.decision === 'stood back' ? null : (deliveryOf.get(telling.person) ?? null) }));
}
