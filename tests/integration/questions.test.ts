import type { WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { candidateAt } from '#core/read/candidates';
import { pageDefinition, type WatchDefinition } from '#core/read/definition';
import { withFrames } from '#core/read/frame/take';
import { pageFacts, selectElements } from '#core/read/html';
import { listingsOf } from '#core/read/listing/listing';
import { inTransaction } from '#server/db/base/pool';
import { acceptQuestion, answerQuestion, listQuestions, listToAnswer } from '#server/actions/questions';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch } from '#server/actions/edit-watch';
import { documentOf } from '../support/document';
import { NEXT_LOOK, openWorld, ruleOf, setPrice, type TestWorld } from '../support/world';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const SLUGS = ['copper-smoker-large', 'steel-smoker', 'fondant-12'];

async function pageOf(site: string, path: string): Promise<string> {
  const host = `${site}.localhost:${world.standins.port}`;
  const fetched = await world.services.pipeline.sources.fetch({
    address: `http://${host}${path}`,
    way: 'plain',
    request: {},
    robotsHeeded: true,
  });
  if (!fetched.ok || fetched.value.kind !== 'page') throw new Error('nothing came');
  return fetched.value.body();
}

/** Points at the price of an item as an analyst would, and tells Pricing of every move. */
async function watchPrice(slug = 'copper-smoker-large'): Promise<WatchId> {
  const document = documentOf(await pageOf('skepwright', `/p/${slug}`));
  const found = selectElements(document, '#price');
  const element = found.ok ? found.value[0] : undefined;
  const picked =
    element === undefined
      ? null
      : candidateAt(document, element, { locale: pageFacts(document).locale, address: null }, null);
  if (!picked?.ok) throw new Error('nothing was picked');
  const { locators, type } = picked.value;
  const price = {
    key: 'price',
    label: 'price',
    type,
    mode: 'stepwise',
    polarity: 'up is good',
    locale: null,
    locators,
  } as const;
  return start('skepwright', `/p/${slug}`, withFrames({ format: 'html', document }, pageDefinition(slug, [price])));
}

function start(name: string, path: string, definition: WatchDefinition): Promise<WatchId> {
  const host = `${name}.localhost:${world.standins.port}`;
  const source = { address: `http://${host}${path}`, host, site: name, mostAtOnce: 4 };
  const rules = [ruleOf({ kind: 'change', asked: { field: 'price' } }, ['list:1'])];
  return inTransaction(world.pool, (db) =>
    createWatch(
      db,
      source,
      { definition, frequency: { count: 1, unit: 'hour' }, rules },
      { person: world.people.ines, at: world.now },
    ),
  );
}

const membersFirst = (slug = 'copper-smoker-large') => world.standins.world.push('layout', slug, 'members first');
const count = async (table: string) =>
  (await world.rows<{ n: number }>(`SELECT count(*)::int AS n FROM ${table}`))[0]?.n;
const priceOf = async (id: WatchId) =>
  (await findWatch(world.pool, id))?.series.find(({ field }) => field === 'price')?.value;
const subjects = async () => {
  await world.sendMail();
  return world.standins.room.list().map((mail) => `${mail.to[0]}: ${mail.subject}`);
};

