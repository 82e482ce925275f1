import type { DeliveryId, PersonId, WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { BY_MAIL } from '#core/tell/channels';
import { blankDefinition, type ReportDefinition } from '#core/tell/definition';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { setReader } from '#server/db/person/readers';
import { listNotified, setDealt, type NotifiedNow } from '#server/db/report/views/notified';
import { askForRun } from '#server/actions/edit-watch';
import { makeReport } from '#server/pipeline/report/store';
import { fallsBelow, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// All that somebody was told, line by line, and what she is done with.

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld({ SHRIKE_TEXT_GATEWAY: 'texts.example' });
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const zone = 'Europe/London';
const place = { locale: 'en-GB', zone };
const ravi = () => world.people.ravi;
const told = (person = ravi(), most = 50) => listNotified(world.pool, person, null, most, place);
const lines = async (person?: PersonId): Promise<NotifiedNow[]> => (await told(person)).flatMap((mail) => mail.lines);
const said = async () => (await lines()).map((line) => line.said);
const deal = (delivery: DeliveryId, key: string, person = ravi(), at: number | null = world.now) =>
  setDealt(world.pool, person, { delivery, key }, at);

const follow = async (audiences = [`person:${ravi()}`]): Promise<WatchId> => {
  const watch = await startWatch(world, { audiences, condition: fallsBelow('22.00') });
  await world.pass(0);
  return watch;
};
const price = async (watch: WatchId, pence: number) => {
  await world.pass(MINUTE);
  setPrice(world, pence);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
};
const daily = (change: Partial<ReportDefinition> = {}) =>
  inTransaction(world.pool, (db) =>
    makeReport(
      db,
      world.services.pipeline.ids,
      {
        name: 'Pricing, daily',
        order: {
          ...blankDefinition(zone, [`person:${ravi()}`]),
          cadence: { cut: 'daily', at: 450, zone },
          by: 'watch',
          ...change,
        },
      },
      world.people.ines,
      world.now,
    ),
  );
/** A day goes by, with its cut, and all mail goes out. */
const aDay = async () => {
  await world.pass(DAY);
  await world.sendMail();
};

describe('what was told at once', () => {
  it('is listed once each, the latest first, when it has gone out', async () => {
    const watch = await follow();
    for (const pence of [2100, 2400, 2000]) await price(watch, pence);
    expect(await told()).toEqual([]);
    await world.sendMail();
    expect(await said()).toEqual([
      expect.stringMatching(/now asks £20\.00 for .*£2\.00 below your limit/),
      expect.stringMatching(/now asks £21\.00/),
    ]);
    expect(
      (await lines()).map(({ watch: of, runs, dealtAt, trail }) => [of, runs, dealtAt, Object.keys(trail ?? {})]),
    ).toEqual([
      [watch, true, null, ['change']],
      [watch, true, null, ['change']],
    ]);
    expect(await told(world.people.ines)).toEqual([]);
    const [latest, first] = await told();
    expect(await listNotified(world.pool, ravi(), latest ?? null, 10, place)).toEqual([first]);
    expect(await told(ravi(), 1)).toEqual([latest]);
  });

  it('is one line, by however many routes it went', async () => {
    const routes = { ...BY_MAIL, usual: ['mail', 'text'] as ('mail' | 'text')[] };
    await setReader(
      world.pool,
      ravi(),
      {
        name: 'Ravi Oduya',
        email: 'ravi@heatherlow.example',
        ...place,
        quiet: null,
        mailHour: null,
        passes: null,
        ratherLose: false,
        phone: '+447700900123',
        webhook: null,
        routes,
      },
      world.now,
    );
    const watch = await follow();
    await price(watch, 2100);
    await world.sendMail();
    expect(
      await world.rows(`SELECT FROM delivery WHERE state = 'sent' AND person_id = $1 AND purpose = 'edition'`, [
        ravi(),
      ]),
    ).toHaveLength(2);
    expect(await lines()).toHaveLength(1);
    await setReader(
      world.pool,
      ravi(),
      {
        name: 'Ravi Oduya',
        email: 'ravi@heatherlow.example',
        ...place,
        quiet: null,
        mailHour: null,
        passes: null,
        ratherLose: false,
        phone: null,
        webhook: null,
        routes: BY_MAIL,
      },
      world.now,
    );
  });

  it('holds that a page was lost and found again, with the way to its trail', async () => {
    const watch = await follow();
    world.standins.world.push('page', 'copper-smoker-large', 'retired');
    for (let look = 0; look < 6; look += 1) {
      await askForRun(world.pool, watch, world.now);
      await world.pass(2 * HOUR);
    }
    world.standins.world.push('page', 'copper-smoker-large', 'there');
    await askForRun(world.pool, watch, world.now);
    await world.pass(0);
    await world.sendMail();
    expect(await said()).toEqual([
      expect.stringMatching(/ is read again: after /),
      expect.stringMatching(/ is not read: its page is gone/),
    ]);
    for (const { trail } of await lines()) expect(JSON.stringify(trail)).toMatch(/^\{"news":"failure-\d+"\}$/);
  });
});

describe('what a report of its own order told at once', () => {
  it('holds no word of a watch that she had at once before', async () => {
    const watch = await follow();
    const other = await startWatch(world, { slug: 'steel-smoker', audiences: [] });
    await world.pass(0);
    await daily({ cadence: { cut: 'at once', of: 'its order', gather: 4 * HOUR }, shows: 'each' });
    world.standins.world.push('page', 'copper-smoker-large', 'retired');
    for (let look = 0; look < 3; look += 1) {
      await askForRun(world.pool, watch, world.now);
      await world.pass(HOUR);
    }
    setPrice(world, 1500, 'steel-smoker');
    await askForRun(world.pool, other, world.now);
    await world.pass(0);
    await aDay();
    expect((await told()).map((mail) => mail.lines.map(({ key }) => key.split('-')[0]))).toEqual([
      ['change'],
      ['notice'],
    ]);
  });
});

describe('what a digest told', () => {
  it('is listed line by line, also where no rule minded', async () => {
    const watch = await follow([]);
    await daily();
    await price(watch, 2300);
    await aDay();
    expect(await said()).toEqual([expect.stringMatching(/^Copper smoker.* at Skepwright £23\.00, down 4\.2%$/)]);
    const [line] = await lines();
    expect(line).toMatchObject({
      watch,
      key: expect.stringMatching(/^change-\d+$/) as unknown,
      runs: true,
      dealtAt: null,
    });
  });

  it('tells an alert that she had at once in no line of its own, and is done with where that is', async () => {
    const watch = await follow();
    await daily();
    await price(watch, 2100);
    await aDay();
    const mails = await told();
    expect(mails.map((mail) => mail.lines.map(({ key }) => key.split('-')[0]))).toEqual([['change'], ['alert']]);
    const [digest, atOnce] = mails;
    expect(await deal(atOnce!.delivery, atOnce!.lines[0]!.key)).toBe(true);
    expect((await lines()).map(({ dealtAt }) => dealtAt)).toEqual([world.now, world.now]);
    // Taken back on either, it is taken back on both.
    expect(await deal(digest!.delivery, digest!.lines[0]!.key, ravi(), null)).toBe(true);
    expect((await lines()).map(({ dealtAt }) => dealtAt)).toEqual([null, null]);
    expect(await deal(digest!.delivery, digest!.lines[0]!.key)).toBe(true);
    expect((await lines()).map(({ dealtAt }) => dealtAt)).toEqual([world.now, world.now]);
  });

  it('holds nothing that was left out of her mail', async () => {
    const watch = await follow();
    const other = await startWatch(world, { slug: 'steel-smoker', audiences: [] });
    await daily({ toldBefore: 'leave out', by: 'none' });
    await world.pass(0);
    await price(watch, 2100);
    setPrice(world, 1500, 'steel-smoker');
    await askForRun(world.pool, other, world.now);
    await world.pass(0);
    await world.sendMail();
    await aDay();
    const [digest] = await told();
    expect(digest?.reportName).toBe('Pricing, daily');
    expect(digest?.lines.map((line) => line.watch)).toEqual([other]);
  });

  it('says how many lines more there are, and where', async () => {
    const watch = await follow([]);
    await daily({ shows: 'each', by: 'none', most: 35 });
    for (let step = 0; step < 40; step += 1) await price(watch, 2300 + step);
    await aDay();
    const [digest] = await told();
    expect(digest?.lines).toHaveLength(30);
    expect(digest?.more).toMatchObject({ lines: 10 });
  });
});

describe('word of a watch in digests', () => {
  it('that it is read again is not done with, where that it was not read is', async () => {
    const watch = await follow([]);
    await daily();
    for (const page of ['retired', 'there'] as const) {
      world.standins.world.push('page', 'copper-smoker-large', page);
      for (let look = 0; look < 4; look += 1) {
        await askForRun(world.pool, watch, world.now);
        await world.pass(HOUR);
      }
      await aDay();
    }
    const words = async () => (await told()).filter(({ reportName }) => reportName === 'Pricing, daily');
    const [again, lost] = await words();
    expect(await deal(lost!.delivery, lost!.lines[0]!.key)).toBe(true);
    expect(
      (await words()).map(({ lines: [line] }) => [/read again|not read/.exec(line!.said)?.[0], line!.dealtAt]),
    ).toEqual([
      ['read again', null],
      ['not read', world.now],
    ]);
    expect(await deal(again!.delivery, lost!.lines[0]!.key)).toBe(false);
  });
});

describe('being done with it', () => {
  it('is refused of what that mail did not tell, of what another heard, and of what is not sent', async () => {
    const watch = await follow();
    await price(watch, 2100);
    const [waiting] = await world.rows<{ id: DeliveryId }>(`SELECT id FROM delivery WHERE purpose = 'edition'`);
    const [alert] = await world.rows<{ id: number }>('SELECT id FROM alert');
    const key = `alert-${alert?.id ?? 0}`;
    expect(await deal(waiting!.id, key)).toBe(false);
    await world.sendMail();
    for (const none of [
      '',
      'alert-0',
      'alert-99999999999999999999',
      'change-1',
      `${key} `,
      "alert-1'; DROP TABLE dealt",
      '\u0000',
    ])
      expect(await deal(waiting!.id, none), none).toBe(false);
    expect(await deal(waiting!.id, key, world.people.ines)).toBe(false);
    expect(await deal(0 as DeliveryId, key)).toBe(false);
    expect(await deal(waiting!.id, key)).toBe(true);
    expect(await world.rows('SELECT person_id AS person, news FROM dealt')).toEqual([{ person: ravi(), news: key }]);
  });

  it('goes with the mail when that is let go', async () => {
    const watch = await follow();
    await price(watch, 2100);
    await world.sendMail();
    const [mail] = await told();
    await deal(mail!.delivery, mail!.lines[0]!.key);
    await world.pool.query('DELETE FROM edition');
    await world.pool.query(`DELETE FROM delivery WHERE purpose = 'edition'`);
    expect(await world.rows('SELECT FROM dealt')).toEqual([]);
  });
});
