import type { PersonId } from '#core/id';
import type { Quota, QuotaOf, Spending } from '#core/tell/quota';
import type { Instant } from '#core/when/interval';
import { moment, theRow, type Db, type Statement } from '../base/pool';

/** A bound as it is kept, with who set it. */
export interface QuotaNow extends Quota {
  of: QuotaOf;
  owner: string;
}

const ALL = `
SELECT a.of, a.an_hour AS "anHour", a.a_day AS "aDay", a.a_month AS "aMonth", q.name AS owner FROM quota a
JOIN person q ON q.id = a.owner_id`;

/** The bounds that are set. */
export const listQuotas = async (db: Db): Promise<QuotaNow[]> => (await db.query<QuotaNow>(ALL)).rows;

/** The bounds that are set, held until the end of the caller's transaction. */
export async function holdQuotas(db: Db): Promise<QuotaNow[]> {
  await db.query('LOCK TABLE quota IN SHARE ROW EXCLUSIVE MODE');
  return listQuotas(db);
}

const SET = `
INSERT INTO quota (of, an_hour, a_day, a_month, owner_id) VALUES ($1, $2, $3, $4, $5)
ON CONFLICT (of) DO UPDATE SET an_hour = $2, a_day = $3, a_month = $4, owner_id = $5`;

/** What the old bound held is looked at again under the new one. */
const LET_GO = `UPDATE delivery SET held_until = $1
  WHERE state = 'kept back' AND reason = 'allowance' AND held_until > $1`;

/** Sets a bound, or takes it away where nothing is bounded. */
export async function setQuota(
  db: Db,
  of: QuotaOf,
  { anHour, aDay, aMonth }: Quota,
  owner: PersonId,
  now: Instant,
): Promise<void> {
  const none = anHour === null && aDay === null && aMonth === null;
  await (none ? db.query('DELETE FROM quota WHERE of = $1', [of]) : db.query(SET, [of, anHour, aDay, aMonth, owner]));
  await db.query(LET_GO, [moment(now)]);
}

/**
 * Until when no further mail may go to a reader; null where one may. Counts those that wait to be sent, or only what
 * went out.
 */
export async function mailQuotaUsedUntil(
  db: Db,
  reader: PersonId,
  now: Instant,
  counts: 'ordered' | 'sent',
): Promise<Instant | null> {
  return theRow(
    await db.query<{ until: Instant | null }>('SELECT mails_spent_until($1, $2, $3) AS until', [
      reader,
      moment(now),
      counts === 'ordered',
    ]),
  ).until;
}

/** Lets nobody else decide on room before this transaction ends, where room is bounded. */
export const ONE_BY_ONE = `SELECT pg_advisory_xact_lock(hashtext('shrike allowance'))
  FROM quota
  WHERE of <> 'texts'
  LIMIT 1`;

const MAILS = `FROM delivery d WHERE d.channel = 'mail' AND d.sent_at > $1::timestamptz - w.within`;

/** What is used of every bound; of readers and hosts of those who have used a half of theirs. */
const SPENT = `
SELECT a.of, w.name AS within, NULL::jsonb AS about, (SELECT count(*)::int ${MAILS}) AS used, w.most,
  a.owner_id AS owner
FROM quota a CROSS
JOIN LATERAL (VALUES ('an hour', a.an_hour, interval '60 minutes'), ('24 hours', a.a_day, interval '24 hours')) AS
  w(name, most, within)
WHERE a.of = 'mails' AND w.most IS NOT NULL
UNION ALL
SELECT a.of, w.name, jsonb_build_object('key', u.person_id::text, 'name', q.name), u.used, w.most, a.owner_id
FROM quota a CROSS
JOIN LATERAL (VALUES ('an hour', a.an_hour, interval '60 minutes'), ('24 hours', a.a_day, interval '24 hours')) AS
  w(name, most, within)
CROSS
JOIN LATERAL (SELECT d.person_id, count(*)::int AS used ${MAILS} GROUP BY d.person_id HAVING count(*) * 2 >= w.most) u
JOIN person q ON q.id = u.person_id
WHERE a.of = 'mails a reader' AND w.most IS NOT NULL
UNION ALL
SELECT a.of, 'a month', NULL, (SELECT count(*)::int FROM delivery d WHERE d.channel = 'text' AND d.state <> 'given up'
  AND d.ordered_at >= date_trunc('month', $1::timestamptz AT TIME ZONE q.zone) AT TIME ZONE q.zone), a.a_month,
    a.owner_id
FROM quota a JOIN person q ON q.id = a.owner_id WHERE a.of = 'texts'
UNION ALL
SELECT 'runs', 'a day', jsonb_build_object('key', h.name, 'name', h.name), CASE WHEN h.runs_until > $1 THEN h.runs_made
  ELSE 0 END, h.runs_a_day, h.runs_owner
FROM host h WHERE h.runs_a_day IS NOT NULL AND h.runs_owner IS NOT NULL`;

/** How much is used of every bound, and who set it. */
export async function spendings(db: Db, now: Instant): Promise<(Spending & { owner: PersonId })[]> {
  return (await db.query<Spending & { owner: PersonId }>(SPENT, [moment(now)])).rows;
}

/** Bounds are looked at once in so long. */
const EVERY = `interval '1 minute'`;

/** Whether bounds are to be looked at, in SQL; `$1` is now. */
export const TO_CHECK = `EXISTS (SELECT FROM quota_check WHERE checked_at <= $1::timestamptz - ${EVERY})
  AND (EXISTS (SELECT FROM quota) OR EXISTS (SELECT FROM host WHERE runs_a_day IS NOT NULL))`;

/** Takes the turn to look at them. */
export const nextCheck = (now: Instant): Statement => ({
  text: `SELECT 1 AS due FROM quota_check WHERE checked_at <= $1::timestamptz - ${EVERY} FOR UPDATE SKIP LOCKED`,
  values: [moment(now)],
});

export const checked = (now: Instant): Statement => ({
  text: 'UPDATE quota_check SET checked_at = $1',
  values: [moment(now)],
});

const TOLD = `
WITH near AS (
  SELECT * FROM jsonb_to_recordset($1) AS n(of text, about text)
), over AS (
  DELETE FROM quota_notified t WHERE NOT EXISTS (SELECT FROM near n WHERE n.of = t.of AND n.about = t.about)
)
INSERT INTO quota_notified (of, about, told_at) SELECT of, about, $2 FROM near ON CONFLICT DO NOTHING
RETURNING of, about`;

/** Keeps which bounds are nearly spent; which of them nobody was told of yet. What has room again is forgotten. */
export async function notNotifiedYet<Near extends Spending>(db: Db, near: Near[], now: Instant): Promise<Near[]> {
  const keyOf = ({ of, within, about }: Spending) => ({ of: `${of}, ${within}`, about: about?.key ?? '' });
  const { rows } = await db.query<{ of: string; about: string }>(TOLD, [JSON.stringify(near.map(keyOf)), moment(now)]);
  const fresh = new Set(rows.map((row) => `${row.of} ${row.about}`));
  return near.filter((each) => fresh.has(`${keyOf(each).of} ${keyOf(each).about}`));
}
