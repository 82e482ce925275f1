import type { AlertId, DeliveryId, EditionId, PersonId, ReportId } from '#core/id';
import type { Weight } from '#core/judge/rule';
import type { Instant } from '#core/when/interval';
import { CANCELLED } from './cancelled';
import { CONTENTS, readContents, type EditionContents, type StoredContents } from '../report/edition-contents';
import { explainedBy } from './gaps';
import { suppressionOf } from '../person/people';
import { moment, theRow, type Db, type Statement } from '../base/pool';

// What is kept back for those who cannot be reached: gathered in one delivery of a report, without a number until it
// goes.

/** Who can be reached. */
const REACHED = 'q.confirmed_at IS NOT NULL AND q.paused_at IS NULL';

/** Deliveries that are kept back for people who can be reached now. */
export const TO_RELEASE = `FROM delivery d JOIN person q ON q.id = d.person_id JOIN report r ON r.id = d.report_id
  WHERE d.state = 'kept back' AND d.number IS NULL AND ${REACHED} AND ${CANCELLED} IS NULL`;

/** A delivery that is to be made whole. */
export interface DeferredRow {
  id: DeliveryId;
  report: ReportId;
  person: PersonId;
}

/** The next of them, its report being locked, so that nothing is ordered beside it. */
export const deferredToRelease = (now: Instant): Statement => ({
  text: `SELECT d.id, r.id AS report, q.id AS person ${TO_RELEASE}
    AND (d.next_attempt_at IS NULL OR d.next_attempt_at <= $1)
    ORDER BY d.id LIMIT 1 FOR UPDATE OF r SKIP LOCKED`,
  values: [moment(now)],
});

interface StillDeferred {
  reason: string | null;
  orderedAt: Instant;
}

/**
 * Why a delivery still waits, now that its report is locked; null where it does not: another worker may have let it go
 * a moment ago.
 */
export async function stillDeferred(db: Db, id: DeliveryId): Promise<StillDeferred | null> {
  const { rows } = await db.query<StillDeferred>(
    `SELECT reason, ordered_at AS "orderedAt" FROM delivery
     WHERE id = $1 AND state = 'kept back' AND number IS NULL FOR UPDATE`,
    [id],
  );
  return rows[0] ?? null;
}

const ALREADY_MAILED = `
SELECT to_jsonb(ARRAY(SELECT alert_id FROM notification WHERE delivery_id = $1)) AS owed, to_jsonb(ARRAY(
  SELECT x.edition_id FROM delivery o JOIN delivery_edition x ON x.delivery_id = o.id
  JOIN delivery_edition y ON y.edition_id = x.edition_id AND y.delivery_id <> x.delivery_id
  JOIN delivery d ON d.id = y.delivery_id AND d.person_id = o.person_id AND d.channel = 'mail'
    AND d.state <> 'given up'
  WHERE o.id = $1)) AS editions`;

/**
 * Of the editions that a delivery gathers those of which another mail tells her, and the alerts that this one owes her
 * of them all the same, since the mail that was to tell those never came.
 */
export async function alreadyMailed(
  db: Db,
  id: DeliveryId,
): Promise<{ editions: ReadonlySet<number>; owed: ReadonlySet<number> }> {
  const row = theRow(await db.query<{ editions: EditionId[]; owed: AlertId[] }>(ALREADY_MAILED, [id]));
  return { editions: new Set(row.editions), owed: new Set(row.owed) };
}

/** It could not be made whole, and is tried again. */
export const deferredLater = (id: DeliveryId, at: Instant): Statement => ({
  text: 'UPDATE delivery SET next_attempt_at = $2 WHERE id = $1',
  values: [id, moment(at)],
});

/** Deliveries with a number that wait for an address which does not work. */
export const TO_FOLD = `FROM delivery d JOIN person q ON q.id = d.person_id JOIN report r ON r.id = d.report_id
  WHERE d.state IN ('queued', 'refused', 'kept back') AND d.number IS NOT NULL AND NOT (${REACHED})
    AND (d.channel = 'mail' OR q.confirmed_at IS NULL)
    AND ${CANCELLED} IS NULL`;

/** Whose they are, of the next of them, their report being locked. */
export const nextToFold: Statement = {
  text: `SELECT d.id, r.id AS report, q.id AS person ${TO_FOLD} ORDER BY d.id LIMIT 1 FOR UPDATE OF r SKIP LOCKED`,
};

