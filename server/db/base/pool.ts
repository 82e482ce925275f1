import type { Writable } from 'node:stream';
import pg from 'pg';
import type { Result } from '#core/result';
import type { Instant } from '#core/when/interval';

/** A pool or a client inside a transaction: whatever can run a query. */
export interface Db {
  query<Row extends pg.QueryResultRow = pg.QueryResultRow>(
    text: string,
    values?: unknown[],
  ): Promise<pg.QueryResult<Row>>;
  query<Row extends pg.QueryResultRow = pg.QueryResultRow>(config: pg.QueryConfig): Promise<pg.QueryResult<Row>>;
}

export type Pool = pg.Pool;

/**
 * The one row that a statement must bring: an insert with RETURNING, a count. A row that is not there is an error of
 * ours, never an id 0.
 */
export function theRow<Row extends pg.QueryResultRow>({ rows, command }: pg.QueryResult<Row>): Row {
  const [row] = rows;
  if (row === undefined) throw new Error(`a row that must exist did not come of ${command}`);
  return row;
}

const toInstant = (text: string): Instant => Date.parse(text.replace(' ', 'T').replace(/([+-]\d\d)$/, '$1:00'));

const types: pg.CustomTypesConfig = {
  getTypeParser: (oid, format) => {
    if (oid === pg.types.builtins.TIMESTAMPTZ) return toInstant;
    if (oid === pg.types.builtins.INT8) return Number;
    return pg.types.getTypeParser(oid, format) as (text: string) => unknown;
  },
};

/**
 * For connections that look up rows by their keys and no more, as those of runs do: each statement is planned once,
 * without a thought for how few rows a table has today, and never reads a table to find the few rows that it was given.
 */
export const LOOKS_UP_BY_KEY = [
  'plan_cache_mode=force_generic_plan',
  'enable_seqscan=off',
  'enable_hashjoin=off',
  'enable_mergejoin=off',
] as const;

/**
 * Opens a pool. Times come back as instants (ms, UTC), 64-bit ids as numbers, numeric as exact text. `onLost` hears of
 * connections lost while idle.
 */
export function openPool(
  databaseUrl: string,
  most: number,
  onLost: (error: Error) => void,
  settings: readonly string[] = [],
): Pool {
  const options: pg.PoolConfig & { pipeline: boolean } = {
    connectionString: databaseUrl,
    max: most,
    types,
    connectionTimeoutMillis: 10_000,
    options: ['TimeZone=UTC', ...settings].map((setting) => `-c ${setting}`).join(' '),
    // Statements go out as they are given, without waiting for the answers to those before them.
    pipeline: true,
  };
  const pool = new pg.Pool(options);
  pool.on('error', onLost);
  return pool;
}

/** An instant as PostgreSQL reads it. */
export function moment(at: Instant): string {
  return new Date(at).toISOString();
}

/** A time, in SQL, as the instant it comes back as within JSON. */
export const instant = (time: string): string => `(extract(epoch FROM ${time}) * 1000)::bigint`;

/** A statement that is sent as it is. */
export type Statement = pg.QueryConfig;

/**
 * Sends statements in one turn. All of them are answered before this returns, or throws what the first of them that
 * failed threw.
 */
export async function inOneTurn(client: Db, statements: Statement[]): Promise<pg.QueryResult[]> {
  const settled = await Promise.allSettled(
    asOneWrite(client, () => statements.map((statement) => client.query(statement))),
  );
  return settled.map((each) => {
    if (each.status === 'rejected') throw each.reason;
    return each.value;
  });
}

/**
 * Whatever `work` sends over a connection leaves in one write: by itself each statement would be a call to the system
 * of its own.
 */
function asOneWrite<T>(client: Db, work: () => T): T {
  const stream = (client as { connection?: { stream?: Writable } }).connection?.stream;
  stream?.cork();
  try {
    return work();
  } finally {
    stream?.uncork();
  }
}

/** Writes statements and commits, in one turn. Throws where the transaction was rolled back instead. */
export async function writeAndCommit(client: Db, statements: Statement[]): Promise<void> {
  const results = await inOneTurn(client, [...statements, { text: 'COMMIT' }]);
  const tag = results.at(-1)?.command;
  if (tag !== 'COMMIT') throw new Error(`the transaction was not committed but ended with ${tag}`);
}

/** Runs `work` in one transaction: it commits whole or not at all. */
export function inTransaction<T>(pool: Pool, work: (db: pg.PoolClient) => Promise<T>): Promise<T> {
  return withClient(pool, async (client) => {
    await client.query('BEGIN');
    const result = await work(client);
    await writeAndCommit(client, []);
    return result;
  });
}

/** Runs `work` in one transaction that is kept only where it came out well; of what failed nothing stays written. */
export function inTransactionIfOk<T, E>(
  pool: Pool,
  work: (db: pg.PoolClient) => Promise<Result<T, E>>,
): Promise<Result<T, E>> {
  return withClient(pool, async (client) => {
    await client.query('BEGIN');
    const result = await work(client);
    if (result.ok) await writeAndCommit(client, []);
    else await client.query('ROLLBACK');
    return result;
  });
}

/**
 * Lends a connection to `work`, which begins and ends a transaction on it by itself; where it throws, that is rolled
 * back.
 */
export async function withClient<T>(pool: Pool, work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    return await work(client);
  } catch (error) {
    await client.query('ROLLBACK').catch((failure: Error) => (broken = failure));
    throw error;
  } finally {
    client.release(broken);
  }
}
