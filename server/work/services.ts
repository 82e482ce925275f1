import type { Instant } from '#core/when/interval';
import type { Config } from '../config';
import { Ids } from '../db/ids';
import { openPool, type Pool } from '../db/pool';
import { AddressRules } from '../fetch/addresses';
import { Fetcher } from '../fetch/fetcher';
import { Mailer } from '../deliver/mail';
import type { Post } from '../deliver/deliver';
import { makeLog, type Log } from '../log';
import type { Pipeline } from '../pipeline/run';
import { JobQueue } from './jobs';

/** Everything a worker, or a replay, works with, made from the configuration. */
export interface Services {
  pool: Pool;
  pipeline: Pipeline;
  post: Post;
  close: () => Promise<void>;
}

/** Makes a fetcher by the configuration's limits and address rules. */
export function makeFetcher(config: Config): Fetcher {
  return new Fetcher(new AddressRules(config.admitted), {
    timeoutMs: config.fetchTimeoutMs,
    mostBytes: config.fetchMostBytes,
    mostRedirects: config.fetchMostRedirects,
    userAgent: config.userAgent,
  });
}

/** Opens the job queue by the configuration. */
export function openJobs(config: Config, log: Log, supervise: boolean): Promise<JobQueue> {
  return JobQueue.open({
    databaseUrl: config.databaseUrl,
    expirySeconds: config.jobExpirySeconds,
    sweepSeconds: config.jobSweepSeconds,
    supervise,
    onError: (error) => log.error({ err: error }, 'job queue'),
  });
}

/** Opens all services; the clock is the caller's. */
export async function openServices(config: Config, clock: () => Instant): Promise<Services> {
  const log = makeLog('worker', config.logLevel);
  const pool = openPool(config.databaseUrl, config.runsAtOnce + 4);
  const jobs = await openJobs(config, log, true);
  const fetcher = makeFetcher(config);
  const mailer = new Mailer({ host: config.smtpHost, port: config.smtpPort, from: config.mailFrom });
  const pipeline: Pipeline = { pool, ids: new Ids(pool), fetcher, jobs, clock, log, publicUrl: config.publicUrl, mailDomain: config.mailDomain };
  const post: Post = {
    pool, jobs, mailer, clock, log,
    firstRetryMs: config.mailFirstRetryMs, longestRetryMs: config.mailLongestRetryMs, giveUpMs: config.mailGiveUpMs,
  }; // prettier-ignore
  const close = async () => {
    await fetcher.close();
    mailer.close();
    await pool.end();
  };
  return { pool, pipeline, post, close };
}
