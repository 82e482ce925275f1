import type { Step } from './rendered/steps';
import type { Sealed } from './sealed';

/** How a source is come by: fetched plainly, rendered in a browser, or posted to us. */
export const SOURCE_WAYS = ['plain', 'rendered', 'posted'] as const;
export type SourceWay = (typeof SOURCE_WAYS)[number];

/** A name with its value, in order; one that can be a secret is sealed. */
export interface Pair {
  name: string;
  value: string | Sealed;
}

/**
 * How the pages of a listing are followed: by a link to the next, or by counting in the query. Bounded by `most` pages.
 */
export type Following =
  { by: 'link'; selector: string; most: number } | { by: 'counter'; parameter: string; from: number; most: number };

/** What is asked for beside the address. An empty one is a plain GET. */
export interface SourceRequest {
  method?: 'GET' | 'POST';
  headers?: Pair[];
  query?: Pair[];
  /** Sealed where it can hold a secret. */
  body?: string | Sealed;
  bodyType?: string;
  signIn?: { kind: 'basic'; user: string; secret: Sealed } | { kind: 'bearer'; secret: Sealed };
  follow?: Following;
  /** Taken in the browser before the page is read. */
  steps?: Step[];
  /** Of a posted source: the key its senders sign with. */
  postKey?: Sealed;
}

/** Opens a sealed text for the host it was entered for; null where it does not open. */
export type Opener = (sealed: Sealed, host: string) => string | null;

/** A request with everything in it opened, for the site it was typed for and no other. */
export interface OpenedRequest {
  /** The address with what the request adds to its query. */
  address: string;
  headers: { name: string; value: string }[];
  body: string | undefined;
  /** What of it was sealed: to be taken out of whatever is kept or shown. */
  secrets: string[];
}

/** Opens a request for its address; null where something sealed in it does not open there. */
export function openRequest(
  address: string,
  { query = [], headers = [], body }: SourceRequest,
  open: Opener,
): OpenedRequest | null {
  const url = new URL(address);
  const secrets: string[] = [];
  const plain = (value: string | Sealed): string | null => {
    if (typeof value === 'string') return value;
    const opened = open(value, url.host);
    if (opened !== null) secrets.push(opened);
    return opened;
  };
  const given = headers.map(({ name, value }) => ({ name, value: plain(value) }));
  const added = query.map(({ name, value }) => ({ name, value: plain(value) }));
  const text = body === undefined ? undefined : plain(body);
  if (text === null || [...given, ...added].some(({ value }) => value === null)) return null;
  for (const { name, value } of added) url.searchParams.append(name, value ?? '');
  // An address without anything added stays as it was written.
  return {
    address: added.length === 0 ? address : url.href,
    headers: given.map(({ name, value }) => ({ name, value: value ?? '' })),
    body: text,
    secrets,
  };
}

/**
 * What of a request goes along to another address: all of it on the same site. To another site goes nothing that was
 * typed, but only how its pages are followed and what is clicked there.
 */
export function carriedTo(request: SourceRequest, from: string, to: string): SourceRequest {
  if (new URL(from).origin === new URL(to).origin) return request;
  const steps = (request.steps ?? []).filter((step) => step.act !== 'fill in' && step.act !== 'go to');
  return {
    ...(request.follow === undefined ? {} : { follow: request.follow }),
    ...(steps.length === 0 ? {} : { steps }),
  };
}

/** True when nothing but the plain address is asked for, so that word of 'nothing new' may be asked for too. */
export function isPlain(request: SourceRequest): boolean {
  return (request.method ?? 'GET') === 'GET' && request.follow === undefined && (request.steps ?? []).length === 0;
}
