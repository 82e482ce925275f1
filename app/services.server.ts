import type { Instant } from '#core/when/interval';
import { readConfig, type Config } from '#server/config';
import { openPool, type Pool } from '#server/db/pool';
import type { SourceFetcher } from '#server/fetch/source-fetcher';
import { makeLog, type Log } from '#server/log';
import type { JobQueue } from '#server/work/jobs';
import type { Secrets } from '#server/secrets';
import { makeSourceFetcher, openJobs } from '#server/work/services';

/** What loaders and actions work with. */
interface AppServices {
  config: Config;
  pool: Pool;
  sources: SourceFetcher;
  secrets: Secrets;
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
  const clock = () => Date.now();
  const pool = openPool(config.databaseUrl);
  const { sources, secrets } = makeSourceFetcher(config, pool, clock);
  return {
    config,
    log,
    pool,
    sources,
    secrets,
    clock,
    jobs: () => (jobs ??= openJobs(config, log, false)),
  };
}
