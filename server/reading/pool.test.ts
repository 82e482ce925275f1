import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { setTimeout as pause } from 'node:timers/promises';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { afterAll, afterEach, beforeEach, describe, expect, it } from 'vitest';
import { pageDefinition, type Field, type WatchDefinition } from '#core/read/definition';
import type { Locator } from '#core/read/locator';
import { bodyOf, describeTaskProblem, ReadingPool } from './pool';
import type { ReadAsked } from './tasks';

const DEADLINE_MS = 3_000;
const STANDSTILL_MS = 1_000;
const MB = 1_000_000;

const pool = new ReadingPool({ threads: 2, deadlineMs: DEADLINE_MS, hold: true });
afterAll(() => pool.close());

const loop = monitorEventLoopDelay({ resolution: 10 });
beforeEach(() => {
  loop.reset();
  loop.enable();
});
afterEach(() => loop.disable());
const longestStandstill = () => loop.max / 1e6;

const GOOD = '<html><body><h1>Smoker</h1><p>Our price <b class="price">£24.00</b></p></body></html>';
const price = (locator: Locator): Field => ({
  key: 'price',
  label: 'price',
  type: { kind: 'money', currency: null },
  mode: 'stepwise',
  polarity: 'neither',
  locale: null,
  locators: [locator],
});
const byCss = (selector: string) => price({ way: 'css', selector });

function asked(text: string, definition: WatchDefinition): ReadAsked {
  return { body: { key: bodyOf(text).key, receivedAt: 0 }, definition, address: null, latest: [] };
}

function read(text: string, ...definitions: WatchDefinition[]) {
  return pool.each(
    'read',
    definitions.map((definition) => asked(text, definition)),
    [bodyOf(text)],
  );
}

const valueIn = (done: Awaited<ReturnType<typeof read>>[number] | undefined) =>
  done?.ok && done.value.reading.ok ? done.value.reading.value.records[0]?.fields[0]?.outcome : done;

const many = (piece: string, size = MB) => piece.repeat(Math.ceil(size / piece.length)).slice(0, size);
const rows = (count: number) =>
  Array.from({ length: count }, (_, at) => `<div class="row"><span>${at}</span></div>`).join('');
const json = `{"a":${'['.repeat(60)}${many('{"b":[1,2,3]},', 50_000)}0${']'.repeat(60)}}`;

const fromJson: WatchDefinition = {
  ...pageDefinition('x', [{ ...price({ way: 'path', path: '$' }), type: { kind: 'text' } }]),
  records: { from: 'json', path: '$..[?count($..*)==0]' },
};

describe('a page or a path that takes for ever', () => {
  it.each<[string, string, WatchDefinition]>([
    [
      'a selector that asks of each what follows it',
      `<html><body>${rows(20_000)}`,
      pageDefinition('x', [byCss('div:has(~ div:has(~ div))')]),
    ],
    [
      'an XPath that counts all for each',
      `<html><body>${rows(1500)}`,
      pageDefinition('x', [price({ way: 'xpath', path: '//*[count(//*[count(//*)>1])>1]' })]),
    ],
    ['a JSONPath that counts all below each', json, fromJson],
    [
      'a pattern of many ways',
      `<html><body><p>${many('a', 200_000)}`,
      pageDefinition('x', [price({ way: 'pattern', pattern: '((a?){1000})x' })]),
    ],
    [
      'a mask of many ways',
      `<html><body><p>${many('a', 200_000)}`,
      pageDefinition('x', [{ ...byCss('p'), type: { kind: 'text', masks: ['((a?){1000})x'] } }]),
    ],
  ])('is given up with a sentence, and nobody else waits: %s', async (_, text, definition) => {
    const began = performance.now();
    const slow = read(text, definition);
    const good = read(GOOD, pageDefinition('Smoker', [byCss('.price')]));
    expect(valueIn((await good)[0])).toMatchObject({ ok: true, value: { value: { amount: '24.00' } } });
    const [done] = await slow;
    if (done === undefined || done.ok) expect(performance.now() - began).toBeLessThan(2 * DEADLINE_MS);
    else expect(describeTaskProblem(done.error)).toMatch(/^This page takes too (long|much)|takes more memory/);
    expect(longestStandstill()).toBeLessThan(STANDSTILL_MS);
  });

  it('fails its own watch, and none of the others on its page', async () => {
    const text = GOOD.replace('</body>', `${rows(20_000)}</body>`);
    const slow = pageDefinition('x', [byCss('div:has(~ div:has(~ div))')]);
    const good = pageDefinition('Smoker', [byCss('.price')]);
    const done = await read(text, good, slow, good);
    expect(done.map((each) => each.ok)).toEqual([true, false, true]);
    expect(valueIn(done[2])).toMatchObject({ ok: true, value: { value: { amount: '24.00' } } });
  });

  it('is refused while it is parsed where its tree is too large or too deep', async () => {
    const bodies = {
      nested: many('<div>'),
      'nested XML': `<?xml version="1.0"?>${many('<a>')}`,
      'flat elements': many('<b>', 5 * MB),
      comments: many('<!---->x', 5 * MB),
    };
    for (const [name, text] of Object.entries(bodies)) {
      const offered = await pool.run('offer', { body: { key: bodyOf(text).key, receivedAt: 0 } }, [bodyOf(text)]);
      if (offered.ok) expect(offered.value.problem, name).toMatch(/more than|levels deep/);
      else expect(offered.error.reason, name).toBe('too long');
    }
    expect(longestStandstill()).toBeLessThan(STANDSTILL_MS);
  });

  it('is given up where it asks for more memory than it may have', async () => {
    const hungry = `<html><body>${'<div>'.repeat(400)}${many('word ', 4 * MB)}`;
    const definition = {
      ...pageDefinition('x', [{ ...price({ way: 'pattern', pattern: '(?s)(.*)' }), type: { kind: 'text' as const } }]),
      records: { from: 'rows' as const, rows: 'div' },
    };
    const [done] = await read(hungry, definition);
    if (done?.ok) expect(done.value.reading).toMatchObject({ ok: false });
    else expect(done?.error.reason).toMatch(/too (much|long)/);
    expect(valueIn((await read(GOOD, pageDefinition('Smoker', [byCss('.price')])))[0])).toMatchObject({ ok: true });
  });
});

