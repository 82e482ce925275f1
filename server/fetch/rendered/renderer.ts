import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { fail, ok, type Result } from '#core/result';
import { bodyOf, describeTaskProblem, type ReadingPool } from '../../reading/pool';
import { endAll, memoryOf, processesBelow } from '../../processes';
import { programText, ROOT } from '../../programs';
import type { AddressRules } from '../addresses';
import { NO_TRUST, type Trust } from '../connector';
import type { FetchedPage } from '../fetcher';
import type { FetchProblem } from '../problem';
import type { Sealed } from '../sealed';
import type {
  FromProcess,
  Questions,
  RenderedPage,
  RenderLimits,
  RenderRequest,
  StepPicture,
  Taken,
  ToProcess,
} from './messages';

const IDLE_MS = 60_000;
/** Beside the time that a page may take: for a browser to start, and to be closed. */
const GRACE_MS = 20_000;
const LEAVE_MS = 5_000;
const MEMORY_EVERY_MS = 1_000;
/** Of a browser's processes together; each by itself is bounded by the system. */
const MOST_MEMORY = 1_500_000_000;
const ENDED: FetchProblem = { reason: 'not rendered', detail: 'the browser came to an end over this page' };

const NOT_STARTED: FetchProblem = { reason: 'not rendered', detail: 'the browser’s program could not be made' };

/**
 * Renders pages in Chromium, few at once, each in a process of its own: a page that ends it, or that fills it, costs
 * itself.
 */
export class Renderer {
  readonly #processes: BrowserProcess[] = [];
  readonly #waiting: ((free: BrowserProcess) => void)[] = [];
  readonly #questions: Questions;

