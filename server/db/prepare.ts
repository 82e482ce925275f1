import { fileURLToPath } from 'node:url';
import type { Config } from '../config';
import { makeLog } from '../log';
import { openJobs } from '../work/services';
import { migrate } from './migrate';
import { openPool } from './pool';

const MIGRATIONS = fileURLToPath(new URL('migrations', import.meta.url));

/** Brings a database up to date: our migrations, then the job queue's own. Returns the migrations applied. */
export async function prepareDatabase(config: Config): Promise<string[]> {
  const pool = openPool(config.databaseUrl, 2);
  try {
    const applied = await migrate(pool, MIGRATIONS);
    const jobs = await openJobs(config, makeLog('migrate', config.logLevel), false);
    await jobs.close();
    return applied;
  } finally {
    await pool.end();
  }
}
