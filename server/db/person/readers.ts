import type { DeliveryId, ListId, PersonId, ReportId } from '#core/id';
import type { WrittenPerson } from '#core/plan/addresses';
import { fail, ok, type Result } from '#core/result';
import type { Reachable } from '#core/tell/hold';
import type { Reached } from '#core/tell/channels';
import type { Instant } from '#core/when/interval';
import type { Person } from './people';
import { inTransactionIfOk, instant, moment, theRow, type Db, type Pool } from '../base/pool';
import { UNSENT } from '../report/reports';
import { fallBack } from '../delivery/fallback';

/** Somebody who hears, as she is seen by who looks after readers. */
export interface ReaderNow extends Person, Reachable, Reached {
  askedAt: Instant | null;
  pausedBecause: string | null;
  /** She signs in, too; or was asked to, and when. */
  account: boolean;
  invitedAt: Instant | null;
  lists: { id: ListId; name: string }[];
  /** The reports that name her or a list that she is on; with when she left one. */
  reports: { id: ReportId; name: string; leftAt: Instant | null }[];
  /** How many deliveries are kept back for her, and when the last one went out. */
  keptBack: number;
  lastSentAt: Instant | null;
  /** She would rather lose a mail than have it twice. */
  ratherLose: boolean;
  /** Of what is said of her. */
  version: number;
}

const LISTS = `SELECT jsonb_agg(jsonb_build_object('id', l.id, 'name', l.name) ORDER BY l.name)
  FROM list_member m JOIN list l ON l.id = m.list_id WHERE m.person_id = p.id`;

const REPORTS = `SELECT jsonb_agg(jsonb_build_object('id', r.id, 'name', r.name, 'leftAt', (
    SELECT ${instant('l.left_at')} FROM reader_left l
    WHERE l.report_id = r.id AND l.person_id = p.id AND l.back_at IS NULL)) ORDER BY r.name, r.id)
  FROM report r WHERE r.ended_at IS NULL AND EXISTS (
    SELECT FROM report_reader rr LEFT JOIN list_member m ON m.list_id = rr.list_id
    WHERE rr.report_id = r.id AND coalesce(rr.person_id, m.person_id) = p.id)`;

const READERS = `
SELECT p.id, p.name, p.email, p.locale, p.zone, p.confirmed_at AS "confirmedAt", p.asked_at AS "askedAt",
  p.paused_at AS "pausedAt",
  p.paused_because AS "pausedBecause", p.invited_at AS "invitedAt", p.quiet, p.mail_hour AS "mailHour", p.passes,
    p.phone, p.webhook, p.routes, p.rather_lose AS "ratherLose", p.version, a.person_id IS NOT NULL AS account,
  coalesce((${LISTS}), '[]') AS lists, coalesce((${REPORTS}), '[]') AS reports,
  (SELECT count(*)::int FROM delivery d WHERE d.person_id = p.id AND d.state = 'kept back') AS "keptBack",
  (SELECT max(d.sent_at)
  FROM (SELECT sent_at FROM delivery WHERE person_id = p.id ORDER BY ordered_at DESC LIMIT 50) d) AS "lastSentAt"
FROM person p LEFT JOIN account a ON a.person_id = p.id
WHERE p.removed_at IS NULL`;

/** Everybody who hears, by name, after a name and number; at most so many. */
export async function listReaders(
  db: Db,
  after: { name: string; id: PersonId } | null,
  most: number,
): Promise<ReaderNow[]> {
  const { rows } = await db.query<ReaderNow>(
    `${READERS} AND ($1::text IS NULL OR (p.name, p.id) > ($1, $2)) ORDER BY p.name, p.id LIMIT $3`,
    [after?.name ?? null, after?.id ?? 0, most],
  );
  return rows;
}

/** What they are called, at most so many. */
export async function readerNames(db: Db, most: number): Promise<{ id: PersonId; name: string }[]> {
  return (
    await db.query<{ id: PersonId; name: string }>(
      'SELECT id, name FROM person WHERE removed_at IS NULL ORDER BY name, id LIMIT $1',
      [most],
    )
  ).rows;
}

