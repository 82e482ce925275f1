import { createHash, randomInt } from 'node:crypto';
import type { AccountId, PersonId } from '#core/id';
import type { Instant } from '#core/when/interval';
import { moment, theRow, type Db } from '../base/pool';
import { addPerson } from '../person/people';
import { hasAccounts, MADE, ONE_AT_A_TIME } from './accounts';

/** The first owner as she said who she is, with the code that was printed where Shrike was started. */
export interface FirstOwner {
  name: string;
  email: string;
  zone: string;
  password: string;
  code: string;
}

/** Letters and digits that nobody takes for one another, 32 of them: five bits each. */
const SIGNS = 'abcdefghjkmnpqrstuvwxyz023456789';
const GROUPS = 4;
const GROUP = 4;

/** Whatever is not one of its signs was only written between them. */
const hashOf = (code: string): Buffer =>
  createHash('sha256')
    .update(code.toLowerCase().replace(/[^a-z0-9]/g, ''))
    .digest();

/**
 * Makes the code without which nobody becomes the first owner, 80 random bits, in place of the one before; null where
 * somebody owns this Shrike already.
 */
export async function makeFirstOwnerCode(db: Db, now: Instant): Promise<string | null> {
  if (await hasAccounts(db)) return null;
  const group = () => Array.from({ length: GROUP }, () => SIGNS[randomInt(SIGNS.length)]).join('');
  const code = Array.from({ length: GROUPS }, group).join('-');
  await db.query(
    `INSERT INTO first_owner_code (hash, made_at) VALUES ($1, $2)
      ON CONFLICT (one) DO UPDATE SET hash = excluded.hash, made_at = excluded.made_at`,
    [hashOf(code), moment(now)],
  );
  return code;
}

/** Whether this is the code that was made last. */
export async function isFirstOwnerCode(db: Db, code: string): Promise<boolean> {
  const { rowCount } = await db.query('SELECT FROM first_owner_code WHERE hash = $1', [hashOf(code)]);
  return rowCount === 1;
}

/**
 * Makes the first account, in a transaction of the caller's, and uses up the code; null when it is not the code, or
 * there is an account already, however many ask at once. A person who was known by that address becomes the owner.
 */
export async function addFirstOwner(db: Db, owner: FirstOwner, now: Instant): Promise<AccountId | null> {
  await db.query(ONE_AT_A_TIME);
  if (await hasAccounts(db)) return null;
  const used = await db.query('DELETE FROM first_owner_code WHERE hash = $1', [hashOf(owner.code)]);
  if (used.rowCount === 0) return null;
  const known = await db.query<{ id: PersonId }>('SELECT id FROM person WHERE lower(email) = lower($1)', [owner.email]);
  const id =
    known.rows[0]?.id ??
    (await addPerson(db, {
      name: owner.name,
      email: owner.email,
      locale: 'en-GB',
      zone: owner.zone,
      confirmedAt: now,
    }));
  return theRow(await db.query<{ id: AccountId }>(MADE, [id, owner.password, moment(now)])).id;
}
