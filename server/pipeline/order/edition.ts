import type { CutId, DeliveryId, EditionId, PersonId, ReportId } from '#core/id';
import { randomBytes, randomUUID } from 'node:crypto';
import { chooseAtOnce, type Telling } from '#core/tell/choose';
import { cloudEvent, type EventOf, type Fact } from '#core/tell/cloud-event';
import type { Weight } from '#core/judge/rule';
import { greatest, heldBy, type Outgoing } from '#core/tell/hold';
import type { Begun } from '#core/tell/begun';
import type { Message } from '#core/tell/mail-frame';
import type { Missing } from '#core/tell/missing';
import { CHANNELS, CHANNEL, channelsBesideMail, channelsOf, type Channel } from '#core/tell/channels';
import type { FileForm } from '#core/tell/definition';
import { shortText } from '#core/tell/short-text';
import type { Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { explainedBy } from '../../db/delivery/gaps';
import { moment, type Statement } from '../../db/base/pool';
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
  /** Who reads this edition of it. */
  readers: Reader[];
  kind: 'alert' | 'notice' | 'digest';
  /** What it tells goes out as soon as it is known. */
  atOnce: boolean;
  /** Who heard of an alert before does not hear of it here; else all who read it are told of all. */
  once: boolean;
  /** The numbers of the alerts or notices that it holds. */
  news: number[];
  /** How much those matter that are alerts, by their numbers. */
  weights: ReadonlyMap<number, Weight>;
  /** The cut that it is of, where that was made before it. */
  of?: { cut: CutId; fromSeq: number; toSeq: number; document?: object; files: { form: FileForm; body: Buffer }[] };
  render: (of: RenderedFor) => Message;
  /** Whether it tells anything beside alerts that a reader does not hear of here. */
  tells?: (heard: ReadonlySet<number>, person: PersonId) => boolean;
  /** The same for a program, of what this reader hears. */
  facts: (heard: ReadonlySet<number>, person: PersonId) => Fact[];
}

/** For whom an edition is rendered, under which numbers, and what of its news this reader hears. */
interface RenderedFor extends Addressed {
  edition: { id: EditionId; number: number };
  heard: ReadonlySet<number>;
  person: PersonId;
}

/** What every mail of a report says to its reader. */
export interface Addressed {
  readerName: string;
  readerNumber: number;
  place: Place;
  missing: Missing;
  begun: Begun | null;
  leave: string | null;
  ownPage: string | null;
}

/** Addresses the next mail of a report to a reader. */
export function addressed(
  { links }: Pick<Ordering, 'links'>,
  report: ReportId,
  reader: Reader,
  readerNumber: number,
  now: Instant,
): Addressed {
  const { name, locale, zone, missing, begun } = reader;
  return {
    readerName: name,
    readerNumber,
    place: { locale, zone },
    missing,
    begun: readerNumber === 1 ? begun : null,
    leave: links.leave(report, reader.id, reader.page, now),
    ownPage: links.ownPage(reader.id, reader.page, now),
  };
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
  channel: Channel;
  /** The delivery of the same edition that it stands beside, by another channel. */
  beside: DeliveryId | null;
  address: string;
  reader: Reader;
  messageId: string;
  weight: Weight | null;
  /** Null of what is kept back until she can be reached. */
  mail: { number: number; message: Written; leave: string | null; code: string | null } | null;
}

/** What a channel carries: of a post there is no page. */
type Written = Omit<Message, 'html'> & { html: string | null };

/** How many numbers these drafts need at most: one for each edition, and one for each of its readers. */
export const countOrdered = (drafts: EditionDraft[]): number =>
  drafts.reduce((sum, { readers }) => sum + 1 + CHANNELS.length * readers.length, 0);

/**
 * Orders the deliveries of editions in memory: who hears of what through which report, under which number, in which
 * words. A delivery's identity is fixed here, once. What is for somebody who cannot be reached is gathered in one
 * delivery of the report, without a number.
 */
