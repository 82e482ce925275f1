import type { BrowserContext, Frame, Locator, Page, Response } from 'playwright-core';
import type { Guard } from '#core/read/guard';
import type { Target } from '#core/read/inspect/wall';
import { fail, ok, type Result } from '#core/result';
import { certificateShown } from '../certificate';
import { retryAfter } from '../retry-after';
import type { FetchProblem, Handshake } from '../problem';
import type { Sealed } from '../sealed';
import { isWebAddress } from '../web-address';
import { startBrowser, type RunningBrowser } from './browser';
import { captureIn, coverFields, type Capture } from './capture';
import type { Questions, RenderedPage, RenderLimits, RenderRequest, StepPicture } from './messages';
import { PICTURE_HEIGHT, PICTURE_WIDTH } from './picture';
import { FilteringProxy, MOST_REQUESTS, REFUSED } from './proxy';
import { redact } from './redact';
import { describeStep, type Step } from './steps';

const MOST_ELEMENTS = 20_000;
const PAGES_A_BROWSER = 60;
const SETTLE_MS = 400;
const QUIET_MS = 4_000;
const STEP_MS = 8_000;

/** Why a step was not taken. */
class StepFailed extends Error {
  constructor(readonly problem: FetchProblem) {
    super(problem.reason);
  }
}

/**
 * Takes pages in one Chromium, one at a time, each in a context of its own, within time and memory, by way of the
 * filtering proxy.
 */
export class PageTaker {
  #proxy: Promise<FilteringProxy> | null = null;
  #running: Promise<RunningBrowser> | null = null;
  #served = 0;

  constructor(
    private readonly limits: RenderLimits,
    private readonly worker: Questions,
  ) {}

