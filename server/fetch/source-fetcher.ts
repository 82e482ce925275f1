import { createHash } from 'node:crypto';
import { selectElements, parseHtml } from '#core/read/html';
import { fail, ok, type Result } from '#core/result';
import type { Secrets } from '../secrets';
import type { Fetched, FetchedPage, Fetcher, FetchRequest } from './fetcher';
import type { FetchProblem } from './problem';
import { addressOf, isPlain, type Following, type SourceRequest } from './request';
import type { Renderer } from './rendered/renderer';
import type { Robots } from './robots';

/** What is to be fetched: a source as it is stored, or as it is being set up. */
export interface SourceAsked {
  address: string;
  way: 'plain' | 'rendered' | 'posted';
  request: SourceRequest;
  robotsHeeded: boolean;
  etag?: string | null;
  lastModified?: string | null;
}

/** Fetches sources in the way each asks for: by plain request, page by page, or rendered after its steps. */
export class SourceFetcher {
  constructor(
    private readonly fetcher: Fetcher,
    private readonly renderer: Renderer,
    private readonly robots: Robots,
    private readonly secrets: Secrets,
  ) {}

  /** Fetches one source. Every failure is a stated problem. */
  async fetch(source: SourceAsked): Promise<Result<Fetched, FetchProblem>> {
    const address = addressOf(source.address, source.request);
    if (source.robotsHeeded && !(await this.robots.allow(address))) return fail({ reason: 'robots', host: new URL(address).host });
    if (source.way === 'rendered') return this.renderer.render({ address, steps: source.request.steps ?? [] });
    const request = this.#request(source, address);
    if (!request.ok) return request;
    const first = await this.fetcher.fetch(request.value);
    const { follow } = source.request;
    return follow === undefined || !first.ok || first.value.kind !== 'page' ? first : this.#follow(request.value, first.value, follow);
  }

  #request({ request, etag, lastModified }: SourceAsked, address: string): Result<FetchRequest, FetchProblem> {
    const headers: Record<string, string> = {};
    for (const { name, value } of request.headers ?? []) headers[name.toLowerCase()] = value;
    if (request.signIn !== undefined) {
      const secret = this.secrets.open(request.signIn.secret, new URL(address).host);
      if (secret === null) return fail({ reason: 'sealed' });
      headers.authorization =
        request.signIn.kind === 'bearer' ? `Bearer ${secret}` : `Basic ${Buffer.from(`${request.signIn.user}:${secret}`).toString('base64')}`;
    }
    if (request.body !== undefined && request.method === 'POST') headers['content-type'] ??= request.bodyType ?? 'application/json';
    const marks = isPlain(request) ? { etag, lastModified } : {};
    return ok({ address, method: request.method ?? 'GET', headers, body: request.method === 'POST' ? request.body : undefined, ...marks });
  }

  /** The pages of a listing joined into one body, in order. A page that was fetched before ends the way. */
  async #follow(request: FetchRequest, first: FetchedPage, follow: Following): Promise<Result<Fetched, FetchProblem>> {
    const pages = [first];
    const seen = new Set([first.finalAddress]);
    while (pages.length < follow.most) {
      const next = nextAddress(pages.at(-1) ?? first, follow, pages.length);
      if (next === null || seen.has(next)) break;
      seen.add(next);
      const fetched = await this.fetcher.fetch({ ...request, address: next });
      // A counter runs past the end; a link that leads nowhere is a failure.
      if (!fetched.ok && follow.by === 'counter' && fetched.error.reason === 'status' && fetched.error.status === 404) break;
      if (!fetched.ok) return fetched;
      if (fetched.value.kind !== 'page' || pages.some((page) => fetched.value.kind === 'page' && page.hash.equals(fetched.value.hash))) break;
      pages.push(fetched.value);
    }
    return ok(joined(pages, first));
  }
}

function nextAddress(page: FetchedPage, follow: Following, fetched: number): string | null {
  const from = new URL(page.finalAddress);
  if (follow.by === 'counter') {
    from.searchParams.set(follow.parameter, String(follow.from + fetched));
    return from.href;
  }
  const found = selectElements(parseHtml(page.body()), follow.selector);
  const href = found.ok ? found.value[0]?.attribs.href : undefined;
  return href !== undefined && URL.canParse(href, from.href) ? new URL(href, from.href).href : null;
}

function joined(pages: FetchedPage[], first: FetchedPage): FetchedPage {
  const hash = createHash('sha256');
  for (const page of pages) hash.update(page.hash);
  return {
    ...first,
    bytes: pages.reduce((sum, page) => sum + page.bytes, 0),
    body: () => pages.map((page) => page.body()).join('\n'),
    hash: hash.digest(),
    etag: null,
    lastModified: null,
  };
}
