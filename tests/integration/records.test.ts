import type { RecordId, WatchId } from '#core/id';
import { numbered } from '../support/numbered';
import { emptyPlan } from '#core/plan/plan';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { pageDefinition } from '#core/read/definition';
import { isMeasure } from '#core/value/value';
import { chainOf, firstBroken } from '#core/tell/chain';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { alertsSince, changesSince } from '#server/db/reading/views/briefing';
import { coverageSince } from '#server/db/watch/coverage';
import { beginDraft, dropDraft, findDraft, keepDraft, listDrafts } from '#server/db/watch/drafts';
import { addFirstOwner, makeFirstOwnerCode } from '#server/db/access/first-owner';
import { findPerson, listAudiences, noteVisit } from '#server/db/person/people';
import { beginSession, findSession } from '#server/db/access/sessions';
import { inTransaction } from '#server/db/base/pool';
import { listReadings } from '#server/db/reading/views/readings';
import { chainFactsOf, findWatch, watchesOf } from '#server/db/watch/views/watch-now';
import { findBody } from '#server/db/source/snapshots';
import { findTrail } from '#server/db/reading/views/changes';
import { listRecords, type RecordNow } from '#server/db/reading/records';
import { listEpisodes, listRuns } from '#server/db/watch/views/history';
import { claimDue } from '#server/db/source/sources';
import { askForRun, editWatch, type WatchPlan } from '#server/actions/edit-watch';
import { runSource } from '#server/pipeline/run';
import {
  ruleOf,
  fallsBelow,
  NEXT_LOOK,
  openWorld,
  PRICE,
  setPrice,
  startWatch,
  type TestWorld,
} from '../support/world';

const PLACE = { locale: 'en-GB', zone: 'Europe/London' };

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());
beforeEach(() => world.clear());

describe('people', () => {
  it('have sessions that run out, known only by a hash of their token', async () => {
    const owner = {
      name: 'Ravi Oduya',
      email: 'ravi@heatherlow.example',
      zone: 'Europe/London',
      password: 'kept as a hash',
      code: (await makeFirstOwnerCode(world.pool, world.now)) ?? '',
    };
    const account = await inTransaction(world.pool, (db) => addFirstOwner(db, owner, world.now));
    const token = await beginSession(world.pool, numbered(account ?? 0), world.now);
    expect(await findSession(world.pool, token, world.now)).toEqual({
      account,
      person: world.people.ravi,
      role: 'owner',
    });
    expect(await findSession(world.pool, `${token}x`, world.now)).toBeNull();
    expect(await findSession(world.pool, token, world.now + 31 * DAY)).toBeNull();
    const [row] = await world.rows<{ token_hash: Buffer }>('SELECT token_hash FROM session');
    expect(row?.token_hash.toString('base64url')).not.toContain(token);
  });

  it('can be told alone or as a list, lists first', async () => {
    const audiences = await listAudiences(world.pool);
    expect(audiences.map((audience) => audience.name)).toEqual(['Pricing', 'Inés Calloway', 'Ravi Oduya', 'Tom Aske']);
    expect(audiences[0]?.members.map((member) => member.name)).toEqual(['Inés Calloway', 'Ravi Oduya']);
    expect(audiences[3]?.members).toMatchObject([{ kept: 'unconfirmed' }]);
    expect(await findPerson(world.pool, 'nobody@heatherlow.example')).toBeNull();
  });

  it('look at the briefing in visits: what is new stays new while she reads', async () => {
    const { ines } = world.people;
    const first = world.now;
    expect(await noteVisit(world.pool, ines, first)).toBeNull();
    expect(await noteVisit(world.pool, ines, first + 5 * MINUTE)).toBeNull();
    expect(await noteVisit(world.pool, ines, first + 3 * HOUR)).toBe(first + 5 * MINUTE);
    expect(await noteVisit(world.pool, ines, first + 3 * HOUR + MINUTE)).toBe(first + 5 * MINUTE);
  });
});