export function orderEditions(
  ordering: Ordering,
  drafts: EditionDraft[],
  ids: number[],
  now: Instant,
  told: ReadonlyMap<string, number> = new Map(),
): Edition[] {
  const numbers = new Map<string, number>();
  const next = (name: string, last: number) => {
    const number = (numbers.get(name) ?? last) + 1;
    numbers.set(name, number);
    return number;
  };
  const open = new Map<string, DeliveryId>();
  const id = () => {
    const [given] = ids.splice(0, 1);
    if (given === undefined) throw new Error('a delivery without a number');
    return given;
  };
  const identity = (of: DeliveryId) => `<${of}.${randomUUID()}@${ordering.mailDomain}>`;
  return (['alert', 'notice', 'digest'] as const).flatMap((kind) => {
    const own = drafts.filter((draft) => draft.kind === kind);
    const tellings = chooseAtOnce(
      own.map((draft) => ({
        id: draft.report.id,
        readers: draft.readers.map((reader) => reachable(reader, draft)),
        alerts: draft.news,
      })),
      own.some(({ once }) => once) && kind !== 'notice' ? told : undefined,
    );
    return own.map((draft, place): Edition => {
      const { report } = draft;
      const edition = { id: id() as EditionId, number: next(`${report.id}`, report.editions) };
      const decided = tellings[place] ?? [];
      const deliveries = draft.readers.flatMap((reader): Delivery[] => {
        const name = `${report.id} ${reader.id}`;
        const heard = new Set(
          decided
            .filter(({ person, decision }) => person === reader.id && decision !== 'stood back')
            .map(({ alert }) => alert),
        );
        if (draft.tells === undefined ? heard.size === 0 : !draft.tells(heard, reader.id)) return [];
        const weight = greatest([...heard].flatMap((alert) => draft.weights.get(alert) ?? []));
        if (reachable(reader, draft).kept !== null) {
          const gathers = open.get(name) ?? reader.open ?? (id() as DeliveryId);
          open.set(name, gathers);
          return [
            {
              id: gathers,
              channel: 'mail',
              beside: null,
              address: reader.email,
              reader,
              messageId: identity(gathers),
              weight,
              mail: null,
            },
          ];
        }
        const isFirst = !numbers.has(name);
        const number = next(name, reader.lastNumber);
        // What is missing is said once, in the first of these.
        const to = addressed(
          ordering,
          report.id,
          isFirst ? reader : { ...reader, missing: NOTHING_MISSING },
          number,
          now,
        );
        const known = outOfTurn(reader, { orderedAt: now, atOnce: draft.atOnce, weight }, now)
          ? to.missing
          : { ...to.missing, held: [] };
        const missing = isInsteadOfText(reader, weight) ? { ...known, insteadOfText: true } : known;
        const message = draft.render({ ...to, missing, edition, heard, person: reader.id });
        const first = id() as DeliveryId;
        return channelsFor(reader, draft, weight).map((channel, nth): Delivery => {
          const given = nth === 0 ? first : (id() as DeliveryId);
          const messageId = identity(given);
          const event = {
            id: messageId.slice(1, -1),
            made: now,
            report,
            edition,
            number,
            weight,
            facts: draft.facts(heard, reader.id),
          };
          return {
            id: given,
            channel,
            beside: nth === 0 ? null : first,
            address: addressOf(channel, reader),
            reader,
            messageId,
            weight,
            mail: {
              number,
              leave: CHANNEL[channel].isLetter ? to.leave : null,
              ...WRITTEN[channel](message, event, ordering.publicUrl),
            },
          };
        });
      });
      return { ...edition, draft, first: edition.number === report.editions + 1, tellings: decided, deliveries };
    });
  });
}

const weightOf = ({ weights }: EditionDraft): Weight | null => greatest([...weights.values()]);

/**
 * A reader as an edition finds her: one to whom no mail may go is reached all the same where another channel leads to
 * her.
 */
const reachable = (reader: Reader, draft: EditionDraft): Reader =>
  isMailShut(reader) && channelsBesideMail(textless(reader), weightOf(draft)).length > 0
    ? { ...reader, kept: null }
    : reader;

const channelsFor = (reader: Reader, draft: EditionDraft, weight: Weight | null): Channel[] =>
  isMailShut(reader) ? channelsBesideMail(textless(reader), weightOf(draft)) : channelsOf(textless(reader), weight);

/** Her address refuses mail, or as many have gone out as may. */
const isMailShut = ({ kept }: Reader): boolean => kept === 'paused' || kept === 'allowance';

/** Where the short texts are spent it is as if no number were known. */
const textless = (reader: Reader): Reader => (reader.textsSpent ? { ...reader, phone: null } : reader);

