import type { RuleId, WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { BulkAction } from '#core/plan/bulk';
import { pageDefinition } from '#core/read/definition';
import { HOUR } from '#core/when/interval';
import { doBulk, tryBulk, undoWatches } from '#server/actions/bulk';
import { listEdits } from '#server/db/watch/edits';
import { inTransaction, inTransactionIfOk } from '#server/db/base/pool';
import { countRules, listRules, type RulesAsked } from '#server/db/rule/views/rules';
import { listInOrder, listNames, listStanding, refreshStandings, type Order } from '#server/db/watch/standings';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, editWatch } from '#server/actions/edit-watch';
import { fallsBelow, openWorld, PRICE, ruleOf, type TestWorld } from '../support/world';

// What is done to many watches and rules at one go, undone at one go, and written down.

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());
beforeEach(() => world.clear());

function watchCalled(name: string, pounds = '20.00'): Promise<WatchId> {
  const host = `skepwright.localhost:${world.standins.port}`;
  const source = { address: `http://${host}/p/copper-smoker-large`, host, site: 'Skepwright', mostAtOnce: 4 };
  const rules = [ruleOf(fallsBelow(pounds), [`person:${world.people.ines}`])];
  const plan = { definition: pageDefinition(name, [PRICE]), frequency: { count: 1, unit: 'hour' as const }, rules };
  return inTransaction(world.pool, (db) => createWatch(db, source, plan, { person: world.people.ines, at: world.now }));
}

const editing = () => ({ person: world.people.ines, at: world.now });
const act = (ids: WatchId[], deed: BulkAction, rules: RuleId[] | null = null) =>
  inTransaction(world.pool, (db) => doBulk(db, ids, deed, rules, editing()));
const undo = (batch: number, person = world.people.ines) =>
  inTransactionIfOk(world.pool, (db) => undoWatches(db, batch, { person, at: world.now }));
const rulesOf = async (id: WatchId) => (await findWatch(world.pool, id))?.rules ?? [];

