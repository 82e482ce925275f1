import { afterAll, afterEach, beforeEach, describe, expect, it } from 'vitest';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { AddressRules } from '#server/fetch/addresses';
import { Fetcher } from '#server/fetch/fetcher';
import { retryAfter } from '#server/fetch/retry-after';
import { describeFetchProblem } from '#server/fetch/problem';
import { Renderer } from '#server/fetch/rendered/renderer';
import type { Following, SourceRequest } from '#server/fetch/request';
import { Robots } from '#server/fetch/robots';
import { SourceFetcher } from '#server/fetch/source-fetcher';
import { Secrets } from '#server/secrets';
import { openThreads } from '../support/reading';
import { openSite, page, type Answer, type Site } from '../support/site';

const MOST_BYTES = 20_000;
const ROBOTS_KEPT = 6 * HOUR;
const BY_LINK: Following = { by: 'link', selector: 'a.next', most: 5 };
const BY_COUNTER: Following = { by: 'counter', parameter: 'page', from: 1, most: 5 };

let sites: Site[] = [];
let fetchers: Fetcher[] = [];
let now = 0;
const reading = openThreads();
afterAll(() => reading.close());
beforeEach(() => {
  now = Date.UTC(2026, 5, 1);
});
afterEach(async () => {
  for (const fetcher of fetchers) await fetcher.close();
  for (const site of sites) site.close();
  sites = [];
  fetchers = [];
});

async function open(answers: Record<string, Answer>): Promise<Site> {
  const site = await openSite(answers);
  sites.push(site);
  return site;
}

/** Fetches with everything but a browser. */
function sourceFetcher(): SourceFetcher {
  const rules = new AddressRules(sites.map((site) => site.host));
  const secrets = new Secrets('a key for tests alone');
  const fetcher = new Fetcher(rules, {
    timeoutMs: 1000,
    mostBytes: MOST_BYTES,
    mostRedirects: 3,
    userAgent: 'Shrike/0.1',
  });
  fetchers.push(fetcher);
  const renderer = new Renderer(
    rules,
    { executable: '', pagesAtOnce: 1, timeoutMs: 1000, mostBytes: MOST_BYTES, userAgent: '' },
    () => null,
    reading,
  );
  return new SourceFetcher({
    fetcher,
    renderer,
    robots: new Robots(fetcher, reading, 'Shrike/0.1', ROBOTS_KEPT, () => now),
    secrets,
    reading,
    mostBytes: MOST_BYTES,
  });
}

interface Asking {
  request?: SourceRequest;
  robotsHeeded?: boolean;
  pauseMs?: number;
}

/** The body of an address, or the sentence that says why there is none. */
async function bodyOf(
  sources: SourceFetcher,
  address: string,
  { request = {}, robotsHeeded = true, pauseMs }: Asking = {},
): Promise<string> {
  const fetched = await sources.fetch({ address, way: 'plain', request, robotsHeeded, pauseMs });
  if (!fetched.ok) return describeFetchProblem(fetched.error);
  return fetched.value.kind === 'page' ? fetched.value.body() : fetched.value.kind;
}

const list = (lots: string, next?: string): Answer =>
  page(`<ul><li>${lots}</ul>${next === undefined ? '' : `<a class="next" href="${next}">Next</a>`}`);
const pathsOf = (site: Site) => site.asked.map(({ path }) => path).filter((path) => path !== '/robots.txt');

