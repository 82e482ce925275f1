import type { AlertId, DeliveryId, EditionId, PersonId, ReportId, WatchId } from '#core/id';
import { countBeyond } from '#core/tell/edition/document';
import { notifiedLines, type NotifiedLine } from '#core/tell/notified';
import type { Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { brokenNotifiedAtOnce } from '../editions';
import { CONTENTS, readKnownContents, type EditionContents, type StoredContents } from '../edition-contents';
import { moment, type Db } from '../../base/pool';

/** A line of what somebody was told, with what she can do about it. */
export interface NotifiedNow extends NotifiedLine {
  /** The watch runs, so that it can be looked at. */
  runs: boolean;
  dealtAt: Instant | null;
}

/** A mail that went out to somebody, and what it told. */
export interface NotifiedMail {
  delivery: DeliveryId;
  report: ReportId;
  reportName: string;
  orderedAt: Instant;
  sentAt: Instant;
  lines: NotifiedNow[];
  /**
   * The edition in which the rest is read, and how many lines that is; of one too large for a list none stands here.
   */
  more: { edition: EditionId; lines: number } | null;
}

/** Where a page begins: after a mail. */
export type AfterNotified = Pick<NotifiedMail, 'orderedAt' | 'delivery'>;

/** So many lines of a mail stand in the list. */
const MOST_LINES = 30;
/** So many editions of one mail are read: one gathers many only while nothing could be sent. */
const MOST_EDITIONS = 12;
/** An edition that is larger as it is stored (bytes, compressed) is read in its own place. */
const LARGEST_LISTED = 400_000;

/** Of one edition that went out by several routes the first that arrived. */
const MAILS = `
SELECT d.id AS delivery, d.report_id AS report, r.name AS "reportName", d.ordered_at AS "orderedAt",
  d.sent_at AS "sentAt", d.at_once AS "atOnce",
  (SELECT coalesce(jsonb_agg(jsonb_build_array(t.alert_id, a.change_id)), '[]') FROM notification t
  JOIN alert a ON a.id = t.alert_id
    WHERE t.delivery_id = d.id AND t.decision = 'told' AND NOT EXISTS (
      SELECT FROM notification o JOIN delivery e ON e.id = o.delivery_id
      WHERE o.alert_id = t.alert_id AND o.person_id = t.person_id AND o.decision = 'told' AND e.state = 'sent'
        AND (e.ordered_at, e.id) < (d.ordered_at, d.id)
    )) AS heard,
  (SELECT coalesce(jsonb_agg(t.alert_id), '[]') FROM delivery_edition x
  JOIN edition_alert h ON h.edition_id = x.edition_id
    JOIN notification t ON t.alert_id = h.alert_id AND t.report_id = d.report_id AND t.person_id = d.person_id
    WHERE x.delivery_id = d.id AND t.decision = 'stood back') AS "stoodBack",
  (SELECT max(x.edition_id) FROM delivery_edition x WHERE x.delivery_id = d.id) AS edition
FROM delivery d JOIN report r ON r.id = d.report_id
WHERE d.person_id = $1 AND d.state = 'sent' AND d.purpose = 'edition'
  AND (d.beside IS NULL OR NOT EXISTS (SELECT FROM delivery e
  WHERE (e.id = d.beside OR e.beside = d.beside) AND e.id < d.id AND e.state = 'sent'))`;

const LATEST = 'ORDER BY d.ordered_at DESC, d.id DESC LIMIT $2';
/** The moment alone leads to an index; beside it only what stands after that place is let through. */
const AFTER = 'AND d.ordered_at <= $3 AND (d.ordered_at, d.id) < ($3, $4)';

const CONTENTS_OF = `
SELECT m.delivery, e.*
FROM unnest($1::bigint[]) AS m(delivery) CROSS JOIN LATERAL (
  SELECT ${CONTENTS} FROM delivery_edition x JOIN edition e ON e.id = x.edition_id
  WHERE x.delivery_id = m.delivery AND (e.document IS NULL OR pg_column_size(e.document) <= ${LARGEST_LISTED})
  ORDER BY e.number DESC LIMIT ${MOST_EDITIONS}
) e`;

type Mail = Omit<NotifiedMail, 'lines' | 'more'> & {
  heard: [AlertId, number | null][];
  stoodBack: AlertId[];
  edition: EditionId;
  atOnce: boolean;
};
type Contents = EditionContents & { delivery: DeliveryId };

/** What somebody was told, the latest mail first, after a place; of at most so many mails. */
export async function listNotified(
  db: Db,
  person: PersonId,
  after: AfterNotified | null,
  most: number,
  place: Place,
): Promise<NotifiedMail[]> {
  const values = [person, most, ...(after === null ? [] : [moment(after.orderedAt), after.delivery])];
  const { rows } = await db.query<Mail>(`${MAILS} ${after === null ? '' : AFTER} ${LATEST}`, values);
  const told = await withLines(db, person, rows, place);
  const shown = told.flatMap(({ lines }) => lines.slice(0, MOST_LINES));
  const [running, dealt] = [await runningOf(db, shown), await dealtOf(db, person, shown)];
  return told.map(({ lines, beyond, mail: { heard: _, stoodBack: __, atOnce: ___, edition, ...mail } }) => {
    const rest = Math.max(0, lines.length - MOST_LINES) + beyond;
    return {
      ...mail,
      lines: lines
        .slice(0, MOST_LINES)
        .map((line) => ({ ...line, runs: running.has(line.watch), dealtAt: dealtAt(line, dealt) })),
      more: rest > 0 || lines.length === 0 ? { edition, lines: rest } : null,
    };
  });
}

/** What each mail told, and how many lines of its edition it had no room for. */
async function withLines(
  db: Db,
  person: PersonId,
  mails: Mail[],
  place: Place,
): Promise<{ mail: Mail; lines: NotifiedLine[]; beyond: number }[]> {
  const { rows } = await db.query<StoredContents & { delivery: DeliveryId }>(CONTENTS_OF, [
    mails.map(({ delivery }) => delivery),
  ]);
  const contents = rows.flatMap((row): Contents | [] => readKnownContents(row) ?? []);
  const told = [];
  for (const mail of mails) {
    const own = contents.filter(({ delivery }) => delivery === mail.delivery);
    const documents = own.flatMap(({ document }) => document ?? []);
    const watches = mail.atOnce ? documents.flatMap(({ broken }) => broken.map(({ watch }) => watch)) : [];
    const toldBroken =
      (await brokenNotifiedAtOnce(db, watches, [person], mail.orderedAt)).get(person) ?? new Set<string>();
    const here = { heard: new Map(mail.heard), stoodBack: new Set(mail.stoodBack), toldBroken };
    const beyond = documents.reduce((count, document) => count + countBeyond(document), 0);
    told.push({ mail, lines: own.flatMap((edition) => notifiedLines(edition, here, place)), beyond });
  }
  return told;
}

async function runningOf(db: Db, lines: NotifiedLine[]): Promise<Set<WatchId>> {
  const { rows } = await db.query<{ id: WatchId }>(`SELECT id FROM watch WHERE id = ANY($1) AND state = 'running'`, [
    lines.map(({ watch }) => watch),
  ]);
  return new Set(rows.map(({ id }) => id));
}

async function dealtOf(db: Db, person: PersonId, lines: NotifiedLine[]): Promise<Map<string, Instant>> {
  const names = [...new Set(lines.flatMap(({ key, alerts }) => [key, ...alerts.map(nameOfAlert)]))];
  const { rows } = await db.query<{ news: string; at: Instant }>(
    'SELECT news, dealt_at AS at FROM dealt WHERE person_id = $1 AND news = ANY($2)',
    [person, names],
  );
  return new Map(rows.map(({ news, at }) => [news, at]));
}

const nameOfAlert = (id: AlertId): string => `alert-${id}`;

/** When she was done with a line: with itself, or with all alerts that stand on it. */
function dealtAt({ key, alerts }: NotifiedLine, dealt: ReadonlyMap<string, Instant>): Instant | null {
  const each = alerts.map((id) => dealt.get(nameOfAlert(id)) ?? null);
  const all = each.length > 0 && each.every((at) => at !== null) ? Math.max(...each.map(Number)) : null;
  return dealt.get(key) ?? all;
}

const DEALT = `
INSERT INTO dealt (person_id, news, delivery_id, dealt_at) SELECT $1, n, $3, $4 FROM unnest($2::text[]) AS n
ON CONFLICT (person_id, news) DO UPDATE SET dealt_at = excluded.dealt_at`;
const NOT_DEALT = 'DELETE FROM dealt WHERE person_id = $1 AND news = ANY($2)';

/**
 * She is done with a line of a mail and the alerts on it, or is not after all. False where that mail told her no such
 * thing.
 */
export async function setDealt(
  db: Db,
  person: PersonId,
  { delivery, key }: { delivery: DeliveryId; key: string },
  at: Instant | null,
): Promise<boolean> {
  const { rows } = await db.query<Mail>(`${MAILS} AND d.id = $2`, [person, delivery]);
  const [told] = await withLines(db, person, rows, NOWHERE);
  const line = told?.lines.find((each) => each.key === key);
  if (line === undefined) return false;
  const names = [key, ...line.alerts.filter((id) => key !== nameOfAlert(id)).map(nameOfAlert)];
  if (at === null) await db.query(NOT_DEALT, [person, names]);
  else await db.query(DEALT, [person, names, delivery, moment(at)]);
  return true;
}

/** Its words are not shown. */
const NOWHERE: Place = { locale: 'en', zone: 'UTC' };
