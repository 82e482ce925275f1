import pg from 'pg';
import type { Instant } from '#core/when/interval';

/** A pool or a client inside a transaction: whatever can run a query. */
export interface Db {
  query<Row extends pg.QueryResultRow = pg.QueryResultRow>(text: string, values?: unknown[]): Promise<pg.QueryResult<Row>>;
  query<Row extends pg.QueryResultRow = pg.QueryResultRow>(config: pg.QueryConfig): Promise<pg.QueryResult<Row>>;
}

export type Pool = pg.Pool;

const toInstant = (text: string): Instant => Date.parse(text.replace(' ', 'T').replace(/([+-]\d\d)$/, '$1:00'));

const types: pg.CustomTypesConfig = {
  getTypeParser: (oid, format) => {
    if (oid === pg.types.builtins.TIMESTAMPTZ) return toInstant;
    if (oid === pg.types.builtins.INT8) return Number;
    return pg.types.getTypeParser(oid, format) as (text: string) => unknown;
  },
};

/** Opens a pool. Times come back as instants (ms, UTC), 64-bit ids as numbers, numeric as exact text. */
export function openPool(databaseUrl: string, most = 10): Pool {
  const pool = new pg.Pool({ connectionString: databaseUrl, max: most, types, connectionTimeoutMillis: 10_000, options: '-c TimeZone=UTC' });
  pool.on('error', () => undefined);
  return pool;
}

/** An instant as PostgreSQL reads it. */
export function moment(at: Instant): string {
  return new Date(at).toISOString();
}

/** Runs `work` in one transaction: it commits whole or not at all. */
export async function inTransaction<T>(pool: Pool, work: (db: pg.PoolClient) => Promise<T>): Promise<T> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    await client.query('BEGIN');
    const result = await work(client);
    await client.query('COMMIT');
    return result;
  } catch (error) {
    await client.query('ROLLBACK').catch((failure: Error) => (broken = failure));
    throw error;
  } finally {
    client.release(broken);
  }
}
