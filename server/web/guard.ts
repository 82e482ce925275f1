import type { RequestHandler } from 'express';
import { isByLink } from './by-link';

/** The hosts, as `host:port`, that are this Shrike's own: its public address and its aliases. */
export function ownHosts({ publicUrl, aliases }: { publicUrl: string; aliases: string[] }): Set<string> {
  return new Set([new URL(publicUrl).host, ...aliases].map((host) => host.toLowerCase()));
}

/** Whether an `Origin` header names one of our own hosts. */
export function isOwnOrigin(origin: string, own: Set<string>): boolean {
  return URL.canParse(origin) && own.has(new URL(origin).host.toLowerCase());
}

/**
 * Answers for our own names alone: a name that somebody else's server gave to our address (DNS rebinding) is no way in,
 * with 421 (RFC 9110, 15.5.20). A page of another site that sends something here is refused as well, before anything of
 * it is read; but for an address that is its own key, which a mail program posts to from wherever it is (RFC 8058), and
 * whose own page says nothing of where it is.
 */
export function ownNamesOnly(own: Set<string>): RequestHandler {
  return (request, response, next) => {
    const host = request.headers.host?.toLowerCase() ?? '';
    if (!own.has(host))
      return void response
        .status(421)
        .type('text')
        .send(
          'This is not a name of this Shrike. Its public address is set by SHRIKE_PUBLIC_URL, others by ' +
            'SHRIKE_ALIASES.',
        );
    const { origin } = request.headers;
    if (origin === undefined || isOwnOrigin(origin, own)) return next();
    if (!isByLink(request.path))
      return void response.status(403).type('text').send('This request did not come from Shrike’s own pages.');
    delete request.headers.origin;
    next();
  };
}

/**
 * Takes a request whatever the form of its target (RFC 9112, 3.2): a whole address stands for its path, `*` asks what
 * may be done at all, and what is neither is none.
 */
export const anyTarget: RequestHandler = (request, response, next) => {
  if (request.url.startsWith('/')) return next();
  if (request.url === '*' && request.method === 'OPTIONS')
    return void response.status(204).set('allow', 'GET, HEAD, POST').end();
  if (!/^https?:\/\//i.test(request.url) || !URL.canParse(request.url))
    return void response.status(400).type('text').send('This is not the address of a page.');
  const { host, pathname, search } = new URL(request.url);
  // The host that counts is that of the target (RFC 9112, 3.2.2).
  request.headers.host = host;
  request.url = pathname + search;
  request.originalUrl = request.url;
  next();
};

/** What people send is small, but for files; what programs post has a bound of its own. */
export function boundedBodies(mostOf: (path: string) => number | null): RequestHandler {
  return (request, response, next) => {
    const length = Number(request.headers['content-length'] ?? 0);
    const mostBytes = mostOf(request.path);
    if (mostBytes === null || length <= mostBytes) return next();
    response
      .status(413)
      .set('connection', 'close')
      .type('text')
      .send(`A form may have at most ${Math.round(mostBytes / 1_000_000)} MB.`);
  };
}
