import { setTimeout as sleep } from 'node:timers/promises';
import { fail, ok, type Result } from '#core/result';
import { MINUTE } from '#core/when/interval';
import type { ReadingPool } from '../reading/pool';
import type { Secrets } from '../secrets';
import type { Fetched, FetchedPage, Fetcher, FetchRequest } from './fetcher';
import { followListing } from './listing';
import type { FetchProblem } from './problem';
import { redact } from './rendered/redact';
import { isPlain, openRequest, type OpenedRequest, type SourceRequest } from './request';
import type { Renderer } from './rendered/renderer';
import type { Robots } from './robots';

/** What is to be fetched: a source as it is stored, or as it is being set up. */
export interface SourceAsked {
  address: string;
  way: 'plain' | 'rendered' | 'posted';
  request: SourceRequest;
  robotsHeeded: boolean;
  /** How long its host is left alone between two requests, in milliseconds. */
  pauseMs?: number;
  etag?: string | null;
  lastModified?: string | null;
}

const MOST_FOLLOWING_MS = 5 * MINUTE;

/** What fetching a source works with. */
interface FetchingParts {
  fetcher: Fetcher;
  renderer: Renderer;
  robots: Robots;
  secrets: Secrets;
  reading: ReadingPool;
  /** Of all pages of a listing together. */
  mostBytes: number;
}

/** Fetches sources in the way each asks for: by plain request, page by page, or rendered after its steps. */
export class SourceFetcher {
  constructor(private readonly by: FetchingParts) {}

  /** Fetches one source. Every failure is a stated problem. */
  async fetch(source: SourceAsked): Promise<Result<Fetched, FetchProblem>> {
    const opened = openRequest(source.address, source.request, (sealed, host) =>
      this.by.secrets.open(sealed, 'request', host),
    );
    if (opened === null) return fail({ reason: 'sealed' });
    const fetched = await this.#fetchOpened(source, opened);
    return fetched.ok && fetched.value.kind === 'page' ? ok(withoutSecrets(fetched.value, opened.secrets)) : fetched;
  }

  async #fetchOpened(source: SourceAsked, opened: OpenedRequest): Promise<Result<Fetched, FetchProblem>> {
    const { address } = opened;
    const allowed = await this.#allowed(source, address);
    if (!allowed.ok) return allowed;
    if (source.way === 'rendered') return this.by.renderer.render({ address, steps: source.request.steps ?? [] });
    const request = this.#request(source, opened);
    if (!request.ok) return request;
    const first = await this.by.fetcher.fetch(request.value);
    const { follow } = source.request;
    if (follow === undefined || !first.ok || first.value.kind !== 'page') return first;
    return followListing(
      first.value,
      follow,
      { mostBytes: this.by.mostBytes, mostMs: MOST_FOLLOWING_MS },
      this.by.reading,
      async (next) => {
        const welcome = await this.#allowed(source, next);
        if (!welcome.ok) return welcome;
        await sleep(source.pauseMs ?? 0);
        // What is sent along, secrets above all, is for the site it was entered for.
        const along = new URL(next).origin === new URL(address).origin ? request.value : {};
        return this.by.fetcher.fetch({ ...along, address: next });
      },
    );
  }

  async #allowed({ robotsHeeded }: SourceAsked, address: string): Promise<Result<true, FetchProblem>> {
    if (!robotsHeeded) return ok(true);
    const allowed = await this.by.robots.allow(address);
    if (!allowed.ok) return allowed;
    return allowed.value ? ok(true) : fail({ reason: 'robots', host: new URL(address).host });
  }

  #request(
    { request, etag, lastModified }: SourceAsked,
    { address, body, headers: given }: OpenedRequest,
  ): Result<FetchRequest, FetchProblem> {
    const headers: Record<string, string> = {};
    for (const { name, value } of given) headers[name.toLowerCase()] = value;
    if (request.signIn !== undefined) {
      const secret = this.by.secrets.open(request.signIn.secret, 'request', new URL(address).host);
      if (secret === null) return fail({ reason: 'sealed' });
      headers.authorization =
        request.signIn.kind === 'bearer'
          ? `Bearer ${secret}`
          : `Basic ${Buffer.from(`${request.signIn.user}:${secret}`).toString('base64')}`;
    }
    if (body !== undefined && request.method === 'POST')
      headers['content-type'] ??= request.bodyType ?? 'application/json';
    const marks = isPlain(request) ? { etag, lastModified } : {};
    return ok({
      address,
      method: request.method ?? 'GET',
      headers,
      body: request.method === 'POST' ? body : undefined,
      ...marks,
    });
  }
}

/** A page whose address says nothing that was sealed. */
function withoutSecrets(page: FetchedPage, secrets: string[]): FetchedPage {
  return secrets.length === 0 ? page : { ...page, finalAddress: redact(page.finalAddress, secrets) };
}
