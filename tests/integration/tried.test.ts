import type { ItemId, RecordId, WatchId } from '#core/id';
import { beforeEach, expect, it } from 'vitest';
import { blankItem } from '#core/items/item';
import { backtest, replayedAt } from '#core/judge/backtest';
import { PastAround } from '#core/judge/past';
import type { Clause } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import { openBody } from '#core/read/body';
import { pageDefinition, type Field } from '#core/read/definition';
import { listingOf } from '#core/read/listing/listing';
import type { Decimal } from '#core/value/decimal';
import { HOUR, MINUTE } from '#core/when/interval';
import { editItems, itemsCalled, joinRecords } from '#server/db/item/items';
import { pastOf } from '#server/db/rule/past-related';
import { inTransaction } from '#server/db/base/pool';
import { moveClock } from '#server/pipeline/clock';
import { ensureSite, setSite } from '#server/db/source/sites';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, editWatch } from '#server/actions/edit-watch';
import { page, type Answer, type Site } from '../support/site';
import { besideSite } from '../support/site-world';
import { PRICE, type TestWorld } from '../support/world';

// What a rule is shown to have done over the past is what it did: the trial on what was stored is held to the alerts
// that were given.

let site: Site;
let world: TestWorld;
const answers: Record<string, Answer> = {};

besideSite(answers, (...opened) => ([site, world] = opened));
beforeEach(async () => {
  await world.clear();
  for (const [name, kind] of [
    ['Ours', 'own'],
    ['Rival', 'rival'],
    ['Third', 'rival'],
  ] as const)
    await setSite(world.pool, await ensureSite(world.pool, name), { name, kind });
});

const FIELD: Field = { ...PRICE, role: 'price', locators: [{ way: 'css', selector: '.price' }] };
const show = (path: string, pounds: number) =>
  (answers[path] = page(`<html lang="en-GB"><body><h1>Smoker</h1><p class="price">£${pounds}.00</p></body></html>`));

async function watchAt(name: string, rules: RuleDefinition[], every = 1, fields = [FIELD]): Promise<WatchId> {
  const source = { address: `${site.base}/${name}`, host: site.host, site: name, mostAtOnce: 4 };
  const plans = rules.map((definition) => ({ id: null, definition, audiences: [`person:${world.people.ines}`] }));
  const plan = {
    definition: pageDefinition('Smoker', fields),
    frequency: { count: every, unit: 'hour' as const },
    rules: plans,
  };
  return inTransaction(world.pool, (db) => createWatch(db, source, plan, { person: world.people.ines, at: world.now }));
}

const gauge = (of: Record<string, number>): string =>
  [
    '# TYPE waiting gauge',
    ...Object.entries(of).map(([labels, value]) => `waiting{${labels}} ${value}`),
    '# EOF',
    '',
  ].join('\n');
const labelled = (region: string, device: string) => `region="${region}",device="${device}"`;