/** People whose names or addresses hold some words, by name; at most so many. */
export async function findPeople(db: Db, words: string, most: number): Promise<{ id: PersonId; name: string }[]> {
  const { rows } = await db.query<{ id: PersonId; name: string }>(
    `SELECT id, name FROM person WHERE removed_at IS NULL AND strpos(lower(name || ' ' || email), lower($1)) > 0
      ORDER BY name, id LIMIT $2`,
    [words, most],
  );
  return rows;
}

/** One of them; null where there is none, or the links to her own page are of another number. */
export async function findReaderNow(db: Db, id: PersonId, page: number | null = null): Promise<ReaderNow | null> {
  return (
    (await db.query<ReaderNow>(`${READERS} AND p.id = $1 AND ($2::int IS NULL OR p.page = $2)`, [id, page])).rows[0] ??
    null
  );
}

const ADDED = `
INSERT INTO person (name, email, locale, zone)
SELECT $1, $2, $3, $4
WHERE NOT EXISTS (SELECT FROM person WHERE lower(email) = lower($2) AND email <> $2 AND removed_at IS NULL)
ON CONFLICT (email) DO UPDATE
SET removed_at = NULL, name = excluded.name, confirmed_at = NULL, asked_at = NULL, paused_at = NULL,
  paused_because = NULL
  WHERE person.removed_at IS NOT NULL
RETURNING id`;

/**
 * Adds somebody who is not there yet; null where she is. Nothing is sent to her before she has confirmed her address.
 */
export async function addReader(
  db: Db,
  { name, email }: WrittenPerson,
  { locale, zone }: { locale: string; zone: string },
): Promise<PersonId | null> {
  return (await db.query<{ id: PersonId }>(ADDED, [name, email, locale, zone])).rows[0]?.id ?? null;
}

/** What can be said of a reader. */
export type ReaderSettings = Pick<Person, 'name' | 'email' | 'locale'> & Reachable & Reached & { ratherLose: boolean };

const SET = `
UPDATE person
SET name = $2, email = $3, locale = $4, zone = $5, quiet = $6, mail_hour = $7, passes = $8, phone = $9, webhook = $10,
  routes = $11, rather_lose = $12, version = version + 1,
  confirmed_at = CASE WHEN email = $3 THEN confirmed_at END, asked_at = CASE WHEN email = $3 THEN asked_at END,
  paused_at = CASE WHEN email = $3 THEN paused_at END, paused_because = CASE WHEN email = $3 THEN paused_because END
WHERE id = $1 AND removed_at IS NULL AND version = coalesce($13, version)
RETURNING version`;

/** What her hours held is looked at again by those that she has now. */
const LET_GO = `UPDATE delivery SET held_until = $2 WHERE person_id = $1 AND state = 'kept back' AND held_until > $2`;

/**
 * Sets what is said of a reader, and returns the version that it bears. `over` is the version that this was said over;
 * null of what was said over none. Another address is confirmed anew.
 */
export async function setReader(
  db: Db,
  id: PersonId,
  said: ReaderSettings,
  now: Instant,
  over: number | null = null,
): Promise<Result<number, 'gone' | 'address taken' | 'said meanwhile'>> {
  const { rows } = await db.query<{ id: PersonId }>(
    'SELECT id FROM person WHERE lower(email) = lower($1) AND id <> $2',
    [said.email, id],
  );
  if (rows.length > 0) return fail('address taken');
  const quiet = said.quiet === null ? null : JSON.stringify(said.quiet);
  const [set] = (
    await db.query<{ version: number }>(SET, [
      id,
      said.name,
      said.email,
      said.locale,
      said.zone,
      quiet,
      said.mailHour,
      said.passes,
      said.phone,
      said.webhook,
      JSON.stringify(said.routes),
      said.ratherLose,
      over,
    ])
  ).rows;
  if (set === undefined) return fail((await findReaderNow(db, id)) === null ? 'gone' : 'said meanwhile');
  await db.query(LET_GO, [id, moment(now)]);
  return ok(set.version);
}

const HOURS = `UPDATE person SET quiet = $2, mail_hour = $3, passes = $4, version = version + 1
  WHERE id = $1 AND removed_at IS NULL`;