  /** Renders one page after its steps. Every failure is a stated problem. */
  async render(request: RenderRequest): Promise<Result<RenderedPage, FetchProblem>> {
    return this.#inContext(request.address, async (page) => {
      const response = await this.#arrive(page, request.address);
      for (const [at, step] of request.steps.entries()) await this.#take(page, step, at + 1, request.address);
      return this.#capture(page, response, await this.#secretsOf(request));
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
          (error: unknown) =>
            error instanceof StepFailed && error.problem.reason === 'step' ? error.problem.detail : String(error),
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
    const [running, proxy] = [this.#running, this.#proxy];
    this.#running = null;
    this.#proxy = null;
    await (await running?.catch(() => null))?.close();
    await (await proxy)?.close();
  }

  async #inContext<T>(
    address: string,
    work: (page: Page) => Promise<Result<T, FetchProblem>>,
  ): Promise<Result<T, FetchProblem>> {
    let context: BrowserContext | null = null;
    let own: RunningBrowser | null = null;
    const timeout = new AbortController();
    try {
      const key = await this.#trustedKey(new URL(address));
      (await this.#ownProxy()).begin();
      if (key !== null) own = await startBrowser(this.limits.executable, await this.#proxyAddress(), key);
      const { browser } = own ?? (await this.#browser());
      context = await browser.newContext({
        viewport: { width: PICTURE_WIDTH, height: 900 },
        userAgent: this.limits.userAgent,
        locale: 'en-GB',
        timezoneId: 'UTC',
        serviceWorkers: 'block',
        acceptDownloads: false,
        reducedMotion: 'reduce',
        permissions: [],
      });
      boundRequests(context);
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
      return await Promise.race([
        work(page).catch(async (error: unknown) => fail(await this.#problemOf(error, address))),
        late,
      ]);
    } catch (error) {
      return fail(await this.#problemOf(error, address));
    } finally {
      timeout.abort();
      await context?.close().catch(() => undefined);
      await own?.close();
      await this.#rest();
    }
  }

  /** The key of a host's certificate where that is trusted by hand and is the one that the host shows. */
  async #trustedKey(address: URL): Promise<string | null> {
    const trusted = address.protocol === 'https:' ? await this.worker.trusted(address.host) : null;
    const shown = trusted === null ? null : await certificateShown(address, this.worker);
    return shown !== null && shown.fingerprint === trusted ? shown.key : null;
  }

  /** What went wrong; of a certificate that is not trusted, which it is, so that somebody may decide on it. */
  async #problemOf(error: unknown, address: string): Promise<FetchProblem> {
    const problem = problemOf(error, address);
    if (problem.reason !== 'bad certificate') return problem;
    const url = new URL(address);
    const shown = await certificateShown(url, this.worker);
    return shown === null ? problem : { ...problem, host: url.host, fingerprint: shown.fingerprint };
  }

  async #proxyAddress(): Promise<string> {
    return (await this.#ownProxy()).address;
  }

  #ownProxy(): Promise<FilteringProxy> {
    this.#proxy ??= FilteringProxy.open(this.worker);
    return this.#proxy;
  }

  /** A browser that served many pages is replaced, so that its memory comes back. */
  async #rest(): Promise<void> {
    if (this.#served < PAGES_A_BROWSER) return;
    const running = this.#running;
    this.#running = null;
    this.#served = 0;
    await running?.then((each) => each.close()).catch(() => undefined);
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
    const detail = await this.worker.guard(html, guard, page.url());
    if (detail !== null) throw new StepFailed({ reason: 'step', number, said: describeStep(step), detail });
  }

  async #act(page: Page, step: Step, address: string): Promise<void> {
    switch (step.act) {
      case 'go to':
        await page.goto(webAddressFrom(step.address, page.url()), { waitUntil: 'load', timeout: STEP_MS });
        return;
      case 'click':
        return (await foundOn(page, step.at, thingIn)).place.click({ timeout: STEP_MS });
      case 'fill in':
        return this.#fillIn(await foundOn(page, step.at, fieldIn), step.text, page, address);
      case 'choose':
        await (await foundOn(page, step.at, fieldIn)).place.selectOption({ label: step.option }, { timeout: STEP_MS });
        return;
      case 'wait for':
        await foundOn(page, step.at, thingIn);
        return;
      case 'scroll':
        for (let screen = 0; screen < Math.min(step.screens, 20); screen += 1) {
          await page.mouse.wheel(0, 900);
          await page.waitForTimeout(SETTLE_MS);
        }
    }
  }

  async #fillIn({ place, frame }: Found, text: string | Sealed, page: Page, address: string): Promise<void> {
    // A secret is not seen in a picture either, whatever kind of field it is typed into.
    if (typeof text !== 'string') await coverFields(page);
    await place.fill(await this.#textOf(text, frame, address), { timeout: STEP_MS });
  }

  /** A secret is typed on the site it was entered for, and nowhere that a step, a redirect or a frame has led to. */
  async #textOf(text: string | Sealed, frame: Frame, address: string): Promise<string> {
    if (typeof text === 'string') return text;
    const { host } = new URL(address);
    if (frame.parentFrame() !== null)
      throw new Error('a secret is typed into the page itself, and not into a frame on it');
    if (hostOf(frame) !== host) throw new Error(`the secret is for ${host}, and the page has led somewhere else`);
    const opened = await this.worker.open(text, host);
    if (opened === null) throw new Error('the secret cannot be opened: enter it again');
    return opened;
  }

  async #secretsOf({ steps, address }: RenderRequest): Promise<string[]> {
    const sealed = steps.flatMap((step) =>
      step.act === 'fill in' && typeof step.text !== 'string' ? [step.text] : [],
    );
    return Promise.all(sealed.map(async (each) => (await this.worker.open(each, new URL(address).host)) ?? ''));
  }

  async #capture(
    page: Page,
    response: Response | null,
    secrets: string[],
  ): Promise<Result<RenderedPage, FetchProblem>> {
    if (!isWebAddress(page.url())) return fail({ reason: 'bad address' });
    const status = response?.status() ?? 200;
    if (response?.headers()[REFUSED] !== undefined)
      return fail({ reason: 'private address', host: new URL(response.url()).host });
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
    return ok({
      status,
      html,
      finalAddress: redact(page.url(), secrets),
      picture: { image, width: PICTURE_WIDTH, height: shown, boxes },
    });
  }
}

function captureOf(page: Page, characters: number): Promise<Capture> {
  return captureIn(page, { elements: MOST_ELEMENTS, characters, height: PICTURE_HEIGHT });
}

/** Where a step leads, from the page it is taken on; only to the web. */
function webAddressFrom(address: string, page: string): string {
  const to = URL.canParse(address, page) ? new URL(address, page).href : '';
  if (!isWebAddress(to)) throw new Error('only addresses that begin with http:// or https:// are gone to');
  return to;
}

async function settle(page: Page): Promise<void> {
  await page.waitForLoadState('networkidle', { timeout: QUIET_MS }).catch(() => undefined);
  await page.waitForTimeout(SETTLE_MS);
}

async function glance(page: Page): Promise<Buffer> {
  if (!isWebAddress(page.url())) throw new StepFailed({ reason: 'bad address' });
  return page.screenshot({ type: 'jpeg', quality: 60, timeout: STEP_MS });
}

