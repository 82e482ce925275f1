import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Hearing, Signals, type Moved, type Topic } from '#server/db/base/signals';
import { openWorld, type TestWorld } from '../support/world';
import { until } from '../support/until';

let world: TestWorld;
let signals: Signals;
let hearing: Hearing;
let heard: Moved[] = [];
const lost: Error[] = [];

beforeAll(async () => {
  world = await openWorld();
  signals = new Signals(world.pool, world.services.pipeline.log);
  hearing = new Hearing(
    world.config.databaseUrl,
    (moved) => heard.push(moved),
    (error) => lost.push(error),
  );
  await until(() => heard.length > 0);
});
afterAll(async () => {
  await hearing.close();
  await world.close();
});

describe('what moved', () => {
  it('is taken for all when somebody begins to hear', () => {
    expect(heard).toEqual(['all']);
  });

  it('is heard by another process as one message, however often it was said within a moment', async () => {
    heard = [];
    for (let time = 0; time < 500; time += 1) signals.say('watches', 'watch:7');
    await until(() => heard.length > 0);
    signals.say('outbox');
    await until(() => heard.length > 1);
    expect(heard).toEqual([['watches', 'watch:7'], ['outbox']]);
  });

  it('is all, where it is more than a message holds', async () => {
    heard = [];
    signals.say(...Array.from({ length: 5_000 }, (_, watch): Topic => `watch:${watch}`));
    await until(() => heard.length > 0);
    expect(heard).toEqual(['all']);
  });

  it('is all when the connection was lost, which is told, and is heard again after', async () => {
    heard = [];
    await world.pool.query(
      `SELECT pg_terminate_backend(pid)
        FROM pg_stat_activity
        WHERE query LIKE 'LISTEN%' AND datname = current_database()`,
    );
    await until(() => heard.includes('all'));
    expect(lost).toHaveLength(1);
    signals.say('draft:3');
    await until(() => heard.length > 1);
    expect(heard).toEqual(['all', ['draft:3']]);
  });

  it('is sent, though it was said last, when a process ends', async () => {
    heard = [];
    const ending = new Signals(world.pool, world.services.pipeline.log);
    ending.say('source:2');
    await ending.close();
    await until(() => heard.length > 0);
    expect(heard).toEqual([['source:2']]);
  });
});
