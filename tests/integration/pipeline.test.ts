import { numbered } from '../support/numbered';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { pageDefinition, type Field } from '#core/read/definition';
import { DAY, HOUR } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { listReadings } from '#server/db/reading/views/readings';
import { findTrail, listChanges } from '#server/db/reading/views/changes';
import { findWatch } from '#server/db/watch/views/watch-now';
import { askForRun, editWatch, setWatchState } from '#server/actions/edit-watch';
import { ensureAtOnceReport } from '#server/db/report/reports';
import { ruleOf, NEXT_LOOK, openWorld, PRICE, setPrice, startWatch, type TestWorld } from '../support/world';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());

beforeEach(() => world.clear());

const count = async (table: string) =>
  (await world.rows<{ n: number }>(`SELECT count(*)::int AS n FROM ${table}`))[0]?.n;

describe('the first run', () => {
  it('is a baseline: it reads, and tells nobody', async () => {
    const id = await startWatch(world);
    expect(await world.pass(0)).toMatchObject([{ outcome: 'read', changes: 0, alerts: 0 }]);
    const watch = await findWatch(world.pool, id);
    expect(watch?.series).toMatchObject([{ field: 'price', value: { amount: '24.00', currency: 'GBP' } }]);
    expect([await count('change'), await count('delivery')]).toEqual([0, 0]);
  });

  it('that meets the rule raises at once only where she chose so', async () => {
    setPrice(world, 2100);
    await startWatch(world, { whenAlreadyMet: 'wait' });
    await startWatch(world, { whenAlreadyMet: 'raise' });
    expect(await world.pass(0)).toMatchObject([{ alerts: 1 }]);
    expect(
      await world.rows(
        `SELECT name, memory->'judged'->'clauses'->0->'own'->>'side' AS side FROM rule_state ORDER BY rule_id`,
      ),
    ).toEqual([
      { name: 'calm', side: 'passed over' },
      { name: 'raised', side: 'beyond' },
    ]);
    await world.sendMail();
    expect(world.standins.room.list().map((mail) => mail.to[0])).toEqual(
      expect.arrayContaining(['ines@heatherlow.example', 'ravi@heatherlow.example']),
    );
  });
});

describe('a price that falls', () => {
  it('goes all the way to the inbox, once, and leaves a trail', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    setPrice(world, 2150);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ outcome: 'read', changes: 1, alerts: 1 }]);
    expect(await world.sendMail()).toBe(2);
    const mails = world.standins.room.list();
    expect(mails.map((mail) => mail.subject)).toEqual(
      Array(2).fill('Skepwright: Copper smoker price £21.50, down £2.50 (10.4%)'),
    );
    const opened = await world.standins.room.read(mails[0]?.id ?? '');
    expect(opened?.text).toContain('Last read before');
    expect(opened?.html).toContain(`/watches/${id}`);

    const [change] = await listChanges(world.pool, id, 5);
    expect(change).toMatchObject({
      difference: '-2.50',
      percent: '-10.4',
      sense: 'worse',
      told: 2,
      lookedBefore: world.now - NEXT_LOOK,
    });
    const trail = await findTrail(world.pool, id, numbered(change?.id ?? 0));
    expect(trail?.verdicts).toMatchObject([{ before: 'calm', after: 'raised', taken: true, reason: { code: 'met' } }]);
    expect(trail?.tellings).toMatchObject([
      { person: 'Inés Calloway', decision: 'told', state: 'sent' },
      { person: 'Ravi Oduya', decision: 'told', state: 'sent' },
    ]);
    await world.pass(NEXT_LOOK);
    expect(await world.sendMail()).toBe(0);
  });

  it('opens an episode, keeps its furthest value, and closes it', async () => {
    await startWatch(world);
    await world.pass(0);
    for (const pence of [2150, 2050, 2100, 2500]) {
      setPrice(world, pence);
      await world.pass(NEXT_LOOK);
    }
    expect(await world.rows(`SELECT peak->>'amount' AS peak, closed_at IS NOT NULL AS closed FROM episode`)).toEqual([
      { peak: '20.50', closed: true },
    ]);
    expect([await count('alert'), await count('change')]).toEqual([1, 4]);
  });

  it('keeps from whom has no confirmed address, and says so', async () => {
    const id = await startWatch(world, { audiences: [`person:${world.people.tom}`] });
    await world.pass(0);
    setPrice(world, 2150);
    await world.pass(NEXT_LOOK);
    expect(await world.sendMail()).toBe(0);
    const [change] = await listChanges(world.pool, id, 1);
    const trail = await findTrail(world.pool, id, numbered(change?.id ?? 0));
    expect(trail?.tellings).toMatchObject([{ person: 'Tom Aske', decision: 'kept back', state: 'kept back' }]);
  });

  it('is told once to a person whom two reports reach', async () => {
    await startWatch(world);
    const { ines } = world.people;
    expect(await ensureAtOnceReport(world.pool, [`person:${ines}`], ines, world.now)).toBe(2);
    await world.pool.query('INSERT INTO report_rule (report_id, rule_id, joined_at) VALUES (2, 1, now())');
    await world.pass(0);
    setPrice(world, 2150);
    await world.pass(NEXT_LOOK);
    expect(await world.sendMail()).toBe(2);
    expect(await world.rows(`SELECT decision, in_favour_of FROM notification WHERE report_id = 2`)).toEqual([
      { decision: 'stood back', in_favour_of: 1 },
    ]);
  });
});

