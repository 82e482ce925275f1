import { readFileSync, writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { fateOf, type Fate, type Path } from './fate';
import { LISTED } from './listings';
import { listingFateOf } from './listing-fate';
import { SORTS, type Done, type Site, type Sort } from './page';
import { ODD } from './sites/odd';
import { PUBLIC } from './sites/public';
import { SERVICES } from './sites/services';
import { SHOPS } from './sites/shops';

const TABLE = new URL('../../../docs/framed-pages.md', import.meta.url);
const SITES = [...SHOPS, ...SERVICES, ...PUBLIC, ...ODD];

interface Came {
  site: Site;
  done: Done;
  path: Path;
  fate: Fate;
}

const came: Came[] = (['picked', 'listed'] as const).flatMap((path) =>
  SITES.flatMap((site) => site.done.flatMap((done) => cameOf(site, done, path))),
);

function cameOf(site: Site, done: Done, path: Path): Came[] {
  const fate = fateOf(site, done, path);
  return fate === null ? [] : [{ site, done, path, fate }];
}

const listings = LISTED.flatMap((site) => site.done.map((done) => ({ site, done, ...listingFateOf(site, done) })));
const named = (fates: Fate[]) =>
  came.filter(({ fate }) => fates.includes(fate)).map(({ site, done, path }) => `${site.kind}: ${done.what} (${path})`);
const isPlain = ({ done }: Came) => done.sort === 'rebuilt';

const HEADS: Fate[] = ['right', 'in question', 'proposed', 'refused', 'proposed wrong', 'read wrong'];

function row(name: string, of: Came[]): string {
  return (
    `| ${name} | ${of.length} | ${HEADS.map((fate) => of.filter((each) => each.fate === fate).length).join(' | ')} ` +
    '|'
  );
}

function table(path: Path): string[] {
  const of = came.filter((each) => each.path === path);
  const sorts = Object.keys(SORTS) as Sort[];
  return [
    `| what was done | pages | ${HEADS.join(' | ')} |`,
    `| --- | ---: | ${HEADS.map(() => '---:').join(' | ')} |`,
    ...sorts.flatMap((sort) =>
      of.some(({ done }) => done.sort === sort)
        ? [
            row(
              SORTS[sort],
              of.filter(({ done }) => done.sort === sort),
            ),
          ]
        : [],
    ),
    row('**all**', of),
  ];
}

function document(): string {
  const asked = came.filter(({ fate }) => fate === 'in question');
  return [
    '# What a value is where it stands',
    '',
    'Pages of many kinds of site, each changed as real sites change: what stands around a value may change its ' +
      'sense while it is found where it was.',
    'Each watch is set up twice, by pointing at the value and from the list of what was found, and read again ' +
      'after one thing was done to the page.',
    'What was done was written as a person would say it who looks at the page; most of it must not be read. ' +
      '*Right*: read right, or rightly set aside;',
    '*in question*: set aside though it stands there plainly; *proposed*: not read, and the proposed place is right.',
    '`npx vitest run --project unit tests/corpus/framed` does it all again, and fails where this page no longer ' +
      'says what comes of it;',
    'with `SHRIKE_WRITE=1` it writes this page.',
    '',
    `${SITES.length} kinds of site, ${SITES.reduce((sum, { done }) => sum + done.length, 0)} pages. **Read ` +
      `wrong: ${named(['read wrong']).length}. Proposed wrong: ${named(['proposed wrong']).length}.**`,
    '',
    '## Pointed at',
    '',
    ...table('picked'),
    '',
    '## Taken from the list',
    '',
    ...table('listed'),
    '',
    '## Pages of many records',
    '',
    `${LISTED.length} kinds, ${listings.length} pages: ${listings.filter(({ fate }) => fate === 'right').length} ` +
      `right, ${listings.filter(({ fate }) => fate === 'left out').length} with a record left out, ` +
      `${listings.filter(({ fate }) => fate === 'read wrong').length} read wrong.`,
    '',
    '## Put in question without need',
    '',
    ...asked.map(({ site, done, path }) => `- ${site.kind}: ${done.what} (${path})`),
    '',
  ].join('\n');
}

describe('pages whose values stand in another frame', () => {
  it('are many, of many kinds, half of them such as must not be read', () => {
    const all = SITES.flatMap(({ done }) => done);
    expect(SITES.length).toBeGreaterThanOrEqual(25);
    expect(all.length).toBeGreaterThanOrEqual(250);
    expect(all.filter(({ truth }) => truth === null).length * 2).toBeGreaterThanOrEqual(all.length);
    expect(listings.length).toBeGreaterThanOrEqual(60);
  });

  it('are never read wrong, and no wrong place is proposed', () => {
    expect(named(['read wrong'])).toEqual([]);
    expect(named(['proposed wrong'])).toEqual([]);
  });

  it('are read where they stand plainly, or proposed, and seldom put in question without need', () => {
    const plain = came.filter(isPlain);
    const of = (fates: Fate[]) => plain.filter(({ fate }) => fates.includes(fate)).length;
    expect(of(['right', 'proposed', 'in question']) / plain.length).toBeGreaterThanOrEqual(60 / 63);
    expect(of(['in question']) / plain.length).toBeLessThanOrEqual(0.1);
  });

  it('are told in the docs as they came out', () => {
    if (process.env.SHRIKE_WRITE === '1') writeFileSync(TABLE, document());
    expect(readFileSync(TABLE, 'utf8')).toBe(document());
  });
});

describe('pages of many records', () => {
  it('are never read wrong, and a record is left out rather than taken for another', () => {
    expect(
      listings
        .filter(({ fate }) => fate === 'read wrong')
        .map(({ site, done, said }) => `${site.kind}: ${done.what}: ${said}`),
    ).toEqual([]);
  });

  it('are read whole where they stand plainly', () => {
    expect(
      listings
        .filter(({ done, fate }) => done.plain && fate !== 'right')
        .map(({ site, done }) => `${site.kind}: ${done.what}`),
    ).toEqual([]);
  });
});
