import { DAY, type Instant } from '#core/when/interval';
import { inTransaction, moment, theRow, type Db, type Pool } from './pool';

/** What grows with every run is kept in partitions by time, and let go of one at a time. */
const UNITS = { reading: 'month', run: 'week', watch_run: 'week', verdict: 'week' } as const;
export type Partitioned = keyof typeof UNITS;

/** In days; a month is over by then. */
const LENGTHS = { week: 7, month: 31 };

const AHEAD = 40 * DAY;

/** Makes the partitions for the time around a moment. */
export async function preparePartitions(pool: Pool, from: Instant, to: Instant = from + AHEAD): Promise<void> {
  for (const [table, unit] of Object.entries(UNITS)) {
    await pool.query('SELECT make_partitions($1, $2, $3, $4)', [table, unit, moment(from), moment(to)]);
  }
}

/**
 * Drops the partitions of a table that were over before a moment. What is still `needed` of them, by a condition on a
 * row `x`, goes to the rest. Returns how many rows went.
 */
export async function letPartitionsGo(
  pool: Pool,
  table: Partitioned,
  before: Instant,
  needed: string,
): Promise<number> {
  const { rows } = await pool.query<{ name: string }>(
    `SELECT c.relname AS name
      FROM pg_inherits i
      JOIN pg_class c ON c.oid = i.inhrelid
      WHERE i.inhparent = $1::regclass
      ORDER BY 1`,
    [table],
  );
  const old = rows.map(({ name }) => name).filter((name) => endOf(name, UNITS[table]) <= before);
  let removed = 0;
  for (const name of old) removed += await inTransaction(pool, (db) => letGo(db, table, name, needed));
  return removed;
}

/** The moment by which the stretch of a partition is over; never, for the one that takes all the rest. */
function endOf(partition: string, unit: keyof typeof LENGTHS): Instant {
  const [, year, month, day = '01'] = /_(\d{4})_(\d{2})(?:_(\d{2}))?$/.exec(partition) ?? [];
  return year === undefined ? Infinity : Date.UTC(Number(year), Number(month) - 1, Number(day)) + LENGTHS[unit] * DAY;
}

/** Nobody writes to it meanwhile: what is moved is all there is. Where it is in use, it is let go of another time. */
async function letGo(db: Db, parent: Partitioned, name: string, needed: string): Promise<number> {
  const alone = await db.query<{ got: boolean }>(
    `SELECT pg_try_advisory_xact_lock(hashtext('shrike partitions')) AND to_regclass($1) IS NOT NULL AS got`,
    [name],
  );
  if (!theRow(alone).got) return 0;
  await db.query(`SET LOCAL lock_timeout = '3s'`);
  await db.query(`LOCK TABLE ${name} IN SHARE ROW EXCLUSIVE MODE`);
  await db.query(`CREATE TEMP TABLE still_needed ON COMMIT DROP AS SELECT x.* FROM ${name} x WHERE ${needed}`);
  const result = await db.query<{ n: number }>(
    `SELECT (SELECT count(*) FROM ${name}) - (SELECT count(*) FROM still_needed) AS n`,
  );
  await db.query(`ALTER TABLE ${parent} DETACH PARTITION ${name}`);
  await db.query(`DROP TABLE ${name}`);
  await db.query(`INSERT INTO ${parent} SELECT * FROM still_needed`);
  return theRow(result).n;
}
