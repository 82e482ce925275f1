import type { WatchId } from '#core/id';
import { beforeEach, expect, it } from 'vitest';
import { backtest } from '#core/judge/backtest';
import type { Clause } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import { ALL_RECORDS, NUMBER_OF_RECORDS, numberOf, withNumber } from '#core/read/all-records';
import { pageDefinition, type Field, type WatchDefinition } from '#core/read/definition';
import { HOUR, MINUTE } from '#core/when/interval';
import { pastOf } from '#server/db/rule/past-related';
import { inTransaction } from '#server/db/base/pool';
import { listRecords } from '#server/db/reading/records';
import { seenFor, seenOf } from '#server/db/reading/seen';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, editWatch } from '#server/actions/edit-watch';
import { type Answer, type Site } from '../support/site';
import { besideSite } from '../support/site-world';
import { PRICE, type TestWorld } from '../support/world';

// How many records a list has: judged once for all of them, and known before anybody asked.

let site: Site;
let world: TestWorld;
const answers: Record<string, Answer> = {};
besideSite(answers, (...opened) => ([site, world] = opened));
beforeEach(() => world.clear());

const field = (key: string, type: Field['type']): Field => ({
  ...PRICE,
  key,
  label: key,
  type,
  locators: [{ way: 'column', column: key }],
});
const LOTS: WatchDefinition = {
  ...pageDefinition('Lots', [field('lot', { kind: 'text' }), field('price', { kind: 'number' })]),
  records: { from: 'csv' },
  identity: ['lot'],
};

/** How many lots there are at an hour, the same ones always coming and going. */
const countAt = (hour: number) => 3 + ((hour * 7 + Math.floor(hour / 3)) % 5);
const show = (count: number, more: string[] = []) => {
  const rows = ['lot,price', ...Array.from({ length: count }, (_, at) => `lot ${at},${at + 1}`), ...more];
  answers['/lots'] = (_, response) => response.writeHead(200, { 'content-type': 'text/csv' }).end(rows.join('\n'));
};

const below = (limit: number): Clause => ({
  kind: 'crossing',
  of: { asked: { field: NUMBER_OF_RECORDS } },
  limits: { is: 'below', limit: numberOf(limit), inclusive: false },
});
const RULES: RuleDefinition[] = [
  { name: 'few', when: below(5), whenAlreadyMet: 'wait' },
  {
    name: 'fewer by two',
    whenAlreadyMet: 'wait',
    when: {
      kind: 'move',
      asked: { field: NUMBER_OF_RECORDS },
      against: { base: 'last' },
      rise: null,
      fall: { by: 'amount', amount: numberOf(2) },
    },
  },
  // Of each record, where there are few of them.
  {
    name: 'dear among few',
    whenAlreadyMet: 'wait',
    later: 'raise',
    when: {
      all: [
        {
          kind: 'level',
          of: { asked: { field: 'price' } },
          limits: { is: 'above', limit: numberOf(3), inclusive: false },
        },
        {
          kind: 'level',
          of: { asked: { field: NUMBER_OF_RECORDS, record: ALL_RECORDS } },
          limits: { is: 'below', limit: numberOf(6), inclusive: false },
        },
      ],
    },
  },
  {
    name: 'a price',
    when: {
      kind: 'level',
      of: { asked: { field: 'price' } },
      limits: { is: 'above', limit: numberOf(0), inclusive: false },
    },
    whenAlreadyMet: 'raise',
  },
  {
    name: 'silent',
    when: { kind: 'silence', asked: { field: 'price' }, how: { of: 'readings', ms: 30 * MINUTE } },
    whenAlreadyMet: 'wait',
  },
  { name: 'a record comes', when: { kind: 'record', how: 'appears' }, whenAlreadyMet: 'wait' },
];

async function startLots(): Promise<WatchId> {
  const source = { address: `${site.base}/lots`, host: site.host, site: 'Supplier', mostAtOnce: 4 };
  const plan = { definition: LOTS, frequency: { count: 1, unit: 'hour' as const }, rules: [] };
  return inTransaction(world.pool, (db) => createWatch(db, source, plan, { person: world.people.ines, at: world.now }));
}

async function lots(id: WatchId) {
  const watch = await findWatch(world.pool, id);
  if (watch === null) throw new Error('there is no such watch');
  return watch;
}