describe('a run that brings nothing new', () => {
  it('is stored without reading, and the reading is seen once more', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ outcome: 'settled' }]);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ outcome: 'settled' }]);
    const watch = await findWatch(world.pool, id);
    const readings = await listReadings(world.pool, watch?.series.map((series) => series.id) ?? [], 0);
    expect(readings).toMatchObject([{ runs: 3, lastSeen: world.now }]);
    expect(await world.rows('SELECT outcome, status FROM run ORDER BY started_at')).toEqual([
      { outcome: 'first', status: 200 },
      { outcome: 'same', status: 304 },
      { outcome: 'same', status: 304 },
    ]);
  });

  it('is still read after the watch was edited', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    const plan = {
      definition: pageDefinition('Copper smoker', [PRICE]),
      frequency: { count: 1, unit: 'hour' as const },
      rules: [
        ruleOf(
          {
            kind: 'level',
            of: { asked: { field: 'price' } },
            limits: { is: 'below', limit: { ...PRICE_NOW, amount: '30.00' as never }, inclusive: false },
          },
          ['list:1'],
          'raise',
        ),
      ],
    };
    expect(
      await inTransaction(world.pool, (db) =>
        editWatch(db, id, plan, { basedOn: 1, editor: world.people.ines }, world.now),
      ),
    ).toEqual({
      ok: true,
      value: 2,
    });
    expect(
      await inTransaction(world.pool, (db) =>
        editWatch(db, id, plan, { basedOn: 1, editor: world.people.ines }, world.now),
      ),
    ).toEqual({
      ok: false,
      error: 'edited meanwhile',
    });
    expect(await world.pass(1000)).toMatchObject([{ outcome: 'read', changes: 0, alerts: 0 }]);
    // The new rule was begun with what was read before, and raised by that.
    expect(await world.rows('SELECT count(*)::int AS n FROM alert')).toEqual([{ n: 1 }]);
  });
});

const PRICE_NOW = { kind: 'money' as const, currency: 'GBP' };

describe('a page that fails', () => {
  it.each([
    ['missing', 'source', 'The page is not there (404).'],
    ['retired', 'source', 'The page was retired for good (410).'],
    [
      'not a page',
      'source',
      'This is not a page or data but application/pdf. Shrike reads pages, tables, feeds and data in text.',
    ],
    ['huge', 'source', 'The page is larger than 5 MB and was not read.'],
  ])('%s: says so, and is no change', async (conduct, link, sentence) => {
    const id = await startWatch(world);
    await world.pass(0);
    world.standins.world.push('page', 'copper-smoker-large', conduct);
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ outcome: 'failed' }]);
    const failing = await findWatch(world.pool, id);
    expect(failing?.problem).toMatchObject({ link, sentence });
    expect(failing?.series).toMatchObject([{ value: { amount: '24.00' }, lastGoodAt: world.now - NEXT_LOOK }]);

    world.standins.world.push('page', 'copper-smoker-large', 'there');
    await world.pass(NEXT_LOOK);
    expect((await findWatch(world.pool, id))?.problem).toBeNull();
    expect(await count('change')).toBe(0);
  });

  it('that stops matching keeps the last good value, stale, and is compared with it when it is back', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    world.standins.world.push('layout', 'copper-smoker-large', 'rebuilt');
    await world.pass(NEXT_LOOK);
    const broken = await findWatch(world.pool, id);
    expect(broken?.problem).toMatchObject({ link: 'value', reason: 'no match' });
    expect(broken?.series).toMatchObject([
      { value: { amount: '24.00' }, problem: { reason: 'no match' }, lastGoodAt: world.now - NEXT_LOOK },
    ]);

    world.standins.world.push('layout', 'copper-smoker-large', 'usual');
    setPrice(world, 2150);
    await world.pass(NEXT_LOOK);
    const [change] = await listChanges(world.pool, id, 5);
    expect(change).toMatchObject({
      from: { amount: '24.00' },
      to: { amount: '21.50' },
      lookedBefore: world.now - 2 * NEXT_LOOK,
    });
    expect(await count('change')).toBe(1);
  });

  it('does not fail a neighbour that reads another place on it', async () => {
    const lost: Field = { ...PRICE, locators: [{ way: 'css', selector: '.never-there' }] };
    const bad = await startWatch(world, { fields: [lost] });
    const good = await startWatch(world);
    expect(await world.pass(0)).toHaveLength(1);
    expect((await findWatch(world.pool, bad))?.problem).toMatchObject({ reason: 'no match' });
    expect(await findWatch(world.pool, good)).toMatchObject({
      problem: null,
      series: [{ value: { amount: '24.00' } }],
    });
  });
});

