import type { AccountId, PersonId } from '#core/id';
import type { Instant } from '#core/when/interval';
import type { Invites } from '../../links';
import type { Person } from '../person/people';
import { moment, theRow, type Db } from '../base/pool';
import { UNSENT } from '../report/reports';

/** One who may sign in, with her password as it is kept. */
export interface Account {
  id: AccountId;
  /** Argon2id, in the PHC string format. */
  password: string;
}

/** The first account and the last one are looked at by one transaction at a time. */
export const ONE_AT_A_TIME = `SELECT pg_advisory_xact_lock(hashtext('shrike first owner'))`;

/** Whether anybody may sign in yet. */
export async function hasAccounts(db: Db): Promise<boolean> {
  const { rows } = await db.query<{ some: boolean }>('SELECT EXISTS (SELECT FROM account) AS some');
  return rows[0]?.some === true;
}

/** The account of a mail address, in whatever case it is written; null when there is none. */
export async function findAccount(db: Db, email: string): Promise<Account | null> {
  const { rows } = await db.query<Account>(
    'SELECT a.id, a.password FROM account a JOIN person p ON p.id = a.person_id WHERE lower(p.email) = lower($1)',
    [email],
  );
  return rows[0] ?? null;
}

const OWNERS = `
SELECT p.id, p.name, p.email, p.locale, p.zone, p.confirmed_at AS "confirmedAt", p.paused_at AS "pausedAt"
FROM account a JOIN person p ON p.id = a.person_id WHERE p.removed_at IS NULL ORDER BY p.id`;

/** Those who own this Shrike: everybody who may sign in. */
export async function listOwners(db: Db): Promise<Person[]> {
  return (await db.query<Person>(OWNERS)).rows;
}

/** Makes the account of a person. */
export const MADE = 'INSERT INTO account (person_id, password, made_at) VALUES ($1, $2, $3) RETURNING id';

const ACCEPTED = `
UPDATE person SET invited_at = NULL, confirmed_at = coalesce(confirmed_at, $4)
WHERE id = $1 AND email = $2 AND invited_at = $3 AND removed_at IS NULL
  AND NOT EXISTS (SELECT FROM account WHERE person_id = $1)`;

/**
 * Makes the account of somebody who was invited, in a transaction of the caller's; null where that invitation does not
 * stand any more. It came to her address, which is confirmed by that.
 */
export async function acceptInvitation(
  db: Db,
  { person, address, invitedAt }: Omit<Invites, 'until'>,
  password: string,
  now: Instant,
): Promise<AccountId | null> {
  const { rowCount } = await db.query(ACCEPTED, [person, address, moment(invitedAt), moment(now)]);
  return rowCount === 0 ? null : theRow(await db.query<{ id: AccountId }>(MADE, [person, password, moment(now)])).id;
}

const TAKEN_BACK = `
WITH unsent AS (UPDATE delivery SET state = 'given up', reason = 'taken back', next_attempt_at = NULL
  WHERE person_id = $1 AND purpose = 'invitation' AND state IN (${UNSENT}))
UPDATE person SET invited_at = NULL WHERE id = $1`;

/** Takes an invitation back: its link leads nowhere, and a mail that has not gone out does not go. */
export async function takeInvitationBack(db: Db, id: PersonId): Promise<void> {
  await db.query(TAKEN_BACK, [id]);
}

/**
 * Ends an account with its sessions, in a transaction of the caller's; false where there is none, or it is the only
 * one. She goes on hearing.
 */
export async function endAccount(db: Db, id: PersonId): Promise<boolean> {
  await db.query(ONE_AT_A_TIME);
  const ended = 'DELETE FROM account WHERE person_id = $1 AND EXISTS (SELECT FROM account WHERE person_id <> $1)';
  return (await db.query(ended, [id])).rowCount === 1;
}