/** Says the rules, which has the number read from then on; returns when. */
async function saveRules(id: WatchId): Promise<number> {
  const { frequency, version } = await lots(id);
  world.now += 5 * MINUTE;
  const rules = RULES.map((definition) => ({ id: null, definition, audiences: [`person:${world.people.ines}`] }));
  const plan = { definition: { ...LOTS, fields: withNumber(LOTS) }, frequency, rules };
  await inTransaction(world.pool, (db) =>
    editWatch(db, id, plan, { basedOn: version, editor: world.people.ines }, world.now),
  );
  return world.now;
}

const alertsOf = (name: string) =>
  world.rows<{ at: number; identity: string; subject: string }>(
    `SELECT a.seen_at AS at, r.identity, a.news->>'subject' AS subject FROM alert a JOIN record r ON r.id = a.record_id
     JOIN rule u ON u.id = a.rule_id JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
     WHERE v.definition->>'name' = $1 ORDER BY a.id`,
    [name],
  );

/** The number hour by hour, as it is known of the past since a moment. */
async function numbersOf(id: WatchId, since = 0) {
  const { histories } = await pastOf(
    world.pool,
    await lots(id),
    { items: false, elsewhere: [] },
    { since, until: world.now },
  );
  const readings =
    histories.find(({ identity }) => identity === ALL_RECORDS)?.fields[NUMBER_OF_RECORDS]?.readings ?? [];
  return (at: number) => readings.findLast((reading) => reading.at <= at)?.value;
}

it('is known of the past before anybody asked it, by what came and went', async () => {
  show(countAt(0));
  const id = await startLots();
  const begun = world.now;
  await world.pass(0);
  for (let hour = 1; hour <= 20; hour += 1) {
    show(countAt(hour));
    await world.pass(HOUR);
  }
  // A rule that is said meanwhile, or another name, is no other list.
  const { definition, frequency, version } = await lots(id);
  const said = { definition: { ...definition, subject: 'Lots on offer' }, frequency, rules: [] };
  await inTransaction(world.pool, (db) =>
    editWatch(db, id, said, { basedOn: version, editor: world.people.ines }, world.now),
  );
  await world.pass(HOUR);
  show(countAt(22));
  await world.pass(HOUR);
  const number = await numbersOf(id);
  for (let hour = 0; hour <= 22; hour += hour === 20 ? 2 : 1)
    expect([hour, number(begun + hour * HOUR + 10 * MINUTE)]).toEqual([hour, numberOf(countAt(hour))]);
});

it('is looked back over no further than asked, each look counted', async () => {
  show(5);
  const id = await startLots();
  const begun = world.now;
  await world.pass(0);
  for (let hour = 1; hour <= 8; hour += 1) {
    show(hour < 6 ? 5 : 4);
    await world.pass(HOUR);
  }
  const number = await numbersOf(id, begun + 3.5 * HOUR);
  expect([3, 4, 5.5, 6.5].map((hour) => number(begun + hour * HOUR))).toEqual([
    undefined,
    numberOf(5),
    numberOf(5),
    numberOf(4),
  ]);
  const { histories } = await pastOf(
    world.pool,
    await lots(id),
    { items: false, elsewhere: [] },
    { since: 0, until: world.now },
  );
  const readings =
    histories.find(({ identity }) => identity === ALL_RECORDS)?.fields[NUMBER_OF_RECORDS]?.readings ?? [];
  expect(readings.map(({ runs }) => runs)).toEqual([6, 3]);
});

it('is known since its present version alone, where others came back unheard at the first run of it', async () => {
  show(5);
  const id = await startLots();
  await world.pass(0);
  show(3);
  await world.pass(HOUR);
  const { definition, frequency, version } = await lots(id);
  const said = { definition: { ...definition, subject: 'Lots on offer' }, frequency, rules: [] };
  await inTransaction(world.pool, (db) =>
    editWatch(db, id, said, { basedOn: version, editor: world.people.ines }, world.now),
  );
  const edited = world.now;
  show(5);
  await world.pass(HOUR);
  show(4);
  await world.pass(HOUR);
  const number = await numbersOf(id);
  expect([number(edited - 1), number(edited + HOUR), number(world.now)]).toEqual([undefined, numberOf(5), numberOf(4)]);
});

it('is known since the list was last said otherwise, and not before', async () => {
  show(5);
  const id = await startLots();
  await world.pass(0);
  await world.pass(HOUR);
  const { frequency, version } = await lots(id);
  const chosen = { ...LOTS, chosen: ['lot 0', 'lot 1'], leftOut: ['lot 2', 'lot 3', 'lot 4'] };
  await inTransaction(world.pool, (db) =>
    editWatch(
      db,
      id,
      { definition: chosen, frequency, rules: [] },
      { basedOn: version, editor: world.people.ines },
      world.now,
    ),
  );
  const edited = world.now;
  await world.pass(HOUR);
  expect((await numbersOf(id))(edited - 1)).toBeUndefined();
});

