import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Ids } from '#server/db/base/ids';
import { openPool, type Db } from '#server/db/base/pool';
import { openWorld, type TestWorld } from '../support/world';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());

describe('ids', () => {
  it('are never given twice, to however many who ask at once for however many', async () => {
    const [one, other] = [new Ids(), new Ids()];
    const asked = Array.from({ length: 60 }, (_, at) =>
      (at % 2 === 0 ? one : other).take(world.pool, 1 + ((at * 37) % 230)),
    );
    const given = (await Promise.all(asked)).flat();
    expect(new Set(given).size).toBe(given.length);
    expect(Math.min(...given)).toBeGreaterThan(0);
  });

  it('come over the connection of who asks, ten thousand by one query, while every other connection is taken', async () => {
    const ids = new Ids();
    const pool = openPool(world.config.databaseUrl, 1, () => undefined);
    const client = await pool.connect();
    const asked: unknown[] = [];
    const counted: Db = {
      query: (...query: unknown[]) =>
        (asked.push(query), client.query(...(query as Parameters<typeof client.query>))) as never,
    };
    const given = await ids.take(counted, 10_000);
    expect([new Set(given).size, asked.length]).toEqual([10_000, 1]);
    client.release();
    await pool.end();
  });
});
