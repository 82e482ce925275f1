import { createHash } from 'node:crypto';
import { Agent, request, type Dispatcher } from 'undici';
import { fail, ok, type Result } from '#core/result';
import type { AddressRules } from './addresses';
import { decodeBody, readBody } from './body';
import { checkedConnector, NO_TRUST, problemOf, type Trust } from './connector';
import type { FetchProblem } from './problem';
import type { Picture } from './rendered/picture';
import { retryAfter } from './retry-after';
import { webAddress } from './web-address';

/** What to fetch, with what the last good fetch brought, to be told when nothing is new. */
export interface FetchRequest {
  address: string;
  method?: 'GET' | 'POST';
  /** Beside those that every request carries; they do not follow a redirect to another site. */
  headers?: Record<string, string>;
  body?: string;
  etag?: string | null;
  lastModified?: string | null;
}

/** A fetched page, or word that nothing is new since the marks that were sent along. */
export type Fetched = { kind: 'not modified'; status: 304; bytes: 0 } | FetchedPage;

/** A page as it came. */
export interface FetchedPage {
  kind: 'page';
  status: number;
  /** Bytes of the body after decompression. */
  bytes: number;
  body: () => string;
  /** SHA-256 of the body's bytes. */
  hash: Buffer;
  /** The address after redirects. */
  finalAddress: string;
  etag: string | null;
  lastModified: string | null;
  contentType: string;
  /** Of a rendered page: its picture, taken in the same page load. */
  picture?: Picture;
  /** Of a posted one: the message that brought it. */
  message?: number;
}

/** Bounds on a fetch. */
export interface FetchLimits {
  timeoutMs: number;
  mostBytes: number;
  mostRedirects: number;
  userAgent: string;
}

/** Fetches pages within bounds, to checked addresses alone. */
export class Fetcher {
  readonly #agent: Agent;

  constructor(
    rules: AddressRules,
    private readonly limits: FetchLimits,
    trust: Trust = NO_TRUST,
  ) {
    this.#agent = new Agent({
      connect: checkedConnector(rules, trust, limits.timeoutMs),
      connections: 64,
      keepAliveTimeout: 4_000,
    });
  }

  /** Fetches one page. Every failure, of the network or of the page, is a stated problem. */
  async fetch(what: FetchRequest): Promise<Result<Fetched, FetchProblem>> {
    const signal = AbortSignal.timeout(this.limits.timeoutMs);
    try {
      return await this.#follow(what, signal);
    } catch (error) {
      if (signal.aborted) return fail({ reason: 'timed out', seconds: Math.round(this.limits.timeoutMs / 1000) });
      return fail(problemOf(error, what.address));
    }
  }

  async close(): Promise<void> {
    await this.#agent.close();
  }

  async #follow(what: FetchRequest, signal: AbortSignal): Promise<Result<Fetched, FetchProblem>> {
    let address = webAddress(what.address);
    let sent: FetchRequest = what;
    for (let hop = 0; hop <= this.limits.mostRedirects; hop += 1) {
      if (address === null) return fail({ reason: 'bad address' });
      const response = await request(address, { dispatcher: this.#agent, signal, ...this.#options(sent) });
      const next = redirectOf(response, address);
      if (next === undefined) return this.#receive(response, address);
      discard(response);
      const onward = carriedOver(sent, response.statusCode, next?.origin === address.origin);
      if (onward === null) return fail({ reason: 'led elsewhere', host: next?.host ?? '' });
      sent = onward;
      address = next;
    }
    return fail({ reason: 'too many redirects', most: this.limits.mostRedirects });
  }

  #options({ method = 'GET', body, headers, etag, lastModified }: FetchRequest) {
    return {
      method,
      body: method === 'POST' ? body : undefined,
      headers: {
        'user-agent': this.limits.userAgent,
        accept: 'text/html,application/xhtml+xml,*/*;q=0.8',
        'accept-encoding': 'gzip, deflate, br',
        ...(etag ? { 'if-none-match': etag } : {}),
        ...(lastModified ? { 'if-modified-since': lastModified } : {}),
        ...headers,
      },
    };
  }

  async #receive(response: Dispatcher.ResponseData, address: URL): Promise<Result<Fetched, FetchProblem>> {
    const status = response.statusCode;
    if (status === 304) {
      discard(response);
      return ok({ kind: 'not modified', status: 304, bytes: 0 });
    }
    const contentType = headerOf(response, 'content-type') ?? '';
    const refusal = refusalOf(response, contentType, this.limits.mostBytes);
    if (refusal !== null) {
      discard(response);
      return fail(refusal);
    }
    const body = await readBody(
      response.body,
      headerOf(response, 'content-encoding') ?? undefined,
      this.limits.mostBytes,
    );
    if (!body.ok) return fail({ reason: 'too large', mostBytes: this.limits.mostBytes });
    if (body.value.length === 0) return fail({ reason: 'empty' });
    if (!looksLikeText(body.value, contentType)) return fail({ reason: 'not text', contentType: typeOf(contentType) });
    return ok(this.#page(body.value, contentType, response, address));
  }

  #page(bytes: Buffer, contentType: string, response: Dispatcher.ResponseData, address: URL): FetchedPage {
    return {
      kind: 'page',
      status: response.statusCode,
      bytes: bytes.length,
      body: () => decodeBody(bytes, contentType),
      hash: createHash('sha256').update(bytes).digest(),
      finalAddress: address.href,
      etag: headerOf(response, 'etag'),
      lastModified: headerOf(response, 'last-modified'),
      contentType,
    };
  }
}