it('is judged once for all records, and told of the list', async () => {
  show(countAt(0));
  const id = await startLots();
  await world.pass(0);
  const savedAt = await saveRules(id);
  const looks: { at: number; count: number }[] = [];
  await world.pass(0);
  for (let hour = 1; hour <= 40; hour += 1) {
    // At one look some cannot be told apart: how many there are is not known then, and nothing comes of it.
    show(countAt(hour), hour === 17 ? ['lot 0,9'] : []);
    await world.pass(HOUR);
    if (hour !== 17) looks.push({ at: world.now, count: countAt(hour) });
  }
  const falls = looks.filter(({ count }, at) => at > 0 && count < 5 && (looks[at - 1]?.count ?? 0) >= 5);
  const told = await alertsOf('few');
  expect(told.length).toBeGreaterThan(4);
  const hours = (all: { at: number }[]) => all.map(({ at }) => Math.round((at - savedAt) / HOUR));
  expect(hours(told)).toEqual(hours(falls));
  expect(new Set(told.map(({ identity, subject }) => `${identity} ${subject}`))).toEqual(
    new Set([`${ALL_RECORDS} Lots`]),
  );
  const drops = looks.filter(({ count }, at) => at > 0 && (looks[at - 1]?.count ?? 0) - count >= 2);
  expect(hours(await alertsOf('fewer by two'))).toEqual(hours(drops));

  const past = await pastOf(
    world.pool,
    await lots(id),
    { items: false, elsewhere: [] },
    { since: savedAt, until: world.now },
  );
  for (const rule of RULES.slice(0, 2)) {
    const tried = backtest(rule, past.histories, { intervalMs: HOUR, savedAt }, world.now, past.beside);
    expect([rule.name, hours(tried.alerts)]).toEqual([rule.name, hours(await alertsOf(rule.name ?? ''))]);
  }
});

it('counts beside each record, and is none of them', async () => {
  show(4);
  const id = await startLots();
  await world.pass(0);
  await saveRules(id);
  // Before it is read nothing says that such a rule could not fire.
  const seen = (await seenOf(world.pool, [id], ['price', NUMBER_OF_RECORDS])).get(id) ?? [];
  const [few, , , price] = RULES as [RuleDefinition, RuleDefinition, RuleDefinition, RuleDefinition];
  expect([
    seen.length > 0,
    seenFor(few, seen).none,
    seenFor({ ...price, only: [{ by: 'name', holds: 'wax' }] }, seen).none,
  ]).toEqual([true, false, true]);
  await world.pass(0);
  await world.pass(HOUR);
  // Lot 3 is dear, and there are 4: told once that is read. With 8 it is left, with 5 met again, by lot 4 as well; lots
  // 5 to 7 are gone then.
  show(8);
  await world.pass(HOUR);
  show(5);
  await world.pass(HOUR);
  expect((await alertsOf('dear among few')).map(({ identity }) => identity)).toEqual(['lot 3', 'lot 3', 'lot 4']);
  for (const name of ['a price', 'silent', 'a record comes'])
    expect([name, (await alertsOf(name)).filter(({ identity }) => identity === ALL_RECORDS)]).toEqual([name, []]);
  const watch = await lots(id);
  expect([watch.recordCount, watch.series.map((series) => series.field).sort()]).toEqual([5, ['lot', 'price']]);
  const listed = await listRecords(world.pool, id, { words: '', chosen: null, most: 100 });
  expect(listed.map(({ identity }) => identity)).not.toContain(ALL_RECORDS);
  const chosen = await listRecords(world.pool, id, { words: '', chosen: watch.allRecords, most: 100 });
  expect(chosen[0]).toMatchObject({
    identity: ALL_RECORDS,
    name: 'Lots',
    series: [{ field: NUMBER_OF_RECORDS, value: numberOf(5) }],
  });
  const moved = await world.rows(
    `SELECT c.id FROM change c JOIN record r ON r.id = c.record_id WHERE r.identity = $1`,
    [ALL_RECORDS],
  );
  expect(moved).toEqual([]);
  const states = await world.rows<{ name: string }>(
    `SELECT v.definition->>'name' AS name FROM rule_state t JOIN record r ON r.id = t.record_id
      JOIN rule u ON u.id = t.rule_id
     JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version WHERE r.identity = $1 ORDER BY 1`,
    [ALL_RECORDS],
  );
  expect(states.map(({ name }) => name)).toEqual(['few', 'fewer by two']);
});