describe('drafts', () => {
  it('belong to one person, keep what was said, and end when they are dropped', async () => {
    const { ines, ravi } = world.people;
    const id = await beginDraft(
      world.pool,
      ines,
      { address: 'http://a.example/', content: emptyPlan('A'), body: '<p>', finalAddress: 'http://a.example/' },
      world.now,
    );
    const keeping = { revision: 0, tab: 'one' };
    expect(await keepDraft(world.pool, { id, person: ines }, emptyPlan('B'), keeping, world.now + 1000)).toBe(1);
    expect(
      await keepDraft(world.pool, { id, person: ravi }, emptyPlan('theirs'), keeping, world.now + 2000),
    ).toBeNull();
    expect(await findDraft(world.pool, ravi, id)).toBeNull();
    expect(await findDraft(world.pool, ines, id)).toMatchObject({
      content: { subject: 'B' },
      body: '<p>',
      updatedAt: world.now + 1000,
    });
    expect(await listDrafts(world.pool, ines)).toMatchObject([{ id, body: null }]);
    await dropDraft(world.pool, ravi, id);
    expect(await listDrafts(world.pool, ines)).toHaveLength(1);
    await dropDraft(world.pool, ines, id);
    expect(await listDrafts(world.pool, ines)).toEqual([]);
  });
});

describe('the briefing', () => {
  it('tells the changes and alerts since a moment, with what they rest on', async () => {
    await startWatch(world);
    await world.pass(0);
    const since = world.now;
    setPrice(world, 2150);
    await world.pass(NEXT_LOOK);
    await world.sendMail();
    expect(await changesSince(world.pool, since, 10)).toMatchObject([
      { subject: 'Copper smoker', site: 'Skepwright', alerted: true, field: { label: 'price' } },
    ]);
    expect(await alertsSince(world.pool, since, 10)).toMatchObject([{ stillRaised: true, report: 'Pricing, at once' }]);
    expect(await coverageSince(world.pool, since)).toEqual({ runs: 1, failed: 0, changes: 1, told: 2 });
    expect(await changesSince(world.pool, world.now, 10)).toEqual([]);
  });
});

