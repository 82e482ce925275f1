import type { ItemId, RecordId, WatchId } from '#core/id';
import { beforeEach, describe, expect, it } from 'vitest';
import { blankItem, withCell, type Cell, type Item } from '#core/items/item';
import type { Asked } from '#core/judge/asked';
import type { Clause, Condition } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import { blankDefinition } from '#core/tell/definition';
import { pageDefinition, type Field, type WatchDefinition } from '#core/read/definition';
import type { Decimal } from '#core/value/decimal';
import { DAY, HOUR } from '#core/when/interval';
import { listEdits } from '#server/db/watch/edits';
import { editItems, itemsCalled, joinRecords, listItems, undoEdits, type ItemNow } from '#server/db/item/items';
import { inTransaction, inTransactionIfOk } from '#server/db/base/pool';
import { ensureSite, setSite } from '#server/db/source/sites';
import { addStencil } from '#server/db/watch/stencils';
import { createWatch } from '#server/actions/edit-watch';
import { cutByHand } from '#server/pipeline/report/cut';
import { makeReport } from '#server/pipeline/report/store';
import { page, type Answer, type Site } from '../support/site';
import { besideSite } from '../support/site-world';
import { PRICE, type TestWorld } from '../support/world';

// What rules ask of items, through the whole pipeline: ours, the agreed minimum, the other offers, wherever they are
// read.

let site: Site;
let world: TestWorld;
const answers: Record<string, Answer> = {};

const show = (path: string, pounds: string) =>
  (answers[path] = page(`<html lang="en-GB"><body><h1>Smoker</h1><p class="price">${pounds}</p></body></html>`));
const list = (rows: [ref: string, pounds: string][]) =>
  (answers['/list'] = page(
    '<html ' +
      `lang="en-GB"><body><table><tr><th>ref</th><th>price</th></tr>${rows.map(([ref, pounds]) => `<tr><td>${ref}</td><td>£${pounds}</td></tr>`).join('')}</table></body></html>`,
  ));

besideSite(answers, (...opened) => ([site, world] = opened));
beforeEach(async () => {
  await world.clear();
  for (const [name, kind] of [
    ['Ours', 'own'],
    ['Trade', 'channel'],
    ['Rival', 'rival'],
    ['Third', 'rival'],
  ] as const)
    await setSite(world.pool, await ensureSite(world.pool, name), { name, kind });
});

const FIELD: Field = { ...PRICE, role: 'price', locators: [{ way: 'css', selector: '.price' }] };
const LIST: WatchDefinition = {
  ...pageDefinition('Offers', []),
  records: { from: 'rows', rows: 'table tr:has(td)' },
  identity: ['ref'],
  fields: [
    {
      ...FIELD,
      key: 'ref',
      label: 'ref',
      role: 'identifier',
      type: { kind: 'text' },
      locators: [{ way: 'css', selector: 'td:nth-of-type(1)' }],
    },
    { ...FIELD, locators: [{ way: 'css', selector: 'td:nth-of-type(2)' }] },
  ],
};

const asked = { asked: { field: 'price' } };
const below = (item: NonNullable<Asked['item']>, more: Partial<Asked> = {}): Clause => ({
  kind: 'against',
  ...asked,
  other: { field: 'price', item, ...more },
  is: 'below',
  by: { by: 'percent', percent: '0' as Decimal },
  inclusive: false,
});
const rule = (when: Condition, more: Partial<RuleDefinition> = {}): RuleDefinition => ({
  when,
  whenAlreadyMet: 'wait',
  ...more,
});

let paths = 0;

/** A watch of a page at a site. */
async function watchAt(
  siteName: string,
  pounds: string,
  rules: RuleDefinition[] = [],
  definition = pageDefinition('Smoker', [FIELD]),
): Promise<{ id: WatchId; path: string }> {
  const path = definition === LIST ? '/list' : `/p${(paths += 1)}`;
  if (definition !== LIST) show(path, pounds);
  const source = { address: site.base + path, host: site.host, site: siteName, mostAtOnce: 4 };
  const plans = rules.map((definition) => ({ id: null, definition, audiences: [`person:${world.people.ines}`] }));
  const plan = { definition, frequency: { count: 1, unit: 'hour' as const }, rules: plans };
  return {
    id: await inTransaction(world.pool, (db) =>
      createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
    ),
    path,
  };
}