/** When she wants to be reached, as she says it herself. */
export async function setHours(
  db: Db,
  id: PersonId,
  { quiet, mailHour, passes }: Omit<Reachable, 'zone'>,
  now: Instant,
): Promise<void> {
  await db.query(HOURS, [id, quiet === null ? null : JSON.stringify(quiet), mailHour, passes]);
  await db.query(LET_GO, [id, moment(now)]);
}

const CONFIRMED = `
UPDATE person SET confirmed_at = $3, paused_at = NULL, paused_because = NULL
WHERE id = $1 AND email = $2 AND confirmed_at IS NULL AND removed_at IS NULL`;

/** An address is hers, and she wants to hear. False where that is known, or the address is not hers any more. */
export async function confirmAddress(db: Db, id: PersonId, address: string, now: Instant): Promise<boolean> {
  return (await db.query(CONFIRMED, [id, address, moment(now)])).rowCount === 1;
}

/** An address that was paused is tried again: what was kept back for it goes out. */
export async function tryAddressAgain(db: Db, id: PersonId): Promise<void> {
  await db.query('UPDATE person SET paused_at = NULL, paused_because = NULL WHERE id = $1', [id]);
}

/** Ends the links to her own page: those of mails to come open it again. */
export async function closeOwnPage(db: Db, id: PersonId): Promise<void> {
  await db.query('UPDATE person SET page = page + 1 WHERE id = $1', [id]);
}

const REMOVED = `
WITH gone AS (UPDATE person SET removed_at = $2
WHERE id = $1 AND removed_at IS NULL AND NOT EXISTS (SELECT FROM account WHERE person_id = $1) RETURNING id),
  lists AS (DELETE FROM list_member m USING gone WHERE m.person_id = gone.id),
  reports AS (DELETE FROM report_reader r USING gone WHERE r.person_id = gone.id),
  unsent AS (UPDATE delivery d SET state = 'given up', reason = 'removed', next_attempt_at = NULL, held_until = NULL
  FROM gone
    WHERE d.person_id = gone.id AND d.state IN (${UNSENT}))
SELECT id FROM gone`;

/**
 * Takes somebody out, in a transaction of the caller's: no report reaches her any more, and what is unsent is
 * cancelled. What she got stays. False of one who signs in.
 */
export async function removeReader(db: Db, id: PersonId, now: Instant): Promise<boolean> {
  // Who accepts an invitation at this moment is waited for, so that her account is seen.
  await db.query('SELECT FROM person WHERE id = $1 FOR UPDATE', [id]);
  return (await db.query(REMOVED, [id, moment(now)])).rows.length > 0;
}

/** A named set of people. */
export interface ListNow {
  id: ListId;
  name: string;
  members: { id: PersonId; name: string }[];
  reports: string[];
}

const LIST_OF = `
SELECT l.id, l.name,
  coalesce((SELECT jsonb_agg(jsonb_build_object('id', p.id, 'name', p.name) ORDER BY p.name) FROM list_member m
  JOIN person p ON p.id = m.person_id
    WHERE m.list_id = l.id), '[]') AS members,
  ARRAY(SELECT r.name FROM report_reader rr JOIN report r ON r.id = rr.report_id
  WHERE rr.list_id = l.id AND r.ended_at IS NULL ORDER BY r.name) AS reports
FROM list l WHERE l.removed_at IS NULL`;

/** All lists, at most so many. */
export async function allLists(db: Db, most: number): Promise<ListNow[]> {
  return (await db.query<ListNow>(`${LIST_OF} ORDER BY l.name LIMIT $1`, [most])).rows;
}

/** A list as it stands, held until the end of the caller's transaction; null where it is gone. */
async function holdList(db: Db, id: ListId): Promise<Pick<ListNow, 'name' | 'members'> | null> {
  await db.query('SELECT FROM list WHERE id = $1 FOR UPDATE', [id]);
  return (await db.query<ListNow>(`${LIST_OF} AND l.id = $1`, [id])).rows[0] ?? null;
}