describe('a watch as its page shows it', () => {
  it('has its runs, readings, episodes and last body', async () => {
    const id = await startWatch(world);
    const beginning = world.now;
    await world.pass(0);
    setPrice(world, 2150);
    await world.pass(NEXT_LOOK);
    world.standins.world.push('page', 'copper-smoker-large', 'missing');
    await world.pass(NEXT_LOOK);
    const runs = await listRuns(world.pool, id, beginning);
    expect(runs.map((run) => run.outcome)).toEqual(['first', 'changed', 'failed']);
    expect(runs[2]?.sentence).toContain('404');
    const watch = await findWatch(world.pool, id);
    const readings = await listReadings(world.pool, [watch?.series[0]?.id ?? 0], beginning);
    expect(readings.map((reading) => reading.value)).toMatchObject([{ amount: '24.00' }, { amount: '21.50' }]);
    expect(await listReadings(world.pool, [watch?.series[0]?.id ?? 0], world.now)).toEqual([]);
    expect(await listEpisodes(world.pool, id, beginning)).toMatchObject([
      { closedAt: null, peak: { amount: '21.50' } },
    ]);
    expect((await findBody(world.pool, id))?.body).toContain('£21.50');
    expect(await findTrail(world.pool, id, numbered(1))).toBeNull();
  });

  it(
    'lists its records page by page, each once: those that are there, then those that went, and a chosen one at ' +
      'the head of the first',
    async () => {
      const id = await startWatch(world);
      await world.pass(0);
      await world.pool.query(
        `INSERT INTO record (id, watch_id, identity, name, first_seen, gone_since)
       SELECT 1000000 + n, $1, 'lot ' || n, 'Lot ' || n, now(), CASE WHEN n % 3 = 0 THEN now() END
       FROM generate_series(1, 40) n`,
        [id],
      );
      const pages = async (words: string) => {
        const found: RecordNow[] = [];
        for (let page = await listRecords(world.pool, id, { words, chosen: null, most: 7 }); page.length > 0;) {
          found.push(...page);
          const last = page.at(-1);
          const after = last === undefined ? null : { gone: last.goneSince !== null, id: last.id };
          page = await listRecords(world.pool, id, { words, chosen: null, most: 7, after });
        }
        return found;
      };
      const all = await pages('');
      expect([all.length, new Set(all.map((record) => record.id)).size]).toEqual([41, 41]);
      expect(all.findIndex(({ goneSince }) => goneSince !== null)).toBe(28);
      expect(all.slice(28).every(({ goneSince }) => goneSince !== null)).toBe(true);
      expect((await pages('lot 3')).map(({ name }) => name).sort()).toEqual(
        [3, 30, 31, 32, 33, 34, 35, 36, 37, 38, 39].map((n) => `Lot ${n}`).sort(),
      );
      const first = await listRecords(world.pool, id, { words: '', chosen: numbered<RecordId>(1000039), most: 7 });
      expect(first.map(({ name }) => name).slice(0, 2)).toEqual(['Lot 39', 'Copper smoker']);
      // A record of another watch is nobody's choice here.
      expect(
        await listRecords(world.pool, await startWatch(world, { slug: 'steel-smoker' }), {
          words: '',
          chosen: numbered<RecordId>(1000039),
          most: 7,
        }),
      ).toEqual([]);
    },
  );

  it('has of a busy series as much as a chart can show: the least and the most of each stretch, and nothing bad', async () => {
    const [busy, calm] = await Promise.all([startWatch(world), startWatch(world, { slug: 'steel-smoker' })]);
    await world.pass(0);
    const series = async (id: WatchId) => (await findWatch(world.pool, id))?.series[0]?.id ?? 0;
    const [many, one] = [await series(busy), await series(calm)];
    await world.pool.query(
      `INSERT INTO reading (series_id, first_seen, last_seen, kind, amount, unit, run_id, quality)
       SELECT $1, t, t, 'number', CASE WHEN n = 5000 THEN 99 WHEN n = 7000 THEN -4 WHEN n = 8000 THEN 12345
         ELSE 20 + n % 3 END, '°C', 1, CASE WHEN n = 8000 THEN 'bad' ELSE 'good' END
       FROM (SELECT n, $2::timestamptz + n * interval '1 s' AS t FROM generate_series(1, 10000) n) each`,
      [many, new Date(world.now)],
    );
    const readings = await listReadings(world.pool, [many, one], world.now - 1, 400);
    const own = readings.filter((reading) => reading.seriesId === many);
    const amounts = own.map(({ value }) => Number(isMeasure(value) ? value.amount : Number.NaN));
    expect(own.length).toBeGreaterThan(350);
    expect(own.length).toBeLessThanOrEqual(402);
    expect([Math.min(...amounts), Math.max(...amounts)]).toEqual([-4, 99]);
    expect(own.reduce((sum, reading) => sum + reading.runs, 0)).toBeGreaterThanOrEqual(10_000);
    const times = own.map((reading) => reading.firstSeen);
    expect(times).toEqual([...times].sort((a, b) => a - b));
    expect(readings.filter((reading) => reading.seriesId === one)).toMatchObject([
      { thinned: false, value: { amount: expect.any(String) as string } },
    ]);
    const late = await listReadings(world.pool, [many], world.now + 9_900_000);
    expect(late.map(({ thinned }) => thinned)).toEqual(Array(101).fill(false));
  });

  it('says with its chain who will not hear, and lists those that are broken', async () => {
    const unheard = await startWatch(world, { audiences: [`person:${world.people.tom}`] });
    const recorded = await startWatch(world, { slug: 'steel-smoker', condition: null });
    await world.pass(0);
    const chains = (await watchesOf(world.pool, [unheard, recorded])).map((watch) =>
      chainOf(chainFactsOf(watch, 'en-GB'), world.now, PLACE),
    );
    expect(chains.map((chain) => firstBroken(chain)?.said ?? 'holds').sort()).toEqual([
      'Nobody will hear: Tom Aske has not confirmed the address.',
      'holds',
    ]);
  });
});

