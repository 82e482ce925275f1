import { randomUUID } from 'node:crypto';
import { hostname } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { DAY, HOUR, MINUTE, SECOND, type Instant } from '#core/when/interval';
import { preparePartitions } from '../db/base/partitions';
import { tallyHours } from '../db/watch/coverage';
import type { Retention } from '#core/retention';
import { removeOld, retentionNow } from '../db/base/retention';
import { placeNews } from '../db/report/reports';
import type { Topic } from '../db/base/signals';
import { claimDue, renewLeases, type ClaimedSource, type Due } from '../db/source/sources';
import { refreshStandings } from '../db/watch/standings';
import { beat, retire } from '../db/base/workers';
import type { Post } from '../deliver/post';
import type { PreviewJob } from './jobs';
import { deliver } from '../deliver/deliver';
import { moveClock } from '../pipeline/clock';
import { runSource, type Pipeline, type RunSummary } from '../pipeline/run';
import { takePreview, type Previewing } from './preview';
import { Storage } from './storage';

/** How a worker goes about it. */
export interface WorkerOptions {
  /** Of what is fetched plainly or posted. */
  runsAtOnce: number;
  /** Of rendered pages, which take their time and so have places of their own. */
  rendersAtOnce: number;
  mailsAtOnce: number;
  looksAtOnce: number;
  pollMs: number;
  leaseMs: number;
  retention: Retention;
}

const BEAT_EVERY = 5 * SECOND;
const BEATS_A_LEASE = 3;
/** A beat that hangs this long, as on a lost connection, is waited for no longer: the next one takes another. */
const BEAT_MOST = 15 * SECOND;
/** A run older than this is taken for stuck: its lease is let go, and another worker may take the source up. */
const STUCK_AFTER = 10 * MINUTE;
const TIDY_EVERY = HOUR;
const RESTAND_EVERY = SECOND;
const RESTANDS = 200;

/** The places in which a worker runs sources of some kind. */
interface Lane {
  due: Due;
  places: number;
  running: Map<ClaimedSource, { since: Instant; run: Promise<void> }>;
}

/** Claims due sources and handles mail jobs. Holds no state: any number of workers share one database. */
export class Worker {
  readonly #id = randomUUID();
  readonly #storage: Storage;
  readonly #lanes: Lane[];
  #stopping = new AbortController();
  #loop: Promise<void> | null = null;
  #pulse: NodeJS.Timeout | undefined;
  /**
   * Each null while nothing of it is under way: what waits for the database is not joined by more of the same at each
   * beat.
   */
  #holding: Promise<void> | null = null;
  #beating: Promise<void> | null = null;
  #lastPrepared: Instant = 0;
  #lastTidied: Instant = 0;
  #tidying: Promise<void> = Promise.resolve();
  #lastRestood: Instant = 0;
  #restanding: Promise<void> = Promise.resolve();
  /** Null while nothing is under way. */
  #clockwork: Promise<void> | null = null;
  #startedAt: Instant = 0;

