import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { inTransaction, type Pool } from './pool';

/**
 * Applies every migration that is new, once, in the order of their names, all in one transaction under an advisory
 * lock: two starts at once do not meet. Returns the names applied.
 */
export async function migrate(pool: Pool, folder: string): Promise<string[]> {
  const files = (await readdir(folder)).filter((name) => name.endsWith('.sql')).sort();
  return inTransaction(pool, async (db) => {
    await db.query(`SELECT pg_advisory_xact_lock(hashtext('shrike migrations'))`);
    await db.query(
      'CREATE TABLE IF NOT EXISTS migration (name text PRIMARY KEY, applied_at timestamptz NOT NULL DEFAULT now())',
    );
    const { rows } = await db.query<{ name: string }>('SELECT name FROM migration');
    const applied = new Set(rows.map((row) => row.name));
    const fresh = files.filter((name) => !applied.has(name));
    for (const name of fresh) {
      await db.query(await readFile(join(folder, name), 'utf8'));
      await db.query('INSERT INTO migration (name) VALUES ($1)', [name]);
    }
    return fresh;
  });
}
