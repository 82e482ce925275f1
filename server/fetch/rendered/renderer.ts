import { createHash } from 'node:crypto';
import type { BrowserContext, Locator, Page, Response } from 'playwright-core';
import type { Guard } from '#core/read/guard';
import { fail, ok, type Result } from '#core/result';
import { bodyOf, describeTaskProblem, type ReadingPool } from '../../reading/pool';
import type { AddressRules } from '../addresses';
import { certificateShown } from '../certificate';
import { NO_TRUST, retryAfter, type FetchedPage, type Trust } from '../fetcher';
import type { FetchProblem } from '../problem';
import type { Sealed } from '../request';
import { startBrowser, type RunningBrowser } from './browser';
import { captureExpression, type Capture } from './capture';
import { PICTURE_HEIGHT, PICTURE_WIDTH } from './picture';
import { FilteringProxy, REFUSED } from './proxy';
import { redact } from './redact';
import { describeStep, type Step, type Target } from './steps';

/** Bounds on rendering. */
export interface RenderLimits {
  executable: string;
  pagesAtOnce: number;
  timeoutMs: number;
  mostBytes: number;
  userAgent: string;
}

/** What to render. */
export interface RenderRequest {
  address: string;
  steps: Step[];
}

/** A picture after one step, while steps are tried. */
export interface StepPicture {
  said: string;
  image: Buffer;
  problem: string | null;
}

const MOST_ELEMENTS = 20_000;
const PAGES_A_BROWSER = 60;
const SETTLE_MS = 400;
const QUIET_MS = 4_000;
const STEP_MS = 8_000;
const IDLE_MS = 60_000;

/** Why a step was not taken. */
class StepFailed extends Error {
  constructor(readonly problem: FetchProblem) {
    super(problem.reason);
  }
}

/** Renders pages in Chromium: few at once, each in a context of its own, within time and memory, by way of the filtering proxy. */
export class Renderer {
  #proxy: Promise<FilteringProxy> | null = null;
  #running: Promise<RunningBrowser> | null = null;
  #served = 0;
  #active = 0;
  #idle: ReturnType<typeof setTimeout> | undefined;
  readonly #waiting: (() => void)[] = [];

  constructor(
    private readonly rules: AddressRules,
    private readonly limits: RenderLimits,
    private readonly open: (sealed: Sealed, host: string) => string | null,
    private readonly reading: ReadingPool,
    private readonly trust: Trust = NO_TRUST,
  ) {}