describe('many watches', () => {
  it('say what would become of each before anything is done', async () => {
    const [one, two] = [await watchCalled('One'), await watchCalled('Two')];
    await act([two], { do: 'pause' });
    const steps = await tryBulk(world.pool, [one, two, 999 as WatchId], { do: 'pause' }, null, 'en-GB');
    expect(steps.map(({ name, said }) => [name, said])).toEqual([
      ['One', ['paused']],
      ['Two', []],
    ]);
    expect((await findWatch(world.pool, one))?.state).toBe('running');
  });

  it.each<[BulkAction, string]>([
    [{ do: 'pause' }, 'paused'],
    [{ do: 'look', every: { count: 2, unit: 'day' } }, 'runs: every hour → every 2 days'],
    [{ do: 'tag', tags: ['smokers', 'b'] }, 'tags: nothing → b, smokers'],
    [
      { do: 'end on', ends: { date: '2030-12-31', zone: 'Europe/London' } },
      'rule “price falls below £20.00”: terms: nothing → until 2030-12-31',
    ],
    [{ do: 'switch', off: true }, 'rule “price falls below £20.00”: terms: nothing → switched off'],
  ])('are changed by %j, and undone as they were', async (deed, said) => {
    const ids = [await watchCalled('One'), await watchCalled('Two')];
    const before = await Promise.all(ids.map((id) => findWatch(world.pool, id)));
    const did = await act(ids, deed);
    expect(did?.changed).toBe(2);
    expect((await listEdits(world.pool, { of: null, before: null, most: 1 }))[0]).toMatchObject({
      by: 'Inés Calloway',
      what: [said],
      more: 1,
    });
    expect(
      (await listEdits(world.pool, { of: { kind: 'watch', thing: ids[1] ?? 0 }, before: null, most: 1 }))[0]?.what,
    ).toEqual([said]);
    expect(await undo(did?.batch ?? 0)).toMatchObject({ ok: true });
    const after = await Promise.all(ids.map((id) => findWatch(world.pool, id)));
    expect(
      after.map((watch) => [
        watch?.state,
        watch?.frequency,
        watch?.tags,
        watch?.rules.map(({ definition }) => definition),
      ]),
    ).toEqual(
      before.map((watch) => [
        watch?.state,
        watch?.frequency,
        watch?.tags,
        watch?.rules.map(({ definition }) => definition),
      ]),
    );
    expect(await undo(did?.batch ?? 0)).toEqual({ ok: false, error: 'undone already' });
  });

  it('that were deleted come back with what they had read', async () => {
    const id = await watchCalled('One');
    await world.pass(0);
    const did = await act([id], { do: 'delete' });
    expect(await findWatch(world.pool, id)).toBeNull();
    expect(await undo(did?.batch ?? 0)).toMatchObject({ ok: true });
    expect((await findWatch(world.pool, id))?.series).toHaveLength(1);
    await refreshStandings(world.pool, world.now, 100);
    expect(await listStanding(world.pool, { filter: 'all', words: 'one', after: null, most: 10 })).toHaveLength(1);
    await world.pass(HOUR);
    expect((await findWatch(world.pool, id))?.lastRunAt).toBe(world.now);
  });

  it('tell others, and tell those as before once it is undone', async () => {
    const id = await watchCalled('One');
    const did = await act([id], { do: 'tell', audiences: [`person:${world.people.ravi}`] });
    expect((await rulesOf(id)).map(({ audiences }) => audiences)).toEqual([[`person:${world.people.ravi}`]]);
    await undo(did?.batch ?? 0);
    expect((await rulesOf(id)).map(({ audiences }) => audiences)).toEqual([[`person:${world.people.ines}`]]);
  });

  it('are not undone where somebody changed one of them since, nor by somebody else', async () => {
    const [one, two] = [await watchCalled('One'), await watchCalled('Two')];
    const did = await act([one, two], { do: 'tag', tags: ['a'] });
    expect(await undo(did?.batch ?? 0, world.people.ravi)).toEqual({ ok: false, error: 'undone already' });
    await act([two], { do: 'tag', tags: ['b'] });
    expect(await undo(did?.batch ?? 0)).toEqual({ ok: false, error: 'changed since' });
    expect((await findWatch(world.pool, one))?.tags).toEqual(['a']);
  });

  it('are copied with their rules, each of which says what it was made from, and the copies are undone', async () => {
    const id = await watchCalled('One');
    await act([id], { do: 'tag', tags: ['a'] });
    const did = await act([id], { do: 'copy' });
    const [copy] = await world.rows<{ id: WatchId }>(`SELECT id FROM watch WHERE subject = 'Copy of One'`);
    const made = await findWatch(world.pool, copy?.id ?? (0 as WatchId));
    expect(made).toMatchObject({ state: 'paused', tags: ['a'], address: (await findWatch(world.pool, id))?.address });
    expect(made?.rules).toMatchObject([
      {
        definition: { from: { kind: 'rule', name: 'price falls below £20.00' } },
        audiences: [`person:${world.people.ines}`],
      },
    ]);
    expect(await rulesOf(id)).toHaveLength(1);
    expect(await undo(did?.batch ?? 0)).toMatchObject({ ok: true });
    expect(await findWatch(world.pool, copy?.id ?? (0 as WatchId))).toBeNull();
    expect((await findWatch(world.pool, id))?.state).toBe('running');
  });

  it('of which nothing changes leave nothing to undo', async () => {
    const id = await watchCalled('One');
    expect(await act([id], { do: 'start' })).toBeNull();
  });
});

describe('some rules of watches', () => {
  it('are changed, and those beside them are not', async () => {
    const id = await watchCalled('One');
    const watch = await findWatch(world.pool, id);
    if (watch === null) throw new Error('there is no such watch');
    const more = ruleOf(fallsBelow('10.00'), []);
    const plan = { definition: watch.definition, frequency: watch.frequency, rules: [...watch.rules, more] };
    await inTransaction(world.pool, (db) =>
      editWatch(db, id, plan, { basedOn: watch.version, editor: world.people.ines }, world.now),
    );
    const [, second] = await rulesOf(id);
    const did = await act([id], { do: 'tag', tags: ['low'] }, [second?.id ?? (0 as RuleId)]);
    expect((await rulesOf(id)).map(({ definition }) => definition.tags)).toEqual([undefined, ['low']]);
    const ended = await act([id], { do: 'end rules' }, [second?.id ?? (0 as RuleId)]);
    expect(await rulesOf(id)).toHaveLength(1);
    expect(await undo(ended?.batch ?? 0)).toMatchObject({ ok: true });
    expect((await rulesOf(id)).map(({ definition }) => definition.tags)).toEqual([undefined, ['low']]);
    expect(did?.changed).toBe(1);
  });
});