const editing = () => ({ person: world.people.ines, at: world.now });

async function addItem(reference: string, cells: [Cell, string][] = []): Promise<ItemId> {
  const item = cells.reduce((known, [cell, text]) => {
    const next = withCell(known, cell, text, 'en-GB');
    if (!next.ok) throw new Error(next.error);
    return next.value;
  }, blankItem(reference));
  await inTransaction(world.pool, (db) =>
    editItems(db, [{ id: null, before: null, after: item }], 'Europe/London', editing()),
  );
  return (await itemsCalled(world.pool, [reference]))[0]?.id ?? (0 as ItemId);
}

/** Joins the records of a watch to an item: its only one, or that of an identity. */
async function join(watch: WatchId, item: ItemId | null, identity?: string): Promise<void> {
  const records = await world.rows<{ id: RecordId }>(
    'SELECT id FROM record WHERE watch_id = $1 AND ($2::text IS NULL OR identity = $2)',
    [watch, identity ?? null],
  );
  await inTransaction(world.pool, (db) =>
    joinRecords(
      db,
      records.map(({ id }) => ({ record: id, item })),
      editing(),
    ),
  );
}

const told = async () =>
  (await world.rows<{ told: string }>('SELECT told FROM alert ORDER BY id')).map((alert) => alert.told);
const states = async () =>
  (await world.rows<{ name: string }>('SELECT name FROM rule_state ORDER BY rule_id, record_id')).map(
    ({ name }) => name,
  );
const closed = async () =>
  (await world.rows<{ because: string | null }>('SELECT closed_because AS because FROM episode ORDER BY id')).map(
    ({ because }) => because,
  );

describe('a price against ours', () => {
  it('is met when either side is read, and left when ours follows', async () => {
    const ours = await watchAt('Ours', '£20.00');
    const rival = await watchAt('Rival', '£24.00', [rule(below('ours'))]);
    const item = await addItem('HL-1');
    await world.pass(0);
    expect(await states()).toEqual(['undecided']);
    await join(ours.id, item);
    await join(rival.id, item);
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([[], ['calm']]);
    show(rival.path, '£19.00');
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([['alert'], ['raised']]);
    // The rival's page is the same as before; ours is lowered.
    show(ours.path, '£18.50');
    await world.pass(HOUR);
    expect([await told(), await states(), await closed()]).toEqual([['alert'], ['calm'], ['left']]);
  });

  it('goes by what is typed for a channel where that is not read, and by a change of it at the next look', async () => {
    const rival = await watchAt('Rival', '£24.00', [rule(below('ours'))]);
    const item = await addItem('HL-1', [
      [{ of: 'price', channel: 'Ours' }, '£20.00'],
      [{ of: 'price', channel: 'Trade' }, '£15.00'],
    ]);
    await world.pass(0);
    await join(rival.id, item);
    await world.pass(HOUR);
    expect(await states()).toEqual(['calm']);
    const [before] = await itemsCalled(world.pool, ['HL-1']);
    const after = withCell(before as Item, { of: 'price', channel: 'Ours' }, '£25.00', 'en-GB');
    await inTransaction(world.pool, (db) =>
      editItems(
        db,
        [{ id: item, before: before as Item, after: after.ok ? after.value : null }],
        'Europe/London',
        editing(),
      ),
    );
    // The page is the same to the byte.
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([['alert'], ['raised']]);
  });

  it('is not said of a record that is no offer of an item, nor once it is no longer one', async () => {
    const ours = await watchAt('Ours', '£20.00');
    const rival = await watchAt('Rival', '£19.00', [rule(below('ours'), { whenAlreadyMet: 'raise' })]);
    const item = await addItem('HL-1');
    await world.pass(0);
    await join(ours.id, item);
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([[], ['undecided']]);
    await join(rival.id, item);
    await world.pass(HOUR);
    expect((await told()).length).toBe(1);
    await join(rival.id, null);
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([['alert'], ['raised']]);
  });

  it('leaves out what is in another currency as unlike, and what is too old', async () => {
    const ours = await watchAt('Ours', '£20.00');
    const rival = await watchAt('Rival', '£24.00', [rule(below('ours'))]);
    const item = await addItem('HL-1');
    await world.pass(0);
    await join(ours.id, item);
    await join(rival.id, item);
    await world.pass(HOUR);
    answers[ours.path] = (_request, response) => void response.writeHead(500).end();
    for (let hour = 0; hour < 4; hour += 1) await world.pass(HOUR);
    show(rival.path, '£10.00');
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([[], ['calm']]);
  });
});

