import type { AccountId } from '#core/id';
import { createHash, randomBytes } from 'node:crypto';
import type { Actor } from '#core/access/may';
import { DAY, type Instant } from '#core/when/interval';
import { moment, type Db } from '../base/pool';

const SESSION_LENGTH = 30 * DAY;

const hashOf = (token: string) => createHash('sha256').update(token).digest();

/** Begins a session of an account and returns its token; only a hash of it is kept. */
export async function beginSession(db: Db, accountId: AccountId, now: Instant): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  await db.query('INSERT INTO session (token_hash, account_id, created_at, expires_at) VALUES ($1, $2, $3, $4)', [
    hashOf(token),
    accountId,
    moment(now),
    moment(now + SESSION_LENGTH),
  ]);
  return token;
}

/** Ends a session. */
export async function endSession(db: Db, token: string): Promise<void> {
  await db.query('DELETE FROM session WHERE token_hash = $1', [hashOf(token)]);
}

/** Whose session a token is; null for none, or one that has run out. */
export async function findSession(db: Db, token: string, now: Instant): Promise<Actor | null> {
  const { rows } = await db.query<Actor>(
    `SELECT a.id AS account, a.person_id AS person, a.role
     FROM session s
     JOIN account a ON a.id = s.account_id
     WHERE s.token_hash = $1 AND s.expires_at > $2`,
    [hashOf(token), moment(now)],
  );
  return rows[0] ?? null;
}