  constructor(
    rules: AddressRules,
    private readonly limits: RenderLimits,
    open: (sealed: Sealed, host: string) => string | null,
    reading: ReadingPool,
    trust: Trust = NO_TRUST,
  ) {
    this.#questions = {
      check: (host, port) => rules.check(host, port),
      open: (sealed, host) => Promise.resolve(open(sealed, host)),
      trusted: trust,
      guard: async (html, guard, address) => {
        const body = bodyOf(html);
        const checked = await reading.run('guard', { body: { key: body.key, receivedAt: 0 }, guard, address }, [body]);
        return checked.ok ? checked.value : describeTaskProblem(checked.error, 'checking this page');
      },
    };
  }

  /** Renders one page after its steps. Every failure is a stated problem. */
  async render(request: RenderRequest): Promise<Result<FetchedPage, FetchProblem>> {
    const taken = await this.#take('render', request);
    const result = taken.what === 'render' ? taken.result : fail(ENDED);
    return result.ok ? ok(asFetched(result.value)) : result;
  }

  /** Takes the steps one by one with a picture after each; stops at the first that cannot be taken. */
  async trySteps(request: RenderRequest): Promise<Result<StepPicture[], FetchProblem>> {
    const taken = await this.#take('try', request);
    return taken.what === 'try' ? taken.result : fail(ENDED);
  }

  /** The addresses that browsers were refused, the latest last. */
  refused(): string[] {
    return this.#processes.flatMap((each) => each.refused);
  }

  async close(): Promise<void> {
    await Promise.all(this.#processes.splice(0).map((each) => each.close()));
  }

  async #take(what: Taken['what'], request: RenderRequest): Promise<Taken> {
    const free = await this.#free();
    try {
      return await free.take(what, request);
    } finally {
      const next = this.#waiting.shift();
      if (next === undefined) free.busy = false;
      else next(free);
    }
  }

  async #free(): Promise<BrowserProcess> {
    const idle = this.#processes.find((each) => !each.busy);
    if (idle === undefined && this.#processes.length >= this.limits.pagesAtOnce)
      return new Promise((resolve) => this.#waiting.push(resolve));
    const free = idle ?? new BrowserProcess(this.limits, this.#questions);
    if (idle === undefined) this.#processes.push(free);
    free.busy = true;
    return free;
  }
}

function asFetched({ status, html, finalAddress, picture }: RenderedPage): FetchedPage {
  return {
    kind: 'page',
    status,
    bytes: Buffer.byteLength(html),
    body: () => html,
    hash: createHash('sha256').update(html).digest(),
    finalAddress,
    etag: null,
    lastModified: null,
    contentType: 'text/html',
    picture,
  };
}

/**
 * A place in which one page is taken at a time, by a process that is started when it is needed and let go when it is
 * not.
 */
class BrowserProcess {
  busy = false;
  refused: string[] = [];
  #child: ChildProcess | null = null;
  #taking: { id: number; end: (taken: Taken) => void } | null = null;
  #taken = 0;
  #idle: NodeJS.Timeout | undefined;
  #memory: NodeJS.Timeout | undefined;

  constructor(
    private readonly limits: RenderLimits,
    private readonly questions: Questions,
  ) {}

  /**
   * Takes a page. Where the process ends that has taken others before, what they left behind may be at fault: this one
   * is taken again by a process of its own, once.
   */
  async take(what: Taken['what'], request: RenderRequest): Promise<Taken> {
    clearTimeout(this.#idle);
    const program = await programText('#server/fetch/rendered/process', 'external').catch(() => null);
    if (program === null) return { what, result: fail(NOT_STARTED) };
    const used = this.#child !== null;
    const taken = await this.#takeOnce(program, what, request);
    const again = used && !taken.result.ok && taken.result.error === ENDED;
    const last = again ? await this.#takeOnce(program, what, request) : taken;
    this.#idle = setTimeout(() => void this.close(), IDLE_MS).unref();
    return last;
  }

  async #takeOnce(program: string, what: Taken['what'], request: RenderRequest): Promise<Taken> {
    const child = (this.#child ??= this.#start(program));
    this.#taken += 1;
    const id = this.#taken;
    const late = Math.round(this.limits.timeoutMs / 1000);
    let timer: NodeJS.Timeout | undefined;
    const taken = await new Promise<Taken>((resolve) => {
      this.#taking = { id, end: resolve };
      timer = setTimeout(() => {
        this.#kill();
        resolve({ what, result: fail({ reason: 'timed out', seconds: late }) });
      }, this.limits.timeoutMs + GRACE_MS);
      send(child, { take: id, what, request, limits: this.limits });
    });
    clearTimeout(timer);
    this.#taking = null;
    return taken.what === what ? taken : { what, result: fail(ENDED) };
  }

  /** Lets the browser go, and insists where it does not. */
  async close(): Promise<void> {
    clearTimeout(this.#idle);
    const child = this.#child;
    if (child === null) return;
    const gone = new Promise<void>((resolve) => child.once('exit', () => resolve()));
    send(child, { close: true });
    const insist = setTimeout(() => this.#kill(), LEAVE_MS);
    await gone;
    clearTimeout(insist);
  }

  #start(program: string): ChildProcess {
    const child = spawn(process.execPath, ['--input-type=module'], {
      cwd: ROOT,
      serialization: 'advanced',
      stdio: ['pipe', 'ignore', 'inherit', 'ipc'],
      // Nothing of ours is told to it: no key, no address of the database.
      env: { PATH: process.env.PATH ?? '/usr/bin:/bin', NODE_ENV: process.env.NODE_ENV, TMPDIR: process.env.TMPDIR },
    });
    // One that ends before it has read its program is lost as any other is.
    child.stdin?.on('error', () => undefined).end(program);
    child.on('message', (message: FromProcess) => this.#hear(child, message));
    child.on('error', () => this.#lost(child));
    child.on('exit', () => this.#lost(child));
    this.#memory = setInterval(() => this.#bound(child), MEMORY_EVERY_MS).unref();
    return child;
  }

  #hear(child: ChildProcess, message: FromProcess): void {
    if ('taken' in message) {
      this.refused = message.refused;
      if (this.#taking?.id === message.taken) this.#taking.end(message.by);
      return;
    }
    const { ask, question, given } = message;
    const answer = (this.questions[question] as (...given: unknown[]) => Promise<unknown>)(...given);
    answer.then(
      (value) => send(child, { answer: ask, value }),
      (error: unknown) => send(child, { answer: ask, failed: error instanceof Error ? error.message : String(error) }),
    );
  }

  /** A page whose processes together hold too much ends with them. */
  #bound(child: ChildProcess): void {
    if (child.pid === undefined || this.#taking === null) return;
    if (memoryOf(processesBelow(child.pid)) > MOST_MEMORY) this.#kill();
  }

  #kill(): void {
    const { pid } = this.#child ?? {};
    if (pid !== undefined) endAll([...processesBelow(pid), pid]);
  }

  #lost(child: ChildProcess): void {
    if (this.#child !== child) return;
    this.#child = null;
    clearInterval(this.#memory);
    this.#taking?.end({ what: 'render', result: fail(ENDED) });
  }
}

function send(child: ChildProcess, message: ToProcess): void {
  if (child.connected) child.send(message, () => undefined);
}
