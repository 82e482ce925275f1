import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { fail, ok, type Result } from '#core/result';
import { SECOND } from '#core/when/interval';
import { programText } from '../programs';
import type { Asked, Done, TaskName, TextBody } from './tasks';
import type { ThreadJob, ThreadSaid } from './thread';

/** Why a task came to nothing, told as the end of a sentence that begins with what it was done on. */
export type TaskProblem =
  | { reason: 'too long'; seconds: number }
  | { reason: 'too much' }
  | { reason: 'broken'; detail: string }
  | { reason: 'busy' };

/** What became of a task, as a sentence about the thing that was worked on. */
export function describeTaskProblem(problem: TaskProblem, subject = 'this page'): string {
  switch (problem.reason) {
    case 'too long':
      return (
        `${capital(subject)} takes too long: after ${problem.seconds} s it was given up. Something simpler may be ` +
        'quick enough.'
      );
    case 'too much':
      return `${capital(subject)} takes more memory than it may, and was given up.`;
    case 'broken':
      return `${capital(subject)} could not be worked on. The fault is Shrike’s own: the log says more.`;
    case 'busy':
      return 'Shrike is busy with other pages just now. Try again in a moment.';
  }
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** How a pool goes about it. */
export interface PoolOptions {
  threads: number;
  /**
   * For each step of a job, of the time that its thread works on it: what it waits for a busy machine costs it nothing,
   * within reason.
   */
  deadlineMs: number;
  /** Whether threads hold on to bodies, since what was asked of one will be asked again. */
  hold: boolean;
  onProblem?: (problem: TaskProblem, task: TaskName) => void;
  /** For whom a job is done; null where nobody waits for it. One of many who ask has no more than a share of it all. */
  whoAsks?: () => string | null;
}

const MEMORY_MB = 512;
const MOST_WAITING = 400;
/** Of those, so many for one who asks. */
const MOST_ASKED = 40;
/** A job that has cost so many threads is given up as a whole. */
const MOST_COST = 4;
/** A step is given up after so many times its deadline, however little its thread came to work on it. */
const MOST_PATIENCE = 4;
/** What is left of a deadline that is not worth waiting for, in milliseconds. */
const HARDLY = 5;

interface Step {
  task: TaskName;
  asked: unknown;
}

interface Job {
  of: string | null;
  bodies: TextBody[];
  steps: Step[];
  /** How each step came out, as far as it has. */
  done: (Result<unknown, TaskProblem> | undefined)[];
  resolve: (done: Result<unknown, TaskProblem>[]) => void;
  /** Others go first: it has cost threads already. */
  slow: boolean;
  /** How many threads it has cost. */
  cost: number;
}

interface Thread {
  worker: Worker;
  held: Set<string>;
  job: Job | null;
  /** The places in the job of the steps that were given to it. */
  steps: number[];
  timer: NodeJS.Timeout | undefined;
  ready: boolean;
  /** The system's number of the thread, where it has one. */
  tid: string | null;
}

/**
 * How long a thread has worked so far, in milliseconds, by the system's own count; null where that is not told
 * (proc(5), schedstat).
 */
function workedMs({ tid }: Thread): number | null {
  if (tid === null) return null;
  try {
    return Number(readFileSync(`/proc/self/task/${tid}/schedstat`, 'utf8').split(' ')[0]) / 1e6;
  } catch {
    return null;
  }
}

/** A key that says which text it is, whatever it is a text of. */
export function bodyOf(text: string): TextBody {
  return { key: createHash('sha256').update(text).digest('base64'), text };
}

/**
 * Threads in which pages are read, selected in, matched, mended and proposed. What a page or a path makes of that ends
 * with its deadline and its memory, and costs nobody else more than the thread.
 */
export class ReadingPool {
  readonly #threads: Thread[] = [];
  readonly #waiting: Job[] = [];
  /** The last turn of each who waits. */
  readonly #turns = new Map<string | null, number>();
  #turn = 0;
  #starting = 0;
  #closed = false;

  constructor(private readonly options: PoolOptions) {}

  /** Does one task on some bodies. */
  async run<Name extends TaskName>(
    task: Name,
    asked: Asked<Name>,
    bodies: TextBody[],
  ): Promise<Result<Done<Name>, TaskProblem>> {
    const [done] = await this.each(task, [asked], bodies);
    return done ?? fail({ reason: 'broken', detail: 'it was not done' });
  }

  /**
   * Does one task on the same bodies for several askers; each has a deadline of its own, and none suffers from another.
   */
  async each<Name extends TaskName>(
    task: Name,
    asked: Asked<Name>[],
    bodies: TextBody[],
    slow = false,
  ): Promise<Result<Done<Name>, TaskProblem>[]> {
    if (asked.length === 0) return [];
    const of = this.options.whoAsks?.() ?? null;
    if (this.#isFullFor(of)) return asked.map(() => fail({ reason: 'busy' }));
    const steps = asked.map((each) => ({ task, asked: each }));
    const done = await new Promise<Result<unknown, TaskProblem>[]>((resolve) => {
      this.#queue({ of, bodies, steps, done: steps.map(() => undefined), resolve, slow, cost: 0 });
    });
    return done as Result<Done<Name>, TaskProblem>[];
  }

  /** Ends its threads; what waits is told that nobody has time for it. */
  async close(): Promise<void> {
    this.#closed = true;
    for (const job of this.#waiting.splice(0)) giveUp(job, { reason: 'busy' });
    await Promise.all(this.#threads.splice(0).map((thread) => this.#end(thread)));
  }

  #isFullFor(of: string | null): boolean {
    if (this.#closed || this.#waiting.length >= MOST_WAITING) return true;
    return of !== null && this.#waiting.filter((job) => job.of === of).length >= MOST_ASKED;
  }

  #queue(job: Job): void {
    const before = job.slow ? -1 : this.#waiting.findIndex((each) => each.slow);
    if (before < 0) this.#waiting.push(job);
    else this.#waiting.splice(before, 0, job);
    this.#assign();
  }

  #assign(): void {
    for (let job = this.#next(); job !== undefined; job = this.#next()) {
      const thread = this.#freeFor(job);
      if (thread === null) return this.#grow();
      this.#waiting.splice(this.#waiting.indexOf(job), 1);
      this.#hadTurn(job);
      this.#give(thread, job);
    }
  }

  /** The first of those who had their last turn longest ago; what has cost threads already comes last. */
  #next(): Job | undefined {
    const quick = this.#waiting.filter(({ slow }) => !slow);
    const waiting = quick.length > 0 ? quick : this.#waiting;
    const turnOf = ({ of }: Job) => this.#turns.get(of) ?? 0;
    return waiting.reduce<Job | undefined>(
      (first, job) => (first === undefined || turnOf(job) < turnOf(first) ? job : first),
      undefined,
    );
  }

  /** Notes whose turn it was; nothing is known of those who wait for nothing. */
  #hadTurn({ of }: Job): void {
    this.#turn += 1;
    const waits = new Set(this.#waiting.map((job) => job.of));
    for (const each of this.#turns.keys()) if (!waits.has(each)) this.#turns.delete(each);
    this.#turns.set(of, this.#turn);
  }

  /** A thread that has nothing to do, before others the one that holds most of what the job needs. */
  #freeFor(job: Job): Thread | null {
    const free = this.#threads.filter((thread) => thread.job === null);
    const heldBy = ({ held }: Thread) => job.bodies.filter(({ key }) => held.has(key)).length;
    return free.reduce<Thread | null>(
      (best, thread) => (best === null || heldBy(thread) > heldBy(best) ? thread : best),
      null,
    );
  }

  #grow(): void {
    if (this.#closed || this.#threads.length + this.#starting >= this.options.threads) return;
    this.#starting += 1;
    void programText('#server/reading/thread', 'bundle')
      .then((code) => this.#start(code))
      .catch((error: unknown) => this.#cannotStart({ reason: 'broken', detail: String(error) }))
      .finally(() => {
        this.#starting -= 1;
        if (this.#waiting.length > 0) this.#assign();
      });
  }

  #cannotStart(problem: TaskProblem): void {
    this.options.onProblem?.(problem, 'read');
    for (const job of this.#waiting.splice(0)) giveUp(job, problem);
  }

  #start(code: string): void {
    if (this.#closed) return;
    const worker = new Worker(code, {
      eval: true,
      execArgv: [],
      env: {},
      resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
    });
    worker.unref();
    const thread: Thread = { worker, held: new Set(), job: null, steps: [], timer: undefined, ready: false, tid: null };
    worker.on('online', () => {
      thread.ready = true;
      if (thread.job !== null) this.#watch(thread);
    });
    worker.on('message', (said: ThreadSaid) => this.#hear(thread, said));
    worker.on('error', (error: Error & { code?: string }) => {
      const much = error.code === 'ERR_WORKER_OUT_OF_MEMORY';
      this.#lose(thread, much ? { reason: 'too much' } : { reason: 'broken', detail: error.stack ?? String(error) });
    });
    worker.on('exit', () => this.#lose(thread, { reason: 'broken', detail: 'its thread ended' }));
    this.#threads.push(thread);
  }

  #give(thread: Thread, job: Job): void {
    const steps = job.done.flatMap((done, at) => (done === undefined ? [at] : []));
    thread.job = job;
    thread.steps = steps;
    const asked: ThreadJob = {
      bodies: job.bodies.filter(({ key }) => !thread.held.has(key)),
      steps: steps.flatMap((at) => job.steps[at] ?? []),
      hold: this.options.hold,
    };
    thread.worker.postMessage(asked);
    if (thread.ready) this.#watch(thread);
  }

  /** Counts the time of the step that is next, from now on. */
  #watch(thread: Thread): void {
    this.#wait(thread, workedMs(thread), this.options.deadlineMs, 0);
  }

  /**
   * Looks again when the deadline may be over, and gives the step up where its thread worked so long, or waited far
   * longer.
   */
  #wait(thread: Thread, from: number | null, ms: number, waited: number): void {
    const { deadlineMs } = this.options;
    clearTimeout(thread.timer);
    thread.timer = setTimeout(() => {
      const [now, passed] = [workedMs(thread), waited + ms];
      const left = now === null ? 0 : deadlineMs - (now - (from ?? 0));
      if (left > HARDLY && passed < MOST_PATIENCE * deadlineMs) return this.#wait(thread, from, left, passed);
      this.#lose(thread, { reason: 'too long', seconds: Math.round(deadlineMs / SECOND) });
    }, ms);
  }

  #hear(thread: Thread, said: ThreadSaid): void {
    if ('tid' in said) {
      thread.tid = said.tid;
      return;
    }
    const { job } = thread;
    if (job === null) return;
    if ('held' in said) {
      clearTimeout(thread.timer);
      thread.job = null;
      thread.held = new Set(said.held);
      job.resolve(job.done as Result<unknown, TaskProblem>[]);
      return this.#assign();
    }
    const at = thread.steps[said.step] ?? 0;
    job.done[at] = 'threw' in said ? this.#blame(job, at, { reason: 'broken', detail: said.threw }) : ok(said.done);
    this.#watch(thread);
  }

  #blame(job: Job, at: number, problem: TaskProblem): Result<never, TaskProblem> {
    this.options.onProblem?.(problem, job.steps[at]?.task ?? 'read');
    return fail(problem);
  }

  /**
   * A thread that did not come to an end with a step, or came to its own: the step has failed, and the rest goes to
   * another.
   */
  #lose(thread: Thread, problem: TaskProblem): void {
    const place = this.#threads.indexOf(thread);
    if (place < 0) return;
    this.#threads.splice(place, 1);
    void this.#end(thread);
    const { job } = thread;
    if (job !== null) {
      const at = job.done.findIndex((done) => done === undefined);
      if (at >= 0) job.done[at] = this.#blame(job, at, problem);
      if (job.done.includes(undefined) && job.cost + 1 < MOST_COST)
        this.#queue({ ...job, slow: true, cost: job.cost + 1 });
      else giveUp(job, problem);
    }
    // Whatever comes next need not wait for a thread to start; of threads that do not even start no more are tried.
    if (thread.ready) this.#grow();
    else this.#cannotStart(problem);
  }

  async #end(thread: Thread): Promise<void> {
    clearTimeout(thread.timer);
    thread.worker.removeAllListeners();
    thread.worker.on('error', () => undefined);
    if (this.#closed && thread.job !== null) giveUp(thread.job, { reason: 'busy' });
    await thread.worker.terminate();
  }
}

function giveUp(job: Job, problem: TaskProblem): void {
  job.resolve(job.done.map((done) => done ?? fail(problem)));
}
