import { readFileSync, writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import type { Evidence } from '#core/read/evidence';
import { BASES } from './bases';
import { REBUILT, type RebuiltPage } from './cases';
import { fateOf, fatesOfWays, setUp, type Fate } from './read';

const TABLE = new URL('../../../docs/rebuilt-pages.md', import.meta.url);
const fates = REBUILT.map((page) => ({ page, fate: fateOf(page) }));
const count = (fate: Fate, made?: RebuiltPage['made']) =>
  fates.filter((each) => each.fate === fate && (made ?? each.page.made) === each.page.made).length;
const share = (part: number) => `${((100 * part) / REBUILT.length).toFixed(1)}%`;

const HEADS: [Fate, string][] = [
  ['right', 'right without help'],
  ['proposed', 'proposed right'],
  ['refused', 'refused'],
  ['proposed wrong', 'proposed wrong'],
  ['read wrong', 'read wrong'],
];

/** The table of docs/rebuilt-pages.md, from what was just found out. */
function table(): string {
  const row = (name: string, made?: RebuiltPage['made']) =>
    `| ${name} | ${HEADS.map(([fate]) => count(fate, made)).join(' | ')} |`;
  const lines = fates.map(
    ({ page, fate }) => `| ${page.base.name} | ${page.name} | ${page.made} | ${page.truth ?? 'nothing'} | ${fate} |`,
  );
  return [
    '# Pages built anew',
    '',
    'A watch is set up on a page by one pick, with all the ways and guards that Shrike proposes. Then the page ' +
      'is built anew, its value moved, and read.',
    'Where nothing is read, the proposed mending is done and read. `npx vitest run --project unit tests/corpus` ' +
      'does it all again, and fails where this',
    'page no longer says what comes of it; with `SHRIKE_WRITE=1` it writes this page. Half of the pages are made ' +
      'by code that works on plain text and',
    'knows nothing of how places are found (`tests/corpus/rebuilt/rebuild.ts`); the others are written by hand ' +
      '(`by-hand.ts`).',
    '',
    `Of ${REBUILT.length} pages ${count('right')} are read right, or rightly not read, without help ` +
      `(${share(count('right'))}); with the proposals`,
    `${count('right') + count('proposed')} (${share(count('right') + count('proposed'))}). **Read wrong without ` +
      `notice: ${count('read wrong')}.**`,
    '',
    `| | ${HEADS.map(([, head]) => head).join(' | ')} |`,
    `| --- | ${HEADS.map(() => '---:').join(' | ')} |`,
    row('made by code', 'by code'),
    row('written by hand', 'by hand'),
    row('all'),
    '',
    'What each way finds there by itself, without the others that have to agree with it; how sure a way is ' +
      'called goes by this:',
    '',
    '| by | found | lost | wrong | lasting |',
    '| --- | ---: | ---: | ---: | ---: |',
    ...wayLines(),
    '',
    '| page | what was done to it | made | has to be read as | came out |',
    '| --- | --- | --- | --- | --- |',
    ...lines,
    '',
  ].join('\n');
}

const KINDS: [Evidence, string][] = [
  ['label', 'the label it stands beside'],
  ['meaning', 'its meaning in structured data'],
  ['heading', 'its order under a heading'],
  ['attributes', 'an id, a class, an attribute'],
  ['position', 'position alone'],
];
const ways = REBUILT.filter((page) => page.truth !== null).flatMap(fatesOfWays);
const lasting = (evidence: Evidence[]) => {
  const of = ways.filter((way) => evidence.includes(way.evidence));
  return of.filter((way) => way.fate === 'found').length / of.length;
};

/** What each kind of evidence is worth by itself. */
function wayLines(): string[] {
  const countOf = (evidence: Evidence, fate: string) =>
    ways.filter((way) => way.evidence === evidence && way.fate === fate).length;
  return KINDS.map(
    ([evidence, name]) =>
      `| ${name} | ${['found', 'lost', 'wrong'].map((fate) => countOf(evidence, fate)).join(' | ')} | ` +
      `${(100 * lasting([evidence])).toFixed(0)}% |`,
  );
}

describe('pages built anew', () => {
  it('are many, half of them made by code that shares nothing with the locators', () => {
    expect(REBUILT.length).toBeGreaterThanOrEqual(40);
    expect(REBUILT.filter((page) => page.made === 'by code').length * 2).toBeGreaterThanOrEqual(REBUILT.length);
    expect(REBUILT.filter((page) => page.made === 'by hand').length).toBeGreaterThanOrEqual(20);
  });

  it('are never read wrong without notice, and no wrong place is proposed', () => {
    expect(
      fates.filter(({ fate }) => fate === 'read wrong').map(({ page }) => `${page.base.name}: ${page.name}`),
    ).toEqual([]);
    expect(
      fates.filter(({ fate }) => fate === 'proposed wrong').map(({ page }) => `${page.base.name}: ${page.name}`),
    ).toEqual([]);
  });

  it('are read right in four of five cases, and in nineteen of twenty with what is proposed', () => {
    expect(count('right') / REBUILT.length).toBeGreaterThanOrEqual(0.8);
    expect((count('right') + count('proposed')) / REBUILT.length).toBeGreaterThanOrEqual(0.95);
  });

  it('keep the ways that are called sure longer than those that are not', () => {
    expect(lasting(['label', 'meaning'])).toBeGreaterThanOrEqual(lasting(['heading']));
    expect(lasting(['heading'])).toBeGreaterThan(lasting(['attributes']));
    expect(lasting(['attributes'])).toBeGreaterThan(lasting(['position']));
  });

  it('are told in the docs as they came out', () => {
    if (process.env.SHRIKE_WRITE === '1') writeFileSync(TABLE, table());
    expect(readFileSync(TABLE, 'utf8')).toBe(table());
  });

  it.each(BASES)('$name is found by at least two independent ways, none of them leaning on its value', (base) => {
    const { definition } = setUp(base);
    const ways = definition.fields[0]?.locators ?? [];
    expect(new Set(ways.map((way) => way.way)).size).toBeGreaterThanOrEqual(3);
    const digits = (base.data.price ?? '').replace(/<[^>]*>/g, '').replace(/[^\d]/g, '');
    expect(JSON.stringify(ways).replace(/[^\d]/g, '')).not.toContain(digits);
  });
});
