import { beforeEach, describe, expect, it } from 'vitest';
import { pageDefinition, type Field } from '#core/read/definition';
import type { RuleDefinition } from '#core/judge/rule';
import { HOUR } from '#core/when/interval';
import { addList, addPerson } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { listReadings } from '#server/db/reading/views/readings';
import { claimDue } from '#server/db/source/sources';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, editWatch } from '#server/actions/edit-watch';
import { runSource } from '#server/pipeline/run';
import { page, type Answer, type Site } from '../support/site';
import { countTurns } from '../support/turns';
import { besideSite } from '../support/site-world';
import { BEGINNING } from '../support/beginning';
import { PRICE, type TestWorld } from '../support/world';

// What a run costs the database, and what runs at the same time cost one another.

let site: Site;
let world: TestWorld;
const bodies = new Map<string, string>();
const answers: Record<string, Answer> = {};

const show = (path: string, price: string) => {
  bodies.set(path, `<html lang="en-GB"><body><h1>Smoker</h1><p class="price">£${price}</p></body></html>`);
  answers[path] = (request, response) => page(bodies.get(path) ?? '')(request, response);
};

besideSite(answers, (...opened) => ([site, world] = opened));
beforeEach(() => world.clear());

const FIELD: Field = { ...PRICE, locators: [{ way: 'css', selector: '.price' }] };
const CHANGES: RuleDefinition = { when: { kind: 'change', asked: { field: 'price' } }, whenAlreadyMet: 'wait' };
const count = async (table: string) =>
  (await world.rows<{ n: number }>(`SELECT count(*)::int AS n FROM ${table}`))[0]?.n;

function watchOn(
  path: string,
  { rule, audiences = [] }: { rule?: RuleDefinition; audiences?: string[] } = {},
  definition = pageDefinition('Smoker', [FIELD]),
) {
  const source = { address: `${site.base}${path}`, host: site.host, site: 'Shop', mostAtOnce: 4 };
  const plan = {
    definition,
    frequency: { count: 1, unit: 'hour' as const },
    rules: rule === undefined ? [] : [{ id: null, definition: rule, audiences }],
  };
  return inTransaction(world.pool, (db) => createWatch(db, source, plan, { person: world.people.ines, at: world.now }));
}

async function turnsOf(work: () => Promise<unknown>): Promise<number> {
  const counter = countTurns(world.pool);
  try {
    await work();
    return counter.turns();
  } finally {
    counter.stop();
  }
}

/**
 * A pass without its claims, of which there is one before the run and one that finds nothing, each with a look at what
 * the clock moves.
 */
const CLAIMS = 2 * 2;

describe('a run', () => {
  it(
    'that changes something asks the database three times, one that tells it four times, and one that brings ' +
      'nothing once',
    async () => {
      const falls: RuleDefinition = {
        when: {
          kind: 'crossing',
          of: { asked: { field: 'price' } },
          limits: {
            is: 'below',
            limit: { kind: 'money', amount: '20.00' as never, currency: 'GBP' },
            inclusive: false,
          },
        },
        whenAlreadyMet: 'wait',
      };
      show('/a', '24.00');
      await watchOn('/a', { rule: falls, audiences: ['list:1'] });
      await world.pass(0);
      show('/a', '23.00');
      expect((await turnsOf(() => world.pass(HOUR))) - CLAIMS).toBe(3);
      expect((await turnsOf(() => world.pass(HOUR))) - CLAIMS).toBe(1);
      show('/a', '19.00');
      expect((await turnsOf(() => world.pass(HOUR))) - CLAIMS).toBe(4);
      expect([await count('change'), await count('alert'), await count('delivery')]).toEqual([2, 1, 2]);
    },
  );

  it('that tells two hundred people asks no more often than one that tells two', async () => {
    const many = await Promise.all(
      Array.from({ length: 200 }, (_, at) =>
        addPerson(world.pool, {
          name: `Reader ${at}`,
          email: `reader${at}@heatherlow.example`,
          locale: 'en-GB',
          zone: 'Europe/London',
          confirmedAt: BEGINNING,
        }),
      ),
    );
    const list = await addList(world.pool, 'Everybody', many);
    show('/b', '24.00');
    await watchOn('/b', { rule: CHANGES, audiences: [`list:${list}`] });
    await world.pass(0);
    show('/b', '23.00');
    expect((await turnsOf(() => world.pass(HOUR))) - CLAIMS).toBeLessThanOrEqual(5);
    expect([await count('delivery'), await count('notification')]).toEqual([200, 200]);
    expect(await world.rows('SELECT DISTINCT number FROM delivery')).toEqual([{ number: 1 }]);
  });

  it('that brings nothing new writes no reading, and yet it counts for the reading that stands', async () => {
    show('/c', '24.00');
    const id = await watchOn('/c');
    await world.pass(0);
    for (let look = 0; look < 3; look += 1) await world.pass(HOUR);
    const readingsOf = async () =>
      listReadings(
        world.pool,
        ((await findWatch(world.pool, id))?.series ?? []).map((series) => series.id),
        BEGINNING,
      );
    expect(await world.rows('SELECT runs FROM reading')).toEqual([{ runs: 1 }]);
    const lastLook = world.now;
    expect(await readingsOf()).toMatchObject([{ runs: 4, lastSeen: lastLook }]);
    show('/c', '23.00');
    await world.pass(HOUR);
    expect(await readingsOf()).toMatchObject([
      { runs: 4, lastSeen: lastLook },
      { runs: 1, firstSeen: world.now, lastSeen: world.now },
    ]);
    // What is not read is not seen, nor what stands while it is not.
    bodies.set('/c', '<html><body><h1>Smoker</h1></body></html>');
    await world.pass(HOUR);
    expect((await readingsOf())[1]).toMatchObject({ runs: 1 });
    show('/c', '23.00');
    await world.pass(HOUR);
    await world.pass(HOUR);
    expect((await readingsOf())[1]).toMatchObject({ runs: 3, lastSeen: world.now });
  });

  it('that answers again with what it had is told, like one that brings something new', async () => {
    show('/d', '24.00');
    await watchOn('/d', { rule: CHANGES, audiences: ['list:1'] });
    await world.pass(0);
    const good = answers['/d'];
    answers['/d'] = (_request, response) => response.writeHead(410).end('gone');
    await world.pass(HOUR);
    expect(await world.rows('SELECT kind FROM notice ORDER BY id')).toEqual([{ kind: 'failing' }]);
    answers['/d'] = good!;
    for (let look = 0; look < 30; look += 1) await world.pass(HOUR);
    expect(await world.rows('SELECT kind FROM notice ORDER BY id')).toEqual([
      { kind: 'failing' },
      { kind: 'recovered' },
    ]);
    expect(await world.rows('SELECT failures, told_cause FROM watch')).toEqual([{ failures: 0, told_cause: null }]);
  });

  it('leaves a watch that was edited while it was read to the next look, which is at once', async () => {
    show('/e', '24.00');
    const id = await watchOn('/e');
    await world.pass(0);
    show('/e', '23.00');
    world.now += HOUR;
    const [source] = await claimDue(world.pool, world.now, HOUR, 1);
    if (source === undefined) throw new Error('nothing is due');
    const plan = {
      definition: pageDefinition('Smoker', [FIELD]),
      frequency: { count: 2, unit: 'hour' as const },
      rules: [],
    };
    const editing = async (step: string) => {
      if (step === 'read')
        await inTransaction(world.pool, (db) =>
          editWatch(db, id, plan, { basedOn: 1, editor: world.people.ines }, world.now),
        );
    };
    const edited = { ...world.services.pipeline, onStep: editing };
    expect(await runSource(edited, source)).toMatchObject({ outcome: 'read', changes: 0 });
    expect(await world.pass(0)).toMatchObject([{ outcome: 'read', changes: 1 }]);
  });
});