describe('the pages of a listing', () => {
  it('are followed by their link to the next, in order, as far as she said and never in a circle', async () => {
    const site = await open({ '/1': list('A', '/2'), '/2': list('B', '/3'), '/3': list('C', '/1') });
    const sources = sourceFetcher();
    const all = await bodyOf(sources, `${site.base}/1`, { request: { follow: BY_LINK } });
    expect(all.match(/<li>./g)).toEqual(['<li>A', '<li>B', '<li>C']);
    expect(pathsOf(site)).toEqual(['/1', '/2', '/3']);
    const two = await bodyOf(sources, `${site.base}/1`, { request: { follow: { ...BY_LINK, most: 2 } } });
    expect(two.match(/<li>./g)).toEqual(['<li>A', '<li>B']);
  });

  it('are followed by a counter until there is no more, or the same comes again', async () => {
    const numbered: Answer = (request, response) => {
      const number = Number(new URL(request.url ?? '', 'http://x').searchParams.get('page') ?? 1);
      if (number > 3) return void response.writeHead(404).end('no more');
      page(`<li>${number}`)(request, response);
    };
    const site = await open({ '/missing': numbered, '/same': page('<li>1') });
    const sources = sourceFetcher();
    expect((await bodyOf(sources, `${site.base}/missing`, { request: { follow: BY_COUNTER } })).match(/\d/g)).toEqual([
      '1',
      '2',
      '3',
    ]);
    expect(await bodyOf(sources, `${site.base}/same`, { request: { follow: BY_COUNTER } })).toBe('<li>1');
  });

  it('fail as a whole where a link leads to a page that does not come: half a listing is none', async () => {
    const site = await open({ '/1': list('A', '/2') });
    expect(await bodyOf(sourceFetcher(), `${site.base}/1`, { request: { follow: BY_LINK } })).toBe(
      'The page is not there (404).',
    );
  });

  it('are not followed to another host, which is said', async () => {
    const other = await open({ '/2': list('B') });
    const site = await open({ '/1': list('A', `${other.base}/2`) });
    const said = await bodyOf(sourceFetcher(), `${site.base}/1`, { request: { follow: BY_LINK } });
    expect(said).toContain('Of the listing only the first page could be had: the next one is on another host');
    expect(other.asked).toEqual([]);
  });

  it('never take a secret along to a site that a redirect led to', async () => {
    const other = await open({ '/1': list('A', '/2'), '/2': list('B') });
    const site = await open({ '/1': (_, response) => response.writeHead(302, { location: `${other.base}/1` }).end() });
    const secret = new Secrets('a key for tests alone').seal('s3cret', 'request', site.host);
    if (!secret.ok) throw new Error(secret.error);
    const request: SourceRequest = {
      follow: BY_LINK,
      headers: [{ name: 'X-Team', value: 'ours' }],
      signIn: { kind: 'bearer', secret: secret.value },
    };
    expect((await bodyOf(sourceFetcher(), `${site.base}/1`, { request })).match(/<li>./g)).toEqual(['<li>A', '<li>B']);
    expect(site.asked.at(-1)?.headers).toMatchObject({ authorization: 'Bearer s3cret', 'x-team': 'ours' });
    for (const { headers } of other.asked)
      expect([headers.authorization, headers['x-team']]).toEqual([undefined, undefined]);
  });

  it('take along what is asked for on their own site', async () => {
    const site = await open({ '/1': list('A', '/2'), '/2': list('B') });
    await bodyOf(sourceFetcher(), `${site.base}/1`, {
      request: { follow: BY_LINK, headers: [{ name: 'X-Team', value: 'ours' }] },
    });
    expect(site.asked.filter(({ path }) => path !== '/robots.txt').map(({ headers }) => headers['x-team'])).toEqual([
      'ours',
      'ours',
    ]);
  });

  it('are asked for one after the other with the pause of their host between them', async () => {
    const site = await open({ '/1': list('A', '/2'), '/2': list('B', '/3'), '/3': list('C') });
    await bodyOf(sourceFetcher(), `${site.base}/1`, { request: { follow: BY_LINK }, pauseMs: 150 });
    const [first = 0, second = 0, third = 0] = site.asked
      .filter(({ path }) => path !== '/robots.txt')
      .map(({ at }) => at);
    expect(Math.min(second - first, third - second)).toBeGreaterThanOrEqual(145);
  });

  it('are bounded together as one page is', async () => {
    const much = 'x'.repeat(MOST_BYTES / 2);
    const site = await open({ '/1': list(much, '/2'), '/2': list(much, '/3'), '/3': list(much) });
    expect(await bodyOf(sourceFetcher(), `${site.base}/1`, { request: { follow: BY_LINK } })).toContain('larger than');
    expect(pathsOf(site)).toEqual(['/1', '/2']);
  });

  it('are each heeded where the site wants no programs', async () => {
    const robots = page('User-agent: *\nDisallow: /2\n');
    const site = await open({ '/robots.txt': robots, '/1': list('A', '/2'), '/2': list('B') });
    const sources = sourceFetcher();
    expect(await bodyOf(sources, `${site.base}/1`, { request: { follow: BY_LINK } })).toContain(
      'asks programs not to fetch this address',
    );
    expect(pathsOf(site)).toEqual(['/1']);
    expect(await bodyOf(sources, `${site.base}/1`, { request: { follow: BY_LINK }, robotsHeeded: false })).toContain(
      '<li>B',
    );
  });
});

