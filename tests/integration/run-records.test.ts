import type { RunId, WatchId } from '#core/id';
import ExcelJS from 'exceljs';
import Papa from 'papaparse';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { changesSheet, recordsSheet } from '#core/compare/run-sheet';
import { HOUR } from '#core/when/interval';
import { findWatch } from '#server/db/watch/views/watch-now';
import { changesOfRun, findWatchRun, listWatchRuns, recordsAt } from '#server/db/watch/views/runs';
import { askForRun } from '#server/actions/edit-watch';
import { sheetFile } from '#server/files/sheet-file';
import { openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// Each look of a watch says what it brought; its records and its changes can be taken along.

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(() => world.clear());
afterAll(() => world.close());

async function see(watch: WatchId, pence: number): Promise<void> {
  await world.pass(HOUR / 60);
  setPrice(world, pence);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
}

async function begin(): Promise<WatchId> {
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  return watch;
}

describe('the looks of a watch', () => {
  it('say what came of each, the latest first, page by page', async () => {
    const watch = await begin();
    await see(watch, 2200);
    await see(watch, 2200);
    world.standins.world.push('page', 'copper-smoker-large', 'retired');
    await see(watch, 2200);
    const looks = await listWatchRuns(world.pool, watch, null, 10);
    expect(looks.map(({ outcome, appeared, vanished, moved }) => [outcome, appeared, vanished, moved])).toEqual([
      ['failed', 0, 0, 0],
      ['same', 0, 0, 0],
      ['changed', 0, 0, 1],
      ['first', 0, 0, 0],
    ]);
    const [first, second] = looks;
    if (first === undefined || second === undefined) throw new Error('no looks');
    expect(await listWatchRuns(world.pool, watch, first, 1)).toEqual([second]);
    expect(await findWatchRun(world.pool, watch, first.id)).toBeNull();
    expect(await findWatchRun(world.pool, (watch + 1) as WatchId, second.id)).toBeNull();
    expect(await findWatchRun(world.pool, watch, 999_999 as RunId)).toBeNull();
  });

  it('have records as they stood then, and what moved, as CSV, XLSX and JSON', async () => {
    const watch = await begin();
    for (const price of [2200, 2100]) await see(watch, price);
    const now = await findWatch(world.pool, watch);
    const [, middle] = await listWatchRuns(world.pool, watch, null, 10);
    if (middle === undefined || now === null) throw new Error('no look');
    const records = recordsSheet(now.definition.fields, await recordsAt(world.pool, watch, middle.at));
    expect(records.rows).toHaveLength(1);
    expect(records.rows[0]).toContain('22.00');
    const changes = changesSheet(await changesOfRun(world.pool, watch, middle.id));
    expect(changes.rows.map((row) => row.slice(0, 8))).toEqual([
      ['Copper smoker', 'moved', 'price', '24.00', 'GBP', '22.00', 'GBP', '-2.00'],
    ]);

    const csv = Papa.parse<Record<string, string>>((await sheetFile('csv', changes, 'x')).toString(), {
      header: true,
      skipEmptyLines: true,
    });
    expect(csv.data[0]).toMatchObject({ was: '24.00', now: '22.00', what: 'moved' });
    const json = JSON.parse((await sheetFile('json', changes, 'x')).toString()) as { rows: object[] };
    expect(json.rows[0]).toMatchObject({ was: '24.00', now: '22.00', field: 'price' });
    const book = new ExcelJS.Workbook();
    await book.xlsx.load((await sheetFile('xlsx', records, 'x')) as unknown as ArrayBuffer);
    expect(book.worksheets[0]?.getRow(2).values).toContain(22);
  });
});

describe('a long text', () => {
  it('is in the file of what moved by its difference alone, and cut off with a mark among the records', async () => {
    const watch = await begin();
    await see(watch, 2200);
    const [run] = await listWatchRuns(world.pool, watch, null, 1);
    if (run === undefined) throw new Error('no look');
    const long = JSON.stringify({ kind: 'text', text: 'x'.repeat(1_000_000) });
    await world.pool.query('UPDATE change SET was = $1, now = $1', [long]);
    await world.pool.query(
      `UPDATE reading SET kind = 'text', amount = NULL, unit = NULL, words = repeat('x', 1000000)`,
    );
    const [change] = await changesOfRun(world.pool, watch, run.id);
    expect(JSON.stringify(change).length).toBeLessThan(10_000);
    const [record] = await recordsAt(world.pool, watch, run.at);
    expect(JSON.stringify(record)).toMatch(/^.{4000,4200}…/);
  });
});

describe('the tables of a look', () => {
  const text = (words: string) => ({ kind: 'text', text: words }) as const;
  it('run nothing where a program opens them', async () => {
    const sheet = recordsSheet(
      [{ key: 'a', label: '=1+1' }],
      [{ name: '=cmd()', identity: '@x', values: { a: text('-2+3') } }],
    );
    const csv = (await sheetFile('csv', sheet, 'x')).toString();
    for (const cell of ['=cmd()', '@x', '-2+3']) expect(csv).not.toMatch(new RegExp(`(^|,)"?\\${cell}`, 'm'));
  });
  it('hide no field behind another of its name', async () => {
    const fields = [
      { key: 'a', label: 'price' },
      { key: 'b', label: 'price' },
      { key: 'c', label: 'record' },
    ];
    const sheet = recordsSheet(fields, [
      { name: 'x', identity: 'x', values: { a: text('one'), b: text('two'), c: text('three') } },
    ]);
    const { rows } = JSON.parse((await sheetFile('json', sheet, 'x')).toString()) as { rows: object[] };
    expect(rows[0]).toMatchObject({ record: 'x', price: 'one', 'price (2)': 'two', 'record (2)': 'three' });
  });
  it('tell a record that went from one that came, and leave their sides empty', () => {
    const record = {
      kind: 'record',
      difference: null,
      percent: null,
      sense: 'neither',
      record: 'A',
      field: '',
      at: 0,
    } as const;
    const there = text('there');
    const { rows } = changesSheet([
      { ...record, from: there, to: { kind: 'absent' } },
      { ...record, from: { kind: 'absent' }, to: there },
    ]);
    expect(rows.map(([, what, , was, , now]) => [what, was, now])).toEqual([
      ['vanished', '', ''],
      ['appeared', '', ''],
    ]);
  });
});
