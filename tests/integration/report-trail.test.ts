import type { ChangeId, ReportId, SeriesId, WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { blankDefinition, type ReportDefinition } from '#core/tell/definition';
import { HOUR, MINUTE } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { findOtherTrail, listOtherNews, type OtherNews } from '#server/db/reading/views/other-news';
import { askForRun } from '#server/actions/edit-watch';
import { cutByHand } from '#server/pipeline/report/cut';
import { makeReport, saveReport } from '#server/pipeline/report/store';
import { reportTrailOf, type ReportTrailEntry } from '#server/pipeline/report/trail';
import { openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// Of a change it can be seen what each report made of it, and which line left it out (1).

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const order = (change: Partial<ReportDefinition> = {}): ReportDefinition => ({
  ...blankDefinition('Europe/London', ['list:1']),
  cadence: { cut: 'never' },
  by: 'none',
  ...change,
});
const scoped = (change: Partial<ReportDefinition['takes']>): ReportDefinition =>
  order({ takes: { ...order().takes, ...change } });
const make = (name: string, asked: ReportDefinition) =>
  inTransaction(world.pool, (db) =>
    makeReport(db, world.services.pipeline.ids, { name, order: asked }, world.people.ines, world.now),
  );

async function cut(...ids: ReportId[]): Promise<void> {
  for (const id of ids) await inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, id, world.now));
  await world.pass(0);
}

async function see(watch: WatchId, pence: number, slug?: string): Promise<ChangeId> {
  await world.pass(MINUTE);
  setPrice(world, pence, slug);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
  const [last] = await world.rows<{ id: ChangeId }>(
    'SELECT id FROM change WHERE watch_id = $1 ORDER BY seen_at DESC, id DESC LIMIT 1',
    [watch],
  );
  if (last === undefined) throw new Error('nothing moved');
  return last.id;
}

const came = async (change: ChangeId) =>
  (await reportTrailOf(world.pool, { of: 'change', id: change })).map(({ report, version, came: to }) => [
    report.name,
    version,
    to,
  ]);

async function priceSeries(watch: WatchId): Promise<SeriesId> {
  const [series] = await world.rows<{ id: SeriesId }>(
    'SELECT s.id FROM series s JOIN record r ON r.id = s.record_id WHERE r.watch_id = $1',
    [watch],
  );
  if (series === undefined) throw new Error('nothing was read');
  return series.id;
}

it('names the line that left it out, its edition, its size, or that it waits', async () => {
  const [watch, other] = [
    await startWatch(world, { condition: null }),
    await startWatch(world, { condition: null, slug: 'steel-smoker' }),
  ];
  await world.pass(0);
  const { only, not } = order().takes;
  const big = { is: 'percent', least: '20' } as unknown as ReportDefinition['size']['falls'];
  const ids = [
    await make('all', order()),
    await make('big', order({ size: { ...order().size, falls: big } })),
    await make('not this', scoped({ not: { ...not, watches: [watch] } })),
    await make('other', scoped({ only: { ...only, watches: [other] } })),
    await make('stock', scoped({ sorts: ['stock'] })),
    await make('values', order({ present: [{ series: await priceSeries(watch), name: 'The smoker' }] })),
  ];
  const change = await see(watch, 2300);
  // It has a place once something is cut.
  const waits = await make('later', order());
  expect((await came(change)).map(([name]) => name)).not.toContain('later');
  await cut(...ids);
  const [edition] = await world.rows<{ id: number }>('SELECT id FROM edition WHERE report_id = $1', [ids[0]]);
  expect(await came(change)).toEqual([
    ['all', 1, { to: 'edition', id: edition?.id, number: 1 }],
    ['big', 1, { to: 'size' }],
    ['not this', 1, { to: 'left out', by: { by: 'watch', chosen: false } }],
    ['other', 1, { to: 'left out', by: { by: 'watch', chosen: true } }],
    ['stock', 1, { to: 'left out', by: { by: 'sort', sort: 'prices' } }],
    ['values', 1, { to: 'left out', by: { by: 'present' } }],
  ]);
  const next = await see(watch, 2200);
  await cut(ids[0] as ReportId);
  expect((await came(next)).find(([name]) => name === 'later')).toEqual(['later', 1, { to: 'not cut yet' }]);
  expect(waits).toBeGreaterThan(0);
});

it('counts what is beyond the lines, and keeps to the version of the cut', async () => {
  const watches = [
    await startWatch(world, { condition: null }),
    await startWatch(world, { condition: null, slug: 'steel-smoker' }),
  ];
  await world.pass(0);
  const id = await make('one line', order({ most: 1 }));
  const changes = [await see(watches[0] as WatchId, 1200), await see(watches[1] as WatchId, 2990, 'steel-smoker')];
  await cut(id);
  const plan = { name: 'one line', order: scoped({ sorts: ['stock'] }) };
  await inTransaction(world.pool, (db) =>
    saveReport(db, world.services.pipeline.ids, { id, over: 1, plan, passOver: false }, world.people.ines, world.now),
  );
  const told = (await Promise.all(changes.map(came))).map(([first]) => [first?.[1], (first?.[2] as { to: string }).to]);
  expect(told.toSorted()).toEqual([
    [1, 'beyond'],
    [1, 'edition'],
  ]);
});

it('passes over what a newer Shrike wrote', async () => {
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  const id = await make('newer', order());
  const change = await see(watch, 2300);
  await cut(id);
  await world.pool.query(`UPDATE report_version SET definition = definition || '{"v": 99}'`);
  expect(await came(change)).toEqual([]);
});