describe('runs at the same time', () => {
  it('do not wait for one another though one has ordered all its mails and not committed', async () => {
    for (const path of ['/f', '/g']) {
      show(path, '24.00');
      await watchOn(path, { rule: CHANGES, audiences: path === '/f' ? ['list:1'] : [`person:${world.people.ravi}`] });
    }
    await world.pass(0);
    for (const path of ['/f', '/g']) show(path, '23.00');
    world.now += HOUR;
    const claimed = await claimDue(world.pool, world.now, HOUR, 2);
    const [first, second] = claimed.sort((a, b) => a.address.localeCompare(b.address));
    if (first === undefined || second === undefined) throw new Error('two are due');
    let goOn = (): void => undefined;
    const halted = new Promise<void>((resolve) => (goOn = resolve));
    let reached = (): void => undefined;
    const ordered = new Promise<void>((resolve) => (reached = resolve));
    const halting = {
      ...world.services.pipeline,
      onStep: async (step: string) => {
        if (step !== 'ordered') return;
        reached();
        await halted;
      },
    };
    const slow = runSource(halting, first);
    await ordered;
    expect(await runSource(world.services.pipeline, second)).toMatchObject({ outcome: 'read', alerts: 1 });
    expect(await count('edition')).toBe(1);
    goOn();
    expect(await slow).toMatchObject({ alerts: 1 });
    const windows = await world.rows(
      `SELECT count(*)::int AS n
        FROM edition_alert x
        JOIN edition e ON e.id = x.edition_id
        JOIN alert a ON a.id = x.alert_id
        WHERE a.seq > e.from_seq AND a.seq <= e.to_seq`,
    );
    expect([await count('edition'), windows]).toEqual([2, [{ n: 2 }]]);
    expect(
      await world.rows('SELECT 1 FROM change WHERE seq IS NULL UNION ALL SELECT 1 FROM alert WHERE seq IS NULL'),
    ).toEqual([]);
  });
});

describe('several points of a new series in one message', () => {
  it('raise one alert and open one episode, and the run is kept', async () => {
    const senml = JSON.stringify([
      { n: 'hive', u: 'Cel', v: 40, t: world.now / 1000 - 60 },
      { n: 'hive', u: 'Cel', v: 41, t: world.now / 1000 - 30 },
    ]);
    answers['/senml'] = (_request, response) =>
      response.writeHead(200, { 'content-type': 'application/senml+json' }).end(senml);
    const field: Field = {
      key: 'value',
      label: 'temperature',
      type: { kind: 'number' },
      mode: 'measured',
      polarity: 'neither',
      locale: null,
      locators: [{ way: 'part', part: 'value' }],
    };
    const hot: RuleDefinition = {
      when: {
        kind: 'level',
        of: { asked: { field: 'value' } },
        limits: { is: 'above', limit: { kind: 'number', amount: '38' as never, unit: '°C' }, inclusive: false },
      },
      whenAlreadyMet: 'raise',
    };
    const definition = { ...pageDefinition('Hives', [field]), records: { from: 'senml' as const } };
    await watchOn('/senml', { rule: hot, audiences: ['list:1'] }, definition);
    expect(await world.pass(0)).toMatchObject([{ outcome: 'read', alerts: 1 }]);
    expect(await world.rows(`SELECT peak->>'amount' AS peak, closed_at FROM episode`)).toEqual([
      { peak: '41', closed_at: null },
    ]);
    expect([await count('record'), await count('series'), await count('reading')]).toEqual([1, 1, 2]);
    expect(await world.rows('SELECT name FROM rule_state')).toEqual([{ name: 'raised' }]);
  });
});
