import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { HOUR } from '#core/when/interval';
import { migrate } from '#server/db/migrate';
import { openPool } from '#server/db/pool';
import { claimDue } from '#server/db/sources';
import { beat, readPulse, retire } from '#server/db/workers';
import { runSource } from '#server/pipeline/run';
import { freshDatabase, openWorld, startWatch, type TestWorld } from '../support/world';

const MIGRATIONS = fileURLToPath(new URL('../../server/db/migrations', import.meta.url));
const LEASE_MS = 60_000;

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
  for (const slug of ['copper-smoker-large', 'steel-smoker', 'mesh-floor', 'fondant-12', 'syrup-14', 'hive-stand']) await startWatch(world, { slug });
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

describe('the pulse', () => {
  it('counts the workers that live, and forgets those that said goodbye', async () => {
    const worker = { id: '00000000-0000-4000-8000-000000000001', process: 'test 1', startedAt: world.now };
    await beat(world.pool, worker, world.now);
    expect(await readPulse(world.pool, world.now)).toMatchObject({ workers: 1, lastSeen: world.now });
    expect(await readPulse(world.pool, world.now + HOUR)).toMatchObject({ workers: 0 });
    await retire(world.pool, worker.id);
    expect(await readPulse(world.pool, world.now)).toMatchObject({ workers: 0, lastSeen: null });
  });
});

describe('migrations', () => {
  it('are applied once and in order, even by two starts at once', async () => {
    const pool = openPool(await freshDatabase(), 4);
    const applied = await Promise.all([migrate(pool, MIGRATIONS), migrate(pool, MIGRATIONS), migrate(pool, MIGRATIONS)]);
    expect(applied.flat()).toEqual(['0001_foundations.sql', '0002_many_records.sql']);
    await pool.end();
  });
});
