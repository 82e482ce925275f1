import type { AlertId, DeliveryId, EditionId, PersonId, ReportId, WatchId } from '#core/id';
import { storedDocument, type EditionDocument } from '#core/tell/edition/document';
import type { Broken } from '#core/tell/edition/gathered';
import type { Share } from '#core/tell/edition/share';
import { brokenKey } from '#core/tell/edition/not-notified';
import type { Channel } from '#core/tell/channels';
import { storedOrder, type FileForm, type ReportDefinition } from '#core/tell/definition';
import type { Instant } from '#core/when/interval';
import { CONTENTS, readContents, type EditionContents, type StoredContents } from './edition-contents';
import { moment, type Db } from '../base/pool';

/** How many cuts of a report before one had nothing to tell, since its last edition. */
export async function quietCutsBefore(
  db: Db,
  { report, number }: { report: ReportId; number: number },
): Promise<number> {
  const { rows } = await db.query<{ edition: boolean }>(
    `SELECT EXISTS (SELECT FROM edition e WHERE e.cut_id = c.id) AS edition FROM cut c
      WHERE c.report_id = $1 AND c.number < $2 AND c.lines IS NOT NULL
     ORDER BY c.number DESC LIMIT 1000`,
    [report, number],
  );
  const last = rows.findIndex(({ edition }) => edition);
  return last < 0 ? rows.length : last;
}

const TOLD = `
SELECT t.person_id AS person, t.alert_id AS alert, coalesce(d.sent_at, d.ordered_at) AS at
FROM notification t JOIN delivery d ON d.id = t.delivery_id
WHERE t.alert_id = ANY($1) AND t.person_id = ANY($2) AND t.decision = 'told' AND d.at_once AND d.ordered_at <= $3
  AND d.state <> 'given up' AND (NOT $4 OR (d.state = 'sent' AND d.sent_at <= $3))`;

/**
 * When readers were told of alerts at once, by reader and alert; where `sent` is asked, only what has gone out by then:
 * what is held or waits has told nobody yet.
 */
export async function notifiedAtOnce(
  db: Db,
  alerts: AlertId[],
  people: PersonId[],
  until: Instant,
  { sent = false } = {},
): Promise<Map<PersonId, Map<AlertId, Instant>>> {
  const told = new Map<PersonId, Map<AlertId, Instant>>();
  if (alerts.length === 0) return told;
  const { rows } = await db.query<{ person: PersonId; alert: AlertId; at: Instant }>(TOLD, [
    alerts,
    people,
    moment(until),
    sent,
  ]);
  for (const { person, alert, at } of rows)
    told.set(person, (told.get(person) ?? new Map<AlertId, Instant>()).set(alert, at));
  return told;
}

const BROKEN = `
SELECT d.person_id AS person, n.watch_id AS watch, n.kind, n.since
FROM notice n JOIN edition_notice x ON x.notice_id = n.id JOIN edition e ON e.id = x.edition_id
JOIN delivery_edition de ON de.edition_id = e.id JOIN delivery d ON d.id = de.delivery_id
WHERE n.watch_id = ANY($1) AND d.person_id = ANY($2) AND d.at_once AND e.document IS NULL AND d.ordered_at <= $3
  AND d.state IN ('queued', 'kept back', 'sending', 'sent')`;

/**
 * Which word of watches that broke, or are read again, readers were told at once, by the keys that an edition has for
 * it.
 */
export async function brokenNotifiedAtOnce(
  db: Db,
  watches: WatchId[],
  people: PersonId[],
  until: Instant,
): Promise<Map<PersonId, Set<string>>> {
  const told = new Map<PersonId, Set<string>>();
  if (watches.length === 0) return told;
  const { rows } = await db.query<Pick<Broken, 'watch' | 'kind' | 'since'> & { person: PersonId }>(BROKEN, [
    watches,
    people,
    moment(until),
  ]);
  for (const { person, ...broken } of rows) told.set(person, (told.get(person) ?? new Set()).add(brokenKey(broken)));
  return told;
}

/** An edition in the list of its report. */
export interface EditionRow {
  id: EditionId;
  number: number;
  madeAt: Instant;
  /** Null of one that was told at once. */
  lines: number | null;
  share: Share | null;
  sent: number;
  deliveries: number;
}

/** The deliveries of an edition, but for one whose news goes with another. */
const DELIVERIES = `FROM delivery_edition x
  JOIN delivery d ON d.id = x.delivery_id
  WHERE x.edition_id = e.id AND d.reason
  IS DISTINCT FROM 'folded'`;

const LIST = `
SELECT e.id, e.number, e.made_at AS "madeAt", (e.document->'counts'->>'lines')::int AS lines,
  nullif(e.document->'share', 'null') AS share,
  (SELECT count(*)::int ${DELIVERIES} AND d.state = 'sent') AS sent,
  (SELECT count(*)::int ${DELIVERIES}) AS deliveries
FROM edition e WHERE e.report_id = $1 AND ($3::int IS NULL OR e.number < $3) ORDER BY e.number DESC LIMIT $2`;

/** The latest editions of a report, or those before one by its number. */
export async function listEditions(
  db: Db,
  report: ReportId,
  most: number,
  before: number | null = null,
): Promise<EditionRow[]> {
  return (await db.query<EditionRow>(LIST, [report, most, before])).rows;
}

const LATEST = `SELECT ${CONTENTS} FROM edition e WHERE e.report_id = $1 ORDER BY e.number DESC LIMIT $2`;

/** The latest editions of a report with what they tell, the last first. */
export async function latestContents(db: Db, report: ReportId, most: number): Promise<EditionContents[]> {
  return (await db.query<StoredContents>(LATEST, [report, most])).rows.map(readContents);
}