describe('the rules of a site for programs', () => {
  const READ = '<p>£24.00</p>';
  const offer = page(READ);
  const broken: Answer = (_, response) => response.writeHead(503).end();

  it.each<[string, Answer, boolean]>([
    ['that are not there allow everything', (_, response) => response.writeHead(404).end(), true],
    ['that may not be seen allow everything', (_, response) => response.writeHead(403).end(), true],
    ['that are a page for people allow everything', page('<html><p>Disallow: /</p></html>'), true],
    [
      'that are empty allow everything',
      (_, response) => response.writeHead(200, { 'content-type': 'text/plain' }).end(),
      true,
    ],
    ['that forbid all programs forbid ours', page('User-agent: *\nDisallow: /'), false],
    ['that forbid ours by name forbid it', page('User-agent: *\nAllow: /\n\nUser-agent: Shrike\nDisallow: /p/'), false],
    ['that forbid another do not forbid ours', page('User-agent: Crawler\nDisallow: /'), true],
    [
      'that allow a part of what they forbid are read by the longer rule',
      page('User-agent: *\nDisallow: /\nAllow: /p/'),
      true,
    ],
  ])('%s', async (_, robots, allowed) => {
    const site = await open({ '/robots.txt': robots, '/p/1': offer });
    const said = await bodyOf(sourceFetcher(), `${site.base}/p/1`);
    if (allowed) expect(said).toBe(READ);
    else expect(said).toContain(`${site.host} asks programs not to fetch this address`);
  });

  it('that do not come are not taken for leave, and are asked for again at the next look', async () => {
    let robots = broken;
    const site = await open({ '/robots.txt': (request, response) => robots(request, response), '/p/1': offer });
    const sources = sourceFetcher();
    expect(await bodyOf(sources, `${site.base}/p/1`)).toBe('The site answered with an error (503).');
    expect(pathsOf(site)).toEqual([]);
    robots = page('User-agent: *\nAllow: /');
    expect(await bodyOf(sources, `${site.base}/p/1`)).toBe(READ);
  });

  it('are asked for once in a while, and hold on for a day while they do not come', async () => {
    let robots = page('User-agent: *\nDisallow: /basket');
    const site = await open({
      '/robots.txt': (request, response) => robots(request, response),
      '/p/1': offer,
      '/basket': offer,
    });
    const sources = sourceFetcher();
    const look = () => bodyOf(sources, `${site.base}/p/1`);
    for (let at = 0; at < 5; at += 1) await look();
    expect(site.asked.filter(({ path }) => path === '/robots.txt')).toHaveLength(1);
    robots = broken;
    now += ROBOTS_KEPT + MINUTE;
    expect(await look()).toBe(READ);
    expect(await bodyOf(sources, `${site.base}/basket`)).toContain('asks programs not to fetch this address');
    now += DAY;
    expect(await look()).toBe('The site answered with an error (503).');
  });
});

describe('how long a site asks to be left alone', () => {
  const DATE = 'Mon, 01 Jun 2026 10:00:00 GMT';

  it.each<[string, string | null, string | null, number | null]>([
    ['in seconds', '120', null, 120],
    ['in seconds with room around', ' 120 ', null, 120],
    ['until a date, by its own clock', 'Mon, 01 Jun 2026 10:02:00 GMT', DATE, 120],
    ['until a date that is past', 'Mon, 01 Jun 2026 09:00:00 GMT', DATE, 0],
    ['until a date, without its own', 'Mon, 01 Jun 2026 10:02:00 GMT', null, null],
    ['for longer than a day is a day', '999999', null, 86_400],
    ['in words that mean nothing', 'soon', DATE, null],
    ['not at all', null, DATE, null],
  ])('%s', (_, header, date, seconds) => {
    expect(retryAfter(header, date)).toBe(seconds);
  });
});