const FOLDED = `
WITH unsent AS (
  UPDATE delivery SET state = 'given up', reason = 'folded', next_attempt_at = NULL, held_until = NULL
  WHERE report_id = $1 AND person_id = $2 AND number IS NOT NULL AND state IN ('queued', 'refused', 'kept back')
    AND (channel = 'mail' OR EXISTS (SELECT FROM person q WHERE q.id = $2 AND q.confirmed_at IS NULL))
  RETURNING id, at_once
), known AS (
  SELECT id FROM delivery WHERE report_id = $1 AND person_id = $2 AND state = 'kept back' AND number IS NULL
), made AS (
  INSERT INTO delivery (id, report_id, person_id, channel, address, message_id, state, reason, ordered_at, at_once)
  SELECT $3, $1, q.id, 'mail', q.email, $4, 'kept back', coalesce(${suppressionOf('q')}, 'paused'), $5,
    coalesce((SELECT bool_and(at_once) FROM unsent), false)
  FROM person q WHERE q.id = $2 AND NOT EXISTS (SELECT FROM known) AND EXISTS (SELECT FROM unsent) RETURNING id
), open AS (
  SELECT id FROM known UNION ALL SELECT id FROM made
), told AS (
  UPDATE notification t SET delivery_id = open.id, decision = 'kept back' FROM unsent, open
  WHERE t.delivery_id = unsent.id AND t.decision = 'told'
)
INSERT INTO delivery_edition (delivery_id, edition_id)
SELECT DISTINCT open.id, x.edition_id FROM open, unsent JOIN delivery_edition x ON x.delivery_id = unsent.id
ON CONFLICT DO NOTHING`;

/**
 * Gathers what a reader has not got of a report in the delivery that is kept back for her; the numbers it had stay
 * spent.
 */
export const fold = (
  { report, person }: DeferredRow,
  open: { id: DeliveryId; messageId: string },
  now: Instant,
): Statement => ({
  text: FOLDED,
  values: [report, person, open.id, open.messageId, moment(now)],
});

const EDITIONS = `
SELECT ${CONTENTS}
FROM delivery_edition x JOIN edition e ON e.id = x.edition_id WHERE x.delivery_id = $1 AND e.made_at > $2
ORDER BY e.made_at DESC, e.number DESC LIMIT $3`;

const COUNTED = `
SELECT count(*) FILTER (WHERE e.made_at > $2)::int AS young, count(*) FILTER (WHERE e.made_at <= $2)::int AS old
FROM delivery_edition x JOIN edition e ON e.id = x.edition_id WHERE x.delivery_id = $1`;

/**
 * The latest editions that a delivery gathers, in the order in which they were made; how many there are beside them,
 * and how many are too old.
 */
export async function deferredEditions(
  db: Db,
  id: DeliveryId,
  after: Instant,
  most: number,
): Promise<{ kept: EditionContents[]; more: number; tooOld: number }> {
  const { rows } = await db.query<StoredContents>(EDITIONS, [id, moment(after), most]);
  const { young, old } = theRow(await db.query<{ young: number; old: number }>(COUNTED, [id, moment(after)]));
  const kept = rows.reverse().map(readContents);
  return { kept, more: young - kept.length, tooOld: old };
}

/** What a gathered delivery became. */
export interface Released {
  id: DeliveryId;
  number: number;
  address: string;
  message: { subject: string; html: string; text: string };
  leave: string | null;
  atOnce: boolean;
  weight: Weight | null;
}

const RELEASED = `
WITH numbered AS (
  INSERT INTO reader_number (report_id, person_id, last) SELECT report_id, person_id, $2 FROM delivery WHERE id = $1
  ON CONFLICT (report_id, person_id) DO UPDATE SET last = excluded.last
), explained AS (
  ${explainedBy('(SELECT id, report_id AS report, person_id AS person FROM delivery WHERE id = $1)')}
), told AS (
  UPDATE notification SET decision = 'told' WHERE delivery_id = $1 AND decision = 'kept back'
)
UPDATE delivery
SET state = 'queued', reason = NULL, next_attempt_at = NULL, number = $2, address = $3, subject = $4, html = $5,
  plain = $6, leave = $7,
  at_once = $8, weight = $9, ordered_at = $10 WHERE id = $1`;

/** Another report through which the alert of a telling `t` was told, unless that mail never comes. */
const TOLD_BY = `FROM notification o JOIN delivery d ON d.id = o.delivery_id
  WHERE o.alert_id = t.alert_id AND o.person_id = t.person_id AND o.decision = 'told' AND o.report_id <> t.report_id
    AND d.state <> 'given up'`;

const STOOD_BACK = `
UPDATE notification t SET decision = 'stood back', in_favour_of = (SELECT o.report_id ${TOLD_BY} LIMIT 1)
WHERE t.delivery_id = $1 AND t.decision = 'kept back' AND EXISTS (SELECT ${TOLD_BY})`;

/**
 * Gives a gathered delivery its number and its words: it is to be sent. What she heard through another report it stood
 * back from.
 */
export const released = (
  { id, number, address, message, leave, atOnce, weight }: Released,
  now: Instant,
): Statement[] => [
  { text: STOOD_BACK, values: [id] },
  {
    text: RELEASED,
    values: [id, number, address, message.subject, message.html, message.text, leave, atOnce, weight, moment(now)],
  },
];

/** Nothing of it is left to be told. */
export const nothingLeft = (id: DeliveryId, reason: 'too old' | 'told already'): Statement[] => [
  { text: STOOD_BACK, values: [id] },
  { text: `UPDATE delivery SET state = 'given up', reason = $2 WHERE id = $1`, values: [id, reason] },
];
