import type { AccountId, PersonId } from '#core/id';
import type { Instant } from '#core/when/interval';
import { addPerson } from './people';
import { moment, theRow, type Db } from './pool';

/** One who may sign in, with her password as it is kept. */
export interface Account {
  id: AccountId;
  /** Argon2id, in the PHC string format. */
  password: string;
}

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

/** The first owner as she said who she is. */
export interface FirstOwner {
  name: string;
  email: string;
  zone: string;
  password: string;
}

/**
 * Makes the first account, in a transaction of the caller's; null when there is one already, however many ask at once. A person who
 * was known by that address becomes the owner.
 */
export async function addFirstOwner(db: Db, owner: FirstOwner, now: Instant): Promise<AccountId | null> {
  await db.query(`SELECT pg_advisory_xact_lock(hashtext('shrike first owner'))`);
  if (await hasAccounts(db)) return null;
  const known = await db.query<{ id: PersonId }>('SELECT id FROM person WHERE lower(email) = lower($1)', [owner.email]);
  const id =
    known.rows[0]?.id ?? (await addPerson(db, { name: owner.name, email: owner.email, locale: 'en-GB', zone: owner.zone, confirmedAt: now }));
  const made = await db.query<{ id: AccountId }>('INSERT INTO account (person_id, password, made_at) VALUES ($1, $2, $3) RETURNING id', [
    id,
    owner.password,
    moment(now),
  ]);
  return theRow(made).id;
}
