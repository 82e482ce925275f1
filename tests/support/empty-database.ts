import type { Instant } from '#core/when/interval';
import { inTransaction, type Pool } from '#server/db/base/pool';

/** What is emptied, and with it all that refers to it. */
const EMPTIED = [
  'site',
  'source',
  'run',
  'watch_run',
  'verdict',
  'watch',
  'reading',
  'report',
  'draft',
  'session',
  'item',
  'edit',
  'stencil',
  'tag',
  'quota',
  'quota_notified',
];

/** The tables that refer to some, however far, and the sequences of all of them. */
const REFERRING = `
WITH RECURSIVE emptied(id) AS (
  SELECT to_regclass(name)::oid FROM unnest($1::text[]) AS name
  UNION SELECT c.conrelid FROM emptied e JOIN pg_constraint c ON c.confrelid = e.id AND c.contype = 'f'
), whole AS (
  SELECT id FROM emptied WHERE NOT EXISTS (SELECT FROM pg_inherits i WHERE i.inhrelid = id)
)
SELECT array(SELECT id::regclass::text FROM whole) AS tables,
  array(
    SELECT pg_get_serial_sequence(id::regclass::text, a.attname) FROM whole JOIN pg_attribute a ON a.attrelid = id
    WHERE a.attnum > 0 AND NOT a.attisdropped AND a.attidentity <> ''
  ) AS sequences`;

const PEOPLE = `
UPDATE person
SET confirmed_at = CASE WHEN name = 'Tom Aske' THEN NULL ELSE to_timestamp($1 / 1000.0) END, asked_at = NULL,
  paused_at = NULL, quiet = NULL, mail_hour = NULL, passes = NULL, phone = NULL, webhook = NULL, routes = DEFAULT`;

/**
 * Empties a database of all that is followed, told and asked, people and lists apart. Rows are deleted with triggers
 * and keys off: to truncate a hundred tables costs ten times as much.
 */
export function emptierOf(pool: Pool, confirmedAt: Instant): () => Promise<void> {
  let known: Promise<{ tables: string[]; sequences: string[] }> | null = null;
  const load = async () => {
    const { rows } = await pool.query<{ tables: string[]; sequences: string[] }>(REFERRING, [EMPTIED]);
    const [row] = rows;
    if (row === undefined) throw new Error('the tables to empty are not known');
    return row;
  };
  return async () => {
    const { tables, sequences } = await (known ??= load());
    const restarts = sequences.map((name) => `setval('${name}', 1, false)`);
    await inTransaction(pool, async (db) => {
      await db.query('SET LOCAL session_replication_role = replica');
      await db.query(tables.map((table) => `DELETE FROM ${table}`).join(';'));
      await db.query(`UPDATE tally SET watches = 0, paused = 0, raised = 0, broken = 0; SELECT ${restarts.join(', ')}`);
      await db.query('DELETE FROM delivery WHERE report_id IS NULL; DELETE FROM jobs.job');
      await db.query('UPDATE host SET runs_a_day = NULL');
      await db.query(PEOPLE, [confirmedAt]);
    });
  };
}