/** A watch of what a program states of itself, by labels. */
async function watchGauge(of: Record<string, number>, rules: RuleDefinition[]): Promise<WatchId> {
  const records = { from: 'metrics', family: 'waiting' } as const;
  const body = openBody(gauge(of), 'metrics', world.now);
  const listing = body.ok ? listingOf(body.value, records) : null;
  if (listing === null) throw new Error('nothing is proposed');
  const definition = { ...pageDefinition('Waiting', []), records, fields: listing.fields, identity: listing.identity };
  const source = { address: `${site.base}/metrics`, host: site.host, site: 'Ours', mostAtOnce: 4 };
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

/** Joins all that is read to one item. */
async function joinAll(): Promise<void> {
  const editing = { person: world.people.ines, at: world.now };
  await inTransaction(world.pool, (db) =>
    editItems(db, [{ id: null, before: null, after: blankItem('SM-1') }], 'Europe/London', editing),
  );
  const item = (await itemsCalled(world.pool, ['SM-1']))[0]?.id ?? (0 as ItemId);
  const records = await world.rows<{ id: RecordId }>('SELECT id FROM record');
  await inTransaction(world.pool, (db) =>
    joinRecords(
      db,
      records.map(({ id }) => ({ record: id, item })),
      editing,
    ),
  );
}

const against = (item: 'ours' | 'cheapest', percent: string): Clause => ({
  kind: 'against',
  asked: { field: 'price' },
  other: { field: 'price', item },
  is: 'below',
  by: { by: 'percent', percent: percent as Decimal },
  inclusive: true,
});
const place = (how: 'takes' | 'loses'): Clause => ({
  kind: 'place',
  asked: { field: 'price' },
  among: 'offers',
  end: 'lowest',
  how,
});
const rule = (when: RuleDefinition['when'], name: string, more: Partial<RuleDefinition> = {}): RuleDefinition => ({
  when,
  name,
  whenAlreadyMet: 'wait',
  ...more,
});

async function watchNow(id: WatchId) {
  const watch = await findWatch(world.pool, id);
  if (watch === null) throw new Error('there is no such watch');
  return watch;
}

/** Says rules of a watch that was read; returns when. */
async function saveRules(id: WatchId, definitions: RuleDefinition[]): Promise<number> {
  const { definition, frequency, version } = await watchNow(id);
  world.now += 5 * MINUTE;
  const rules = definitions.map((each) => ({ id: null, definition: each, audiences: [`person:${world.people.ines}`] }));
  const edit = { basedOn: version, editor: world.people.ines };
  await inTransaction(world.pool, (db) => editWatch(db, id, { definition, frequency, rules }, edit, world.now));
  return world.now;
}

/** Prices that move about, told by a number alone. */
const priceOf = (seed: number, hour: number) =>
  18 + ((((seed * 7_919 + hour * 104_729) % 1_009) * 31 + hour * seed) % 7);

it('tells what was told of a price against ours and the others, look by look', async () => {
  const rules = [
    rule(against('ours', '0'), 'ours'),
    rule(against('cheapest', '5'), 'cheapest', { hold: { for: 'readings', count: 2 } }),
    rule(place('takes'), 'takes'),
    rule(place('loses'), 'loses'),
    rule({ all: [against('ours', '0'), against('cheapest', '0')] }, 'both', { told: 'move' }),
  ];
  for (const name of ['Ours', 'Rival', 'Third']) show(`/${name}`, 20);
  // They are read ten minutes apart, so that at one moment one of them is.
  await watchAt('Ours', []);
  await world.pass(0);
  world.now += 10 * MINUTE;
  await watchAt('Third', [], 2);
  await world.pass(0);
  world.now += 10 * MINUTE;
  const rival = await watchAt('Rival', []);
  await world.pass(0);
  await joinAll();
  const savedAt = await saveRules(rival, rules);
  await world.pass(0);
  for (let step = 1; step <= 6 * 40; step += 1) {
    const [seed, name] = (['Ours', 'Third', 'Rival'] as const).map((each, at) => [at + 1, each] as const)[
      Math.floor(step / 2) % 3
    ] ?? [1, 'Ours'];
    if (step % 4 === 0) show(`/${name}`, priceOf(seed, step));
    await world.pass(10 * MINUTE);
  }
  const watch = await watchNow(rival);
  const { histories, beside } = await pastOf(
    world.pool,
    watch,
    { items: true, elsewhere: [] },
    { since: 0, until: world.now },
  );
  for (const { id, definition: said } of watch.rules) {
    const told = await world.rows<{ at: number; told: string }>(
      'SELECT seen_at AS at, told FROM alert WHERE rule_id = $1 ORDER BY id',
      [id],
    );
    const tried = backtest(said, histories, { intervalMs: HOUR, savedAt }, world.now, beside);
    expect([said.name, tried.alerts.map(({ at, told: what }) => [at - savedAt, what])]).toEqual([
      said.name,
      told.map((alert) => [alert.at - savedAt, alert.told]),
    ]);
    expect(told.length).toBeGreaterThan(1);
  }
  // What was so at a moment of the past is told by what was read until then, however much came after.
  const until = savedAt + 20 * HOUR;
  const then = await pastOf(world.pool, watch, { items: true, elsewhere: [] }, { since: 0, until });
  const [history] = then.histories;
  const around = new PastAround(then.histories, then.beside);
  for (const { id, definition: said } of watch.rules) {
    const [last] = await world.rows<{ state: string }>(
      `SELECT state_after AS state
        FROM verdict
        WHERE rule_id = $1 AND made_at <= $2
        ORDER BY made_at DESC, id DESC
        LIMIT 1`,
      [id, new Date(until)],
    );
    expect([
      said.name,
      history && replayedAt(said, history, { intervalMs: HOUR, savedAt }, until, { around })?.state,
    ]).toEqual([said.name, last?.state]);
  }
  const readings = [
    ...then.histories.flatMap(({ fields }) => Object.values(fields)),
    ...Object.values(then.beside.items).flatMap(({ offers }) => offers),
  ].flatMap((each) => Object.values(each.readings).flat());
  expect(readings.filter(({ at }) => at > until)).toEqual([]);
  expect(readings.length).toBeGreaterThan(10);
});

it('tells what was told of a price and of the stock of ours', async () => {
  const states = [
    { name: 'in stock', phrases: ['in stock'] },
    { name: 'sold out', phrases: ['sold out'] },
  ];
  const stock: Field = {
    ...FIELD,
    key: 'stock',
    label: 'stock',
    role: 'availability',
    type: { kind: 'state', states },
    locators: [{ way: 'css', selector: '.stock' }],
  };
  const stocked = (path: string, pounds: number, there: boolean) =>
    (answers[path] = page(
      `<html lang="en-GB"><body><p class="price">£${pounds}.00</p><p ` +
        `class="stock">${there ? 'In stock' : 'Sold out'}</p></body></html>`,
    ));
  for (const name of ['Ours', 'Rival']) stocked(`/${name}`, 20, true);
  await watchAt('Ours', [], 1, [FIELD, stock]);
  await world.pass(0);
  world.now += 10 * MINUTE;
  const rival = await watchAt('Rival', [], 1, [FIELD, stock]);
  await world.pass(0);
  await joinAll();
  const ofOurs = (how: 'is' | 'becomes'): Clause => ({
    kind: 'state',
    asked: { field: 'stock', item: 'ours' },
    how: { [how]: { kind: 'state', state: 'sold out' } } as never,
  });
  const isThere: Clause = {
    kind: 'state',
    asked: { field: 'stock' },
    how: { is: { kind: 'state', state: 'in stock' } },
  };
  const savedAt = await saveRules(rival, [
    rule({ all: [isThere, ofOurs('is')] }, 'they have it alone'),
    rule(ofOurs('becomes'), 'ours is gone'),
  ]);
  await world.pass(0);
  for (let step = 1; step <= 6 * 40; step += 1) {
    const hour = Math.floor(step / 6);
    if (step % 6 === 1) stocked('/Ours', 20, priceOf(2, hour) % 3 > 0);
    if (step % 6 === 4) stocked('/Rival', 20, priceOf(5, hour) % 2 > 0);
    await world.pass(10 * MINUTE);
  }
  const watch = await watchNow(rival);
  const { histories, beside } = await pastOf(
    world.pool,
    watch,
    { items: true, elsewhere: [] },
    { since: 0, until: world.now },
  );
  for (const { id, definition: said } of watch.rules) {
    const told = await world.rows<{ at: number }>('SELECT seen_at AS at FROM alert WHERE rule_id = $1 ORDER BY id', [
      id,
    ]);
    const tried = backtest(said, histories, { intervalMs: HOUR, savedAt }, world.now, beside);
    expect([said.name, tried.alerts.map(({ at }) => at - savedAt)]).toEqual([
      said.name,
      told.map(({ at }) => at - savedAt),
    ]);
    expect(told.length).toBeGreaterThan(2);
  }
});

it('tells what was told of a record and of what shares a label with it', async () => {
  const of: Record<string, number> = {};
  for (const region of ['north', 'south'])
    for (const device of ['desktop', 'phone', 'tablet']) of[labelled(region, device)] = 5;
  const show = () =>
    (answers['/metrics'] = (_, response) =>
      response.writeHead(200, { 'content-type': 'application/openmetrics-text; version=1.0.0' }).end(gauge(of)));
  show();
  const [field] = (await watchFields(of)) ?? [];
  const phone = { field: field ?? '', sharing: { label: 'region', where: { label: 'device', is: 'phone' } } };
  const desktop = { only: [{ by: 'label' as const, label: 'device', is: 'desktop' }] };
  const above = (limit: string): Clause => ({
    kind: 'level',
    of: { asked: { field: field ?? '' } },
    limits: { is: 'above', limit: { kind: 'number', amount: limit as Decimal, unit: null }, inclusive: false },
  });
  const watch = await watchGauge(of, [
    rule(
      {
        kind: 'against',
        asked: { field: field ?? '' },
        other: phone,
        is: 'above',
        by: { by: 'percent', percent: '0' as Decimal },
        inclusive: false,
      },
      'above',
      desktop,
    ),
    rule(
      { all: [above('5'), { ...(above('5') as Extract<Clause, { kind: 'level' }>), of: { asked: phone } }] },
      'both',
      { ...desktop, hold: { for: 'readings', count: 2 } },
    ),
  ]);
  const savedAt = world.now;
  await world.pass(0);
  for (let hour = 1; hour <= 40; hour += 1) {
    for (const [at, labels] of Object.keys(of).entries())
      if ((hour + at) % 2 === 0) of[labels] = priceOf(at + 1, hour) - 15;
    // One of them is gone for a while.
    if (hour === 20) delete of[labelled('south', 'phone')];
    if (hour === 26) of[labelled('south', 'phone')] = 2;
    await world.pass(HOUR);
  }
  const now = await watchNow(watch);
  const { histories, beside } = await pastOf(
    world.pool,
    now,
    { items: false, elsewhere: [] },
    { since: 0, until: world.now },
  );
  for (const { id, definition: said } of now.rules) {
    const told = await world.rows<{ at: number; name: string }>(
      `SELECT a.seen_at AS at, r.identity AS name
        FROM alert a
        JOIN record r ON r.id = a.record_id
        WHERE a.rule_id = $1
        ORDER BY a.id`,
      [id],
    );
    const tried = backtest(said, histories, { intervalMs: HOUR, savedAt }, world.now, beside);
    const plain = (all: { at: number; name: string }[]) =>
      all.map(({ at, name }) => `${(at - savedAt) / HOUR} ${name}`).sort();
    expect([said.name, plain(tried.alerts.map(({ at, identity }) => ({ at, name: identity })))]).toEqual([
      said.name,
      plain(told),
    ]);
    expect(told.length).toBeGreaterThan(2);
  }
});

it('judges what shares a label at the very saving of a rule, whichever records that runs for', async () => {
  const of = {
    [labelled('north', 'desktop')]: 5,
    [labelled('north', 'phone')]: 9,
    [labelled('south', 'desktop')]: 5,
    [labelled('south', 'phone')]: 1,
  };
  answers['/metrics'] = (_, response) =>
    response.writeHead(200, { 'content-type': 'application/openmetrics-text; version=1.0.0' }).end(gauge(of));
  const [field = ''] = await watchFields(of);
  const watch = await watchGauge(of, []);
  await world.pass(0);
  const phone = { field, sharing: { label: 'region', where: { label: 'device', is: 'phone' } } };
  const limits = {
    is: 'above' as const,
    limit: { kind: 'number' as const, amount: '5' as Decimal, unit: null },
    inclusive: false,
  };
  const desktops = { only: [{ by: 'label' as const, label: 'device', is: 'desktop' }] };
  await saveRules(watch, [
    rule({ kind: 'level', of: { asked: phone }, limits }, 'phones', { whenAlreadyMet: 'raise', ...desktops }),
  ]);
  await moveClock(world.services.pipeline, world.now);
  expect(
    (await world.rows<{ name: string }>('SELECT r.name FROM alert a JOIN record r ON r.id = a.record_id')).map(
      ({ name }) => name,
    ),
  ).toHaveLength(1);
  expect(await world.rows('SELECT FROM rule_state')).toHaveLength(2);
});

async function watchFields(of: Record<string, number>): Promise<string[]> {
  const body = openBody(gauge(of), 'metrics', world.now);
  return (
    (body.ok ? listingOf(body.value, { from: 'metrics', family: 'waiting' }) : null)?.fields.map(({ key }) => key) ?? []
  );
}
