import { randomUUID } from 'node:crypto';
import { hostname } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { DAY, SECOND, type Instant } from '#core/when/interval';
import { moment } from '../db/pool';
import { claimDue, type ClaimedSource } from '../db/sources';
import { beat, retire } from '../db/workers';
import { deliver, type Post } from '../deliver/deliver';
import { runSource, type Pipeline } from '../pipeline/run';
import { takeLook, type Looking } from './look';

/** How a worker goes about it. */
export interface WorkerOptions {
  runsAtOnce: number;
  mailsAtOnce: number;
  looksAtOnce: number;
  pollMs: number;
  leaseMs: number;
}

const BEAT_EVERY = 5 * SECOND;
const PARTITIONS_AHEAD = 40 * DAY;

/** Claims due sources and handles mail jobs. Holds no state: any number of workers share one database. */
export class Worker {
  readonly #id = randomUUID();
  readonly #running = new Set<Promise<void>>();
  #stopping = new AbortController();
  #loop: Promise<void> | null = null;
  #lastBeat: Instant = 0;
  #lastPrepared: Instant = 0;
  #startedAt: Instant = 0;

  constructor(
    private readonly pipeline: Pipeline,
    private readonly post: Post,
    private readonly looking: Looking,
    private readonly options: WorkerOptions,
  ) {}

  async start(): Promise<void> {
    this.#startedAt = this.pipeline.clock();
    await this.#prepare(this.#startedAt);
    await this.post.jobs.workMail((job) => deliver(this.post, job.delivery), this.options.mailsAtOnce);
    await this.post.jobs.workLooks((job) => takeLook(this.looking, job), this.options.looksAtOnce);
    this.#loop = this.#run();
    this.pipeline.log.info({ worker: this.#id, ...this.options }, 'worker started');
  }

  /** Takes no more work, lets what runs end, and says goodbye. */
  async stop(): Promise<void> {
    this.#stopping.abort();
    await this.#loop;
    await Promise.all(this.#running);
    await this.post.jobs.close();
    await retire(this.pipeline.pool, this.#id);
    this.pipeline.log.info({ worker: this.#id }, 'worker stopped');
  }

  async #run(): Promise<void> {
    const { signal } = this.#stopping;
    while (!signal.aborted) {
      const claimed = await this.#claim().catch((error: unknown) => {
        this.pipeline.log.error({ err: error }, 'claiming failed');
        return 0;
      });
      if (this.#running.size >= this.options.runsAtOnce) await Promise.race(this.#running);
      else if (claimed === 0) await this.#rest(signal);
    }
  }

  async #claim(): Promise<number> {
    const now = this.pipeline.clock();
    if (now - this.#lastBeat >= BEAT_EVERY) {
      this.#lastBeat = now;
      await beat(this.pipeline.pool, { id: this.#id, process: `${hostname()} ${process.pid}`, startedAt: this.#startedAt }, now);
    }
    if (now - this.#lastPrepared >= DAY) await this.#prepare(now);
    const room = this.options.runsAtOnce - this.#running.size;
    if (room <= 0) return 0;
    const sources = await claimDue(this.pipeline.pool, now, this.options.leaseMs, room);
    for (const source of sources) this.#launch(source);
    return sources.length;
  }

  async #prepare(now: Instant): Promise<void> {
    await preparePartitions(this.pipeline, now);
    this.#lastPrepared = now;
  }

  #launch(source: ClaimedSource): void {
    const run = runSource(this.pipeline, source)
      .then((summary) => this.pipeline.log.info({ source: source.id, ...summary }, 'run'))
      .catch((error: unknown) => this.pipeline.log.error({ source: source.id, err: error }, 'run failed to store'))
      .finally(() => this.#running.delete(run));
    this.#running.add(run);
  }

  async #rest(signal: AbortSignal): Promise<void> {
    const woken = [...this.#running, sleep(this.options.pollMs, undefined, { signal }).catch(() => undefined)];
    await Promise.race(woken);
  }
}

/** Makes the partitions of readings for the time around a moment. */
export async function preparePartitions({ pool }: Pick<Pipeline, 'pool'>, from: Instant, to: Instant = from + PARTITIONS_AHEAD): Promise<void> {
  await pool.query('SELECT make_reading_partitions($1, $2)', [moment(from), moment(to)]);
}