it('is made of reports that were there, and is empty of a change that is not', async () => {
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  const change = await see(watch, 2300);
  await world.pass(HOUR);
  await cut(await make('after', order()));
  expect(await came(change)).toEqual([]);
  expect(await came(999_999 as ChangeId)).toEqual([]);
});

it('says of what a change raised where a report takes the one without the other', async () => {
  const watch = await startWatch(world);
  await world.pass(0);
  const { sorts } = order().takes;
  const orders: Record<string, Partial<ReportDefinition['takes']>> = {
    both: {},
    heavy: { only: { ...order().takes.only, weights: ['high'] } },
    'no alerts': { sorts: sorts.filter((sort) => sort !== 'alerts') },
    'no prices': { sorts: sorts.filter((sort) => sort !== 'prices') },
    neither: { sorts: ['stock'] },
  };
  for (const [name, takes] of Object.entries(orders)) await make(name, scoped(takes));
  const change = await see(watch, 2100);
  await cut(await make('later', order()));
  const apart = Object.fromEntries(
    (await reportTrailOf(world.pool, { of: 'change', id: change })).map(({ report, alerts }) => [report.name, alerts]),
  );
  expect(apart).toMatchObject({
    both: null,
    heavy: null,
    'no alerts': { by: 'sort', sort: 'alerts' },
    'no prices': 'alone',
    neither: null,
  });
});

/** What each report made of a piece of other news, by its name. */
async function madeOf(watch: WatchId, of: OtherNews['of']): Promise<Record<string, ReportTrailEntry['came']>> {
  const latest = (await listOtherNews(world.pool, watch, 20)).find((news) => news.of === of);
  if (latest === undefined) throw new Error(`there is no ${of}`);
  expect(await findOtherTrail(world.pool, watch, of, latest.id)).toMatchObject({ news: { of, id: latest.id } });
  expect(await findOtherTrail(world.pool, (watch + 1) as WatchId, of, latest.id)).toBeNull();
  expect(await findOtherTrail(world.pool, watch, of, 999_999_999)).toBeNull();
  return Object.fromEntries((await reportTrailOf(world.pool, latest)).map(({ report, came: to }) => [report.name, to]));
}

/** The page of a watch is no more: three looks at it fail. */
async function retire(): Promise<void> {
  world.standins.world.push('page', 'copper-smoker-large', 'retired');
  for (let looks = 0; looks < 3; looks += 1) await world.pass(HOUR + MINUTE);
}

it('says the same of what broke', async () => {
  const [watch, other] = [await startWatch(world), await startWatch(world, { condition: null, slug: 'steel-smoker' })];
  await world.pass(0);
  const { only, sorts } = order().takes;
  const ids = [
    await make('all', order()),
    await make('other', scoped({ only: { ...only, watches: [other] } })),
    await make('brand', scoped({ only: { ...only, brand: ['Nobody’s'] } })),
    await make('field', scoped({ only: { ...only, fields: ['colour'] } })),
    await make('no failures', scoped({ sorts: sorts.filter((sort) => sort !== 'failures') })),
  ];
  await retire();
  await cut(...ids);
  const [edition] = await world.rows<{ id: number }>('SELECT id FROM edition WHERE report_id = $1', [ids[0]]);
  const leftOut = {
    brand: { to: 'left out', by: { by: 'brand', chosen: true } },
    field: { to: 'left out', by: { by: 'field', chosen: true } },
    other: { to: 'left out', by: { by: 'watch', chosen: true } },
    'no failures': { to: 'left out', by: { by: 'sort', sort: 'failures' } },
  };
  expect(await madeOf(watch, 'failure')).toEqual({ all: { to: 'edition', id: edition?.id, number: 1 }, ...leftOut });
});

it('says the same of an alert that no change raised', async () => {
  const silent = {
    kind: 'silence' as const,
    asked: { field: 'price' },
    how: { of: 'readings' as const, ms: 2 * HOUR },
  };
  const watch = await startWatch(world, { condition: silent });
  await world.pass(0);
  const { only, sorts } = order().takes;
  const ids = [
    await make('all', order()),
    await make('heavy', scoped({ only: { ...only, weights: ['high'] } })),
    await make('no alerts', scoped({ sorts: sorts.filter((sort) => sort !== 'alerts') })),
    await make('stock', scoped({ only: { ...only, fields: ['stock'] } })),
  ];
  await retire();
  await cut(...ids);
  const [edition] = await world.rows<{ id: number }>('SELECT id FROM edition WHERE report_id = $1', [ids[0]]);
  expect(await madeOf(watch, 'alert')).toEqual({
    all: { to: 'edition', id: edition?.id, number: 1 },
    heavy: { to: 'left out', by: { by: 'weight', chosen: true } },
    'no alerts': { to: 'left out', by: { by: 'sort', sort: 'alerts' } },
    stock: { to: 'left out', by: { by: 'field', chosen: true } },
  });
});

it('says the same of what was first read', async () => {
  const { only } = order().takes;
  const firsts = { sorts: ['first readings' as const] };
  const ids = [
    await make('usual', order()),
    await make('firsts', scoped(firsts)),
    await make('first colours', scoped({ ...firsts, only: { ...only, fields: ['colour'] } })),
  ];
  await world.pass(MINUTE);
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  await cut(...ids);
  const [edition] = await world.rows<{ id: number }>('SELECT id FROM edition WHERE report_id = $1', [ids[1]]);
  expect(await madeOf(watch, 'first reading')).toEqual({
    firsts: { to: 'edition', id: edition?.id, number: 1 },
    'first colours': { to: 'left out', by: { by: 'field', chosen: true } },
    usual: { to: 'left out', by: { by: 'sort', sort: 'first readings' } },
  });
});