/**
 * What of a request crosses a redirect (RFC 9110, 15.4): after 303, and of a POST after 301 and 302, it goes on as a
 * GET; after 307 and 308 as it was. What was typed for one site never goes to another, nor back once it was left. Null
 * where a POST would have to go there without what it is about.
 */
function carriedOver(sent: FetchRequest, status: number, sameOrigin: boolean): FetchRequest | null {
  const { address } = sent;
  const isGet = (sent.method ?? 'GET') === 'GET';
  const asGet = isGet || status === 301 || status === 302 || status === 303;
  if (!sameOrigin) return asGet ? { address } : null;
  if (!asGet) return sent;
  const headers = Object.entries(sent.headers ?? {}).filter(([name]) => isGet || !name.startsWith('content-'));
  return {
    address,
    headers: Object.fromEntries(headers),
    ...(isGet ? { etag: sent.etag, lastModified: sent.lastModified } : {}),
  };
}

function redirectOf(response: Dispatcher.ResponseData, from: URL): URL | null | undefined {
  if (![301, 302, 303, 307, 308].includes(response.statusCode)) return undefined;
  const location = headerOf(response, 'location');
  if (location === null) return undefined;
  return URL.canParse(location, from.href) ? webAddress(new URL(location, from.href).href) : null;
}

const NEVER_TEXT = /^(image|audio|video|font)\/(?!svg)|^application\/(pdf|zip|gzip|x-7z|vnd\.openxml|msword)/;
const typeOf = (contentType: string) => contentType.split(';')[0]?.trim().toLowerCase() ?? '';

function refusalOf(response: Dispatcher.ResponseData, contentType: string, mostBytes: number): FetchProblem | null {
  const status = response.statusCode;
  if (status < 200 || status > 299)
    return {
      reason: 'status',
      status,
      retryAfterSeconds: retryAfter(headerOf(response, 'retry-after'), headerOf(response, 'date')),
    };
  if (NEVER_TEXT.test(typeOf(contentType))) return { reason: 'not text', contentType: typeOf(contentType) };
  const length = headerOf(response, 'content-length');
  return length !== null && Number(length) > mostBytes ? { reason: 'too large', mostBytes } : null;
}

const PROBED = 2000;

/** Whether bytes are text: without noughts, unless they are marked as UTF-16. */
function looksLikeText(bytes: Buffer, contentType: string): boolean {
  const wide =
    (bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff) || /utf-16/i.test(contentType);
  return wide || !bytes.subarray(0, PROBED).includes(0);
}

function discard(response: Dispatcher.ResponseData): void {
  response.body.on('error', () => undefined).destroy();
}

function headerOf(response: Dispatcher.ResponseData, name: string): string | null {
  const value = response.headers[name];
  return (Array.isArray(value) ? value[0] : value) ?? null;
}