/** Whether a mail goes in place of a short text that she chose. */
const isInsteadOfText = ({ textsSpent, phone, routes }: Reader, weight: Weight | null): boolean => {
  const chosen = routes[weight ?? 'usual'];
  return textsSpent && phone !== null && chosen.includes('text') && !chosen.includes('mail');
};

const addressOf = (channel: Channel, reader: Reader): string => CHANNEL[channel].leadsTo(reader) ?? reader.email;

const CODE_BYTES = 9;

/**
 * An edition as a channel carries it: a mail, a text of one segment with a link to the whole, or an event for a
 * program.
 */
const WRITTEN: Record<Channel, (message: Message, event: EventSaid, publicUrl: string) => WrittenFor> = {
  mail: (message) => ({ message, code: null }),
  text: (message, _event, publicUrl) => {
    const code = randomBytes(CODE_BYTES).toString('base64url');
    return { message: { ...message, text: shortText(message.subject, `${publicUrl}/m/${code}`) }, code };
  },
  webhook: ({ subject, text }, { report: { id, name }, ...event }, publicUrl) => {
    const said = cloudEvent({ ...event, source: publicUrl, report: { id, name }, subject, text });
    return { message: { subject, html: null, text: said }, code: null };
  },
};

type EventSaid = Omit<EventOf, 'source' | 'subject' | 'text' | 'report'> & { report: OpenReport };

interface WrittenFor {
  message: Written;
  code: string | null;
}

/** Whether a delivery goes before those that are held; else it waits with them, and goes after them. */
const outOfTurn = ({ zone, wants }: Reader, outgoing: Outgoing, now: Instant): boolean =>
  heldBy({ zone, ...wants }, outgoing, now) === null;

const NOTHING_MISSING: Missing = { gaps: [], held: [] };

/** The deliveries that are to be sent now; the others are kept back. */
export const toSend = (editions: Edition[]): DeliveryId[] =>
  editions.flatMap(({ deliveries }) => deliveries.filter(({ mail }) => mail !== null).map(({ id }) => id));

const EDITIONS = `
INSERT INTO edition (id, report_id, report_version, number, from_seq, to_seq, made_at, cut_id, document)
SELECT n.id, n.report, n.version, n.number, coalesce(n.from_seq, p.cut_seq), coalesce(n.to_seq, p.cut_seq), $2, n.cut,
  n.document
FROM jsonb_to_recordset($1) AS n(id bigint, report int, version int, number int, from_seq bigint, to_seq bigint,
  cut bigint, document jsonb)
JOIN report p ON p.id = n.report`;

/** Editions of cuts that were made before them. */
const COUNTED = `
UPDATE report p SET editions = n.number
FROM (SELECT report, max(number) AS number FROM jsonb_to_recordset($1) AS n(report int, number int, cut bigint)
WHERE cut IS NOT NULL GROUP BY report) n
WHERE p.id = n.report`;

const HELD = {
  alert: `INSERT INTO edition_alert (edition_id, report_id, alert_id)
    SELECT edition, report, news FROM jsonb_to_recordset($1) AS n(edition bigint, report int, news bigint)`,
  notice: `INSERT INTO edition_notice (edition_id, notice_id)
      SELECT edition, news
      FROM jsonb_to_recordset($1) AS n(edition bigint, news bigint)`,
};

/** The first mail of each report to each reader. */
const FIRST_OF_REPORT = `(
  SELECT report, person, min(id) AS id FROM new WHERE number IS NOT NULL AND beside IS NULL GROUP BY report, person)`;

const DELIVERIES = `
WITH new AS (
  SELECT *
  FROM jsonb_to_recordset($1) AS n(id bigint, edition bigint, report int, person int, address text, message text,
    number int, state text, reason text,
    subject text, html text, plain text, at_once boolean, weight text, leave text, channel text, beside bigint,
    code text)
), numbered AS (
  INSERT INTO reader_number (report_id, person_id, last) SELECT report, person, max(number) FROM new
  WHERE number IS NOT NULL GROUP BY report, person
  ON CONFLICT (report_id, person_id) DO UPDATE SET last = excluded.last
), explained AS (
  ${explainedBy(FIRST_OF_REPORT)}
), ordered AS (
  INSERT INTO delivery (id, report_id, person_id, channel, address, message_id, number, state, reason, subject, html,
    plain, ordered_at, at_once, weight, leave, beside, code)
  SELECT DISTINCT ON (id) id, report, person, channel, address, message, number, state, reason, subject, html, plain,
    $2::timestamptz, at_once, weight, leave, beside, code
  FROM new ON CONFLICT (id) DO NOTHING
)
INSERT INTO delivery_edition (delivery_id, edition_id) SELECT id, edition FROM new`;

