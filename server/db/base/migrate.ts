import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { inTransaction, type Pool } from './pool';

/** Where the tables and functions of the database are said. */
const SCHEMA = fileURLToPath(new URL('../schema/', import.meta.url));
export const MIGRATIONS = join(SCHEMA, 'migrations');
export const FUNCTIONS = join(SCHEMA, 'functions');

/**
 * Applies every migration that is new, once, in the order of their names, and then the functions as they are said now,
 * all in one transaction under an advisory lock: two starts at once do not meet. A function is changed in its file,
 * with a migration that says why; where no migration is new the functions stand as they are. Returns the names applied.
 */
export async function migrate(
  pool: Pool,
  folder: string = MIGRATIONS,
  functions: string | null = FUNCTIONS,
): Promise<string[]> {
  const files = await scriptsIn(folder);
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
    if (fresh.length > 0 && functions !== null) {
      for (const name of await scriptsIn(functions)) await db.query(await readFile(join(functions, name), 'utf8'));
    }
    return fresh;
  });
}

const scriptsIn = async (folder: string): Promise<string[]> =>
  (await readdir(folder)).filter((name) => name.endsWith('.sql')).sort();
