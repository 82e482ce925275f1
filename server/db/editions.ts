import type { AlertId, DeliveryId, EditionId, PersonId, ReportId } from '#core/id';
import type { Share } from '#core/tell/edition/share';
import type { Route } from '#core/tell/routes';
import { storedOrder, type FileForm, type StandingOrder } from '#core/tell/standing-order';
import type { Instant } from '#core/when/interval';
import { CONTENTS, readContents, type EditionContents, type StoredContents } from './edition-contents';
import { moment, type Db } from './pool';

/** How many cuts of a report before one had nothing to tell, since its last edition. */
export async function quietCutsBefore(db: Db, { report, number }: { report: ReportId; number: number }): Promise<number> {
  const { rows } = await db.query<{ edition: boolean }>(
    `SELECT EXISTS (SELECT FROM edition e WHERE e.cut_id = c.id) AS edition FROM cut c WHERE c.report_id = $1 AND c.number < $2 AND c.lines IS NOT NULL
     ORDER BY c.number DESC LIMIT 1000`,
    [report, number],
  );
  const last = rows.findIndex(({ edition }) => edition);
  return last < 0 ? rows.length : last;
}

const TOLD = `
SELECT t.person_id AS person, t.alert_id AS alert, coalesce(d.sent_at, d.ordered_at) AS at
FROM telling t JOIN delivery d ON d.id = t.delivery_id
WHERE t.alert_id = ANY($1) AND t.person_id = ANY($2) AND t.decision = 'told' AND d.at_once AND d.ordered_at <= $3 AND d.state <> 'given up'`;

/** When readers were told of alerts at once, by reader and alert. */
export async function toldAtOnce(db: Db, alerts: AlertId[], people: PersonId[], until: Instant): Promise<Map<PersonId, Map<AlertId, Instant>>> {
  const told = new Map<PersonId, Map<AlertId, Instant>>();
  if (alerts.length === 0) return told;
  const { rows } = await db.query<{ person: PersonId; alert: AlertId; at: Instant }>(TOLD, [alerts, people, moment(until)]);
  for (const { person, alert, at } of rows) told.set(person, (told.get(person) ?? new Map<AlertId, Instant>()).set(alert, at));
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
const DELIVERIES = `FROM delivery_edition x JOIN delivery d ON d.id = x.delivery_id WHERE x.edition_id = e.id AND d.reason IS DISTINCT FROM 'folded'`;

const LIST = `
SELECT e.id, e.number, e.made_at AS "madeAt", (e.document->'counts'->>'lines')::int AS lines, nullif(e.document->'share', 'null') AS share,
  (SELECT count(*)::int ${DELIVERIES} AND d.state = 'sent') AS sent,
  (SELECT count(*)::int ${DELIVERIES}) AS deliveries
FROM edition e WHERE e.report_id = $1 AND ($3::int IS NULL OR e.number < $3) ORDER BY e.number DESC LIMIT $2`;

/** The latest editions of a report, or those before one by its number. */
export async function listEditions(db: Db, report: ReportId, most: number, before: number | null = null): Promise<EditionRow[]> {
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
  order: StandingOrder;
  ended: boolean;
  before: EditionId | null;
  after: EditionId | null;
  deliveries: { id: DeliveryId; person: string; route: Route; number: number | null; state: string; reason: string | null }[];
}

const EDITION = `
SELECT ${CONTENTS}, e.report_id AS report, r.name, c.from_at AS "fromAt", e.from_seq AS "fromSeq", e.to_seq AS "toSeq",
  v.definition AS order, r.ended_at IS NOT NULL AS ended,
  (SELECT b.id FROM edition b WHERE b.report_id = e.report_id AND b.number = e.number - 1) AS before,
  (SELECT b.id FROM edition b WHERE b.report_id = e.report_id AND b.number = e.number + 1) AS after,
  (SELECT coalesce(jsonb_agg(jsonb_build_object('id', d.id, 'person', p.name, 'route', d.route, 'number', d.number, 'state', d.state, 'reason', d.reason) ORDER BY p.name, d.id), '[]')
    FROM delivery_edition x JOIN delivery d ON d.id = x.delivery_id JOIN person p ON p.id = d.person_id WHERE x.edition_id = e.id) AS deliveries
FROM edition e JOIN report r ON r.id = e.report_id JOIN report_version v ON v.report_id = e.report_id AND v.version = e.report_version
LEFT JOIN cut c ON c.id = e.cut_id WHERE e.id = $1`;

/** A file of an edition as its mails bore it; null where they bore none. */
export async function findFile(db: Db, id: EditionId, form: FileForm): Promise<Buffer | null> {
  return (await db.query<{ body: Buffer }>('SELECT body FROM edition_file WHERE edition_id = $1 AND form = $2', [id, form])).rows[0]?.body ?? null;
}

/** One edition, whole; null where there is none. */
export async function findEdition(db: Db, id: EditionId): Promise<EditionNow | null> {
  const { rows } = await db.query<Omit<EditionNow, 'document'> & { document: unknown }>(EDITION, [id]);
  const [row] = rows;
  return row === undefined ? null : { ...readContents(row), order: storedOrder.read(row.order) };
}