const NOTIFICATIONS = `
INSERT INTO notification (alert_id, report_id, person_id, decision, in_favour_of, delivery_id)
SELECT alert, report, person, decision, "inFavourOf", delivery
FROM jsonb_to_recordset($1) AS n(alert bigint, report int, person int, decision text, "inFavourOf" int,
  delivery bigint)`;

const CUT = `
WITH placed AS (SELECT place_news() AS last), news AS (
  SELECT * FROM jsonb_to_recordset($1) AS n(id bigint, report int, number int, first boolean)
), cut AS (
  UPDATE report p SET cut_seq = placed.last, cut_at = greatest(p.cut_at, $2), editions = n.number
  FROM placed, (SELECT report, max(number) AS number FROM news GROUP BY report) n WHERE p.id = n.report
)
UPDATE edition e SET from_seq = CASE WHEN n.first THEN e.from_seq ELSE placed.last END, to_seq = placed.last
FROM placed, news n WHERE e.id = n.id`;

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
    id,
    report: report.id,
    version: report.version,
    number,
    from_seq: of?.fromSeq,
    to_seq: of?.toSeq,
    cut: of?.cut,
    document: of?.document,
  }));
  return [
    ...one(EDITIONS, rows, moment(at)),
    ...(rows.some(({ cut }) => cut !== undefined)
      ? one(
          COUNTED,
          rows.map(({ report, number, cut }) => ({ report, number, cut })),
        )
      : []),
    ...filesStatements(editions),
    ...one(HELD.alert, held('alert', 'digest')),
    ...one(HELD.notice, held('notice')),
    ...one(DELIVERIES, editions.flatMap(deliveryRows), moment(at)),
    ...one(NOTIFICATIONS, editions.flatMap(notificationRows)),
  ];
}

function filesStatements(editions: Edition[]): Statement[] {
  const files = editions.flatMap(({ id, draft }) => (draft.of?.files ?? []).map((file) => ({ id, ...file })));
  if (files.length === 0) return [];
  const text =
    'INSERT INTO edition_file (edition_id, form, body) SELECT * FROM unnest($1::bigint[], $2::text[], $3::bytea[])';
  return [{ text, values: [files.map(({ id }) => id), files.map(({ form }) => form), files.map(({ body }) => body)] }];
}

/**
 * Gives all news its place and cuts these editions there: the last statement before the commit, since from it on until
 * then nobody else can place news.
 */
export function cutEditions(editions: Edition[], at: Instant): Statement[] {
  if (editions.length === 0) return [];
  const rows = editions.map(({ id, draft: { report }, number, first }) => ({ id, report: report.id, number, first }));
  return [{ text: CUT, values: [JSON.stringify(rows), moment(at)] }];
}

function deliveryRows({ id: edition, draft: { report, atOnce }, deliveries }: Edition): object[] {
  return deliveries.map(({ id, channel, beside, address, reader, messageId, weight, mail }) => ({
    id,
    edition,
    report: report.id,
    person: reader.id,
    channel,
    beside,
    address,
    message: messageId,
    at_once: atOnce,
    weight,
    ...(mail === null
      ? { state: 'kept back', reason: reader.kept }
      : {
          state: 'queued',
          number: mail.number,
          subject: mail.message.subject,
          html: mail.message.html,
          plain: mail.message.text,
          leave: mail.leave,
          code: mail.code,
        }),
  }));
}

/** Who heard of which alert, or why not; of notices it is not kept. */
function notificationRows({ draft, tellings, deliveries }: Edition): object[] {
  if (draft.kind === 'notice') return [];
  const deliveryOf = new Map<number, DeliveryId>(
    deliveries.filter(({ beside }) => beside === null).map(({ id, reader }) => [reader.id, id]),
  );
  return tellings.map((telling) => ({
    ...telling,
    delivery: telling.decision === 'stood back' ? null : (deliveryOf.get(telling.person) ?? null),
  }));
}