  constructor(
    private readonly pipeline: Pipeline,
    private readonly post: Post,
    private readonly looking: Previewing,
    private readonly options: WorkerOptions,
  ) {
    this.#storage = new Storage(pipeline.pool, pipeline.clock, pipeline.log);
    this.#lanes = [
      { due: { ways: ['plain', 'posted'], suspects: false }, places: options.runsAtOnce, running: new Map() },
      { due: { ways: ['rendered'], suspects: false }, places: options.rendersAtOnce, running: new Map() },
      // One by one, so that the next end of a process says which of them it was.
      { due: { suspects: true }, places: 1, running: new Map() },
    ];
  }

  async start(): Promise<void> {
    this.#startedAt = this.pipeline.clock();
    await this.#prepare(this.#startedAt);
    await this.#beat();
    this.#pulse = setInterval(() => this.#pulsate(), Math.min(BEAT_EVERY, this.options.leaseMs / BEATS_A_LEASE));
    const { signals } = this.pipeline;
    const isReady = () => this.#storage.fullSince === null;
    this.post.jobs.workMail(
      (job) => this.#noticing(deliver(this.post, job.delivery)).finally(() => signals.say('outbox')),
      this.options.mailsAtOnce,
      isReady,
    );
    const look = async (job: PreviewJob) => {
      const draft = await takePreview(this.looking, job);
      if (draft !== null) signals.say(`draft:${draft}`);
    };
    this.post.jobs.workLooks((job) => this.#noticing(look(job)), this.options.looksAtOnce, isReady);
    this.#loop = this.#run();
    this.pipeline.log.info({ worker: this.#id, ...this.options }, 'worker started');
  }

  /** Takes no more work, lets what runs end, and says goodbye. */
  async stop(): Promise<void> {
    this.#stopping.abort();
    await this.#loop;
    await Promise.all([...this.#running(), this.#tidying, this.#restanding, this.#clockwork]);
    await this.post.jobs.close();
    clearInterval(this.#pulse);
    await Promise.all([this.#holding, this.#beating]);
    await retire(this.pipeline.pool, this.#id);
    this.pipeline.log.info({ worker: this.#id }, 'worker stopped');
  }

  /** Work whose errors may say that there is no room. */
  async #noticing(work: Promise<void>): Promise<void> {
    try {
      await work;
    } catch (error) {
      this.#storage.noticed(error);
      throw error;
    }
  }

  #running = () => this.#lanes.flatMap((lane) => [...lane.running.values()].map(({ run }) => run));

  async #run(): Promise<void> {
    const { signal } = this.#stopping;
    while (!signal.aborted) {
      const claimed = await this.#claim().catch((error: unknown) => {
        this.#storage.noticed(error);
        this.pipeline.log.error({ err: error }, 'claiming failed');
        return 0;
      });
      if (claimed === 0) await this.#rest(signal);
    }
  }

  /** What is run is held on to whatever else has to wait. */
  #pulsate(): void {
    this.#holding ??= atMost(this.#hold(), BEAT_MOST).finally(() => (this.#holding = null));
    this.#beating ??= atMost(this.#beat(), BEAT_MOST).finally(() => (this.#beating = null));
  }

  /** Holds on to what it runs, however long that takes. */
  async #hold(): Promise<void> {
    const { pool, clock, log } = this.pipeline;
    const now = clock();
    const held = this.#lanes.flatMap(({ running }) =>
      [...running].flatMap(([source, { since }]) => (now - since < STUCK_AFTER ? source : [])),
    );
    await renewLeases(pool, held, now + this.options.leaseMs).catch((error: unknown) =>
      log.error({ err: error }, 'leases were not renewed'),
    );
  }

  /** Says that this worker lives. */
  async #beat(): Promise<void> {
    const { pool, lost, clock, log } = this.pipeline;
    try {
      await beat(
        pool,
        {
          id: this.#id,
          process: `${hostname()} ${process.pid}`,
          startedAt: this.#startedAt,
          lost: lost.count,
          fullSince: this.#storage.fullSince,
        },
        clock(),
      );
      await placeNews(pool);
    } catch (error) {
      log.error({ err: error }, 'the pulse missed a beat');
    }
  }

  async #claim(): Promise<number> {
    if (!(await this.#storage.hasRoom())) return 0;
    const now = this.pipeline.clock();
    if (now - this.#lastPrepared >= DAY) await this.#prepare(now);
    if (now - this.#lastTidied >= TIDY_EVERY) this.#tidy(now);
    if (now - this.#lastRestood >= RESTAND_EVERY) this.#restand(now);
    this.#clockwork ??= this.#moveClock(now).finally(() => (this.#clockwork = null));
    let claimed = 0;
    for (const lane of this.#lanes) {
      const room = lane.places - lane.running.size;
      const sources = room > 0 ? await claimDue(this.pipeline.pool, now, this.options.leaseMs, room, lane.due) : [];
      for (const source of sources) this.#launch(lane, source);
      claimed += sources.length;
    }
    return claimed;
  }

  /** Should it fail, there is still the partition for all the rest. */
  async #prepare(now: Instant): Promise<void> {
    this.#lastPrepared = now;
    await preparePartitions(this.pipeline.pool, now).catch((error: unknown) =>
      this.pipeline.log.error({ err: error }, 'no partitions were made'),
    );
  }

  /** Lets go of what has grown old, beside everything else. */
  #tidy(now: Instant): void {
    this.#lastTidied = now;
    const { pool, log } = this.pipeline;
    this.#tidying = tallyHours(pool, now)
      .then(() => retentionNow(pool, this.options.retention))
      .then((retention) => removeOld(pool, retention, now, this.#stopping.signal))
      .then((removed) => log.info({ removed }, 'tidied'))
      .catch((error: unknown) => log.error({ err: error }, 'tidying failed'));
  }

  /** Works out anew how watches stand that moved; as long as that takes, no more of it is begun. */
  #restand(now: Instant): void {
    this.#lastRestood = Infinity;
    this.#restanding = this.#restandAll(now)
      .catch((error: unknown) => this.pipeline.log.error({ err: error }, 'how watches stand was not worked out'))
      .finally(() => (this.#lastRestood = this.pipeline.clock()));
  }

  async #restandAll(now: Instant): Promise<void> {
    const { signal } = this.#stopping;
    let moved: number[];
    do {
      moved = await refreshStandings(this.pipeline.pool, now, RESTANDS);
      if (moved.length > 0) this.pipeline.signals.say('watches', ...moved.map((id) => `watch:${id}` as const));
    } while (!signal.aborted && moved.length === RESTANDS);
  }

  /** Moves on what only the clock moves, beside the runs. */
  async #moveClock(now: Instant): Promise<void> {
    try {
      const moved = await moveClock(this.pipeline, now, this.#stopping.signal);
      if (moved.begun + moved.ended + moved.woken + moved.cuts + moved.mails === 0) return;
      this.pipeline.log.info({ ...moved }, 'moved by the clock');
      this.pipeline.signals.say('watches', ...(moved.alerts + moved.mails > 0 ? (['outbox'] as const) : []));
    } catch (error) {
      this.#storage.noticed(error);
      this.pipeline.log.error({ err: error }, 'not all was moved by the clock');
    }
  }

  #launch({ running }: Lane, source: ClaimedSource): void {
    const run = runSource(this.pipeline, source)
      .then((summary) => {
        this.pipeline.log.info({ source: source.id, ...summary }, 'run');
        this.pipeline.signals.say('runs', `source:${source.id}`, ...movedBy(summary));
      })
      .catch((error: unknown) => {
        this.#storage.noticed(error, source);
        this.pipeline.log.error({ source: source.id, err: error }, 'run failed to store');
      })
      .finally(() => running.delete(source));
    running.set(source, { since: this.pipeline.clock(), run });
  }

  async #rest(signal: AbortSignal): Promise<void> {
    await Promise.race([...this.#running(), sleep(this.options.pollMs, undefined, { signal }).catch(() => undefined)]);
  }
}

const atMost = (work: Promise<void>, ms: number): Promise<void> =>
  Promise.race([work, sleep(ms, undefined, { ref: false })]);

/**
 * What a run moved that is shown elsewhere than with its own source. How a watch stands is told when that is worked
 * out.
 */
function movedBy({ changes, alerts, notices }: RunSummary): Topic[] {
  const moved: Topic[] = changes > 0 ? ['watches'] : [];
  return alerts + notices > 0 ? [...moved, 'outbox'] : moved;
}
