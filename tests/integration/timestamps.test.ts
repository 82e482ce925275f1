import type { RecordId, RuleId, SeriesId, WatchId } from '#core/id';
import { beforeAll, expect, it } from 'vitest';
import { replayedAt } from '#core/judge/backtest';
import type { RuleDefinition } from '#core/judge/rule';
import { pageDefinition, type Field } from '#core/read/definition';
import { money } from '#core/value/parse';
import { DAY, HOUR, type Instant } from '#core/when/interval';
import { likeWatches } from '#server/db/watch/views/like-watches';
import { readingAt, readUpTo, rulesAt, verdictsUpTo } from '#server/db/rule/views/timestamps';
import { inTransaction } from '#server/db/base/pool';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, editWatch } from '#server/actions/edit-watch';
import { page, type Answer, type Site } from '../support/site';
import { besideSite } from '../support/site-world';
import { PRICE, type TestWorld } from '../support/world';

// Why nobody heard of an ordinary reading: what its rule made of it is worked out anew, under the version of that time.

let site: Site;
let world: TestWorld;
const answers: Record<string, Answer> = {};
besideSite(answers, (...opened) => ([site, world] = opened));

const FIELD: Field = { ...PRICE, mode: 'measured', locators: [{ way: 'css', selector: '.price' }] };
const RULE: RuleDefinition = {
  when: {
    kind: 'crossing',
    of: { asked: { field: 'price' } },
    limits: { is: 'above', limit: money('25.00', 'GBP'), inclusive: false },
  },
  hold: { for: 'readings', count: 2 },
  whenAlreadyMet: 'wait',
};
const EDITED: RuleDefinition = {
  ...RULE,
  when: {
    ...RULE.when,
    limits: { is: 'above', limit: money('40.00', 'GBP'), inclusive: false },
  } as RuleDefinition['when'],
};

/** The prices that are read hour by hour; after the fifth the limit is raised to £40. */
const PRICES = ['24.00', '26.00', '27.00', '28.00', '24.50', '41.00', '42.00', '39.00'];
const EDITED_AFTER = 5;

let watch: WatchId;
let record: RecordId;
let series: SeriesId;
let rule: RuleId;
const looked: { at: Instant; state: string }[] = [];

beforeAll(async () => {
  const source = { address: `${site.base}/a`, host: site.host, site: 'Shop', mostAtOnce: 4 };
  const plan = {
    definition: pageDefinition('Store', [FIELD]),
    frequency: { count: 1, unit: 'hour' as const },
    rules: [{ id: null, definition: RULE, audiences: [] }],
  };
  watch = await inTransaction(world.pool, (db) =>
    createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
  );
  for (const [n, price] of PRICES.entries()) {
    answers['/a'] = page(`<html lang="en-GB"><body><h1>Store</h1><p class="price">£${price}</p></body></html>`);
    await world.pass(n === 0 ? 0 : HOUR);
    looked.push({
      at: world.now,
      state: (await world.rows<{ name: string }>('SELECT name FROM rule_state'))[0]?.name ?? '',
    });
    if (n + 1 === EDITED_AFTER) await raiseLimit();
  }
  const [found] = await world.rows<{ record: RecordId; series: SeriesId; rule: RuleId }>(
    'SELECT s.record_id AS record, s.id AS series, u.id AS rule FROM series s, rule u',
  );
  ({ record, series, rule } = found ?? { record: 0 as RecordId, series: 0 as SeriesId, rule: 0 as RuleId });
});

async function raiseLimit(): Promise<void> {
  const now = await findWatch(world.pool, watch);
  if (now === null) throw new Error('there is no such watch');
  const rules = now.rules.map((kept) => ({ ...kept, definition: EDITED }));
  const plan = { definition: now.definition, frequency: now.frequency, rules };
  world.now += HOUR / 2;
  await inTransaction(world.pool, (db) =>
    editWatch(db, watch, plan, { basedOn: now.version, editor: world.people.ines }, world.now),
  );
  world.now -= HOUR / 2;
}

