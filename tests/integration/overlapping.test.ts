import { beforeEach, expect, it } from 'vitest';
import type { WatchId } from '#core/id';
import type { RuleDefinition } from '#core/judge/rule';
import { numberOf } from '#core/read/all-records';
import { pageDefinition, type Field, type FieldType } from '#core/read/definition';
import { HOUR, type Instant } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, editWatch } from '#server/actions/edit-watch';
import { moveClock } from '#server/pipeline/clock';
import { type Answer, type Site } from '../support/site';
import { besideSite } from '../support/site-world';
import { PRICE, type TestWorld } from '../support/world';

// Sources that send what they sent before with what is new, look after look: a point counts once, however often it
// comes.

let site: Site;
let world: TestWorld;
const answers: Record<string, Answer> = {};
besideSite(answers, (...opened) => ([site, world] = opened));
beforeEach(() => world.clear());

/** Shows points of one sensor, by the hour since the world began. */
const show = (begun: Instant, points: [hour: number, value: number][]) => {
  const pack = points.map(([hour, v]) => ({ n: 'till', t: (begun + hour * HOUR) / 1000, v }));
  answers['/senml'] = (_, response) =>
    response.writeHead(200, { 'content-type': 'application/senml+json' }).end(JSON.stringify(pack));
};

async function watchTill(type: FieldType, rules: RuleDefinition[]): Promise<WatchId> {
  const field: Field = {
    ...PRICE,
    key: 'orders',
    label: 'orders',
    type,
    mode: 'measured',
    locators: [{ way: 'part', part: 'value' }],
  };
  const definition = { ...pageDefinition('Till', [field]), records: { from: 'senml' as const } };
  const source = { address: `${site.base}/senml`, host: site.host, site: 'Shop', mostAtOnce: 4 };
  const plans = rules.map((each) => ({ id: null, definition: each, audiences: [`person:${world.people.ines}`] }));
  return inTransaction(world.pool, (db) =>
    createWatch(
      db,
      source,
      { definition, frequency: { count: 1, unit: 'hour' }, rules: plans },
      { person: world.people.ines, at: world.now },
    ),
  );
}

const above = (make: 'sum' | 'readings', hours: number, limit: number): RuleDefinition => ({
  name: `${make} above ${limit}`,
  whenAlreadyMet: 'raise',
  when: {
    kind: 'level',
    of: {
      asked: { field: 'orders' },
      over: { make, of: { last: 'time', ms: hours * HOUR }, stepwise: false, grows: true },
    },
    limits: { is: 'above', limit: numberOf(limit), inclusive: false },
  },
});

const told = async () =>
  (
    await world.rows<{ name: string; at: Instant }>(
      `SELECT v.definition->>'name' AS name, a.seen_at AS at
        FROM alert a
        JOIN rule_version v ON v.rule_id = a.rule_id AND v.version = a.rule_version
        ORDER BY a.id`,
    )
  ).map(({ name, at }) => `${name} at ${(at - begun) / HOUR}`);

let begun: Instant = 0;

it('are summed once each, those in between as well', async () => {
  begun = world.now;
  await watchTill({ kind: 'number', unit: null }, [above('sum', 2.75, 15), above('readings', 2.75, 3)]);
  for (let hour = 0; hour <= 10; hour += 1) {
    show(
      begun,
      Array.from({ length: Math.min(6, hour + 1) }, (_, back) => [hour - back, 5]),
    );
    await world.pass(hour === 0 ? 0 : HOUR);
  }
  expect(await told()).toEqual([]);
  // A point that was kept back comes late: it counts, once, from the next one on.
  show(begun, [
    [9.5, 5],
    [10, 5],
    [11, 5],
  ]);
  await world.pass(HOUR);
  expect(await told()).toEqual(['sum above 15 at 11', 'readings above 3 at 11']);
  for (let hour = 12; hour <= 16; hour += 1) {
    show(begun, [
      [9.5, 5],
      [hour - 1, 5],
      [hour, 5],
    ]);
    await world.pass(HOUR);
  }
  // At 11:45 what was read at 9 leaves, and at 12 there are four again; the one that came late leaves at 12:15, and
  // comes no more.
  expect(await told()).toEqual([11, 12].flatMap((hour) => [`sum above 15 at ${hour}`, `readings above 3 at ${hour}`]));
});

it('of a counter that runs add what they added once, and a late one nothing', async () => {
  begun = world.now;
  await watchTill({ kind: 'number', unit: null, increase: true }, [above('sum', 3, 30)]);
  const counter = (hour: number) => 1_000 + hour * 10;
  for (let hour = 0; hour <= 8; hour += 1) {
    show(
      begun,
      Array.from({ length: Math.min(4, hour + 1) }, (_, back) => [hour - back, counter(hour - back)]),
    );
    await world.pass(hour === 0 ? 0 : HOUR);
  }
  show(begun, [
    [7.5, 1_075],
    [8, 1_080],
    [9, 1_090],
  ]);
  await world.pass(HOUR);
  expect(await told()).toEqual([]);
  const [read] = await world.rows<{ sum: number; negative: number }>(
    `SELECT sum(x.amount * x.runs)::float8 AS sum,
      count(*) FILTER (WHERE x.amount < 0 OR x.amount > 10)::int AS negative
      FROM reading x`,
  );
  expect(read).toEqual({ sum: 90, negative: 0 });
});

it('are learnt once each by a rule that is said later, the latest as its baseline', async () => {
  begun = world.now;
  const id = await watchTill({ kind: 'number', unit: null }, []);
  for (let hour = 0; hour <= 5; hour += 1) {
    // What a gateway sends is some minutes old when it comes.
    show(begun, [[hour - 0.1, 5]]);
    await world.pass(hour === 0 ? 0 : HOUR);
  }
  const watch = await findWatch(world.pool, id);
  if (watch === null) throw new Error('the watch is gone');
  const rules = [above('readings', 2.75, 3), above('readings', 2.75, 2)].map((definition) => ({
    id: null,
    definition,
    audiences: [`person:${world.people.ines}`],
  }));
  const edit = { basedOn: watch.version, editor: world.people.ines };
  await inTransaction(world.pool, (db) => editWatch(db, id, { ...watch, rules }, edit, world.now));
  await moveClock(world.services.pipeline, world.now);
  expect(await told()).toEqual(['readings above 2 at 5']);
});
