import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Ids } from '#server/db/ids';
import { openWorld, type TestWorld } from '../support/world';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());

describe('ids', () => {
  it('are never given twice, to however many who ask at once for however many', async () => {
    const [one, other] = [new Ids(world.pool), new Ids(world.pool)];
    const asked = Array.from({ length: 60 }, (_, at) => (at % 2 === 0 ? one : other).take(1 + ((at * 37) % 230)));
    const given = (await Promise.all(asked)).flat();
    expect(new Set(given).size).toBe(given.length);
    expect(Math.min(...given)).toBeGreaterThan(0);
  });
});
