import type { ReportId, WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { storedDocument } from '#core/tell/edition/document';
import { NEWS_SORTS, blankDefinition, type ReportDefinition } from '#core/tell/definition';
import { formatValue } from '#core/value/format';
import { ABSENT, type Value } from '#core/value/value';
import { MINUTE } from '#core/when/interval';
import { Ids } from '#server/db/base/ids';
import { inTransaction } from '#server/db/base/pool';
import { claimDue } from '#server/db/source/sources';
import { askForRun, editWatch, type RulePlan } from '#server/actions/edit-watch';
import { cutByHand } from '#server/pipeline/report/cut';
import { makeReport } from '#server/pipeline/report/store';
import { runSource } from '#server/pipeline/run';
import { pageDefinition, type Field } from '#core/read/definition';
import { PRICE, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// What is first read is a baseline, and news to a report that asks for it (1); where it moved since it is told from
// there (9).

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const AVAILABILITY: Field = {
  ...PRICE,
  key: 'stock',
  label: 'stock',
  role: 'availability',
  type: { kind: 'text' },
  locators: [{ way: 'structured', type: 'Product', path: 'offers.availability' }],
};
const MEASURED: Field = { ...PRICE, mode: 'measured' };
const NO_RULES: RulePlan[] = [];

const order = (change: Partial<ReportDefinition> = {}): ReportDefinition => ({
  ...blankDefinition('Europe/London', ['list:1']),
  cadence: { cut: 'never' },
  by: 'none',
  takes: { ...blankDefinition('UTC', []).takes, sorts: [...NEWS_SORTS] },
  ...change,
});
const USUAL = blankDefinition('UTC', []).takes;

const make = (asked: ReportDefinition, name = 'All') =>
  inTransaction(world.pool, (db) =>
    makeReport(db, world.services.pipeline.ids, { name, order: asked }, world.people.ines, world.now),
  );

/** Cuts a report, and says what the lines of its edition are; null where it made none. */
async function cut(id: ReportId): Promise<string[] | null> {
  await inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, id, world.now));
  await world.pass(0);
  const [last] = await world.rows<{ document: unknown }>(
    `SELECT e.document
      FROM cut c
      JOIN edition e ON e.cut_id = c.id
      WHERE c.report_id = $1 AND c.number = (SELECT max(number) FROM cut WHERE report_id = $1)`,
    [id],
  );
  if (last === undefined) return null;
  const { groups } = storedDocument.read(last.document);
  const said = (value: Value | null | undefined) => formatValue(value ?? ABSENT, 'en-GB');
  return groups.flatMap(({ rows }) =>
    rows.map((row) => `${row.kind ?? '-'}: ${said(row.net?.parts[0]?.from)} ${said(row.now)}`),
  );
}

async function see(watch: WatchId, pence: number, by = world.services.pipeline): Promise<void> {
  await world.pass(MINUTE);
  setPrice(world, pence);
  await askForRun(world.pool, watch, world.now);
  for (const source of await claimDue(world.pool, world.now, world.config.leaseMs, 5)) await runSource(by, source);
}

it('is told to whom it is news, once, and to nobody else', async () => {
  const [all, usual] = [await make(order()), await make(order({ takes: USUAL }), 'Usual')];
  await startWatch(world, { condition: null });
  await world.pass(0);
  expect(await cut(all)).toEqual(['first read: £24.00 £24.00']);
  expect(await cut(usual)).toBeNull();
  expect(await cut(all)).toBeNull();
});

it('with moves since is told as one line from what was first read, also where first readings are not asked for', async () => {
  const [all, usual, each] = [
    await make(order()),
    await make(order({ takes: USUAL }), 'Usual'),
    await make(order({ shows: 'each' }), 'Each'),
  ];
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  await see(watch, 2200);
  expect(await cut(all)).toEqual(['first read: £24.00 £22.00']);
  expect(await cut(usual)).toEqual(['first read: £24.00 £22.00']);
  expect((await cut(each))?.sort()).toEqual(['fall: £24.00 £22.00', 'first read: £24.00 £24.00']);
});

it('is not held back by a size that it has not, and a move from it is', async () => {
  const size: ReportDefinition['size'] = { ...order().size, falls: { is: 'off' } };
  const [all, usual] = [await make(order({ size })), await make(order({ size, takes: USUAL }), 'Usual')];
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  await see(watch, 2200);
  expect(await cut(all)).toEqual(['first read: £24.00 £22.00']);
  expect(await cut(usual)).toBeNull();
});

it('is where a report that counts from what it showed begins, and not when that was', async () => {
  const all = await make(order({ size: { ...order().size, base: 'told' } }));
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  await see(watch, 2300);
  expect(await cut(all)).toEqual(['first read: £24.00 £23.00']);
  await see(watch, 2200);
  expect(await cut(all)).toEqual(['fall: £23.00 £22.00']);
  const editions = await world.rows<{ since: number }>(
    `SELECT jsonb_array_length(jsonb_path_query_array(document, '$.groups[*].rows[*].since')) AS since
      FROM edition
      ORDER BY number`,
  );
  expect(editions.map(({ since }) => since)).toEqual([0, 0]);
});

it('is none of what is measured, and none of what a report leaves out', async () => {
  const watch = await startWatch(world, { condition: null, fields: [MEASURED] });
  const [all, other] = [
    await make(order()),
    await make(order({ takes: { ...order().takes, not: { ...USUAL.not, watches: [watch] } } }), 'Other'),
  ];
  await world.pass(0);
  expect(await cut(all)).toBeNull();
  const plain = await startWatch(world, { condition: null, slug: 'steel-smoker' });
  await world.pass(0);
  expect(await cut(all)).toHaveLength(1);
  await inTransaction(world.pool, (db) => askForRun(db, plain, world.now));
  await world.pass(0);
  expect(await cut(all)).toBeNull();
  expect(await cut(other)).toHaveLength(1);
});

it('of a field that is added to a running watch is told by itself', async () => {
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  const all = await make(order());
  const plan = {
    definition: pageDefinition('Copper smoker', [PRICE, AVAILABILITY]),
    frequency: { count: 1, unit: 'hour' as const },
    rules: NO_RULES,
  };
  await inTransaction(world.pool, (db) =>
    editWatch(db, watch, plan, { basedOn: 1, editor: world.people.ines }, world.now),
  );
  await world.pass(MINUTE);
  expect(await cut(all)).toEqual([expect.stringMatching(/^first read: \S/)]);
});

it('cuts a report that tells at once with the look that brought it', async () => {
  await make(order({ cadence: { cut: 'at once', of: 'its order' }, shows: 'each' }));
  await startWatch(world, { condition: null });
  await world.pass(0);
  expect(await world.rows('SELECT FROM edition')).toHaveLength(1);
});

it('what one worker saw after another one is told in that order, whoever has the lower numbers', async () => {
  const all = await make(order({ takes: USUAL }));
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  expect(await cut(all)).toBeNull();
  // Its numbers come from a later block than those of the worker that was there before.
  await see(watch, 2200, { ...world.services.pipeline, ids: new Ids() });
  await see(watch, 2300);
  expect(await cut(all)).toEqual(['fall: £24.00 £23.00']);
});
