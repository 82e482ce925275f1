import type { Instant } from '#core/when/interval';
import { readConfig, type Config } from '#server/config';
import { openPool, type Pool } from '#server/db/pool';
import type { Fetcher } from '#server/fetch/fetcher';
import { makeLog, type Log } from '#server/log';
import type { JobQueue } from '#server/work/jobs';
import { makeFetcher, openJobs } from '#server/work/services';

/** What loaders and actions work with. */
interface AppServices {
  config: Config;
  pool: Pool;
  fetcher: Fetcher;
  log: Log;
  clock: () => Instant;
  jobs: () => Promise<JobQueue>;
}

let opened: AppServices | null = null;

/** The services of this web process, opened when they are first asked for. */
export function services(): AppServices {
  opened ??= open();
  return opened;
}

function open(): AppServices {
  const config = readConfig(process.env);
  const log = makeLog('web', config.logLevel);
  let jobs: Promise<JobQueue> | null = null;
  return {
    config,
    log,
    pool: openPool(config.databaseUrl),
    fetcher: makeFetcher(config),
    clock: () => Date.now(),
    jobs: () => (jobs ??= openJobs(config, log, false)),
  };
}
