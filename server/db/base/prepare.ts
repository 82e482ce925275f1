import type { Config } from '../../config';
import { makeLog } from '../../log';
import { openJobs } from '../../work/services';
import { migrate } from './migrate';
import { openPool } from './pool';

/** Brings a database up to date: our migrations, then the job queue's own. Returns the migrations applied. */
export async function prepareDatabase(config: Config): Promise<string[]> {
  const log = makeLog('migrate', config.logLevel);
  const pool = openPool(config.databaseUrl, 2, (error) =>
    log.error({ err: error }, 'a connection to the database was lost'),
  );
  try {
    const applied = await migrate(pool);
    const jobs = await openJobs(config, log, { supervises: false });
    await jobs.close();
    return applied;
  } finally {
    await pool.end();
  }
}
