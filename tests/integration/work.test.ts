import type { WatchId } from '#core/id';
import { preparePartitions } from '#server/db/base/partitions';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { HOUR } from '#core/when/interval';
import { FUNCTIONS, migrate, MIGRATIONS } from '#server/db/base/migrate';
import { inTransaction, openPool } from '#server/db/base/pool';
import { claimDue, renewLeases } from '#server/db/source/sources';
import { createWatch } from '#server/actions/edit-watch';
import { beat, readPulse, retire } from '#server/db/base/workers';
import { runSource } from '#server/pipeline/run';
import { openJobs, retentionOf } from '#server/work/services';
import { Worker } from '#server/work/worker';
import { pageDefinition } from '#core/read/definition';
import { openSite, page, type Site } from '../support/site';
import { bareDatabase, freshDatabase, openWorld, PRICE, startWatch, type TestWorld } from '../support/world';
import { until } from '../support/until';

const LEASE_MS = 60_000;
const OFFER =
  '<script ' +
  'type="application/ld+json">{"@type":"Product","offers":{"price":"24.00","priceCurrency":"GBP"}}</script><p>£24.00</p>';
const PLAN = {
  definition: pageDefinition('Smoker', [PRICE]),
  frequency: { count: 1, unit: 'hour' as const },
  rules: [],
};

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
  for (const slug of ['copper-smoker-large', 'steel-smoker', 'mesh-floor', 'fondant-12', 'syrup-14', 'hive-stand'])
    await startWatch(world, { slug });
});
afterAll(() => world.close());

describe('claiming', () => {
  it('never gives a source to two workers, and a host never more than its allowance', async () => {
    const batches = await Promise.all(Array.from({ length: 6 }, () => claimDue(world.pool, world.now, LEASE_MS, 3)));
    const claimed = batches.flat().map((source) => source.id);
    expect(new Set(claimed).size).toBe(claimed.length);
    expect(claimed).toHaveLength(4);
  });

  it('takes up what a dead worker held when its lease has run out, and the dead one leaves no trace', async () => {
    expect(await claimDue(world.pool, world.now + LEASE_MS - 1, LEASE_MS, 10)).toEqual([]);
    const later = world.now + LEASE_MS + 1;
    const [first] = await claimDue(world.pool, later, LEASE_MS, 1);
    await world.pool.query('UPDATE host SET most_at_once = 10');
    const taken = await claimDue(world.pool, later + LEASE_MS + 1, LEASE_MS, 10);
    const second = taken.find((source) => source.id === first?.id);
    if (first === undefined || second === undefined) throw new Error('nothing was claimed');
    expect(await runSource(world.services.pipeline, first)).toMatchObject({ outcome: 'lease lost' });
    expect(await world.rows('SELECT FROM run')).toEqual([]);
    expect(await runSource(world.services.pipeline, second)).toMatchObject({ outcome: 'read' });
  });
});

describe('a host that is asked as much as it allows', () => {
  it('keeps no other host waiting, however many of its sources are due', async () => {
    const now = world.now + 10 * HOUR;
    await world.pool.query(`UPDATE due SET due_at = $1, lease_until = NULL`, [new Date(now - HOUR)]);
    await world.pool.query('UPDATE host SET most_at_once = 1');
    const quiet = {
      address: `http://carrier.localhost:${world.standins.port}/`,
      host: `carrier.localhost:${world.standins.port}`,
      site: 'Carrier',
    };
    await inTransaction(world.pool, (db) =>
      createWatch(db, { ...quiet, mostAtOnce: 1 }, PLAN, { person: world.people.ines, at: now }),
    );
    expect(await claimDue(world.pool, now, LEASE_MS, 1)).toMatchObject([{ site: 'Skepwright' }]);
    expect(await claimDue(world.pool, now, LEASE_MS, 1)).toMatchObject([{ site: 'Carrier' }]);
    expect(await claimDue(world.pool, now, LEASE_MS, 1)).toEqual([]);
  });
});

describe('a lease', () => {
  it('is renewed while its run goes on, and never taken back from another', async () => {
    const now = world.now + 20 * HOUR;
    await world.pool.query('UPDATE due SET due_at = $1, lease_until = NULL', [new Date(now)]);
    const [mine] = await claimDue(world.pool, now, LEASE_MS, 1);
    if (mine === undefined) throw new Error('nothing was claimed');
    await world.pool.query('UPDATE due SET due_at = $1 WHERE source_id = $2', [new Date(now - HOUR), mine.id]);
    const claimedAt = async (at: number) => (await claimDue(world.pool, at, LEASE_MS, 10)).map((source) => source.id);
    await renewLeases(world.pool, [mine], now + 3 * LEASE_MS);
    expect(await claimedAt(now + 2 * LEASE_MS)).not.toContain(mine.id);
    expect(await claimedAt(now + 3 * LEASE_MS + 1)).toContain(mine.id);
    await renewLeases(world.pool, [mine], now + 90 * LEASE_MS);
    expect(await claimedAt(now + 5 * LEASE_MS)).toContain(mine.id);
  });
});