describe('a price for members put where the price was', () => {
  it('is no news: the last good value stands, and the owner alone is asked, once', async () => {
    const id = await watchPrice();
    await world.pass(0);
    membersFirst();
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, alerts: 0, notices: 1 }]);
    for (let look = 0; look < 5; look += 1)
      expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, alerts: 0, notices: 0 }]);
    expect(await priceOf(id)).toMatchObject({ amount: '24.00' });
    expect([await count('change'), await count('alert')]).toEqual([0, 0]);
    expect(await subjects()).toEqual([expect.stringMatching(/^ines@.*A question: .*copper-smoker-large$/)]);
    const [mail] = world.standins.room.list();
    const read = await world.standins.room.read(mail?.id ?? '');
    expect(read?.text).toContain('Was £24.00; now £21.00, “for members”. Is this the price you follow?');
    const [question, ...others] = await listQuestions(world.pool, id);
    expect(others).toEqual([]);
    expect(question).toMatchObject({
      field: 'price',
      was: { amount: '24.00' },
      value: { amount: '21.00' },
      records: 1,
      elsewhere: [],
    });
    const watch = await findWatch(world.pool, id);
    expect(watch?.problem?.sentence).toContain('is in question');
  });

  it('is told as a move where somebody says yes, from the last good value on, and the version says who', async () => {
    const id = await watchPrice();
    await world.pass(0);
    membersFirst();
    await world.pass(NEXT_LOOK);
    const [question] = await listQuestions(world.pool, id);
    if (question === undefined) throw new Error('nothing is asked');
    const yes = () =>
      inTransaction(world.pool, (db) =>
        acceptQuestion(db, question, { by: world.people.ravi, always: false }, world.now),
      );
    expect([await yes(), await yes()]).toEqual([true, false]);
    expect(await world.pass(1_000)).toMatchObject([{ changes: 1, alerts: 1, notices: 0 }]);
    expect(await priceOf(id)).toMatchObject({ amount: '21.00' });
    expect(await listQuestions(world.pool, id)).toEqual([]);
    const watch = await findWatch(world.pool, id);
    expect(watch).toMatchObject({
      version: 2,
      madeBy: 'Ravi Oduya',
      note: '£21.00 as it was found is the price, from here on.',
      problem: null,
    });
    setPrice(world, 2000);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 1, alerts: 1 }]);
    expect(await priceOf(id)).toMatchObject({ amount: '17.50' });
  });

  it('stays set aside where somebody says no, is not asked again, and is read again when it is as it was', async () => {
    const id = await watchPrice();
    await world.pass(0);
    membersFirst();
    await world.pass(NEXT_LOOK);
    const [question] = await listQuestions(world.pool, id);
    expect(await answerQuestion(world.pool, question?.id ?? (0 as never), 'no', world.people.ines, world.now)).toBe(
      true,
    );
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, notices: 0 }]);
    expect(await listQuestions(world.pool, id)).toEqual([]);
    world.standins.world.push('layout', 'copper-smoker-large', 'usual');
    setPrice(world, 2300);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 1, alerts: 1 }]);
    expect(await priceOf(id)).toMatchObject({ amount: '23.00' });
    // What was denied and went away is asked anew when it comes back.
    membersFirst();
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, notices: 1 }]);
  });

  it('passes by itself where the page is as it was at the next look', async () => {
    const id = await watchPrice();
    await world.pass(0);
    membersFirst();
    await world.pass(NEXT_LOOK);
    world.standins.world.push('layout', 'copper-smoker-large', 'usual');
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0 }]);
    expect(await listQuestions(world.pool, id)).toEqual([]);
    expect(await world.rows('SELECT answer FROM question')).toEqual([{ answer: 'passed' }]);
  });

  it('is asked once for all watches of the site that ask the same, and one yes answers all', async () => {
    const ids: WatchId[] = [];
    for (const slug of SLUGS) ids.push(await watchPrice(slug));
    await world.pass(0);
    for (const slug of SLUGS) membersFirst(slug);
    const told = (await world.pass(NEXT_LOOK)).reduce((sum, { notices }) => sum + notices, 0);
    expect(told).toBe(1);
    expect(await subjects()).toHaveLength(1);
    const [question] = await listQuestions(world.pool, ids[0] ?? (0 as never));
    expect(question?.elsewhere.map(({ subject }) => subject)).toEqual(['fondant-12', 'steel-smoker']);
    const open = await listToAnswer(world.pool, ids[0] ?? (0 as never), question?.id ?? (0 as never), true);
    for (const each of open)
      await inTransaction(world.pool, (db) =>
        acceptQuestion(db, each, { by: world.people.ines, always: false }, world.now),
      );
    expect((await world.pass(1_000)).reduce((sum, { changes }) => sum + changes, 0)).toBe(3);
  });
});

describe('another product at the address', () => {
  it('is asked about, and no price of it is told', async () => {
    const id = await watchPrice();
    await world.pass(0);
    world.standins.world.push('page', 'copper-smoker-large', 'swapped');
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, alerts: 0, notices: 1 }]);
    expect(await priceOf(id)).toMatchObject({ amount: '24.00' });
    const [question] = await listQuestions(world.pool, id);
    expect(question?.changes.map(({ part }) => part)).toContain('heading');
  });
});

describe('nought, and three times the price', () => {
  it.each([1, 7300])('is asked about where all around it is as it was: %i pence', async (pence) => {
    const id = await watchPrice();
    await world.pass(0);
    setPrice(world, pence);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, alerts: 0, notices: 1 }]);
    const [question] = await listQuestions(world.pool, id);
    expect(question?.changes).toMatchObject([{ part: 'jump' }]);
    if (question === undefined) return;
    await inTransaction(world.pool, (db) =>
      acceptQuestion(db, question, { by: world.people.ines, always: false }, world.now),
    );
    expect(await world.pass(1_000)).toMatchObject([{ changes: 1 }]);
    setPrice(world, 2400);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, notices: 1 }]);
  });

  it('is not asked about any more where she said that such moves happen', async () => {
    const id = await watchPrice();
    await world.pass(0);
    setPrice(world, 9900);
    await world.pass(NEXT_LOOK);
    const [question] = await listQuestions(world.pool, id);
    if (question === undefined) throw new Error('nothing is asked');
    await inTransaction(world.pool, (db) =>
      acceptQuestion(db, question, { by: world.people.ines, always: true }, world.now),
    );
    expect(await world.pass(1_000)).toMatchObject([{ changes: 1 }]);
    setPrice(world, 2400);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 1, notices: 0 }]);
  });
});

describe('a list of goods', () => {
  async function watchList(): Promise<WatchId> {
    const body = { format: 'html', document: documentOf(await pageOf('combe-larder', '/goods')) } as const;
    const [listing] = listingsOf(body);
    if (listing === undefined) throw new Error('no list is offered');
    const { records, fields, identity } = listing;
    return start(
      'combe-larder',
      '/goods',
      withFrames(body, { ...pageDefinition('All goods', fields), records, identity }),
    );
  }
  const layout = (value: string) => world.standins.world.push('layout', 'combe-larder', value);

  it('whose columns are swapped is read by its heads: nothing is told, nothing is lost', async () => {
    const id = await watchList();
    await world.pass(0);
    const before = await priceOf(id);
    layout('columns swapped');
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, alerts: 0, notices: 0 }]);
    expect(await priceOf(id)).toEqual(before);
    expect((await findWatch(world.pool, id))?.problem).toBe(null);
  });

  it('whose head says members is one question, however many rows it has, and its prices stand', async () => {
    const id = await watchList();
    await world.pass(0);
    layout('members first');
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 0, alerts: 0 }]);
    expect(await count('change')).toBe(0);
    const watch = await findWatch(world.pool, id);
    expect(watch?.problem).not.toBe(null);
  });
});
