import type { WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { pageDefinition } from '#core/read/definition';
import { HOUR, MINUTE } from '#core/when/interval';
import { coverageSince, tallyHours } from '#server/db/watch/coverage';
import { pauseHost } from '#server/db/source/hosts';
import { inTransaction } from '#server/db/base/pool';
import { listStanding, readTally, refreshStandings, type Filter } from '#server/db/watch/standings';
import { findWatch } from '#server/db/watch/views/watch-now';
import { editWatch, setWatchState } from '#server/actions/edit-watch';
import { deliver } from '#server/deliver/deliver';
import { NEXT_LOOK, openWorld, PRICE, setPrice, startWatch, type TestWorld } from '../support/world';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());
beforeEach(() => world.clear());

/** The numbers of the watches in a list, once all that moved was worked out. */
async function inList(filter: Filter, words = ''): Promise<number[]> {
  await refreshStandings(world.pool, world.now, 1000);
  return (await listStanding(world.pool, { filter, words, after: null, most: 1000 })).map(({ id }) => id);
}

async function tally() {
  await refreshStandings(world.pool, world.now, 1000);
  return readTally(world.pool);
}

const rename = async (id: WatchId, subject: string) => {
  const watch = await findWatch(world.pool, id);
  const plan = {
    definition: pageDefinition(subject, [PRICE]),
    frequency: { count: 1, unit: 'hour' as const },
    rules: [],
  };
  await inTransaction(world.pool, (db) =>
    editWatch(db, id, plan, { basedOn: watch?.version ?? 1, editor: world.people.ines }, world.now),
  );
};

