import type { Step } from './rendered/steps';

/** A secret as it is stored: sealed, never shown again. */
export interface Sealed {
  sealed: string;
}

/** A name with its value, in order. */
export interface Pair {
  name: string;
  value: string;
}

/** How the pages of a listing are followed: by a link to the next, or by counting in the query. Bounded by `most` pages. */
export type Following = { by: 'link'; selector: string; most: number } | { by: 'counter'; parameter: string; from: number; most: number };

/** What is asked for beside the address. An empty one is a plain GET. */
export interface SourceRequest {
  method?: 'GET' | 'POST';
  headers?: Pair[];
  query?: Pair[];
  body?: string;
  bodyType?: string;
  signIn?: { kind: 'basic'; user: string; secret: Sealed } | { kind: 'bearer'; secret: Sealed };
  follow?: Following;
  /** Taken in the browser before the page is read. */
  steps?: Step[];
  /** Of a posted source: the key its senders sign with. */
  postKey?: Sealed;
}

/** The address with what the request adds to its query. */
export function addressOf(address: string, request: SourceRequest): string {
  if (request.query === undefined || request.query.length === 0) return address;
  const url = new URL(address);
  for (const { name, value } of request.query) url.searchParams.append(name, value);
  return url.href;
}

/** True when nothing but the plain address is asked for, so that word of 'nothing new' may be asked for too. */
export function isPlain(request: SourceRequest): boolean {
  return (request.method ?? 'GET') === 'GET' && request.follow === undefined && (request.steps ?? []).length === 0;
}