describe('rules that are put off', () => {
  const price = (pence: number) => world.standins.world.push('price', 'copper-smoker-large', String(pence));
  const told = async () =>
    (await world.rows<{ told: string }>('SELECT told FROM alert ORDER BY id')).map((alert) => alert.told);
  const until = (ms: number): BulkAction => ({ do: 'put off', putOff: { until: world.now + ms, zone: 'UTC' } });

  it('tell nobody until then, and tell then what is still so', async () => {
    const [one, other] = [await watchCalled('One'), await watchCalled('Other')];
    await world.pass(0);
    await act([one, other], until(5 * HOUR));
    price(1900);
    await world.pass(HOUR);
    expect([await told(), (await world.rows('SELECT FROM episode')).length]).toEqual([[], 2]);
    await world.pass(3 * HOUR);
    expect(await told()).toEqual([]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert', 'alert']);
  });

  it('are taken up again at once, which is undone like any other', async () => {
    const id = await watchCalled('One');
    await world.pass(0);
    await act([id], until(50 * HOUR));
    price(1900);
    await world.pass(HOUR);
    const taken = await act([id], { do: 'put off', putOff: null });
    expect((await rulesOf(id)).map(({ definition }) => definition.telling)).toEqual([undefined]);
    await world.pass(0);
    expect(await told()).toEqual(['alert']);
    expect(await undo(taken?.batch ?? 0)).toMatchObject({ ok: true });
    expect((await rulesOf(id))[0]?.definition.telling?.putOff?.zone).toBe('UTC');
  });

  it('say so before it is done, in words', async () => {
    const id = await watchCalled('One');
    const [step] = await tryBulk(
      world.pool,
      [id],
      { do: 'put off', putOff: { until: Date.UTC(2026, 11, 3, 8), zone: 'UTC' } },
      null,
      'en-GB',
    );
    expect(step?.said.join()).toMatch(/put off until .*3 Dec.*08:00/);
  });
});

describe('lists', () => {
  it('sort, filter and name what they can be held to', async () => {
    const ids = [await watchCalled('Beta', '30.00'), await watchCalled('Alpha'), await watchCalled('Gamma')];
    await act([ids[0] as WatchId], { do: 'tag', tags: ['smokers'] });
    await act([ids[2] as WatchId], { do: 'pause' });
    await world.pass(0);
    await refreshStandings(world.pool, world.now, 100);
    const inOrder = (order: Exclude<Order, 'name'>) =>
      listInOrder(world.pool, { filter: 'all', words: '', order, skip: 0, most: 10 });
    expect(await inOrder('tag')).toEqual([ids[0], ids[1], ids[2]]);
    expect((await inOrder('state')).at(-1)).toBe(ids[2]);
    expect((await inOrder('next')).at(-1)).toBe(ids[2]);
    expect(
      await listStanding(world.pool, { filter: 'all', words: '', tag: 'smokers', after: null, most: 10 }),
    ).toMatchObject([{ id: ids[0] }]);
    expect(
      await listStanding(world.pool, { filter: 'all', words: '', owner: 'Nobody', after: null, most: 10 }),
    ).toEqual([]);
    expect(await listNames(world.pool)).toEqual({
      sites: ['Skepwright'],
      owners: ['Inés Calloway'],
      tags: ['smokers'],
    });
  });

  it('of rules show those that are meant', async () => {
    const [one, two] = [await watchCalled('One'), await watchCalled('Two')];
    await act([one], { do: 'switch', off: true });
    const [rule] = await rulesOf(two);
    await act([two], { do: 'tag', tags: ['low'] }, [rule?.id ?? (0 as RuleId)]);
    const all: RulesAsked = { filter: 'all', words: '', site: '', owner: '', tag: '', soon: world.now };
    const shown = async (asked: Partial<RulesAsked>) =>
      (await listRules(world.pool, { ...all, ...asked, order: 'watch', skip: 0, most: 10 })).map(
        ({ subject }) => subject,
      );
    expect(await shown({})).toEqual(['One', 'Two']);
    expect(await shown({ filter: 'off' })).toEqual(['One']);
    expect(await shown({ tag: 'low' })).toEqual(['Two']);
    expect(await shown({ words: 'tw' })).toEqual(['Two']);
    expect(await countRules(world.pool, { ...all, owner: 'Nobody' })).toBe(0);
  });
});