  /** Renders one page after its steps. Every failure is a stated problem. */
  async render(request: RenderRequest): Promise<Result<FetchedPage, FetchProblem>> {
    return this.#inContext(request.address, async (page) => {
      const response = await this.#arrive(page, request.address);
      for (const [at, step] of request.steps.entries()) await this.#take(page, step, at + 1, request.address);
      return this.#capture(page, response, this.#secretsOf(request));
    });
  }

  /** Takes the steps one by one with a picture after each; stops at the first that cannot be taken. */
  async trySteps(request: RenderRequest): Promise<Result<StepPicture[], FetchProblem>> {
    return this.#inContext(request.address, async (page) => {
      await this.#arrive(page, request.address);
      const pictures: StepPicture[] = [{ said: `open ${request.address}`, image: await glance(page), problem: null }];
      for (const [at, step] of request.steps.entries()) {
        const problem = await this.#take(page, step, at + 1, request.address).then(
          () => null,
          (error: unknown) => (error instanceof StepFailed && error.problem.reason === 'step' ? error.problem.detail : String(error)),
        );
        pictures.push({ said: describeStep(step), image: await glance(page), problem });
        if (problem !== null) break;
      }
      return ok(pictures);
    });
  }

  /** The addresses that the browser was refused, the latest last. */
  async refused(): Promise<string[]> {
    return this.#proxy === null ? [] : (await this.#proxy).refused;
  }

  async close(): Promise<void> {
    clearTimeout(this.#idle);
    const [running, proxy] = [this.#running, this.#proxy];
    this.#running = null;
    this.#proxy = null;
    await (await running?.catch(() => null))?.close();
    await (await proxy)?.close();
  }

  async #inContext<T>(address: string, work: (page: Page) => Promise<Result<T, FetchProblem>>): Promise<Result<T, FetchProblem>> {
    await this.#enter();
    let context: BrowserContext | null = null;
    let own: RunningBrowser | null = null;
    const timeout = new AbortController();
    try {
      const key = await this.#trustedKey(new URL(address));
      if (key !== null) own = await startBrowser(this.limits.executable, await this.#proxyAddress(), key);
      const { browser } = own ?? (await this.#browser());
      context = await browser.newContext({
        viewport: { width: PICTURE_WIDTH, height: 900 }, userAgent: this.limits.userAgent, locale: 'en-GB', timezoneId: 'UTC', serviceWorkers: 'block',
        acceptDownloads: false, reducedMotion: 'reduce', permissions: [],
      }); // prettier-ignore
      const page = await context.newPage();
      page.on('dialog', (dialog) => void dialog.dismiss().catch(() => undefined));
      context.on('page', (other) => void (other === page ? undefined : other.close().catch(() => undefined)));
      const late = new Promise<Result<T, FetchProblem>>((resolve) => {
        const timer = setTimeout(
          () => resolve(fail({ reason: 'timed out', seconds: Math.round(this.limits.timeoutMs / 1000) })),
          this.limits.timeoutMs,
        );
        timeout.signal.addEventListener('abort', () => clearTimeout(timer));
      });
      return await Promise.race([work(page).catch(async (error: unknown) => fail(await this.#problemOf(error, address))), late]);
    } catch (error) {
      return fail(await this.#problemOf(error, address));
    } finally {
      timeout.abort();
      await context?.close().catch(() => undefined);
      await own?.close();
      this.#leave();
    }
  }

  /** The key of a host's certificate where that is trusted by hand and is the one that the host shows. */
  async #trustedKey(address: URL): Promise<string | null> {
    const trusted = address.protocol === 'https:' ? await this.trust(address.host) : null;
    const shown = trusted === null ? null : await certificateShown(address, this.rules);
    return shown !== null && shown.fingerprint === trusted ? shown.key : null;
  }

  /** What went wrong; of a certificate that is not trusted, which it is, so that somebody may decide on it. */
  async #problemOf(error: unknown, address: string): Promise<FetchProblem> {
    const problem = problemOf(error, address);
    if (problem.reason !== 'bad certificate') return problem;
    const url = new URL(address);
    const shown = await certificateShown(url, this.rules);
    return shown === null ? problem : { ...problem, host: url.host, fingerprint: shown.fingerprint };
  }

  async #proxyAddress(): Promise<string> {
    this.#proxy ??= FilteringProxy.open(this.rules);
    return (await this.#proxy).address;
  }

  async #enter(): Promise<void> {
    clearTimeout(this.#idle);
    if (this.#active >= this.limits.pagesAtOnce) await new Promise<void>((resolve) => this.#waiting.push(resolve));
    this.#active += 1;
  }

  #leave(): void {
    this.#active -= 1;
    const next = this.#waiting.shift();
    if (next !== undefined) next();
    else if (this.#active === 0) this.#rest();
  }

  /** A browser that nobody needs is let go; one that served many pages is replaced, so that its memory comes back. */
  #rest(): void {
    const release = () => {
      const running = this.#running;
      this.#running = null;
      this.#served = 0;
      void running?.then((each) => each.close()).catch(() => undefined);
    };
    if (this.#served >= PAGES_A_BROWSER) release();
    else this.#idle = setTimeout(release, IDLE_MS).unref();
  }

  async #browser(): Promise<RunningBrowser> {
    this.#served += 1;
    const proxy = await this.#proxyAddress();
    this.#running ??= startBrowser(this.limits.executable, proxy);
    try {
      const running = await this.#running;
      if (running.browser.isConnected()) return running;
    } catch (error) {
      this.#running = null;
      throw error;
    }
    this.#running = startBrowser(this.limits.executable, proxy);
    return this.#running;
  }

  async #arrive(page: Page, address: string): Promise<Response | null> {
    const response = await page.goto(address, { waitUntil: 'load', timeout: this.limits.timeoutMs });
    await settle(page);
    return response;
  }

  async #take(page: Page, step: Step, number: number, address: string): Promise<void> {
    try {
      await this.#act(page, step, address);
      await settle(page);
    } catch (error) {
      if (step.optional === true) return;
      throw new StepFailed({ reason: 'step', number, said: describeStep(step), detail: wordsOf(error) });
    }
    if (step.guard !== undefined) await this.#check(page, step, step.guard, number);
  }

  async #check(page: Page, step: Step, guard: Guard, number: number): Promise<void> {
    const { html } = await captureOf(page, this.limits.mostBytes);
    const body = bodyOf(html);
    const checked = await this.reading.run('guard', { body: { key: body.key, receivedAt: 0 }, guard, address: page.url() }, [body]);
    const detail = checked.ok ? checked.value : describeTaskProblem(checked.error, 'checking this page');
    if (detail !== null) throw new StepFailed({ reason: 'step', number, said: describeStep(step), detail });
  }

  async #act(page: Page, step: Step, address: string): Promise<void> {
    switch (step.act) {
      case 'go to':
        await page.goto(new URL(step.address, page.url()).href, { waitUntil: 'load', timeout: STEP_MS });
        return;
      case 'click':
        return (await thingOn(page, step.at)).click({ timeout: STEP_MS });
      case 'fill in':
        return this.#fillIn(fieldOn(page, step.at), step.text, page, address);
      case 'choose':
        await fieldOn(page, step.at).selectOption({ label: step.option }, { timeout: STEP_MS });
        return;
      case 'wait for':
        return (await thingOn(page, step.at)).waitFor({ state: 'visible', timeout: STEP_MS });
      case 'scroll':
        for (let screen = 0; screen < Math.min(step.screens, 20); screen += 1) {
          await page.mouse.wheel(0, 900);
          await page.waitForTimeout(SETTLE_MS);
        }
    }
  }

  async #fillIn(field: Locator, text: string | Sealed, page: Page, address: string): Promise<void> {
    await field.fill(this.#textOf(text, page, address), { timeout: STEP_MS });
    // A secret is not seen in a picture either, whatever kind of field it was typed into.
    if (typeof text !== 'string') await field.evaluate((own) => (own as HTMLElement).style.setProperty('-webkit-text-security', 'disc'));
  }

  /** A secret is typed on the site it was entered for, and nowhere that a step or a redirect has led to. */
  #textOf(text: string | Sealed, page: Page, address: string): string {
    if (typeof text === 'string') return text;
    const { host } = new URL(address);
    if (new URL(page.url()).host !== host) throw new Error(`the secret is for ${host}, and the page has led somewhere else`);
    const opened = this.open(text, host);
    if (opened === null) throw new Error('the secret cannot be opened: enter it again');
    return opened;
  }

  #secretsOf({ steps, address }: RenderRequest): string[] {
    const sealed = steps.flatMap((step) => (step.act === 'fill in' && typeof step.text !== 'string' ? [step.text] : []));
    return sealed.map((each) => this.open(each, new URL(address).host) ?? '');
  }

  async #capture(page: Page, response: Response | null, secrets: string[]): Promise<Result<FetchedPage, FetchProblem>> {
    const status = response?.status() ?? 200;
    if (response?.headers()[REFUSED] !== undefined) return fail({ reason: 'private address', host: new URL(response.url()).host });
    if (status < 200 || status > 299) {
      const { 'retry-after': wait = null, date = null } = response?.headers() ?? {};
      return fail({ reason: 'status', status, retryAfterSeconds: retryAfter(wait, date) });
    }
    const { html: written, boxes, height } = await captureOf(page, this.limits.mostBytes);
    const html = redact(written, secrets);
    if (html.length > this.limits.mostBytes) return fail({ reason: 'too large', mostBytes: this.limits.mostBytes });
    const shown = Math.max(1, Math.min(height, PICTURE_HEIGHT));
    const image = await page.screenshot({
      type: 'jpeg',
      quality: 72,
      fullPage: true,
      clip: { x: 0, y: 0, width: PICTURE_WIDTH, height: shown },
      animations: 'disabled',
      timeout: STEP_MS,
    });
    const bytes = Buffer.byteLength(html);
    return ok({
      kind: 'page', status, bytes, body: () => html, hash: createHash('sha256').update(html).digest(), finalAddress: redact(page.url(), secrets),
      etag: null, lastModified: null, contentType: 'text/html', picture: { image, width: PICTURE_WIDTH, height: shown, boxes },
    }); // prettier-ignore
  }
}