/** An edition with what it says and who got it. */
export interface EditionNow extends EditionContents {
  report: ReportId;
  name: string;
  fromAt: Instant | null;
  fromSeq: number;
  toSeq: number;
  /** Of the report's version at its cut. */
  order: ReportDefinition;
  ended: boolean;
  before: EditionId | null;
  after: EditionId | null;
  deliveries: {
    id: DeliveryId;
    person: string;
    channel: Channel;
    number: number | null;
    state: string;
    reason: string | null;
  }[];
}

const EDITION = `
SELECT ${CONTENTS}, e.report_id AS report, r.name, c.from_at AS "fromAt", e.from_seq AS "fromSeq", e.to_seq AS "toSeq",
  v.definition AS order, r.ended_at IS NOT NULL AS ended,
  (SELECT b.id FROM edition b WHERE b.report_id = e.report_id AND b.number = e.number - 1) AS before,
  (SELECT b.id FROM edition b WHERE b.report_id = e.report_id AND b.number = e.number + 1) AS after,
  (SELECT
    coalesce(jsonb_agg(jsonb_build_object('id', d.id, 'person', p.name, 'channel', d.channel, 'number', d.number,
    'state', d.state, 'reason', d.reason) ORDER BY p.name, d.id), '[]')
    FROM delivery_edition x JOIN delivery d ON d.id = x.delivery_id JOIN person p ON p.id = d.person_id
    WHERE x.edition_id = e.id) AS deliveries
FROM edition e JOIN report r ON r.id = e.report_id
JOIN report_version v ON v.report_id = e.report_id AND v.version = e.report_version
LEFT JOIN cut c ON c.id = e.cut_id WHERE e.id = $1`;

/** A file of an edition as its mails bore it; null where they bore none. */
export async function findFile(db: Db, id: EditionId, form: FileForm): Promise<Buffer | null> {
  return (
    (await db.query<{ body: Buffer }>('SELECT body FROM edition_file WHERE edition_id = $1 AND form = $2', [id, form]))
      .rows[0]?.body ?? null
  );
}

/** One edition, whole; null where there is none. */
export async function findEdition(db: Db, id: EditionId): Promise<EditionNow | null> {
  const { rows } = await db.query<Omit<EditionNow, 'document'> & { document: unknown }>(EDITION, [id]);
  const [row] = rows;
  return row === undefined ? null : { ...readContents(row), order: storedOrder.read(row.order) };
}

/** An edition among those of all reports. */
export interface FoundEdition extends Omit<EditionRow, 'id'> {
  id: EditionId;
  report: ReportId;
  name: string;
}

/** Which editions are looked for: of a report, with some words in their mails. */
export interface EditionFilter {
  report: ReportId | null;
  words: string;
}

/** Words are looked for in so many editions, the latest; whoever looks waits for it. */
const MOST_SEARCHED = 1_000;

/** The words of an edition are those of a mail that told it; where they were let go, of what it is made of. */
const HAS_WORDS = `coalesce(
  (SELECT bool_or(strpos(lower(d.plain), $2) > 0) FROM delivery_edition x JOIN delivery d ON d.id = x.delivery_id
  WHERE x.edition_id = e.id AND d.plain IS NOT NULL),
  strpos(lower(e.document::text), $2) > 0)`;

const searchOf = ({ report }: EditionFilter, after: boolean): string => `
SELECT e.id, e.number, e.made_at AS "madeAt", (e.document->'counts'->>'lines')::int AS lines,
  nullif(e.document->'share', 'null') AS share, r.id AS report, r.name,
  (SELECT count(*)::int ${DELIVERIES} AND d.state = 'sent') AS sent, (SELECT count(*)::int ${DELIVERIES}) AS deliveries
FROM (
  SELECT * FROM edition e
  WHERE ${report === null ? '$3::int IS NULL' : 'e.report_id = $3'} ${after ? 'AND (e.made_at, e.id) < ($4, $5)' : ''}
  ORDER BY e.made_at DESC, e.id DESC LIMIT ${MOST_SEARCHED}
) e JOIN report r ON r.id = e.report_id
WHERE $2 = '' OR ${HAS_WORDS}
ORDER BY e.made_at DESC, e.id DESC LIMIT $1`;

/** Editions, the latest first, from one on: of those asked for, at most so many. */
export async function searchEditions(
  db: Db,
  filter: EditionFilter,
  after: { madeAt: Instant; id: EditionId } | null,
  most: number,
): Promise<FoundEdition[]> {
  const values = [
    most,
    filter.words.toLowerCase(),
    filter.report,
    ...(after === null ? [] : [moment(after.madeAt), after.id]),
  ];
  return (await db.query<FoundEdition>(searchOf(filter, after !== null), values)).rows;
}

const BEFORE = `
SELECT b.id, b.number, b.document FROM edition e JOIN edition b ON b.report_id = e.report_id AND b.number < e.number
WHERE e.id = $1 AND b.document IS NOT NULL AND (b.document->'share'->'value', b.document->'share'->'of')
IS NOT DISTINCT FROM (e.document->'share'->'value', e.document->'share'->'of')
ORDER BY b.number DESC LIMIT 1`;

/** The edition of a report before one, of the same part of it; null where there is none that is a table. */
export async function editionBefore(
  db: Db,
  id: EditionId,
): Promise<{ id: EditionId; number: number; document: EditionDocument } | null> {
  const { rows } = await db.query<{ id: EditionId; number: number; document: unknown }>(BEFORE, [id]);
  return rows[0] === undefined ? null : { ...rows[0], document: storedDocument.read(rows[0].document) };
}
