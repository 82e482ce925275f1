import { createHash, randomBytes } from 'node:crypto';
import { DAY, MINUTE, type Instant } from '#core/when/interval';
import type { Place } from '#core/when/format';
import { moment, type Db } from './pool';

/** Somebody who signs in or hears. */
export interface Person {
  id: number;
  name: string;
  email: string;
  locale: string;
  zone: string;
  confirmedAt: Instant | null;
}

const COLUMNS = 'id, name, email, locale, zone, confirmed_at AS "confirmedAt"';
const SESSION_LENGTH = 30 * DAY;

/** A person's place: how times and numbers are written for them. */
export function placeOf(person: Pick<Person, 'locale' | 'zone'>): Place {
  return { locale: person.locale, zone: person.zone };
}

/** Adds a person; the address is confirmed at a moment, or not yet. */
export async function addPerson(db: Db, person: Omit<Person, 'id'>): Promise<number> {
  const { rows } = await db.query<{ id: number }>(
    'INSERT INTO person (name, email, locale, zone, confirmed_at) VALUES ($1, $2, $3, $4, $5) RETURNING id',
    [person.name, person.email, person.locale, person.zone, person.confirmedAt === null ? null : moment(person.confirmedAt)],
  );
  return rows[0]?.id ?? 0;
}

/** Adds a list with its members. */
export async function addList(db: Db, name: string, members: number[]): Promise<number> {
  const { rows } = await db.query<{ id: number }>('INSERT INTO list (name) VALUES ($1) RETURNING id', [name]);
  const id = rows[0]?.id ?? 0;
  await db.query('INSERT INTO list_member (list_id, person_id) SELECT $1, unnest($2::int[])', [id, members]);
  return id;
}

/** Finds a person by address. */
export async function findPerson(db: Db, email: string): Promise<Person | null> {
  const { rows } = await db.query<Person>(`SELECT ${COLUMNS} FROM person WHERE email = $1`, [email]);
  return rows[0] ?? null;
}

const hashOf = (token: string) => createHash('sha256').update(token).digest();

/** Begins a session and returns its token; only a hash of it is kept. */
export async function beginSession(db: Db, personId: number, now: Instant): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  await db.query('INSERT INTO session (token_hash, person_id, created_at, expires_at) VALUES ($1, $2, $3, $4)', [
    hashOf(token), personId, moment(now), moment(now + SESSION_LENGTH),
  ]); // prettier-ignore
  return token;
}

/** Ends a session. */
export async function endSession(db: Db, token: string): Promise<void> {
  await db.query('DELETE FROM session WHERE token_hash = $1', [hashOf(token)]);
}

/** Whose session a token is; null for none, or one that has run out. */
export async function findSession(db: Db, token: string, now: Instant): Promise<Person | null> {
  const { rows } = await db.query<Person>(
    `SELECT ${COLUMNS} FROM person WHERE id = (SELECT person_id FROM session WHERE token_hash = $1 AND expires_at > $2)`,
    [hashOf(token), moment(now)],
  );
  return rows[0] ?? null;
}

/** Who can be told: a person, or a list with those on it. */
export interface Audience {
  key: string;
  name: string;
  members: { name: string; email: string; confirmed: boolean }[];
}

/** Every list and every person, lists first. */
export async function listAudiences(db: Db): Promise<Audience[]> {
  const { rows } = await db.query<Audience>(
    `SELECT * FROM (
     SELECT 'list:' || l.id AS key, l.name, coalesce(jsonb_agg(jsonb_build_object('name', p.name, 'email', p.email, 'confirmed', p.confirmed_at IS NOT NULL)
       ORDER BY p.name) FILTER (WHERE p.id IS NOT NULL), '[]') AS members
     FROM list l LEFT JOIN list_member m ON m.list_id = l.id LEFT JOIN person p ON p.id = m.person_id GROUP BY l.id
     UNION ALL
     SELECT 'person:' || id, name, jsonb_build_array(jsonb_build_object('name', name, 'email', email, 'confirmed', confirmed_at IS NOT NULL)) FROM person
     ) audience ORDER BY key LIKE 'person:%', name`,
  );
  return rows;
}

const VISIT_GAP = 30 * MINUTE;

/**
 * Notes that a person looks at the briefing, and returns up to when she had looked before. Looks less than half an
 * hour apart are one visit, so that what is new stays new while she reads.
 */
export async function noteLook(db: Db, personId: number, now: Instant): Promise<Instant | null> {
  const { rows } = await db.query<{ until: Instant | null }>(
    `UPDATE person SET
       looked_until = CASE WHEN last_looked_at < $3 THEN last_looked_at ELSE looked_until END,
       last_looked_at = $2
     WHERE id = $1 RETURNING looked_until AS until`,
    [personId, moment(now), moment(now - VISIT_GAP)],
  );
  return rows[0]?.until ?? null;
}