function captureOf(page: Page, characters: number): Promise<Capture> {
  return page.evaluate<Capture>(captureExpression({ elements: MOST_ELEMENTS, characters, height: PICTURE_HEIGHT }));
}

async function settle(page: Page): Promise<void> {
  await page.waitForLoadState('networkidle', { timeout: QUIET_MS }).catch(() => undefined);
  await page.waitForTimeout(SETTLE_MS);
}

function glance(page: Page): Promise<Buffer> {
  return page.screenshot({ type: 'jpeg', quality: 60, timeout: STEP_MS });
}

/** A field to write into or choose from: by its selector, or by the words of its label. */
function fieldOn(page: Page, target: Target): Locator {
  if ('selector' in target) return page.locator(target.selector).first();
  return page.getByLabel(target.words).or(page.getByPlaceholder(target.words)).first();
}

/** What can be pressed or seen: by its selector, or by its words. What is made to be pressed goes before a text that says the same. */
async function thingOn(page: Page, target: Target): Promise<Locator> {
  if ('selector' in target) return page.locator(target.selector).first();
  const name = target.words;
  const pressed = page
    .getByRole('button', { name })
    .or(page.getByRole('link', { name }))
    .or(page.getByRole('tab', { name }))
    .or(page.getByLabel(name));
  const any = pressed.or(page.getByText(name, { exact: true }));
  await any.first().waitFor({ state: 'visible', timeout: STEP_MS });
  return (await pressed.count()) > 0 ? pressed.first() : any.first();
}

function wordsOf(error: unknown): string {
  const [line = ''] = String(error instanceof Error ? error.message : error).split('\n');
  if (/Timeout/.test(line)) return 'it was not there within 8 seconds';
  return line.replace(/^\w+\.\w+: /, '').slice(0, 160);
}

function problemOf(error: unknown, address: string): FetchProblem {
  if (error instanceof StepFailed) return error.problem;
  const words = error instanceof Error ? error.message : String(error);
  if (/ERR_TUNNEL_CONNECTION_FAILED|ERR_PROXY/.test(words)) return { reason: 'private address', host: new URL(address).host };
  if (/ERR_CERT/.test(words)) return { reason: 'bad certificate', detail: 'the browser does not trust it' };
  if (/Timeout/.test(words)) return { reason: 'no answer', detail: 'the page did not finish loading' };
  if (/net::ERR_/.test(words))
    return { reason: 'no answer', detail: (/net::ERR_([A-Z_]+)/.exec(words)?.[1] ?? '').toLowerCase().replaceAll('_', ' ') };
  return { reason: 'not rendered', detail: words.split('\n')[0]?.slice(0, 160) ?? 'the browser failed' };
}
