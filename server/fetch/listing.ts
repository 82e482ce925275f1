import { createHash } from 'node:crypto';
import { fail, ok, type Result } from '#core/result';
import { bodyOf, describeTaskProblem, type ReadingPool } from '../reading/pool';
import type { Fetched, FetchedPage } from './fetcher';
import type { FetchProblem } from './problem';
import type { Following } from './request';

/** Bounds on all pages of a listing together. */
export interface ListingLimits {
  mostBytes: number;
  /** From the first page on, pauses included; by a clock that only runs forward. */
  mostMs: number;
}

/**
 * Follows a listing from its first page and joins its pages into one body, in order. A page that was seen before ends
 * the way. What stands on another host is not followed: its rules, pauses and secrets are not those of this one.
 */
export async function followListing(
  first: FetchedPage,
  follow: Following,
  { mostBytes, mostMs }: ListingLimits,
  reading: ReadingPool,
  fetchPage: (address: string) => Promise<Result<Fetched, FetchProblem>>,
): Promise<Result<FetchedPage, FetchProblem>> {
  const began = performance.now();
  const pages = [first];
  const seen = new Set([first.finalAddress]);
  while (pages.length < follow.most) {
    const found = await nextAddress(pages.at(-1) ?? first, follow, pages.length, reading);
    if (!found.ok) return broken(pages, found.error);
    const next = found.value;
    if (next === null || seen.has(next)) break;
    seen.add(next);
    const { host } = new URL(next);
    if (host !== new URL(first.finalAddress).host) return broken(pages, `the next one is on another host, ${host}`);
    const fetched = await fetchPage(next);
    // A counter runs past the end; a link that leads nowhere is a failure.
    if (!fetched.ok && follow.by === 'counter' && fetched.error.reason === 'status' && fetched.error.status === 404)
      break;
    if (!fetched.ok) return fetched;
    const page = fetched.value;
    if (page.kind !== 'page' || pages.some((each) => each.hash.equals(page.hash))) break;
    pages.push(page);
    if (bytesOf(pages) > mostBytes) return fail({ reason: 'too large', mostBytes });
    if (performance.now() - began > mostMs)
      return broken(pages, `the rest would take longer than ${Math.round(mostMs / 60_000)} min`);
  }
  return ok(joined(pages, first));
}

const broken = (pages: FetchedPage[], detail: string) =>
  fail({ reason: 'not followed' as const, pages: pages.length, detail });
const bytesOf = (pages: FetchedPage[]) => pages.reduce((sum, page) => sum + page.bytes, 0);

async function nextAddress(
  page: FetchedPage,
  follow: Following,
  fetched: number,
  reading: ReadingPool,
): Promise<Result<string | null, string>> {
  const from = new URL(page.finalAddress);
  if (follow.by === 'counter') {
    from.searchParams.set(follow.parameter, String(follow.from + fetched));
    return ok(from.href);
  }
  const body = bodyOf(page.body());
  const found = await reading.run('next link', { body: { key: body.key, receivedAt: 0 }, selector: follow.selector }, [
    body,
  ]);
  if (!found.ok) return fail(describeTaskProblem(found.error, 'looking for its next page'));
  const href = found.value;
  return ok(href !== null && URL.canParse(href, from.href) ? new URL(href, from.href).href : null);
}

function joined(pages: FetchedPage[], first: FetchedPage): FetchedPage {
  const hash = createHash('sha256');
  for (const page of pages) hash.update(page.hash);
  return {
    ...first,
    bytes: bytesOf(pages),
    body: () => pages.map((page) => page.body()).join('\n'),
    hash: hash.digest(),
    etag: null,
    lastModified: null,
  };
}