describe('sources and their watches', () => {
  it('share one fetch at the shortest interval, each reading at its own', async () => {
    const often = await startWatch(world, { frequency: { count: 1, unit: 'hour' } });
    const seldom = await startWatch(world, { frequency: { count: 3, unit: 'hour' } });
    await world.pass(0);
    for (let hour = 0; hour < 12; hour += 1) await world.pass(HOUR);
    const runs = await world.rows<{ watch_id: number; n: number }>(
      'SELECT watch_id, count(*)::int AS n FROM watch_run GROUP BY 1 ORDER BY 1',
    );
    expect(runs).toEqual([
      { watch_id: often, n: 13 },
      { watch_id: seldom, n: 5 },
    ]);
    expect(await count('source')).toBe(1);
    expect(await count('run')).toBe(13);
  });

  it('rest when no watch runs, and are due at once when one starts again or is asked', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    await inTransaction(world.pool, (db) => setWatchState(db, id, 'paused', world.now));
    expect(await world.pass(DAY)).toEqual([]);
    expect(await inTransaction(world.pool, (db) => askForRun(db, id, world.now))).toBe(false);
    await inTransaction(world.pool, (db) => setWatchState(db, id, 'running', world.now));
    expect(await world.pass(0)).toHaveLength(1);
    expect(await inTransaction(world.pool, (db) => askForRun(db, id, world.now))).toBe(true);
    expect(await world.pass(0)).toHaveLength(1);
    await inTransaction(world.pool, (db) => setWatchState(db, id, 'deleted', world.now));
    expect(await world.pass(DAY)).toEqual([]);
    expect(await findWatch(world.pool, id)).toBeNull();
  });

  it('keep only the bodies that a change was read from or against', async () => {
    await startWatch(world);
    await world.pass(0);
    for (const pence of [2150, 2300]) {
      setPrice(world, pence);
      await world.pass(NEXT_LOOK);
    }
    setPrice(world, 9900, 'steel-smoker');
    await world.pass(NEXT_LOOK);
    setPrice(world, 9800, 'steel-smoker');
    await world.pass(NEXT_LOOK);
    expect(await world.rows('SELECT kept, count(*)::int AS n FROM snapshot GROUP BY 1 ORDER BY 1')).toEqual([
      { kept: false, n: 1 },
      { kept: true, n: 3 },
    ]);
    expect(await world.rows(`SELECT outcome FROM watch_run ORDER BY started_at DESC LIMIT 2`)).toEqual([
      { outcome: 'same' },
      { outcome: 'same' },
    ]);
  });
});

describe('the order of news', () => {
  it('is that of commits: editions cover it without gap or overlap, whatever runs at once', async () => {
    const slugs = [
      'copper-smoker-large',
      'copper-smoker-small',
      'steel-smoker',
      'mesh-floor',
      'fondant-12',
      'syrup-14',
    ];
    for (const slug of slugs)
      await startWatch(world, { slug, condition: { kind: 'change', asked: { field: 'price' } } });
    await world.pass(0);
    for (let round = 1; round <= 5; round += 1) {
      slugs.forEach((slug, at) => setPrice(world, 1000 * round + at, slug));
      await world.pass(NEXT_LOOK);
    }
    const editions = await world.rows<{ from_seq: number; to_seq: number; number: number }>(
      'SELECT number, from_seq, to_seq FROM edition ORDER BY number',
    );
    expect(editions).toHaveLength(30);
    editions.slice(1).forEach((edition, at) => expect(edition.from_seq).toBe(editions[at]?.to_seq));
    const covered = await world.rows<{ n: number }>(
      `SELECT count(*)::int AS n
        FROM edition_alert ea
        JOIN edition e ON e.id = ea.edition_id
        JOIN alert a ON a.id = ea.alert_id
        WHERE a.seq > e.from_seq AND a.seq <= e.to_seq`,
    );
    expect(covered).toEqual([{ n: 30 }]);
  });
});
