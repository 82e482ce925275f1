import type { Instant } from '#core/when/interval';
import { whoAsks } from './asker.server';
import { steadyClock } from '#server/clock';
import { readConfig, type Config } from '#server/config';
import { Ids } from '#server/db/base/ids';
import { LostConnections } from '#server/db/base/lost-connections';
import { openPool, type Pool } from '#server/db/base/pool';
import { Hearing, Signals } from '#server/db/base/signals';
import type { Mailer } from '#server/deliver/mail';
import { MailPictures } from '#server/rendered-images/mail-pictures';
import { Links } from '#server/links';
import type { Keeping } from '#server/pipeline/keeping';
import type { SourceFetcher } from '#server/fetch/source-fetcher';
import { makeLog, type Log } from '#server/log';
import { Followers } from '#server/web/followers';
import type { JobQueue } from '#server/work/jobs';
import type { Secrets } from '#server/secrets';
import type { ReadingPool } from '#server/reading/pool';
import { openedOnce } from '#server/opened-once';
import { makeSourceFetcher, openJobs, openMailer, openReading } from '#server/work/services';

/** What loaders and actions work with. */
interface AppServices {
  config: Config;
  pool: Pool;
  lost: LostConnections;
  sources: SourceFetcher;
  secrets: Secrets;
  /** Where pages are looked through, so that nobody else waits for it. */
  reading: ReadingPool;
  /** Tells all processes what moved. */
  signals: Signals;
  /** Views that follow what moves. */
  followers: Followers;
  log: Log;
  clock: () => Instant;
  jobs: () => Promise<JobQueue>;
  /** Sends what somebody asks for herself and waits for. */
  mailer: Mailer;
  /** Draws what mails show. */
  pictures: MailPictures;
  /** Numbers for new rows. */
  ids: Ids;
  /** Seals what mails lead to, and opens it. */
  links: Links;
}

const MOST_CONNECTIONS = 10;

let opened: AppServices | null = null;

/** The services of this web process, opened when they are first asked for. */
export function services(): AppServices {
  opened ??= open();
  return opened;
}

/** What keeps a person's deed, with the mails that it orders. */
export async function keepingServices(): Promise<Keeping> {
  const { pool, ids, jobs, config, links, log } = services();
  return { pool, ids, links, log, jobs: await jobs(), publicUrl: config.publicUrl, mailDomain: config.mailDomain };
}

function open(): AppServices {
  const config = readConfig(process.env);
  const log = makeLog('web', config.logLevel);
  const clock = steadyClock();
  const lost = new LostConnections(log, clock);
  const pool = openPool(config.databaseUrl, MOST_CONNECTIONS, lost.add);
  const followers = new Followers(clock());
  new Hearing(config.databaseUrl, (moved) => followers.moved(moved), lost.add);
  const reading = openReading(config, log, { holds: true, whoAsks });
  const { sources, secrets } = makeSourceFetcher(config, pool, reading, clock);
  return {
    config,
    log,
    pool,
    lost,
    sources,
    secrets,
    reading,
    signals: new Signals(pool, log),
    followers,
    clock,
    mailer: openMailer(config),
    pictures: new MailPictures({ pool, reading, log, clock }),
    jobs: openedOnce(() => openJobs(config, log, { supervises: false })),
    ids: new Ids(),
    links: new Links(secrets, config.publicUrl, clock),
  };
}