describe('the agreed minimum', () => {
  it('is under it from the day on which a higher one holds, though the page stays the same', async () => {
    const rival = await watchAt('Rival', '£23.00', [rule(below('minimum'))]);
    const [today] = await world.rows<{ day: string }>(
      `SELECT to_char($1::timestamptz AT TIME ZONE 'Europe/London' + interval '2 days', 'YYYY-MM-DD') AS day`,
      [new Date(world.now).toISOString()],
    );
    const item = await addItem('HL-1', [[{ of: 'minimum' }, `£22.00; £24.00 ${today?.day}/..`]]);
    await world.pass(0);
    await join(rival.id, item);
    await world.pass(HOUR);
    expect(await states()).toEqual(['calm']);
    await world.pass(2 * DAY + HOUR);
    expect([await told(), await states()]).toEqual([['alert'], ['raised']]);
  });
});

describe('a place among the offers of an item', () => {
  const takes: Clause = { kind: 'place', ...asked, among: 'offers', end: 'lowest', how: 'takes' };
  const loses: Clause = { kind: 'place', ...asked, among: 'offers', end: 'lowest', how: 'loses' };

  it('is taken and lost by what any of them does, ours with those of others', async () => {
    const ours = await watchAt('Ours', '£20.00', [rule(loses)]);
    const rival = await watchAt('Rival', '£24.00', [rule(takes)]);
    const third = await watchAt('Third', '£22.00');
    const trade = await watchAt('Trade', '£12.00');
    const item = await addItem('HL-1');
    await world.pass(0);
    for (const { id } of [ours, rival, third, trade]) await join(id, item);
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    show(third.path, '£19.00');
    await world.pass(HOUR);
    // We lost it, and the rival did not take it. What we ask of the trade counts in neither.
    expect((await told()).length).toBe(1);
    show(rival.path, '£18.00');
    await world.pass(HOUR);
    expect((await told()).length).toBe(2);
  });

  it('of a list is judged on its own record alone, and among all records where they are read', async () => {
    const ours = await watchAt('Ours', '£20.00');
    list([
      ['a', '22.00'],
      ['b', '21.00'],
      ['c', '30.00'],
    ]);
    const among: Clause = { kind: 'place', ...asked, among: 'records', end: 'lowest', how: 'has' };
    const { id } = await watchAt('Rival', '', [rule({ all: [below('ours'), among] })], LIST);
    const item = await addItem('HL-1');
    await world.pass(0);
    await join(ours.id, item);
    await join(id, item, 'a');
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    // Ours rises above a; but b is cheaper, so that a has not the lowest place of its list.
    show(ours.path, '£23.00');
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    list([
      ['a', '20.50'],
      ['b', '21.00'],
      ['c', '30.00'],
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
  });

  it('asks for the cheapest of the others', async () => {
    const rival = await watchAt('Rival', '£24.00', [rule(below('cheapest'))]);
    const third = await watchAt('Third', '£22.00');
    const item = await addItem('HL-1', [[{ of: 'price', channel: 'Ours' }, '£21.00']]);
    await world.pass(0);
    await join(rival.id, item);
    await join(third.id, item);
    show(rival.path, '£21.50');
    await world.pass(HOUR);
    expect(await states()).toEqual(['calm']);
    show(rival.path, '£20.50');
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([['alert'], ['raised']]);
  });
});

describe('the records that a rule runs for', () => {
  const change: Clause = { kind: 'change', ...asked };

  it('are those whose item has a property', async () => {
    list([
      ['a', '5.00'],
      ['b', '6.00'],
    ]);
    const { id } = await watchAt(
      'Rival',
      '',
      [rule(change, { only: [{ by: 'item', property: 'brand', is: 'ling' }] })],
      LIST,
    );
    const ling = await addItem('HL-1', [[{ of: 'brand' }, 'Ling']]);
    const other = await addItem('HL-2', [[{ of: 'brand' }, 'Bell']]);
    await world.pass(0);
    await join(id, ling, 'a');
    await join(id, other, 'b');
    await world.pass(HOUR);
    list([
      ['a', '5.10'],
      ['b', '6.10'],
    ]);
    await world.pass(HOUR);
    expect((await told()).length).toBe(1);
  });

  it('are those of which a field says so', async () => {
    list([
      ['a', '5.00'],
      ['b', '6.00'],
    ]);
    await watchAt('Rival', '', [rule(change, { only: [{ by: 'field', field: 'ref', is: 'B' }] })], LIST);
    await world.pass(0);
    list([
      ['a', '5.10'],
      ['b', '6.10'],
    ]);
    await world.pass(HOUR);
    expect((await told()).length).toBe(1);
  });

  const highest = (anew: 'never' | 'day') => [
    { by: 'highest' as const, field: 'price', count: 2, anew, zone: 'Europe/London' },
  ];
  const over: Clause = {
    kind: 'level',
    of: asked,
    limits: { is: 'above', limit: { kind: 'money', amount: '8.50' as Decimal, currency: 'GBP' }, inclusive: false },
  };
  const chosen = async () =>
    (await world.rows<{ choice: { in: string[] } | null }>('SELECT choice FROM rule')).map(({ choice }) => choice?.in);

  it('are the highest of them, chosen once', async () => {
    list([
      ['a', '5.00'],
      ['b', '9.00'],
      ['c', '8.00'],
    ]);
    await watchAt('Rival', '', [rule(over, { only: highest('never'), whenAlreadyMet: 'raise' })], LIST);
    await world.pass(0);
    expect([await told(), await chosen()]).toEqual([['alert'], [['b', 'c']]]);
    list([
      ['a', '9.50'],
      ['b', '9.00'],
      ['c', '8.00'],
    ]);
    await world.pass(2 * DAY);
    expect([await told(), await chosen()]).toEqual([['alert'], [['b', 'c']]]);
  });

  it('are the highest of them, chosen anew each day; who is no longer one of them is closed', async () => {
    list([
      ['a', '5.00'],
      ['b', '9.00'],
      ['c', '8.00'],
    ]);
    await watchAt('Rival', '', [rule(over, { only: highest('day'), whenAlreadyMet: 'raise' })], LIST);
    await world.pass(0);
    list([
      ['a', '9.50'],
      ['b', '7.00'],
      ['c', '8.00'],
    ]);
    await world.pass(2 * DAY);
    expect([await chosen(), await closed()]).toEqual([[['a', 'c']], ['record gone', null]]);
    expect(await told()).toEqual(['alert', 'alert']);
  });
});

describe('an edition by item', () => {
  it('says of an offer that is not read now since when and why, on its line, until it is read again', async () => {
    const ours = await watchAt('Ours', '£20.00');
    const [rival, third] = [await watchAt('Rival', '£24.00'), await watchAt('Third', '£26.00')];
    const item = await addItem('HL-1');
    await world.pass(0);
    for (const { id } of [ours, rival, third]) await join(id, item);
    const order = {
      ...blankDefinition('Europe/London', [`person:${world.people.ines}`]),
      cadence: { cut: 'never' as const },
    };
    const { ids } = world.services.pipeline;
    const report = await inTransaction(world.pool, (db) =>
      makeReport(db, ids, { name: 'By item', order }, world.people.ines, world.now),
    );
    const edition = async () => {
      await inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, report, world.now));
      await world.pass(0);
      const rows = await world.rows<{ plain: string }>(
        'SELECT plain FROM delivery WHERE report_id = $1 ORDER BY number DESC LIMIT 1',
        [report],
      );
      return rows[0]?.plain ?? '';
    };
    delete answers[third.path];
    show(rival.path, '£23.00');
    for (let look = 0; look < 4; look += 1) await world.pass(HOUR);
    expect(await edition()).toMatch(/- Third: £26\.00, .*not read since .*: its page is gone/);
    show(third.path, '£26.00');
    show(rival.path, '£22.00');
    await world.pass(DAY);
    const again = await edition();
    expect(again).toMatch(/- Third: £26\.00/);
    expect(again).not.toContain('not read since');
  });
});