describe('a reading on a machine that stands still meanwhile', () => {
  it('is not given up: what its thread did not work is not counted', async () => {
    const reader = spawn(process.execPath, ['--import', 'tsx', 'tests/support/stopped-reader.ts'], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let said = '';
    reader.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
    await once(reader.stdout, 'data');
    reader.kill('SIGSTOP');
    await pause(2_000);
    expect(said).toBe('begun\n');
    reader.kill('SIGCONT');
    await once(reader, 'close');
    expect(said).toContain('24.00');
  });
});

describe('a long list', () => {
  it.each<[string, (at: number) => string]>([
    ['rows of a plain table', (at) => `<tr><td>Item ${at}</td><td>${at}</td><td>£${at}.00</td></tr>`],
    ['headings', (at) => `<h2>Heading ${at}</h2><p>£${at}.50</p>`],
    ['labels', (at) => `<dl><dt>Label</dt><dd>£${at}.50</dd></dl>`],
    ['spans', (at) => `<span>£${at}.50</span>`],
  ])(
    'of 10,000 %s is looked through within the deadline, and a bounded number of it is proposed',
    async (name, piece) => {
      const list = Array.from({ length: 10_000 }, (_, at) => piece(at)).join('');
      const text = `<html><body>${name.startsWith('rows') ? `<table>${list}</table>` : list}`;
      const patient = new ReadingPool({ threads: 1, deadlineMs: 10_000, hold: true });
      const offered = await patient.run('offer', { body: { key: bodyOf(text).key, receivedAt: 0 } }, [bodyOf(text)]);
      await patient.close();
      if (!offered.ok) throw new Error(offered.error.reason);
      expect(offered.value.candidates.length + offered.value.listings.length).toBeGreaterThan(0);
      expect(offered.value.candidates.length).toBeLessThanOrEqual(100);
      expect(longestStandstill()).toBeLessThan(STANDSTILL_MS);
    },
  );

  it('of 50,000 records is shown by pages', async () => {
    const text = `name,price\n${Array.from({ length: 50_000 }, (_, at) => `item ${at},${at}.50`).join('\n')}\n`;
    const patient = new ReadingPool({ threads: 1, deadlineMs: 20_000, hold: true });
    const body = { key: bodyOf(text).key, receivedAt: 0 };
    const offered = await patient.run('offer', { body }, [bodyOf(text)]);
    const listing = offered.ok ? offered.value.listings[0] : undefined;
    if (listing === undefined) throw new Error('nothing was offered');
    const definition = { ...pageDefinition('x', listing.fields), records: listing.records, identity: listing.identity };
    const place = { locale: 'en-GB', zone: 'Europe/London' };
    const preview = (page: number) =>
      patient.run('preview', { body, definition, address: null, latest: [], page, place }, [bodyOf(text)]);
    const [first, last, beyond] = [await preview(0), await preview(249), await preview(9_999)];
    await patient.close();
    expect(first).toMatchObject({ ok: true, value: { count: 50_000, page: 0 } });
    expect(last.ok && last.value.rows.at(-1)?.identity).toBe('item 49999');
    expect(beyond).toMatchObject({ ok: true, value: { page: 249 } });
  });
});

describe('one who asks for much', () => {
  it('keeps nobody else waiting behind it, and is told so beyond its share', async () => {
    let asking: string | null = 'greedy';
    const fair = new ReadingPool({ threads: 1, deadlineMs: DEADLINE_MS, hold: true, whoAsks: () => asking });
    const ended: string[] = [];
    const body = bodyOf(`${'bees '.repeat(20_000)}low`);
    const ask = async (name: string) => {
      const done = await fair.run('search', { key: body.key, pattern: '(b|e|s| )*low' }, [body]);
      ended.push(done.ok ? name : `${name} ${done.error.reason}`);
    };
    const greedy = Array.from({ length: 60 }, () => ask('greedy'));
    asking = 'other';
    await ask('other');
    await Promise.all(greedy);
    await fair.close();
    expect(ended.filter((each) => each === 'greedy busy').length).toBeGreaterThan(10);
    const done = ended.filter((each) => !each.endsWith('busy'));
    expect(done.indexOf('other')).toBeLessThan(3);
  });
});
