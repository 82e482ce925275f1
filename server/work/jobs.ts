import type { DeliveryId, PreviewId } from '#core/id';
import { setTimeout as sleep } from 'node:timers/promises';
import PgBoss from 'pg-boss';
import { moment, type Db, type Statement } from '../db/base/pool';
import { SECOND, type Instant } from '#core/when/interval';

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

const POLL_MS = 500;
const PATIENCE_MS = 15_000;

/** How a queue is opened. */
export interface JobOptions {
  databaseUrl: string;
  expirySeconds: number;
  sweepSeconds: number;
  /** A worker also takes up the jobs of workers that died. */
  supervise: boolean;
  onError: (error: Error) => void;
}

/** How jobs of a queue are worked off. */
interface Lanes {
  atOnce: number;
  /** After so long a job counts as failed, and is tried again. */
  seconds: number;
  /** Whether one may be taken now. */
  isReady: () => boolean;
}

/**
 * One-off work: jobs enqueued in the transaction of what caused them. Its lanes are ours and not the library's, which
 * does not wait to hear whether the end of a job could be written down.
 */
export class JobQueue {
  readonly #closing = new AbortController();
  readonly #lanes: Promise<void>[] = [];

  private constructor(
    private readonly boss: PgBoss,
    private readonly options: JobOptions,
  ) {}

  /** Connects. */
  static async open(options: JobOptions): Promise<JobQueue> {
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
    return new JobQueue(boss, options);
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
      expireInSeconds: this.options.expirySeconds,
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

  /** Handles mails as they come, a few at once, while more may be begun. */
  workMail(handle: (job: MailJob) => Promise<void>, atOnce: number, isReady: () => boolean): void {
    this.#work(MAIL, handle, { atOnce, seconds: this.options.expirySeconds, isReady });
  }

  /** Asks a worker for a run in the browser. */
  async enqueueLook(look: PreviewId): Promise<void> {
    await this.boss.send(PREVIEW, { look }, { retryLimit: PREVIEW_RETRIES, expireInSeconds: PREVIEW_SECONDS });
  }

  /** Takes looks as they are asked for. */
  workLooks(handle: (job: PreviewJob) => Promise<void>, atOnce: number, isReady: () => boolean): void {
    this.#work(PREVIEW, handle, { atOnce, seconds: PREVIEW_SECONDS, isReady });
  }

  #work<Job extends object>(queue: string, handle: (job: Job) => Promise<void>, lanes: Lanes): void {
    for (let lane = 0; lane < lanes.atOnce; lane += 1) this.#lanes.push(this.#lane(queue, handle, lanes));
  }

  /** Takes one job after another; while there is none, asks twice a second. */
  async #lane<Job extends object>(
    queue: string,
    handle: (job: Job) => Promise<void>,
    { seconds, isReady }: Lanes,
  ): Promise<void> {
    const { signal } = this.#closing;
    while (!signal.aborted) {
      const job = isReady() ? await this.#take<Job>(queue) : null;
      if (job === null) await sleep(POLL_MS, undefined, { signal }).catch(() => undefined);
      else await this.#carryOut(queue, job, () => within(handle(job.data), seconds));
    }
  }

  async #take<Job extends object>(queue: string): Promise<PgBoss.Job<Job> | null> {
    try {
      const [job] = await this.boss.fetch<Job>(queue, { batchSize: 1 });
      return job ?? null;
    } catch (error) {
      this.options.onError(error as Error);
      return null;
    }
  }

  /** Where its end cannot be written down, the job expires, and is taken up again. */
  async #carryOut(queue: string, job: PgBoss.Job, work: () => Promise<void>): Promise<void> {
    try {
      await work();
      await this.boss.complete(queue, job.id);
    } catch (error) {
      this.options.onError(error as Error);
      await this.boss.fail(queue, job.id, { message: String(error) }).catch(this.options.onError);
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
    this.#closing.abort();
    await Promise.race([Promise.all(this.#lanes), sleep(PATIENCE_MS, undefined, { ref: false })]);
    await this.boss.stop({ graceful: false, wait: true });
  }
}

/** Waits for work for so long, and no longer; what becomes of it after that nobody waits for. */
async function within(work: Promise<void>, seconds: number): Promise<void> {
  const ended = new AbortController();
  const late = sleep(seconds * SECOND, true, { ref: false, signal: ended.signal }).catch(() => false);
  work.catch(() => undefined);
  try {
    if ((await Promise.race([work, late])) === true) throw new Error(`a job took longer than ${seconds} s`);
  } finally {
    ended.abort();
  }
}