/** What a step acts on, and the frame it is in. */
interface Found {
  place: Locator;
  frame: Frame;
}

/** A frame that asks for consent often comes last, after those of advertisements. */
const MOST_FRAMES = 40;
const TRY_MS = 100;

/** Waits until a target is in sight: on the page itself, or else in a frame of it. */
async function foundOn(
  page: Page,
  target: Target,
  placesIn: (frame: Frame, target: Target) => Locator[],
): Promise<Found> {
  const until = performance.now() + STEP_MS;
  while (performance.now() < until) {
    const [main, ...inner] = page.frames().slice(0, MOST_FRAMES);
    const frames = 'words' in target ? [main, ...inner] : target.framed === true ? inner : [main];
    const places = frames.flatMap((frame) =>
      frame === undefined ? [] : placesIn(frame, target).map((place) => ({ place, frame })),
    );
    for (const found of places) if (await isInSight(found.place)) return found;
    await page.waitForTimeout(TRY_MS);
  }
  throw new Error('Timeout');
}

/** A frame that goes on to another page meanwhile shows nothing yet; a selector that is none never will. */
async function isInSight(place: Locator): Promise<boolean> {
  try {
    return await place.isVisible();
  } catch (error) {
    if (/selector/i.test(String(error))) throw error;
    return false;
  }
}

/** A field to write into or choose from: by its selector, or by the words of its label. */
function fieldIn(frame: Frame, target: Target): Locator[] {
  if ('selector' in target) return [frame.locator(target.selector).first()];
  return [frame.getByLabel(target.words).or(frame.getByPlaceholder(target.words)).first()];
}

/**
 * What can be pressed or seen: by its selector, or by its words. What is made to be pressed goes before a text that
 * says the same.
 */
function thingIn(frame: Frame, target: Target): Locator[] {
  if ('selector' in target) return [frame.locator(target.selector).first()];
  const name = target.words;
  const pressed = frame
    .getByRole('button', { name })
    .or(frame.getByRole('link', { name }))
    .or(frame.getByRole('tab', { name }))
    .or(frame.getByLabel(name));
  return [pressed.first(), frame.getByText(name, { exact: true }).first()];
}

const hostOf = (frame: Frame) => (URL.canParse(frame.url()) ? new URL(frame.url()).host : '');

function wordsOf(error: unknown): string {
  const [line = ''] = String(error instanceof Error ? error.message : error).split('\n');
  if (/Timeout/.test(line)) return 'it was not there within 8 seconds';
  return line.replace(/^\w+\.\w+: /, '').slice(0, 160);
}

/** What Chromium says of an encrypted connection that did not come about (`net_error_list.h`). */
const HANDSHAKES: [RegExp, Handshake][] = [
  [/ERR_SSL_VERSION_OR_CIPHER_MISMATCH|ERR_SSL_OBSOLETE/, 'outdated'],
  [/ERR_SSL_UNRECOGNIZED_NAME/, 'another name'],
  [/ERR_SSL_CLIENT_AUTH|ERR_BAD_SSL_CLIENT_AUTH/, 'wants a certificate'],
  [/ERR_SSL_/, 'broken off'],
];

function problemOf(error: unknown, address: string): FetchProblem {
  if (error instanceof StepFailed) return error.problem;
  const words = error instanceof Error ? error.message : String(error);
  if (/ERR_TUNNEL_CONNECTION_FAILED|ERR_PROXY/.test(words))
    return { reason: 'private address', host: new URL(address).host };
  const shaken = HANDSHAKES.find(([code]) => code.test(words));
  if (shaken !== undefined) return { reason: 'no handshake', why: shaken[1] };
  if (/ERR_CERT/.test(words)) return { reason: 'bad certificate', detail: 'the browser does not trust it' };
  if (/Timeout/.test(words)) return { reason: 'no answer', detail: 'the page did not finish loading' };
  if (/net::ERR_/.test(words))
    return {
      reason: 'no answer',
      detail: (/net::ERR_([A-Z_]+)/.exec(words)?.[1] ?? '').toLowerCase().replaceAll('_', ' '),
    };
  return { reason: 'not rendered', detail: words.split('\n')[0]?.slice(0, 160) ?? 'the browser failed' };
}

/**
 * A page that asks for too much asks for nothing more, and is read as it stands. The proxy counts as well, but sees no
 * single requests within its tunnels.
 */
function boundRequests(context: BrowserContext): void {
  let asked = 0;
  context.on('request', () => {
    asked += 1;
    if (asked === MOST_REQUESTS) void context.setOffline(true).catch(() => undefined);
  });
}
