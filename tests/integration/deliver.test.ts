import type { WatchId } from '#core/id';
import { numbered } from '../support/numbered';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { chainOf } from '#core/tell/chain';
import { DAY } from '#core/when/interval';
import { findDelivery, listDeliveries, requeueDelivery } from '#server/db/delivery/deliveries';
import { deliver } from '#server/deliver/deliver';
import { chainFactsOf, findWatch } from '#server/db/watch/views/watch-now';
import { NEXT_LOOK, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

let world: TestWorld;
let watch: WatchId;
beforeAll(async () => {
  world = await openWorld();
  setPrice(world, 2400);
  watch = await startWatch(world, { audiences: [`person:${world.people.ravi}`] });
  await world.pass(0);
});
afterAll(() => world.close());

async function inboxLink() {
  const found = await findWatch(world.pool, watch);
  if (found === null) throw new Error('the watch is gone');
  return chainOf(chainFactsOf(found, 'en-GB'), world.now, { locale: 'en-GB', zone: 'Europe/London' })[4];
}

describe('a mail server that refuses', () => {
  it('is tried again with back-off until it accepts, and the chain says so meanwhile', async () => {
    world.standins.world.push('mail', null, 'defers');
    setPrice(world, 2150);
    await world.pass(NEXT_LOOK);
    const waits: number[] = [];
    const handled = async () => {
      const [job] = await world.services.post.jobs.takeMail(1);
      if (job === undefined) throw new Error('no mail waits');
      await world.services.post.jobs.handle(job, ({ delivery }) => deliver(world.services.post, delivery));
      const [row] = await listDeliveries(world.pool, { states: ['queued', 'sending', 'refused', 'given up'] }, 1);
      const wait = (row?.nextAttemptAt ?? world.now) - world.now;
      waits.push(wait);
      world.now += wait;
    };
    await handled();
    await handled();
    await handled();
    expect(waits).toEqual([15_000, 30_000, 60_000]);
    expect(await inboxLink()).toMatchObject({
      state: 'broken',
      said: expect.stringContaining('the mail room is full') as string,
    });
    expect(world.standins.room.list()).toEqual([]);

    world.standins.world.push('mail', null, 'accepts');
    await handled();
    const [sent] = await listDeliveries(world.pool, { states: ['sent'] }, 1);
    expect(sent).toMatchObject({ state: 'sent', attempts: 4, nextAttemptAt: null });
    expect(world.standins.room.list()).toHaveLength(1);
    const detail = await findDelivery(world.pool, numbered(sent?.id ?? 0));
    expect(detail?.attemptsMade.map((attempt) => attempt.outcome)).toEqual([
      'refused',
      'refused',
      'refused',
      'accepted',
    ]);
    expect(await inboxLink()).toMatchObject({ state: 'holds' });
  });

  it('for days is given up, and can be asked again', async () => {
    world.standins.world.push('mail', null, 'refuses');
    setPrice(world, 2500);
    await world.pass(NEXT_LOOK);
    setPrice(world, 2100);
    await world.pass(NEXT_LOOK);
    world.now += 6 * DAY;
    await world.sendMail();
    const [row] = await listDeliveries(world.pool, { states: ['queued', 'sending', 'refused', 'given up'] }, 1);
    expect(row).toMatchObject({ state: 'given up', response: expect.stringContaining('550') as string });

    world.standins.world.push('mail', null, 'accepts');
    expect(await requeueDelivery(world.pool, numbered(row?.id ?? 0), world.now)).toBe(true);
    await world.services.post.jobs.enqueueMail(world.pool, [numbered(row?.id ?? 0)]);
    await world.sendMail();
    expect((await findDelivery(world.pool, numbered(row?.id ?? 0)))?.state).toBe('sent');
  });
});
