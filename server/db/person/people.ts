import type { ListId, PersonId } from '#core/id';
import { MINUTE, type Instant } from '#core/when/interval';
import type { ReachedBy } from '#core/tell/reach';
import type { Place } from '#core/when/format';
import { moment, theRow, type Db } from '../base/pool';

/** Somebody who signs in or hears. */
export interface Person {
  id: PersonId;
  name: string;
  email: string;
  locale: string;
  zone: string;
  confirmedAt: Instant | null;
  /** Since when the address is paused, since it refused mail for good. */
  pausedAt: Instant | null;
}

const COLUMNS = 'id, name, email, locale, zone, confirmed_at AS "confirmedAt", paused_at AS "pausedAt"';

/** A person's place: how times and numbers are written for them. */
export function placeOf(person: Pick<Person, 'locale' | 'zone'>): Place {
  return { locale: person.locale, zone: person.zone };
}

/** Adds a person; the address is confirmed at a moment, or not yet. */
export async function addPerson(db: Db, person: Omit<Person, 'id' | 'pausedAt'>): Promise<PersonId> {
  const result = await db.query<{ id: PersonId }>(
    'INSERT INTO person (name, email, locale, zone, confirmed_at) VALUES ($1, $2, $3, $4, $5) RETURNING id',
    [
      person.name,
      person.email,
      person.locale,
      person.zone,
      person.confirmedAt === null ? null : moment(person.confirmedAt),
    ],
  );
  return theRow(result).id;
}

/** Adds a list with its members. */
export async function addList(db: Db, name: string, members: PersonId[]): Promise<ListId> {
  const result = await db.query<{ id: ListId }>('INSERT INTO list (name) VALUES ($1) RETURNING id', [name]);
  const id = theRow(result).id;
  await db.query('INSERT INTO list_member (list_id, person_id) SELECT $1, unnest($2::int[])', [id, members]);
  return id;
}

/** Finds a person by address. */
export async function findPerson(db: Db, email: string): Promise<Person | null> {
  const { rows } = await db.query<Person>(`SELECT ${COLUMNS} FROM person WHERE email = $1`, [email]);
  return rows[0] ?? null;
}

/** The person of a number; null when there is none. */
export async function findPersonById(db: Db, id: PersonId): Promise<Person | null> {
  const { rows } = await db.query<Person>(`SELECT ${COLUMNS} FROM person WHERE id = $1`, [id]);
  return rows[0] ?? null;
}

/** Why a person cannot be reached, in SQL; null where she can. */
export const suppressionOf = (person: string): string =>
  `CASE WHEN ${person}.confirmed_at IS NULL THEN 'unconfirmed' WHEN ${person}.paused_at IS NOT NULL THEN 'paused' END`;

/** Who can be told: a person, or a list with those on it. */
export interface Audience {
  key: string;
  name: string;
  members: (ReachedBy & { email: string })[];
}

/** Every list and every person, lists first. */
export async function listAudiences(db: Db): Promise<Audience[]> {
  const { rows } = await db.query<Audience>(
    `SELECT * FROM (
     SELECT 'list:' || l.id AS key, l.name,
       coalesce(jsonb_agg(jsonb_build_object('name', p.name, 'email', p.email, 'kept', ${suppressionOf('p')})
       ORDER BY p.name) FILTER (WHERE p.id IS NOT NULL), '[]') AS members
     FROM list l LEFT JOIN list_member m ON m.list_id = l.id LEFT JOIN person p ON p.id = m.person_id
     WHERE l.removed_at IS NULL GROUP BY l.id
     UNION ALL
     SELECT 'person:' || id, name,
       jsonb_build_array(jsonb_build_object('name', name, 'email', email, 'kept', ${suppressionOf('person')}))
  FROM person
     WHERE removed_at IS NULL
     ) audience ORDER BY key LIKE 'person:%', name`,
  );
  return rows;
}

const VISIT_GAP = 30 * MINUTE;

/**
 * Notes that a person looks at the briefing, and returns up to when she had looked before. Looks less than half an
 * hour apart are one visit, so that what is new stays new while she reads.
 */
export async function noteVisit(db: Db, personId: PersonId, now: Instant): Promise<Instant | null> {
  const { rows } = await db.query<{ until: Instant | null }>(
    `UPDATE person SET
       looked_until = CASE WHEN last_looked_at < $3 THEN last_looked_at ELSE looked_until END,
       last_looked_at = $2
     WHERE id = $1 RETURNING looked_until AS until`,
    [personId, moment(now), moment(now - VISIT_GAP)],
  );
  return rows[0]?.until ?? null;
}