describe('the list of watches', () => {
  it('has each watch where it belongs, as soon as it moved', async () => {
    const id = await startWatch(world);
    expect(await inList('all')).toEqual([id]);
    await world.pass(0);
    expect(await tally()).toEqual({ all: 1, raised: 0, broken: 0, paused: 0 });
    setPrice(world, 2100);
    await world.pass(NEXT_LOOK);
    expect([await inList('raised'), await inList('broken')]).toEqual([[id], []]);
    setPrice(world, 2400);
    await world.pass(NEXT_LOOK);
    await world.sendMail();
    expect(await inList('raised')).toEqual([]);

    await inTransaction(world.pool, (db) => setWatchState(db, id, 'paused', world.now));
    expect(await tally()).toEqual({ all: 1, raised: 0, broken: 0, paused: 1 });
    await inTransaction(world.pool, (db) => setWatchState(db, id, 'running', world.now));
    expect(await inList('paused')).toEqual([]);
    await inTransaction(world.pool, (db) => setWatchState(db, id, 'deleted', world.now));
    expect([await inList('all'), await tally()]).toEqual([[], { all: 0, raised: 0, broken: 0, paused: 0 }]);
  });

  it('takes a watch for broken while its page is gone, and no longer', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    world.standins.world.push('page', 'copper-smoker-large', 'missing');
    await world.pass(NEXT_LOOK);
    expect(await inList('broken')).toEqual([id]);
    world.standins.world.push('forget', null, '');
    await world.pass(12 * HOUR);
    expect(await inList('broken')).toEqual([]);
  });

  it('takes it for broken while its host is paused as a whole', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    const host = `skepwright.localhost:${world.standins.port}`;
    await pauseHost(world.pool, host, world.now);
    expect(await inList('broken')).toEqual([id]);
    await pauseHost(world.pool, host, null);
    expect(await inList('broken')).toEqual([]);
  });

  it('takes it for broken while a reader has not confirmed, or a list has nobody', async () => {
    const own = await startWatch(world, { audiences: [`person:${world.people.tom}`] });
    const listed = await startWatch(world, { slug: 'steel-smoker' });
    await world.pass(0);
    expect(await inList('broken')).toEqual([own]);
    await world.pool.query('UPDATE person SET confirmed_at = now() WHERE id = $1', [world.people.tom]);
    expect(await inList('broken')).toEqual([]);
    await world.pool.query('UPDATE person SET confirmed_at = NULL WHERE id = $1', [world.people.tom]);
    expect(await inList('broken')).toEqual([own]);

    const members = await world.rows<{ person_id: number }>(
      'DELETE FROM list_member WHERE list_id = 1 RETURNING person_id',
    );
    expect((await inList('broken')).sort()).toEqual([own, listed].sort());
    for (const { person_id } of members) await world.pool.query('INSERT INTO list_member VALUES (1, $1)', [person_id]);
    expect(await inList('broken')).toEqual([own]);
  });

  it('takes it for broken while its mail is refused or waits for too long, and no longer', async () => {
    const { jobs } = world.services.post;
    const tryMail = async () => {
      for (const job of await jobs.takeMail(1))
        await jobs.handle(job, ({ delivery }) => deliver(world.services.post, delivery));
    };
    const id = await startWatch(world, { audiences: [`person:${world.people.ravi}`] });
    await world.pass(0);
    setPrice(world, 2100);
    await world.pass(NEXT_LOOK);
    expect(await inList('broken')).toEqual([]);
    world.now += 2 * MINUTE;
    expect(await inList('broken')).toEqual([id]);
    world.standins.world.push('mail', null, 'refuses');
    await tryMail();
    expect(await inList('broken')).toEqual([id]);
    world.standins.world.push('mail', null, 'accepts');
    world.now += HOUR;
    await tryMail();
    expect(await inList('broken')).toEqual([]);
  });

  it('finds by name, site or part of an address, in any case, and takes no letter for a sign', async () => {
    const copper = await startWatch(world);
    const steel = await startWatch(world, { slug: 'steel-smoker' });
    await rename(steel, '100% steel_smoker');
    expect((await inList('all', 'SKEPWRIGHT')).sort()).toEqual([copper, steel].sort());
    expect(await inList('all', 'copper-smoker-large')).toEqual([copper]);
    expect(await inList('all', '0% st')).toEqual([steel]);
    expect(await inList('all', 'steel_sm')).toEqual([steel]);
    expect(await inList('all', '%')).toEqual([steel]);
    expect(await inList('all', 'l%r')).toEqual([]);
    expect(await inList('all', '\\')).toEqual([]);
  });

  it('is gone through page by page, each watch once, by name', async () => {
    for (const name of ['b', 'a', 'c', 'a', 'b']) await rename(await startWatch(world), name);
    await refreshStandings(world.pool, world.now, 1000);
    const seen: string[] = [];
    let after: { subject: string; id: WatchId } | null = null;
    for (;;) {
      const page: { subject: string; id: WatchId }[] = await listStanding(world.pool, {
        filter: 'all',
        words: '',
        after,
        most: 2,
      });
      seen.push(...page.map(({ subject }) => subject));
      after = page.at(-1) ?? null;
      if (after === null) break;
    }
    expect(seen).toEqual(['a', 'a', 'b', 'b', 'c']);
  });

  it('counts the records that are there as they come and go', async () => {
    const id = await startWatch(world);
    expect((await findWatch(world.pool, id))?.recordCount).toBe(0);
    await world.pass(0);
    expect((await findWatch(world.pool, id))?.recordCount).toBe(1);
    setPrice(world, 2100);
    await world.pass(NEXT_LOOK);
    expect((await findWatch(world.pool, id))?.recordCount).toBe(1);
  });
});

describe('what the record rests on', () => {
  it('is the same whether its hours were counted before or not', async () => {
    await startWatch(world, { frequency: { count: 10, unit: 'minute' } });
    const beginning = world.now;
    for (let step = 0; step < 40; step += 1) {
      setPrice(world, 2000 + 100 * (step % 7));
      await world.pass(10 * MINUTE);
    }
    await world.sendMail();
    const moments = [beginning - HOUR, beginning, beginning + 95 * MINUTE, world.now - 70 * MINUTE, world.now];
    const before = await Promise.all(moments.map((since) => coverageSince(world.pool, since)));
    expect(before[0]).toMatchObject({ runs: 40, failed: 0 });
    expect(before[0]?.told).toBeGreaterThan(1);
    expect(await tallyHours(world.pool, world.now)).toBeGreaterThan(3);
    expect(await tallyHours(world.pool, world.now)).toBe(0);
    expect(await Promise.all(moments.map((since) => coverageSince(world.pool, since)))).toEqual(before);
    await world.pool.query('DELETE FROM run WHERE started_at < $1', [new Date(beginning + HOUR)]);
    expect((await coverageSince(world.pool, beginning - HOUR)).runs).toBe(40);
  });
});