describe('items', () => {
  it('are changed and undone at one go, once, and say who changed what', async () => {
    await addItem('HL-1', [
      [{ of: 'name' }, 'Smoker'],
      [{ of: 'price', channel: 'Ours' }, '£20.00'],
    ]);
    const [before] = await listItems(world.pool, { words: 'smoker', after: '', most: 10 });
    if (before === undefined) throw new Error('the item is not there');
    const after = { ...before, name: 'Copper smoker', listings: {} };
    const batch = await inTransaction(world.pool, (db) =>
      editItems(db, [{ id: before.id, before, after }], 'Europe/London', editing()),
    );
    expect(await listItems(world.pool, { words: '', after: '', most: 10 })).toMatchObject([
      { name: 'Copper smoker', listings: {} },
    ]);
    expect((await listEdits(world.pool, { of: null, before: null, most: 1 }))[0]).toMatchObject({
      by: 'Inés Calloway',
      name: 'HL-1',
      what: ['name: Smoker → Copper smoker', 'price at Ours: 20.00 GBP → nothing'],
    });
    const undo = () => inTransactionIfOk(world.pool, (db) => undoEdits(db, batch ?? 0, 'Europe/London', editing()));
    expect(await undo()).toMatchObject({ ok: true });
    expect(await listItems(world.pool, { words: '', after: '', most: 10 })).toMatchObject([
      { name: 'Smoker', listings: { Ours: { price: { amount: '20.00' } } } },
    ]);
    expect(await undo()).toMatchObject({ ok: false, error: 'undone already' });
  });

  it('exchange their references, give one to another, and end beside new ones, as one deed', async () => {
    const added = (reference: string) => ({ id: null, before: null, after: blankItem(reference) });
    const write = (edits: Parameters<typeof editItems>[1]) =>
      inTransaction(world.pool, (db) => editItems(db, edits, 'Europe/London', editing()));
    await write([added('HL-1'), added('HL-2'), added('HL-3')]);
    const [one, two, three] = (await itemsCalled(world.pool, ['HL-1', 'HL-2', 'HL-3'])) as [ItemNow, ItemNow, ItemNow];
    const batch = await write([
      { id: one.id, before: one, after: { ...one, reference: 'HL-2' } },
      { id: two.id, before: two, after: { ...two, reference: 'hl-1', name: 'Other' } },
      { id: three.id, before: three, after: null },
      added('HL-3'),
    ]);
    const now = await itemsCalled(world.pool, ['HL-1', 'HL-2', 'HL-3']);
    expect(now.map(({ id, reference, name }) => [id === one.id ? 1 : id === two.id ? 2 : 0, reference, name])).toEqual([
      [2, 'hl-1', 'Other'],
      [1, 'HL-2', ''],
      [0, 'HL-3', ''],
    ]);
    expect(await world.rows('SELECT name, what FROM edit WHERE batch = $1 ORDER BY id', [batch])).toMatchObject([
      { name: 'HL-2' },
      { name: 'hl-1' },
      { name: 'HL-3', what: ['removed'] },
      { name: 'HL-3', what: ['added'] },
    ]);
  });

  it('that somebody changed since are not undone', async () => {
    const id = await addItem('HL-1', [[{ of: 'name' }, 'Smoker']]);
    const [before] = await itemsCalled(world.pool, ['HL-1']);
    if (before === undefined) throw new Error('the item is not there');
    const say = (name: string) =>
      inTransaction(world.pool, (db) =>
        editItems(db, [{ id, before, after: { ...before, name } }], 'Europe/London', editing()),
      );
    const first = await say('One');
    await say('Two');
    expect(
      await inTransactionIfOk(world.pool, (db) => undoEdits(db, first ?? 0, 'Europe/London', editing())),
    ).toMatchObject({
      ok: false,
      error: 'changed since',
    });
    expect(await itemsCalled(world.pool, ['hl-1'])).toMatchObject([{ name: 'Two' }]);
  });

  it('keep what they are called where nothing is sold any more, whatever else of them is changed', async () => {
    const id = await addItem('HL-1', [[{ of: 'price', channel: 'Trade' }, '£20.00']]);
    await setSite(world.pool, await ensureSite(world.pool, 'Trade'), { name: 'Trade', kind: null });
    const [before] = await itemsCalled(world.pool, ['HL-1']);
    if (before === undefined) throw new Error('the item is not there');
    await inTransaction(world.pool, (db) =>
      editItems(db, [{ id, before, after: { ...before, name: 'Smoker' } }], 'Europe/London', editing()),
    );
    expect(await itemsCalled(world.pool, ['HL-1'])).toMatchObject([
      { name: 'Smoker', listings: { Trade: { price: { amount: '20.00' } } } },
    ]);
  });

  it('take back a joining that is as it was left, and none that somebody changed since', async () => {
    const rival = await watchAt('Rival', '£24.00');
    const [one, other] = [await addItem('HL-1'), await addItem('HL-2')];
    await world.pass(0);
    await join(rival.id, one);
    const [joined] = await listEdits(world.pool, { of: null, before: null, most: 1 });
    await join(rival.id, other);
    const [moved] = await listEdits(world.pool, { of: null, before: null, most: 1 });
    const undo = (batch = 0) => inTransactionIfOk(world.pool, (db) => undoEdits(db, batch, 'Europe/London', editing()));
    expect(await undo(joined?.batch)).toMatchObject({ error: 'changed since' });
    expect((await itemsCalled(world.pool, ['HL-2']))[0]?.offers).toBe(1);
    expect(await undo(moved?.batch)).toMatchObject({ ok: true });
    expect((await itemsCalled(world.pool, ['HL-1']))[0]?.offers).toBe(1);
  });

  it('undo nothing that is done to a stencil or a watch', async () => {
    const stencil = {
      name: 'Low',
      rule: rule({ kind: 'change', asked: { field: 'price' } }),
      fields: [],
      present: {},
      limits: { as: 'said' as const },
      readers: { are: 'those of the watch' as const },
    };
    await inTransaction(world.pool, (db) => addStencil(db, stencil, editing()));
    const [made] = await listEdits(world.pool, { of: null, before: null, most: 1 });
    expect(made).toMatchObject({ kind: 'stencil', undone: false });
    expect(
      await inTransactionIfOk(world.pool, (db) => undoEdits(db, made?.batch ?? 0, 'Europe/London', editing())),
    ).toMatchObject({ ok: false });
    expect((await listEdits(world.pool, { of: null, before: null, most: 1 }))[0]).toMatchObject({ undone: false });
  });

  it('that are taken away come back with their offers, and their reference is free meanwhile', async () => {
    const rival = await watchAt('Rival', '£24.00');
    const id = await addItem('HL-1');
    await world.pass(0);
    await join(rival.id, id);
    const [before] = await itemsCalled(world.pool, ['HL-1']);
    const gone = await inTransaction(world.pool, (db) =>
      editItems(db, [{ id, before: before as Item, after: null }], 'Europe/London', editing()),
    );
    expect(await itemsCalled(world.pool, ['HL-1'])).toEqual([]);
    await inTransactionIfOk(world.pool, (db) => undoEdits(db, gone ?? 0, 'Europe/London', editing()));
    expect(await itemsCalled(world.pool, ['HL-1'])).toMatchObject([{ offers: 1 }]);
    await expect(addItem('hl-1')).rejects.toThrow(/item_reference/);
  });
});