describe('a worker', () => {
  let site: Site;
  let work: TestWorld;
  const workers: Worker[] = [];
  const held: (() => void)[] = [];

  beforeAll(async () => {
    const wait = (_: IncomingMessage, response: ServerResponse) =>
      void held.push(() => page(OFFER)({} as IncomingMessage, response));
    site = await openSite({ '/slow': wait, '/slower': wait, '/slowest': wait, '/tardy': wait, '/quick': page(OFFER) });
    work = await openWorld({ SHRIKE_ADMITTED: site.host, SHRIKE_FETCH_TIMEOUT_MS: '120000' });
    work.now = Date.now();
    await preparePartitions(work.pool, Date.now());
  });
  afterEach(async () => {
    answerAll();
    await stopAll();
  });
  afterAll(async () => {
    site.close();
    await work.close();
  });

  const watch = (path: string, way: 'plain' | 'rendered' = 'plain') =>
    inTransaction(work.pool, (db) =>
      createWatch(db, { address: site.base + path, host: site.host, site: 'Shop', mostAtOnce: 4, way }, PLAN, {
        person: work.people.ines,
        at: work.now,
      }),
    );
  /** Its clock is the test's, so that a lease runs out by that and never by a machine with other work. */
  const start = async (leaseMs: number): Promise<Worker> => {
    const options = {
      runsAtOnce: 2,
      rendersAtOnce: 1,
      mailsAtOnce: 1,
      looksAtOnce: 1,
      pollMs: 20,
      leaseMs,
      retention: retentionOf(work.config),
    };
    const jobs = await openJobs(work.config, work.services.pipeline.log, { supervises: true });
    const worker = new Worker(work.services.pipeline, { ...work.services.post, jobs }, work.services.looking, options);
    await worker.start();
    workers.push(worker);
    return worker;
  };
  const answerAll = () => held.splice(0).forEach((answer) => answer());
  const stopAll = () => Promise.all(workers.splice(0).map((worker) => worker.stop()));
  const asked = (path: string) => site.asked.filter((each) => each.path === path).length;
  const heldUntil = async (id: WatchId) => {
    const rows = await work.rows<{ until: number | null }>(
      'SELECT d.lease_until AS until FROM due d JOIN watch w USING (source_id) WHERE w.id = $1',
      [id],
    );
    return rows[0]?.until ?? 0;
  };
  /** Lets more than half a lease pass at a time, and sees that the lease was renewed each time. */
  const outlast = async (id: WatchId, leaseMs: number, times: number) => {
    for (let time = 0; time < times; time += 1) {
      work.now += 0.6 * leaseMs;
      await until(async () => (await heldUntil(id)) >= work.now + leaseMs);
    }
  };

  it('holds on to a source that takes far longer than its lease, and asks it once', async () => {
    const id = await watch('/slow');
    await start(600);
    await start(600);
    await until(() => held.length > 0);
    await outlast(id, 600, 10);
    expect(asked('/slow')).toBe(1);
    answerAll();
    await until(async () => (await work.rows('SELECT FROM run')).length === 1);
    await stopAll();
    expect(asked('/slow')).toBe(1);
    expect(await readPulse(work.pool, work.now)).toMatchObject({ workers: 0 });
  });

  it('holds on to it while the order of commits is taken for longer than its pulse could wait', async () => {
    const id = await watch('/tardy');
    await start(600);
    await until(() => held.length > 0);
    await inTransaction(work.pool, async (db) => {
      await db.query('SELECT FROM commit_order FOR UPDATE');
      await outlast(id, 600, 30);
    });
    expect(asked('/tardy')).toBe(1);
  });

  it('reads what is quick while pages that are slow to render wait their turn', async () => {
    for (const path of ['/slower', '/slowest']) await watch(path, 'rendered');
    await start(60_000);
    await until(() => held.length > 0);
    const id = await watch('/quick');
    await until(async () => (await work.rows('SELECT FROM series WHERE watch_id = $1', [id])).length === 1);
    expect(asked('/slower') + asked('/slowest')).toBe(1);
  });
});

describe('the pulse', () => {
  it('counts the workers that live, and forgets those that said goodbye', async () => {
    const worker = {
      id: '00000000-0000-4000-8000-000000000001',
      process: 'test 1',
      startedAt: world.now,
      lost: 2,
      fullSince: null,
    };
    await beat(world.pool, worker, world.now);
    expect(await readPulse(world.pool, world.now)).toMatchObject({
      workers: 1,
      lastSeen: world.now,
      lost: 2,
      fullSince: null,
    });
    expect(await readPulse(world.pool, world.now + HOUR)).toMatchObject({ workers: 0 });
    await beat(world.pool, { ...worker, fullSince: world.now - HOUR }, world.now);
    expect(await readPulse(world.pool, world.now)).toMatchObject({ workers: 1, fullSince: world.now - HOUR });
    await retire(world.pool, worker.id);
    expect(await readPulse(world.pool, world.now)).toMatchObject({ workers: 0, lastSeen: null });
  });
});

const unexpected = (error: Error) => {
  throw error;
};

describe('migrations', () => {
  it('are applied once and in order, even by two starts at once', async () => {
    const pool = openPool(await bareDatabase(), 4, unexpected);
    const applied = await Promise.all([migrate(pool), migrate(pool), migrate(pool)]);
    expect(applied.flat()).toEqual(readdirSync(MIGRATIONS).sort());
    await pool.end();
  });

  it('leave the functions as their files say them, each in a file of its own', async () => {
    const pool = openPool(await freshDatabase(), 1, unexpected);
    const { rows } = await pool.query<{ name: string; body: string }>(
      `SELECT p.proname AS name, p.prosrc AS body FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace
       WHERE n.nspname = 'public' AND NOT EXISTS (SELECT FROM pg_depend d WHERE d.objid = p.oid AND d.deptype = 'e')
       ORDER BY p.proname`,
    );
    await pool.end();
    expect(rows.map(({ name }) => `${name}.sql`)).toEqual(readdirSync(FUNCTIONS).sort());
    const said = (name: string) => readFileSync(join(FUNCTIONS, `${name}.sql`), 'utf8').replace(/\s+/g, ' ');
    for (const { name, body } of rows) expect(said(name)).toContain(body.replace(/\s+/g, ' ').trim());
  });
});