/** Makes or changes a list: its name and who is on it; one that is there only where it is as it was seen. */
export function keepList(
  pool: Pool,
  id: ListId | null,
  { name, members }: { name: string; members: PersonId[] },
  isAsSeen: (now: Pick<ListNow, 'name' | 'members'>) => boolean = () => true,
): Promise<Result<ListId, 'gone' | 'name taken' | 'meanwhile'>> {
  return inTransactionIfOk(pool, async (db) => {
    const now = id === null ? null : await holdList(db, id);
    if (now !== null && !isAsSeen(now)) return fail('meanwhile');
    const { rows: others } = await db.query(
      'SELECT FROM list WHERE lower(name) = lower($1) AND id IS DISTINCT FROM $2 AND removed_at IS NULL',
      [name, id],
    );
    if (others.length > 0) return fail('name taken');
    const kept =
      id === null
        ? await db.query<{ id: ListId }>('INSERT INTO list (name) VALUES ($1) RETURNING id', [name])
        : await db.query<{ id: ListId }>(
            'UPDATE list SET name = $2 WHERE id = $1 AND removed_at IS NULL RETURNING id',
            [id, name],
          );
    if (kept.rows.length === 0) return fail('gone');
    const list = theRow(kept).id;
    await db.query('DELETE FROM list_member WHERE list_id = $1', [list]);
    await db.query(
      `INSERT INTO list_member (list_id, person_id)
        SELECT $1, id
        FROM person
        WHERE id = ANY($2) AND removed_at IS NULL`,
      [list, members],
    );
    return ok(list);
  });
}

/** Takes a list away: reports that name it reach those on it no more. */
export async function removeList(db: Db, id: ListId, now: Instant): Promise<void> {
  await db.query(
    `UPDATE list SET removed_at = $2, name = name || ' (gone ' || id || ')' WHERE id = $1 AND removed_at IS NULL`,
    [id, moment(now)],
  );
  await db.query('DELETE FROM report_reader WHERE list_id = $1', [id]);
}

const LEFT = `INSERT INTO reader_left (report_id, person_id, left_at) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`;
const CANCELLED = `
UPDATE delivery SET state = 'given up', reason = 'left', next_attempt_at = NULL, held_until = NULL
WHERE report_id = $1 AND person_id = $2 AND state IN (${UNSENT}) RETURNING id`;

/** She leaves a report: what is unsent of it is cancelled, and its numbers stay spent (22). How many that were. */
export async function leaveReport(
  db: Db,
  report: ReportId,
  person: PersonId,
  mailDomain: string,
  now: Instant,
): Promise<number> {
  await db.query('SELECT FROM report WHERE id = $1 FOR UPDATE', [report]);
  await db.query(LEFT, [report, person, moment(now)]);
  const { rows } = await db.query<{ id: DeliveryId }>(CANCELLED, [report, person]);
  await fallBack(
    db,
    rows.map(({ id }) => id),
    mailDomain,
    now,
  );
  return rows.length;
}

/** She undoes it: from now on she hears of it again. */
export async function returnToReport(db: Db, report: ReportId, person: PersonId, now: Instant): Promise<void> {
  await db.query('UPDATE reader_left SET back_at = $3 WHERE report_id = $1 AND person_id = $2 AND back_at IS NULL', [
    report,
    person,
    moment(now),
  ]);
}

/** What a page on which somebody leaves a report says; null where one of them is gone. */
export interface Leaving {
  report: string;
  ended: boolean;
  person: string;
  locale: string;
  zone: string;
  owner: string;
  leftAt: Instant | null;
}

/** How a reader stands to a report, by a link under the number of her own page; null where that has ended. */
export async function findLeaving(
  db: Db,
  { report, person, page }: { report: ReportId; person: PersonId; page: number },
): Promise<Leaving | null> {
  const { rows } = await db.query<Leaving>(
    `SELECT r.name AS report, r.ended_at IS NOT NULL AS ended, p.name AS person, p.locale, p.zone, o.name AS owner,
       (SELECT l.left_at FROM reader_left l
       WHERE l.report_id = r.id AND l.person_id = p.id AND l.back_at IS NULL) AS "leftAt"
     FROM report r JOIN person o ON o.id = r.owner_id CROSS JOIN person p WHERE r.id = $1 AND p.id = $2
       AND p.page = $3`,
    [report, person, page],
  );
  return rows[0] ?? null;
}