describe('editing', () => {
  /** A plan with the rule of the watch, said anew. */
  const plan = async (watch: WatchId, limit: string, audiences: string[]) => ({
    definition: pageDefinition('Copper smoker', [PRICE]),
    frequency: { count: 1, unit: 'hour' as const },
    rules: [{ ...ruleOf(fallsBelow(limit), audiences), id: (await ruleIn(watch))?.id ?? null }],
  });
  const ruleIn = async (watch: WatchId) => (await findWatch(world.pool, watch))?.rules[0];
  const edit = async (watch: WatchId, basedOn: number, said: WatchPlan) =>
    inTransaction(world.pool, (db) => editWatch(db, watch, said, { basedOn, editor: world.people.ines }, world.now));

  it('joins the report that tells just these people, and makes one where there is none', async () => {
    const id = await startWatch(world);
    await startWatch(world, { slug: 'steel-smoker' });
    await startWatch(world, { slug: 'mesh-floor', audiences: ['list:1', `person:${world.people.tom}`] });
    expect(await world.rows('SELECT name FROM report ORDER BY id')).toEqual([
      { name: 'Pricing, at once' },
      { name: 'Pricing and Tom Aske, at once' },
    ]);
    await edit(id, 1, await plan(id, '22.00', [`person:${world.people.ravi}`]));
    expect(await ruleIn(id)).toMatchObject({
      reports: [{ name: 'Ravi Oduya, at once' }],
      audiences: [`person:${world.people.ravi}`],
    });
    expect(await world.rows('SELECT FROM report_rule WHERE left_at IS NOT NULL')).toHaveLength(1);
  });

  it('leaves the state of a rule that did not change, and begins one that did anew', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    setPrice(world, 2150);
    await world.pass(NEXT_LOOK);
    await edit(id, 1, await plan(id, '22.00', ['list:1']));
    expect(await world.pass(1000)).toMatchObject([{ alerts: 0 }]);
    expect(await ruleIn(id)).toMatchObject({ version: 1, state: 'raised', waiting: false });

    await edit(id, 2, await plan(id, '23.00', ['list:1']));
    expect(await world.rows('SELECT FROM episode WHERE closed_at IS NULL')).toHaveLength(0);
    await world.pass(1000);
    expect(await ruleIn(id)).toMatchObject({ version: 2, state: 'calm', waiting: true });
  });

  it('can end the rule: the watch is then only recorded', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    await edit(id, 1, { ...(await plan(id, '22.00', [])), rules: [] });
    setPrice(world, 1000);
    expect(await world.pass(1000)).toMatchObject([{ changes: 1, alerts: 0 }]);
    expect((await findWatch(world.pool, id))?.rules).toEqual([]);
  });

  it('gives a watch several rules, each judged, told and ended by itself', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    const before = await plan(id, '22.00', ['list:1']);
    const changes = ruleOf({ kind: 'change', asked: { field: 'price' } }, [`person:${world.people.ines}`]);
    await edit(id, 1, { ...before, rules: [...before.rules, changes] });
    setPrice(world, 2150);
    expect(await world.pass(1000)).toMatchObject([{ changes: 1, alerts: 2 }]);
    expect((await findWatch(world.pool, id))?.rules.map(({ version, state }) => [version, state])).toEqual([
      [1, 'raised'],
      [1, 'calm'],
    ]);
    // Inés is reached by both, and hears of each alert; Ravi of the one that Pricing is told.
    expect(
      await world.rows('SELECT person_id AS person, count(*)::int AS n FROM notification GROUP BY 1 ORDER BY 1'),
    ).toEqual([
      { person: world.people.ines, n: 2 },
      { person: world.people.ravi, n: 1 },
    ]);
    const both = (await findWatch(world.pool, id))?.rules ?? [];
    await edit(id, 2, { ...before, rules: both.slice(1) });
    expect(await world.rows('SELECT closed_because FROM episode')).toEqual([{ closed_because: 'ended' }]);
    setPrice(world, 2000);
    expect(await world.pass(1000)).toMatchObject([{ alerts: 1 }]);
  });

  it('gives a field that is added a baseline of its own', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    const stock = {
      ...PRICE,
      key: 'stock',
      label: 'stock',
      type: { kind: 'text' as const },
      locators: [{ way: 'css' as const, selector: '.stock' }],
    };
    const wider = {
      ...(await plan(id, '22.00', ['list:1'])),
      definition: pageDefinition('Copper smoker', [PRICE, stock]),
    };
    await inTransaction(world.pool, (db) =>
      editWatch(db, id, wider, { basedOn: 1, editor: world.people.ines }, world.now),
    );
    expect(await world.pass(1000)).toMatchObject([{ outcome: 'read', changes: 0 }]);
    world.standins.world.push('stock', 'copper-smoker-large', 'out');
    expect(await world.pass(NEXT_LOOK)).toMatchObject([{ changes: 1 }]);
  });

  it('asked for while a run is under way is not lost', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    world.now += NEXT_LOOK;
    const [source] = await claimDue(world.pool, world.now, 60_000, 1);
    if (source === undefined) throw new Error('nothing was due');
    const onStep = async (step: string): Promise<void> => {
      if (step === 'fetched') await inTransaction(world.pool, (db) => askForRun(db, id, world.now + 5));
    };
    await runSource({ ...world.services.pipeline, onStep }, source);
    expect((await findWatch(world.pool, id))?.askedAt).toBe(world.now + 5);
    expect(await world.pass(10)).toHaveLength(1);
    expect((await findWatch(world.pool, id))?.askedAt).toBeNull();
  });
});
