import type { Pool } from '#server/db/base/pool';

/** The tables that a watch fills, those first that others lean on. */
const TABLES = [
  'source',
  'due',
  'watch',
  'watch_version',
  'rule',
  'rule_version',
  'report_rule',
  'record',
  'series',
  'reading',
  'rule_state',
  'run',
  'watch_run',
  'snapshot',
  'change',
  'episode',
  'alert',
  'verdict',
  'edition',
  'edition_alert',
  'delivery',
  'delivery_attempt',
  'notification',
];

/** Numbers that runs give out are small where a world is young: copies are this far apart. */
const APART = 1_000_000;
const SITES = 500;
const WHOLE_IDS = ['source_id', 'watch_id', 'rule_id'];
/** Who and whatever is not copied. */
const SHARED = ['report_id', 'person_id', 'list_id', 'owner_id', 'in_favour_of', 'taken_on_by'];
const FUTURE = ['due_at', 'read_due_at'];
const OWN_INT = ['source', 'watch', 'rule'];

/** What many copies have in common. */
const SPREAD: Record<string, string> = { site_id: `1 + n % ${SITES + 1}`, host: `'host' || n % 500 || '.example'` };

/** What a column holds in the copy of number `n`. */
function copied(table: string, column: string, type: string): string {
  if (column === 'id' && table === 'report_rule') return '1000 + n * 100 + id';
  if (column === 'id') return OWN_INT.includes(table) ? 'id + n * 10' : `id + n * ${APART}::bigint`;
  if (WHOLE_IDS.includes(column)) return `${column} + n * 10`;
  if (SHARED.includes(column)) return column;
  if (column.endsWith('_id') && type === 'bigint') return `${column} + n * ${APART}::bigint`;
  if (['seq', 'number'].includes(column)) return `${column} + n * 100`;
  if (['message_id', 'subject'].includes(column)) return `${column} || ' ' || n`;
  if (column === 'address' && table === 'source') return `address || '?n=' || n`;
  if (FUTURE.includes(column)) return `${column} + interval '1000 days'`;
  if (type === 'timestamp with time zone') return `${column} - n % 80000 * interval '1 second'`;
  return SPREAD[column] ?? column;
}

/** Copies all that there is of watches so many times, in one database, each under names of its own. */
export async function copyWatches(pool: Pool, copies: number): Promise<void> {
  await pool.query(`INSERT INTO host (name) SELECT 'host' || n || '.example' FROM generate_series(0, 499) n`);
  await pool.query(
    `INSERT INTO site (name, said) SELECT 'Site ' || n, 'Site ' || n FROM generate_series(1, ${SITES}) n`,
  );
  for (const table of TABLES) {
    const { rows } = await pool.query<{ name: string; type: string }>(
      `SELECT column_name AS name, data_type AS type FROM information_schema.columns
       WHERE table_schema = 'public' AND table_name = $1 AND is_generated = 'NEVER' ORDER BY ordinal_position`,
      [table],
    );
    const names = rows.map(({ name }) => name).join(', ');
    const made = rows.map(({ name, type }) => copied(table, name, type)).join(', ');
    await pool.query(
      `INSERT INTO ${table} (${names}) OVERRIDING SYSTEM VALUE SELECT ${made}
        FROM (SELECT * FROM ${table} OFFSET 0) t
        CROSS
        JOIN generate_series(1, $1::int) n`,
      [copies],
    );
  }
  // As it was worked out for each of them, at some time or other.
  await pool.query(
    `UPDATE standing
SET words = lower(subject) || ' skepwright', raised = watch_id % 250 = 1, broken = watch_id % 300 = 1, due_at = NULL
      WHERE watch_id > 10`,
  );
  await pool.query('VACUUM ANALYZE');
}
