import type { SiteId } from '#core/id';
import pg from 'pg';
import { fail, ok, type Result } from '#core/result';
import { theRow, type Db } from '../base/pool';

/** Whose a site is; null where it is none of these. */
export const SITE_KINDS = ['own', 'rival', 'channel'] as const;
export type SiteKind = (typeof SITE_KINDS)[number];

/** A site, with how much is watched there. */
export interface SiteNow {
  id: SiteId;
  name: string;
  kind: SiteKind | null;
  watches: number;
}

/** Asked of one site after another, in the order of their names, until enough are found. */
const IS_WATCHED = `(
  SELECT true FROM source s JOIN watch w ON w.source_id = s.id
  WHERE s.site_id = t.id AND w.state <> 'deleted' LIMIT 1)`;

const SITES = `
SELECT t.id, t.name, t.kind, n.watches
FROM site t
CROSS JOIN LATERAL (
  SELECT count(*)::int AS watches FROM source s JOIN watch w ON w.source_id = s.id AND w.state <> 'deleted'
  WHERE s.site_id = t.id
) n
WHERE t.name > $1 AND (${IS_WATCHED} OR t.kind IS NOT NULL)
ORDER BY t.name LIMIT $2`;

/**
 * Sites where something is watched, or that are known to be somebody's, by name; those after a name, at most so many.
 */
export async function listSites(db: Db, after: string, most: number): Promise<SiteNow[]> {
  return (await db.query<SiteNow>(SITES, [after, most])).rows;
}

/** The names of sites where something is watched, at most so many. */
export async function watchedSites(db: Db, most: number): Promise<string[]> {
  const { rows } = await db.query<{ name: string }>(
    `SELECT t.name FROM site t WHERE ${IS_WATCHED} ORDER BY t.name LIMIT $1`,
    [most],
  );
  return rows.map(({ name }) => name);
}

/** The site whose pages call it so, before one that somebody has called so. */
const KNOWN = 'FROM site WHERE said = $1 OR name = $1 ORDER BY said = $1 DESC LIMIT 1';

/** What a site is called by people whose pages call it so. */
export async function siteCalled(db: Db, said: string): Promise<string> {
  const { rows } = await db.query<{ name: string }>(`SELECT name ${KNOWN}`, [said]);
  return rows[0]?.name ?? said;
}

/** The site of this name; null where there is none. */
export async function siteNamed(db: Db, name: string): Promise<SiteId | null> {
  return (await db.query<{ id: SiteId }>('SELECT id FROM site WHERE name = $1', [name])).rows[0]?.id ?? null;
}

/** The site that calls itself so, made where there is none. Returns its id. */
export async function ensureSite(db: Db, said: string): Promise<SiteId> {
  await db.query(
    `INSERT INTO site (name, said)
      SELECT $1, $1
      WHERE NOT EXISTS (SELECT FROM site WHERE name = $1)
      ON CONFLICT DO NOTHING`,
    [said],
  );
  return theRow(await db.query<{ id: SiteId }>(`SELECT id ${KNOWN}`, [said])).id;
}

const UNIQUE_VIOLATION = '23505';

/** What is said of a site, held until the end of the caller's transaction; null where it is gone. */
export async function holdSite(db: Db, id: SiteId): Promise<Pick<SiteNow, 'name' | 'kind'> | null> {
  const { rows } = await db.query<Pick<SiteNow, 'name' | 'kind'>>(
    'SELECT name, kind FROM site WHERE id = $1 FOR UPDATE',
    [id],
  );
  return rows[0] ?? null;
}

/** Sets what a site is called and whose it is. */
export async function setSite(
  db: Db,
  id: SiteId,
  { name, kind }: Pick<SiteNow, 'name' | 'kind'>,
): Promise<Result<null, 'gone' | 'name taken'>> {
  try {
    const { rowCount } = await db.query('UPDATE site SET name = $2, kind = $3 WHERE id = $1', [id, name, kind]);
    return rowCount === 0 ? fail('gone') : ok(null);
  } catch (error) {
    if (error instanceof pg.DatabaseError && error.code === UNIQUE_VIOLATION) return fail('name taken');
    throw error;
  }
}