/** What is worked out of the reading in force at a moment. */
async function workedOut(at: Instant) {
  const [then] = await rulesAt(world.pool, watch, at);
  if (then === undefined) return null;
  const { readings } = await readUpTo(world.pool, record, ['price'], at);
  const history = {
    identity: 'page',
    name: 'Store',
    fields: { price: { stepwise: false, readings: readings.get('price') ?? [] } },
  };
  return {
    version: then.version,
    ...replayedAt(then.definition, history, { intervalMs: HOUR, savedAt: then.savedAt }, at),
  };
}

it('comes to the state that the rule was in then, reading by reading, under the limit of that time', async () => {
  expect(looked.map(({ state }) => state)).toEqual([
    'calm',
    'holding',
    'raised',
    'raised',
    'calm',
    'holding',
    'raised',
    'calm',
  ]);
  for (const { at, state } of looked) expect([at, (await workedOut(at))?.state]).toEqual([at, state]);
  expect(await Promise.all(looked.map(async ({ at }) => (await workedOut(at))?.version))).toEqual([
    1, 1, 1, 1, 1, 2, 2, 2,
  ]);
});

it('says with the numbers why', async () => {
  const held = await workedOut(looked[1]?.at ?? 0);
  expect(held?.reason).toMatchObject({
    code: 'holds',
    has: 1,
    of: 2,
    whys: [{ code: 'stands at', value: { amount: '26.00' } }],
  });
});

it('finds what was written down when it happened, and nothing of before there was a rule', async () => {
  const [written] = await verdictsUpTo(world.pool, record, [rule], looked[2]?.at ?? 0);
  expect(written).toMatchObject({ at: looked[2]?.at, after: 'raised' });
  expect(await rulesAt(world.pool, watch, (looked[0]?.at ?? 0) - HOUR)).toEqual([]);
  expect(await readingAt(world.pool, series, (looked[0]?.at ?? 0) - HOUR)).toBeNull();
});

it('offers the history of watches that read the same, and of no others', async () => {
  const source = { address: `${site.base}/b`, host: site.host, site: 'Shop', mostAtOnce: 4 };
  const plan = {
    definition: pageDefinition('New', [FIELD]),
    frequency: { count: 1, unit: 'hour' as const },
    rules: [],
  };
  const fresh = await inTransaction(world.pool, (db) =>
    createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
  );
  const like = async (kind: 'money' | 'number', field = 'price', later = 2 * DAY) =>
    (await likeWatches(world.pool, fresh, [{ field, kind }], world.now + later)).map(({ subject }) => subject);
  expect(await like('money')).toEqual(['Store']);
  expect([await like('number'), await like('money', 'stock'), await like('money', 'price', 0)]).toEqual([[], [], []]);
  expect(await likeWatches(world.pool, watch, [{ field: 'price', kind: 'money' }], world.now + 2 * DAY)).toEqual([]);
  expect(await likeWatches(world.pool, fresh, [], world.now)).toEqual([]);
});

it('looks through no more than so many looks, however long a value stood, and says so', async () => {
  const last = looked.at(-1)?.at ?? 0;
  const before = await readUpTo(world.pool, record, ['price'], last);
  await world.pool.query(
    `UPDATE reading SET runs = 1000000, last_seen = first_seen + interval '59 minutes'
      WHERE series_id = $1 AND first_seen = $2`,
    [series, new Date(looked[6]?.at ?? 0)],
  );
  const { readings, whole } = await readUpTo(world.pool, record, ['price'], last);
  const all = readings.get('price') ?? [];
  expect([before.whole, whole, all.reduce((sum, { runs }) => sum + runs, 0)]).toEqual([true, false, 4000]);
  expect(all.at(-1)?.at).toBe(last);
  // Half of the way a value stood for half of its looks.
  const middle = await readUpTo(world.pool, record, ['price'], (looked[6]?.at ?? 0) + HOUR / 2);
  expect(middle.readings.get('price')?.at(-1)?.until).toBe((looked[6]?.at ?? 0) + HOUR / 2);
});

it('goes from one reading to the next', async () => {
  const middle = await readingAt(world.pool, series, (looked[3]?.at ?? 0) + 60_000);
  expect(middle).toMatchObject({
    at: looked[3]?.at,
    before: looked[2]?.at,
    after: looked[4]?.at,
    bad: false,
    value: { amount: '28.00' },
  });
});
