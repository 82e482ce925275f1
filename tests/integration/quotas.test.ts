import type { ReportId, WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { QuotaOf } from '#core/tell/quota';
import { BY_MAIL } from '#core/tell/channels';
import { blankDefinition } from '#core/tell/definition';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { setQuota } from '#server/db/delivery/quotas';
import { setHost } from '#server/db/source/hosts';
import { inTransaction } from '#server/db/base/pool';
import { findWatch } from '#server/db/watch/views/watch-now';
import { askForRun } from '#server/actions/edit-watch';
import { makeReport } from '#server/pipeline/report/store';
import { fallsBelow, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// How much may go out, and what becomes of the rest: nothing is dropped (25).

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld({ SHRIKE_TEXT_GATEWAY: 'texts.localhost' });
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const bound = (of: QuotaOf, said: { anHour?: number; aDay?: number; aMonth?: number }) =>
  setQuota(world.pool, of, { anHour: null, aDay: null, aMonth: null, ...said }, world.people.ines, world.now);
const ravi = () => [`person:${world.people.ravi}`];

/** A report that tells each move at once, and the watch whose moves it tells. */
async function begin(readers = ravi()): Promise<{ id: ReportId; watch: WatchId }> {
  const watch = await startWatch(world, { condition: null });
  await world.pass(0);
  const order = {
    ...blankDefinition('Europe/London', readers),
    cadence: { cut: 'at once', of: 'its order' } as const,
    shows: 'each' as const,
    by: 'none' as const,
  };
  const plan = { name: 'As it moves', order };
  return {
    watch,
    id: await inTransaction(world.pool, (db) =>
      makeReport(db, world.services.pipeline.ids, plan, world.people.ines, world.now),
    ),
  };
}

async function see(watch: WatchId, pence: number): Promise<void> {
  setPrice(world, pence);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
}

const mails = (person = world.people.ravi) =>
  world.rows<{
    number: number | null;
    state: string;
    reason: string | null;
    plain: string;
    subject: string;
    channel: string;
  }>(
    `SELECT number, state, reason, plain, subject, channel
      FROM delivery
      WHERE person_id = $1 AND purpose = 'edition'
      ORDER BY id`,
    [person],
  );
const warnings = () =>
  world.rows<{ subject: string; plain: string; state: string }>(
    `SELECT subject, plain, state FROM delivery WHERE purpose = 'warning' ORDER BY id`,
  );
const sentWithin = (ms: number) =>
  world.rows<{ n: number }>(
    `SELECT (SELECT count(*)::int FROM delivery o
      WHERE o.channel = 'mail' AND o.person_id = d.person_id AND o.sent_at <= d.sent_at
      AND o.sent_at > d.sent_at - $1 * interval '1 ms') AS n
     FROM delivery d WHERE d.channel = 'mail' AND d.sent_at IS NOT NULL AND d.person_id = $2`,
    [ms, world.people.ravi],
  );

describe('two mails an hour to a reader', () => {
  it('send two, gather the rest in one, which goes when the hour of the first is over and says why', async () => {
    const { watch } = await begin();
    await bound('mails a reader', { anHour: 2 });
    const from = world.now;
    for (const price of [2300, 2200, 2100, 2000, 1900]) {
      await see(watch, price);
      await world.sendMail();
      await world.pass(5 * MINUTE);
    }
    expect((await mails()).map(({ number, state, reason }) => [number, state, reason])).toEqual([
      [1, 'sent', null],
      [2, 'sent', null],
      [null, 'kept back', 'allowance'],
    ]);
    await world.pass(from + HOUR - 1000 - world.now);
    expect((await mails())[2]?.state).toBe('kept back');
    await world.pass(2 * MINUTE);
    await world.sendMail();
    const told = await mails();
    expect(told.map(({ number, state }) => [number, state])).toEqual([
      [1, 'sent'],
      [2, 'sent'],
      [3, 'sent'],
    ]);
    expect(told[2]?.plain).toContain(
      '3 editions were kept back for you until now, since as many mails had gone out as may.',
    );
    for (const price of ['£22.00 -> £21.00', '£21.00 -> £20.00', '£20.00 -> £19.00'])
      expect(told[2]?.plain.replace(/\s+/g, ' ')).toContain(price);
    expect(Math.max(...(await sentWithin(HOUR)).map(({ n }) => n))).toBeLessThanOrEqual(2);
  });

  it('are counted for each reader by herself', async () => {
    const { watch } = await begin([`person:${world.people.ravi}`, `person:${world.people.ines}`]);
    await bound('mails a reader', { anHour: 2 });
    for (const price of [2300, 2200, 2100]) {
      await see(watch, price);
      await world.sendMail();
    }
    for (const person of [world.people.ravi, world.people.ines])
      expect((await mails(person)).map(({ state }) => state)).toEqual(['sent', 'sent', 'kept back']);
  });

  it('count for mails that quiet hours let go all at once, too', async () => {
    const { watch } = await begin();
    await world.pool.query(`UPDATE person SET mail_hour = 420 WHERE id = $1`, [world.people.ravi]);
    for (const price of [2300, 2200, 2100, 2000]) {
      await world.pass(MINUTE);
      await see(watch, price);
      await world.sendMail();
    }
    await bound('mails a reader', { anHour: 2 });
    for (let quarters = 0; quarters < 24 * 4 * 2; quarters += 1) {
      await world.pass(15 * MINUTE);
      await world.sendMail();
    }
    expect((await mails()).map(({ state }) => state)).toEqual(['sent', 'sent', 'sent', 'sent']);
    expect(Math.max(...(await sentWithin(HOUR)).map(({ n }) => n))).toBeLessThanOrEqual(2);
  });

  it('are lifted at once when the bound is taken away', async () => {
    const { watch } = await begin();
    await bound('mails a reader', { anHour: 1 });
    for (const price of [2300, 2200]) {
      await see(watch, price);
      await world.sendMail();
    }
    expect((await mails()).at(-1)?.state).toBe('kept back');
    await bound('mails a reader', {});
    await world.pass(2 * MINUTE);
    await world.sendMail();
    expect((await mails()).map(({ state }) => state)).toEqual(['sent', 'sent']);
  });
});

describe('a bound that is lifted', () => {
  it('lets what it held under a number go at once, too', async () => {
    const { watch } = await begin();
    for (const price of [2300, 2200]) await see(watch, price);
    await bound('mails a reader', { aDay: 1 });
    await world.sendMail();
    // Both were ordered before; which of them a worker takes first is open.
    expect((await mails()).map(({ state, reason }) => [state, reason]).toSorted()).toEqual([
      ['kept back', 'allowance'],
      ['sent', null],
    ]);
    await bound('mails a reader', {});
    await world.pass(MINUTE);
    await world.sendMail();
    expect((await mails()).map(({ state }) => state)).toEqual(['sent', 'sent']);
  });
});

describe('ten mails a day in all', () => {
  it('tell who set it at eight, once; and again only after there was room', async () => {
    const { watch } = await begin();
    await bound('mails', { aDay: 10 });
    for (let n = 0; n < 7; n += 1) await move(watch, n);
    await world.pass(2 * MINUTE);
    expect(await warnings()).toEqual([]);
    await move(watch, 7);
    await world.pass(2 * MINUTE);
    await world.sendMail();
    expect(await warnings()).toMatchObject([
      { subject: 'Nearly spent: 8 of 10 mails in the last 24 hours', state: 'sent' },
    ]);
    expect((await warnings())[0]?.plain).toContain('Nothing is dropped');
    await move(watch, 8);
    await world.pass(HOUR);
    expect(await warnings()).toHaveLength(1);
    await world.pass(2 * DAY);
    for (let n = 0; n < 8; n += 1) await move(watch, n + 9);
    await world.pass(2 * MINUTE);
    expect(await warnings()).toHaveLength(2);
  });

  const move = async (watch: WatchId, n: number) => {
    await world.pass(MINUTE);
    await see(watch, 2400 - 10 * (n + 1));
    await world.sendMail();
  };
});

describe('a text a month', () => {
  it('goes out once; what comes then is a mail, which says why', async () => {
    const { watch } = await begin();
    const routes = { ...BY_MAIL, usual: ['text'] };
    await world.pool.query('UPDATE person SET phone = $2, routes = $3 WHERE id = $1', [
      world.people.ravi,
      '+447700900123',
      routes,
    ]);
    await bound('texts', { aMonth: 1 });
    for (const price of [2300, 2200]) await see(watch, price);
    const told = await mails();
    expect(told.map(({ channel, number }) => [channel, number])).toEqual([
      ['text', 1],
      ['mail', 2],
    ]);
    expect(told[1]?.plain).toContain('those that may go out this month are spent');
    await world.pass(31 * DAY);
    await see(watch, 2100);
    expect((await mails()).at(-1)?.channel).toBe('text');
  });
});

describe('five looks a day at a host', () => {
  it('are made; its watches say why they wait, and go on the next day', async () => {
    const { watch } = await begin();
    const host = `skepwright.localhost:${world.standins.port}`;
    const settings = { mostAtOnce: 4, pauseMs: 0, robotsHeeded: true, runsADay: 5 };
    await setHost(world.pool, host, settings, { id: world.people.ines, zone: 'Europe/London' });
    const looks = async () => (await world.rows('SELECT FROM run')).length;
    const before = await looks();
    for (let n = 0; n < 8; n += 1) await see(watch, 2300 - n);
    expect((await looks()) - before).toBe(5);
    expect((await findWatch(world.pool, watch))?.looksSpent).toMatchObject({ host, most: 5 });
    await world.pass(2 * MINUTE);
    expect((await warnings()).map(({ subject }) => subject)).toEqual([`Nearly spent: 5 of 5 runs at ${host} today`]);
    await world.pass(15 * HOUR);
    expect((await looks()) - before).toBeGreaterThan(5);
  });
});

describe('a bound', () => {
  it.each([[{ anHour: 0 }], [{ anHour: -3 }]])('of %o is refused by the database, too', async (said) => {
    await expect(bound('mails', said)).rejects.toThrow();
  });

  it('holds neither the question to confirm an address nor a warning', async () => {
    await bound('mails', { anHour: 1 });
    const { watch } = await begin();
    await see(watch, 2300);
    await world.sendMail();
    await world.pass(2 * MINUTE);
    await world.sendMail();
    expect((await warnings()).map(({ state }) => state)).toEqual(['sent']);
  });

  it('does not keep an alert from who hears of it through another report, nor tell it twice', async () => {
    await bound('mails a reader', { anHour: 1 });
    const watch = await startWatch(world, { audiences: ravi(), condition: fallsBelow('23.00') });
    await world.pass(0);
    for (const price of [2200, 2400, 2200, 2400, 2200]) {
      await world.pass(MINUTE);
      await see(watch, price);
      await world.sendMail();
    }
    for (let hours = 0; hours < 3; hours += 1) {
      await world.pass(HOUR);
      await world.sendMail();
    }
    const alerts = await world.rows<{ decision: string }>('SELECT decision FROM notification');
    expect(alerts.map(({ decision }) => decision)).toEqual(['told', 'told', 'told']);
    expect((await mails()).every(({ state }) => state === 'sent')).toBe(true);
  });
});
