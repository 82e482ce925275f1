import type { DeliveryId, PreviewId } from '#core/id';
import PgBoss from 'pg-boss';
import { moment, type Db, type Statement } from '../db/base/pool';
import type { Instant } from '#core/when/interval';

const MAIL = 'mail';
const PREVIEW = 'look';
const SCHEMA = 'jobs';
// The delivery itself counts its attempts and gives up; a job ends only when its handler has.
const RETRIES = 100_000;
const PREVIEW_SECONDS = 120;
/** One more than a run is begun, so that it is told why it came to nothing. */
const PREVIEW_RETRIES = 2;

/** A mail to be sent, by its delivery. */
export interface MailJob {
  delivery: DeliveryId;
}

/** A page to be looked at in the browser for a watch that is being set up. */
export interface PreviewJob {
  look: PreviewId;
}

/** One-off work: jobs enqueued in the transaction of what caused them. */
export class JobQueue {
  private constructor(
    private readonly boss: PgBoss,
    private readonly expirySeconds: number,
  ) {}

  /** Connects; a worker also supervises, taking up the jobs of workers that died. */
  static async open(options: {
    databaseUrl: string;
    expirySeconds: number;
    sweepSeconds: number;
    supervise: boolean;
    onError: (error: Error) => void;
  }): Promise<JobQueue> {
    const boss = new PgBoss({
      connectionString: options.databaseUrl,
      schema: SCHEMA,
      supervise: options.supervise,
      schedule: false,
      max: 3,
      maintenanceIntervalSeconds: options.sweepSeconds,
      archiveCompletedAfterSeconds: 3600,
    });
    boss.on('error', options.onError);
    try {
      await boss.start();
      await boss.createQueue(MAIL);
      await boss.createQueue(PREVIEW);
    } catch (error) {
      await boss.stop({ graceful: false }).catch(() => undefined);
      throw error;
    }
    return new JobQueue(boss, options.expirySeconds);
  }

  /** Enqueues mails in the given transaction, to start at a moment or at once. */
  async enqueueMail(db: Db, deliveries: DeliveryId[], startAfter: Instant | null = null): Promise<void> {
    for (const statement of await this.mailStatements(deliveries, startAfter)) await db.query(statement);
  }

  /** What enqueues mails, to be written in a transaction of one's own. */
  async mailStatements(deliveries: DeliveryId[], startAfter: Instant | null = null): Promise<Statement[]> {
    if (deliveries.length === 0) return [];
    const jobs = deliveries.map((delivery) => ({
      name: MAIL,
      data: { delivery },
      retryLimit: RETRIES,
      retryDelay: 1,
      expireInSeconds: this.expirySeconds,
      ...(startAfter === null ? {} : { startAfter: moment(startAfter) }),
    }));
    const statements: Statement[] = [];
    const executeSql = (text: string, values: unknown[]) => {
      statements.push({ text, values });
      return Promise.resolve({ rows: [] });
    };
    await this.boss.insert(jobs, { db: { executeSql } });
    return statements;
  }

  /** Handles mails as they come, a few at once. */
  async workMail(handle: (job: MailJob) => Promise<void>, atOnce: number): Promise<void> {
    for (let lane = 0; lane < atOnce; lane += 1) {
      await this.boss.work<MailJob>(MAIL, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async ([job]) => {
        if (job !== undefined) await handle(job.data);
      });
    }
  }

  /** Asks a worker for a run in the browser. */
  async enqueueLook(look: PreviewId): Promise<void> {
    await this.boss.send(PREVIEW, { look }, { retryLimit: PREVIEW_RETRIES, expireInSeconds: PREVIEW_SECONDS });
  }

  /** Takes looks as they are asked for. */
  async workLooks(handle: (job: PreviewJob) => Promise<void>, atOnce: number): Promise<void> {
    for (let lane = 0; lane < atOnce; lane += 1) {
      await this.boss.work<PreviewJob>(PREVIEW, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async ([job]) => {
        if (job !== undefined) await handle(job.data);
      });
    }
  }

  /** How many mails wait, whether their time has come or not. */
  countMail(): Promise<number> {
    return this.boss.getQueueSize(MAIL, { before: 'active' });
  }

  /** Takes up to `most` waiting mails, whether their time has come or not. */
  takeMail(most: number): Promise<PgBoss.Job<MailJob>[]> {
    return this.boss.fetch<MailJob>(MAIL, { batchSize: most, ignoreStartAfter: true });
  }

  /** Handles one taken mail to its end. */
  async handle(job: PgBoss.Job<MailJob>, handle: (job: MailJob) => Promise<void>): Promise<void> {
    await handle(job.data);
    await this.boss.complete(MAIL, job.id);
  }

  /** Lets running handlers end, then closes. */
  async close(): Promise<void> {
    await this.boss.stop({ graceful: true, wait: true, timeout: 15_000 });
  }
}
