import type { DeliveryId, EditionId, PersonId, ReportId, RuleId, WatchId } from '#core/id';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { blankDefinition } from '#core/tell/definition';
import { BY_MAIL } from '#core/tell/channels';
import { DAY, HOUR, MINUTE, type Instant } from '#core/when/interval';
import type { Reachable } from '#core/tell/hold';
import { inTransaction } from '#server/db/base/pool';
import {
  addReader,
  closeOwnPage,
  confirmAddress,
  findLeaving,
  findReaderNow,
  keepList,
  leaveReport,
  listReaders,
  removeReader,
  returnToReport,
  setHours,
  setReader,
  tryAddressAgain,
} from '#server/db/person/readers';
import { askForRun } from '#server/actions/edit-watch';
import { listDeliveries, requeueDelivery } from '#server/db/delivery/deliveries';
import { notNotifiedBy } from '#server/db/delivery/views/not-notified';
import { deliver } from '#server/deliver/deliver';
import { askToConfirm } from '#server/pipeline/ask';
import { moveClock, nextByClockAt } from '#server/pipeline/clock';
import { endReport, makeReport } from '#server/pipeline/report/store';
import { numbered } from '../support/numbered';
import { fallsBelow, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';
import { tries } from '#tests/support/search';

// What a reader gets, when, and what she is told of what she did not get: 20 to 23 and 26 of what a report promises.

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const RUNS = tries(8);
const zone = 'Europe/London';
const mails = (to: string) =>
  world.standins.room
    .list()
    .filter((mail) => mail.to.includes(to))
    .reverse();
const RAVI = 'ravi@heatherlow.example';
const TOM = 'tom@heatherlow.example';

interface Row {
  id: number;
  report: ReportId;
  person: PersonId;
  number: number | null;
  state: string;
  reason: string | null;
  plain: string | null;
  heldUntil: Instant | null;
  editions: number[];
}
const deliveries = (person: PersonId) =>
  world.rows<Row>(
    `SELECT d.id, d.report_id AS report, d.person_id AS person, d.number, d.state, d.reason, d.plain,
      d.held_until AS "heldUntil",
       (SELECT jsonb_agg(e.number ORDER BY e.number) FROM delivery_edition x JOIN edition e ON e.id = x.edition_id
       WHERE x.delivery_id = d.id) AS editions
     FROM delivery d WHERE d.person_id = $1 AND d.purpose = 'edition' ORDER BY d.report_id, d.number NULLS LAST, d.id`,
    [person],
  );
const stateOf = (rows: Row[]) => rows.map(({ number, state, reason }) => [number, state, reason]);

/** A moment by the clock in London, on a day so many days from the world's present one; it is summer there. */
const at = (hour: number, minute = 0, days = 0): Instant =>
  Math.floor((world.now + HOUR) / DAY) * DAY + days * DAY - HOUR + hour * HOUR + minute * MINUTE;
const passTo = (moment: Instant) => world.pass(moment - world.now);

async function see(watch: WatchId, pence: number): Promise<void> {
  setPrice(world, pence);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
}

/** Another fall below the limit: an alert of its own. */
async function alarm(watch: WatchId): Promise<void> {
  await see(watch, 2400);
  await world.pass(MINUTE);
  await see(watch, 2100);
  await world.pass(MINUTE);
}

const begin = async (audiences: string[]): Promise<WatchId> => {
  const watch = await startWatch(world, { audiences, condition: fallsBelow('22.00') });
  await world.pass(0);
  return watch;
};
const daily = (reader: string, name = 'Pricing, daily') =>
  inTransaction(world.pool, (db) =>
    makeReport(
      db,
      world.services.pipeline.ids,
      { name, order: { ...blankDefinition(zone, [reader]), cadence: { cut: 'daily', at: 450, zone } } },
      world.people.ines,
      world.now,
    ),
  );
const reportOf = async (name: string): Promise<ReportId> =>
  (await world.rows<{ id: ReportId }>('SELECT id FROM report WHERE name = $1', [name]))[0]?.id as ReportId;
const leave = (report: ReportId, person: PersonId) =>
  inTransaction(world.pool, (db) => leaveReport(db, report, person, world.config.mailDomain, world.now));
const deleteReport = (report: ReportId) =>
  inTransaction(world.pool, (db) => endReport(db, report, world.config.mailDomain, world.now));
const back = (report: ReportId, person: PersonId) => returnToReport(world.pool, report, person, world.now);
const hours = (person: PersonId, said: Partial<Reachable>) =>
  setHours(world.pool, person, { quiet: null, mailHour: null, passes: null, ...said }, world.now);
const NIGHT = { from: 22 * 60, to: 7 * 60 };

describe('the first mail of a report', () => {
  it('says whose report it is and when it comes; those after it do not', async () => {
    const { ravi } = world.people;
    const watch = await begin([`person:${ravi}`]);
    await daily(`person:${ravi}`);
    await alarm(watch);
    await alarm(watch);
    await passTo(at(7, 30, 1) + MINUTE);
    await alarm(watch);
    await passTo(at(7, 30, 1) + MINUTE);
    const said = (await deliveries(ravi)).map(({ number, plain }) => [
      number,
      /It comes ([^;]+); Inés Calloway set it up\./.exec(plain ?? '')?.[1] ?? null,
    ]);
    expect(said).toEqual([
      [1, 'at once'],
      [2, null],
      [3, null],
      [1, 'each day at 07:30'],
      [2, null],
    ]);
  });

  it('is what was kept back, where that goes first', async () => {
    const { tom } = world.people;
    const watch = await begin([`person:${tom}`]);
    await alarm(watch);
    await confirmAddress(world.pool, tom, TOM, world.now);
    await world.pass(0);
    await alarm(watch);
    expect(
      (await deliveries(tom)).map(({ plain }) => plain?.includes('It comes at once; Inés Calloway set it up.')),
    ).toEqual([true, false]);
  });
});

describe('an address that is not confirmed', () => {
  it('gets nothing; when it is, what was kept back goes as one mail of each report, each alert once', async () => {
    const { tom } = world.people;
    const watch = await begin([`person:${tom}`]);
    const id = await daily(`person:${tom}`);
    await alarm(watch);
    await alarm(watch);
    await passTo(at(7, 30, 1) + MINUTE);
    await world.sendMail();
    expect(mails(TOM)).toEqual([]);
    expect(stateOf(await deliveries(tom))).toEqual([
      [null, 'kept back', 'unconfirmed'],
      [null, 'kept back', 'unconfirmed'],
    ]);
    expect(await confirmAddress(world.pool, tom, TOM, world.now)).toBe(true);
    await world.pass(0);
    await world.sendMail();
    const got = await Promise.all(mails(TOM).map(({ id: kept }) => world.standins.room.read(kept)));
    expect(got.map((mail) => mail?.subject).sort()).toEqual([
      'Pricing, daily: one edition kept back until now',
      'Tom Aske, at once: 2 editions kept back until now',
    ]);
    expect(stateOf(await deliveries(tom))).toEqual([
      [1, 'sent', null],
      [1, 'sent', null],
    ]);
    const atOnce = got.find((mail) => mail?.subject.startsWith('Tom'))?.text ?? '';
    expect(atOnce.match(/Take it on/g)).toHaveLength(2);
    // Nothing is left to go, and what comes next has the next number.
    await alarm(watch);
    expect(stateOf(await deliveries(tom)).filter(([, state]) => state === 'queued')).toEqual([[2, 'queued', null]]);
    expect((await deliveries(tom)).filter(({ report }) => report === id)).toHaveLength(1);
  });

  it('gets that mail once, though several workers come upon it', async () => {
    const { tom } = world.people;
    const watch = await begin([`person:${tom}`]);
    await alarm(watch);
    await confirmAddress(world.pool, tom, TOM, world.now);
    await Promise.all(Array.from({ length: 6 }, () => moveClock(world.services.pipeline, world.now)));
    await world.sendMail();
    expect(mails(TOM)).toHaveLength(1);
    expect(stateOf(await deliveries(tom))).toEqual([[1, 'sent', null]]);
    expect(await world.rows('SELECT last FROM reader_number WHERE person_id = $1', [tom])).toEqual([{ last: 1 }]);
  });

  it('hears of an alert once at once, though two reports kept it', async () => {
    const { tom, ines } = world.people;
    const list = await keepList(world.pool, null, { name: 'Shop', members: [tom] });
    const watch = await begin([`person:${tom}`]);
    const other = await startWatch(world, { slug: 'steel-smoker', audiences: [`list:${list.ok ? list.value : 0}`] });
    await world.pass(0);
    const [rule] = await world.rows<{ id: RuleId }>('SELECT id FROM rule WHERE watch_id = $1', [watch]);
    await world.pool.query(
      'INSERT INTO report_rule (report_id, rule_id, joined_at) SELECT id, $1, now() FROM report WHERE name = $2',
      [rule?.id, 'Shop, at once'],
    );
    await alarm(watch);
    expect(await deliveries(tom)).toHaveLength(2);
    await confirmAddress(world.pool, tom, TOM, world.now);
    await world.pass(0);
    await world.sendMail();
    expect(mails(TOM)).toHaveLength(1);
    expect(
      stateOf(await deliveries(tom))
        .map(([, state, reason]) => [state, reason])
        .sort(),
    ).toEqual([
      ['given up', 'told already'],
      ['sent', null],
    ]);
    const told = await world.rows('SELECT decision FROM notification WHERE person_id = $1 ORDER BY report_id', [tom]);
    expect(told).toEqual([{ decision: 'told' }, { decision: 'stood back' }]);
    expect(other).not.toBe(watch);
    expect(ines).not.toBe(tom);
  });

  it('gets no edition that is more than 30 days old by then, and is told how many there are', async () => {
    const { tom } = world.people;
    const watch = await begin([`person:${tom}`]);
    await alarm(watch);
    await passTo(world.now + 20 * DAY);
    await alarm(watch);
    await passTo(world.now + 11 * DAY);
    await confirmAddress(world.pool, tom, TOM, world.now);
    await world.pass(0);
    const [row] = await deliveries(tom);
    expect(row?.plain).toContain('One edition was kept back for you until now.');
    expect(row?.plain).toContain('One edition more than 30 days old is only kept in Shrike.');
  });

  it('whose editions are all too old gets no mail, and its outbox says why', async () => {
    const { tom } = world.people;
    const watch = await begin([`person:${tom}`]);
    await alarm(watch);
    await passTo(world.now + 31 * DAY);
    await confirmAddress(world.pool, tom, TOM, world.now);
    await world.pass(0);
    await world.sendMail();
    expect(mails(TOM)).toEqual([]);
    expect(stateOf(await deliveries(tom))).toEqual([[null, 'given up', 'too old']]);
  });

  it('is asked by a mail whose link holds for this address alone, and not again at once', async () => {
    const { tom, ines } = world.people;
    await begin([`person:${tom}`]);
    const ask = () =>
      inTransaction(world.pool, (db) =>
        askToConfirm(world.services.pipeline, db, tom, { name: 'Inés Calloway' }, world.now),
      );
    expect(await ask()).toEqual({ ok: true, value: null });
    expect(await ask()).toEqual({ ok: false, error: 'asked lately' });
    await world.sendMail();
    const [mail] = await Promise.all(mails(TOM).map(({ id }) => world.standins.room.read(id)));
    expect(mail?.subject).toBe('Inés Calloway asks: may Shrike write to you?');
    expect(mail?.text).toContain('You would get ‘Tom Aske, at once’.');
    const token = /\/confirm\/([\w-]+)/.exec(mail?.text ?? '')?.[1] ?? '';
    const { links } = world.services.pipeline;
    expect(links.openConfirm(token)).toMatchObject({ person: tom, address: TOM });
    for (const other of [
      links.leave(await reportOf('Tom Aske, at once'), tom, 1, world.now),
      links.ownPage(tom, 1, world.now),
      links.takeOn(1, tom, world.now),
    ])
      expect(links.openConfirm(other?.split('/').at(-1) ?? '')).toBeNull();
    expect(links.openConfirm(`${token}x`)).toBeNull();
    expect(await confirmAddress(world.pool, tom, 'tom@elsewhere.example', world.now)).toBe(false);
    expect(await confirmAddress(world.pool, ines, TOM, world.now)).toBe(false);
    expect(await confirmAddress(world.pool, tom, TOM, world.now)).toBe(true);
    expect(await ask()).toEqual({ ok: false, error: 'done' });
  });

  it('is one that was changed: nothing goes to the old one any more, nor to the new one before it is confirmed', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    world.standins.world.push('mail', null, 'defers');
    await alarm(watch);
    await world.sendMail();
    const said = {
      name: 'Ravi Oduya',
      locale: 'en-GB',
      zone,
      quiet: null,
      mailHour: null,
      passes: null,
      ratherLose: false,
      phone: null,
      webhook: null,
      routes: BY_MAIL,
    };
    expect(await setReader(world.pool, ravi, { ...said, email: 'ines@heatherlow.example' }, world.now)).toEqual({
      ok: false,
      error: 'address taken',
    });
    expect(await setReader(world.pool, ravi, { ...said, email: 'ravi@elsewhere.example' }, world.now)).toEqual({
      ok: true,
      value: 2,
    });
    world.standins.world.push('mail', null, 'accepts');
    await world.pass(MINUTE);
    await world.sendMail();
    expect(mails(RAVI)).toEqual([]);
    expect(stateOf(await deliveries(ravi))).toEqual([
      [1, 'given up', 'folded'],
      [null, 'kept back', 'unconfirmed'],
    ]);
    await confirmAddress(world.pool, ravi, 'ravi@elsewhere.example', world.now);
    await world.pass(0);
    await world.sendMail();
    const [mail] = await Promise.all(mails('ravi@elsewhere.example').map(({ id }) => world.standins.room.read(id)));
    expect(mail?.text).toContain('Mail 1 was not taken, and is in a mail of what was kept back.');
    await setReader(world.pool, ravi, { ...said, email: RAVI }, world.now);
    await confirmAddress(world.pool, ravi, RAVI, world.now);
  });
});

describe('a mail of which nobody knows whether it was taken', () => {
  it('is sent again to where it was sent, and not to an address that is not confirmed', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await alarm(watch);
    const [delivery]: Row[] = await deliveries(ravi);
    const dies = {
      ...world.services.post,
      onStep: (step: string) => (step === 'accepted' ? Promise.reject(new Error('killed')) : Promise.resolve()),
    };
    await expect(deliver(dies, numbered<DeliveryId>(delivery?.id ?? 0))).rejects.toThrow('killed');
    const said = {
      name: 'Ravi Oduya',
      locale: 'en-GB',
      zone,
      quiet: null,
      mailHour: null,
      passes: null,
      ratherLose: false,
      phone: null,
      webhook: null,
      routes: BY_MAIL,
    };
    await setReader(world.pool, ravi, { ...said, email: 'ravi@elsewhere.example' }, world.now);
    await world.pass(HOUR);
    await world.sendMail();
    expect(mails('ravi@elsewhere.example')).toEqual([]);
    expect(mails(RAVI).map(({ sentAgain }) => sentAgain)).toEqual([false, true]);
    await setReader(world.pool, ravi, { ...said, email: RAVI }, world.now);
    await confirmAddress(world.pool, ravi, RAVI, world.now);
  });
});

describe('an address that refuses mail for good', () => {
  it(
    'is paused; what is for it is kept back, and goes as one mail when it is tried again, which says what became ' +
      'of its numbers',
    async () => {
      const { ravi, ines } = world.people;
      const watch = await begin(['list:1']);
      world.standins.world.push('mail', RAVI, 'has no such mailbox');
      await alarm(watch);
      await world.sendMail();
      await world.pass(0);
      expect(await findReaderNow(world.pool, ravi)).toMatchObject({
        pausedAt: world.now,
        pausedBecause: expect.stringContaining('550 5.1.1 there is no such mailbox') as string,
      });
      expect(await findReaderNow(world.pool, ines)).toMatchObject({ pausedAt: null });
      await alarm(watch);
      expect(stateOf(await deliveries(ravi))).toEqual([
        [1, 'given up', 'folded'],
        [null, 'kept back', 'paused'],
      ]);
      expect((await deliveries(ravi)).at(-1)?.editions).toEqual([1, 2]);
      world.standins.world.push('forget', null, '');
      await tryAddressAgain(world.pool, ravi);
      await world.pass(0);
      await world.sendMail();
      const [mail] = await Promise.all(mails(RAVI).map(({ id }) => world.standins.room.read(id)));
      expect(mail?.subject).toBe('Pricing, at once: 2 editions kept back until now');
      expect(mail?.text).toContain('Mail 1 was not taken, and is in a mail of what was kept back.');
      expect(mail?.text).toContain('for Ravi, mail 2');
      await alarm(watch);
      expect((await deliveries(ravi)).at(-1)?.plain).not.toContain('Mail 1 was');
    },
  );

  it('is none that a policy refused, or a server that takes nothing today', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    world.standins.world.push('mail', null, 'refuses');
    await alarm(watch);
    await world.sendMail();
    expect(await findReaderNow(world.pool, ravi)).toMatchObject({ pausedAt: null });
    expect(stateOf(await deliveries(ravi))).toEqual([[1, 'refused', null]]);
  });
});

describe('leaving a report', () => {
  it('cancels what is unsent, whose numbers stay spent; if she comes back, the next mail says so', async () => {
    const { ravi, ines } = world.people;
    const watch = await begin(['list:1']);
    const id = await reportOf('Pricing, at once');
    await hours(ravi, { quiet: NIGHT });
    await passTo(at(22, 30));
    await alarm(watch);
    await world.sendMail();
    expect((await deliveries(ravi)).map(({ number, state, reason }) => [number, state, reason])).toEqual([
      [1, 'kept back', 'quiet hours'],
    ]);
    expect(await leave(id, ravi)).toBe(1);
    expect(await leave(id, ravi)).toBe(0);
    // Nobody sends what she cancelled after all.
    expect(
      await requeueDelivery(world.pool, numbered<DeliveryId>((await deliveries(ravi))[0]?.id ?? 0), world.now),
    ).toBe(false);
    await passTo(at(9, 0, 1));
    await alarm(watch);
    await world.sendMail();
    expect(mails(RAVI)).toEqual([]);
    expect(mails('ines@heatherlow.example')).toHaveLength(2);
    expect(stateOf(await deliveries(ravi))).toEqual([[1, 'given up', 'left']]);
    expect(await findReaderNow(world.pool, ravi)).toMatchObject({
      reports: [{ id, leftAt: expect.any(Number) as number }],
    });
    await back(id, ravi);
    await alarm(watch);
    await world.sendMail();
    const [mail] = await Promise.all(mails(RAVI).map(({ id: kept }) => world.standins.room.read(kept)));
    expect(mail?.text).toContain('for Ravi, mail 2');
    expect(mail?.text).toContain('Mail 1 was cancelled when you left.');
    expect((await deliveries(ines)).map(({ number }) => number)).toEqual([1, 2, 3]);
  });

  const ends: [string, string, () => Promise<unknown>][] = [
    ['she leaves', 'left', async () => leave(await reportOf('Pricing, at once'), world.people.ravi)],
    ['the report is deleted', 'deleted', async () => deleteReport(await reportOf('Pricing, at once'))],
    ['she is taken out', 'removed', () => removeReader(world.pool, world.people.ravi, world.now)],
  ];
  it.each(ends)(
    'or its end, while a mail is under way that the server does not take: it is not tried again (%s)',
    async (_, reason, goes) => {
      const { ravi } = world.people;
      const watch = await begin(['list:1']);
      await alarm(watch);
      const [delivery]: Row[] = await deliveries(ravi);
      world.standins.world.push('mail', null, 'defers');
      // Between the record of the attempt and its end.
      await deliver(
        {
          ...world.services.post,
          onStep: (step: string) => (step === 'begun' ? goes().then(() => undefined) : Promise.resolve()),
        },
        numbered<DeliveryId>(delivery?.id ?? 0),
      );
      world.standins.world.push('mail', null, 'accepts');
      await world.pass(HOUR);
      await world.sendMail();
      expect(mails(RAVI)).toEqual([]);
      expect(stateOf(await deliveries(ravi))).toEqual([[1, 'given up', reason]]);
      await world.pool.query('UPDATE person SET removed_at = NULL WHERE id = $1', [ravi]);
      await world.pool.query('INSERT INTO list_member VALUES (1, $1) ON CONFLICT DO NOTHING', [ravi]);
    },
  );

  it('is a link in each mail and its header, with one click', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await alarm(watch);
    await world.sendMail();
    const [mail] = await Promise.all(mails(RAVI).map(({ id }) => world.standins.room.read(id)));
    const source = (mail?.source ?? '').replace(/\r\n[ \t]+/g, '');
    const link = /^List-Unsubscribe: <(\S+)>$/im.exec(source.replace(/\r/g, ''))?.[1] ?? '';
    expect(source).toMatch(/^List-Unsubscribe-Post: List-Unsubscribe=One-Click\r$/im);
    expect(world.services.pipeline.links.openLeave(link.split('/').at(-1) ?? '')).toEqual({
      report: await reportOf('Pricing, at once'),
      person: ravi,
      page: 1,
    });
    expect(mail?.text).toContain(`Leave this report: ${link}`);
    const said = { report: await reportOf('Pricing, at once'), person: ravi, page: 1 };
    expect(await findLeaving(world.pool, said)).not.toBeNull();
    await closeOwnPage(world.pool, ravi);
    expect(await findLeaving(world.pool, said)).toBeNull();
  });
});

describe('an alert of which two reports know', () => {
  /** Ravi reads two reports that take the rule; the older tells him, the other stands back. */
  async function twice(): Promise<{ watch: WatchId; first: ReportId; second: ReportId }> {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await startWatch(world, { slug: 'steel-smoker', audiences: [`person:${ravi}`], condition: fallsBelow('1.00') });
    await world.pass(0);
    const [first, second] = [await reportOf('Pricing, at once'), await reportOf('Ravi Oduya, at once')];
    await world.pool.query(
      'INSERT INTO report_rule (report_id, rule_id, joined_at) SELECT $1, id, now() FROM rule WHERE watch_id = $2',
      [second, watch],
    );
    await hours(ravi, { quiet: NIGHT });
    await passTo(at(22, 30));
    await alarm(watch);
    await world.sendMail();
    expect(stateOf(await deliveries(ravi))).toEqual([[1, 'kept back', 'quiet hours']]);
    return { watch, first, second };
  }
  const decisions = () =>
    world.rows('SELECT report_id AS report, decision FROM notification WHERE person_id = $1 ORDER BY 1', [
      world.people.ravi,
    ]);

  it('is told through the other where she leaves the one that was to tell', async () => {
    const { first, second } = await twice();
    await leave(first, world.people.ravi);
    await passTo(at(7, 0, 1));
    await world.sendMail();
    const [mail, ...more] = await Promise.all(mails(RAVI).map(({ id }) => world.standins.room.read(id)));
    expect(more.map((each) => each?.subject)).toEqual([]);
    expect(mail?.text).toContain('£21.00');
    expect(mail?.text).toContain('Ravi Oduya, at once');
    expect(await decisions()).toEqual([
      { report: first, decision: 'told' },
      { report: second, decision: 'told' },
    ]);
  });

  it('is told through the other where the one that was to tell is deleted', async () => {
    const { first } = await twice();
    await deleteReport(first);
    await passTo(at(7, 0, 1));
    await world.sendMail();
    expect(mails(RAVI)).toHaveLength(1);
  });

  it('is told through the other where the one that was to tell has nowhere to go, also who would rather lose a mail', async () => {
    const { ravi } = world.people;
    const { first, second } = await twice();
    await world.rows(`UPDATE delivery SET channel = 'webhook' WHERE person_id = $1 AND report_id = $2`, [ravi, first]);
    await world.rows('UPDATE person SET rather_lose = true WHERE id = $1', [ravi]);
    await passTo(at(7, 0, 1));
    await world.sendMail();
    await passTo(world.now + MINUTE);
    await world.sendMail();
    expect(stateOf(await deliveries(ravi)).filter(([, , reason]) => reason === 'route gone')).toHaveLength(1);
    expect((await deliveries(ravi)).filter(({ report }) => report === second)).not.toEqual([]);
    expect(mails(RAVI)).toHaveLength(1);
    await world.rows('UPDATE person SET rather_lose = false WHERE id = $1', [ravi]);
  });

  it('is told through the other where no server took the mail of the one that was to tell', async () => {
    const { second } = await twice();
    world.standins.world.push('mail', null, 'defers');
    await passTo(at(7, 0, 1));
    await world.sendMail();
    await passTo(world.now + 6 * DAY + 2 * HOUR);
    await world.sendMail();
    expect((await deliveries(world.people.ravi)).filter(({ report }) => report === second)).not.toEqual([]);
    world.standins.world.push('mail', null, 'accepts');
    await world.pass(MINUTE);
    await world.sendMail();
    expect(mails(RAVI)).toHaveLength(1);
  });

  it('is not told twice where both reports go on, nor by one that she left, too', async () => {
    const { first, second } = await twice();
    await leave(second, world.people.ravi);
    await leave(first, world.people.ravi);
    await passTo(at(7, 0, 1));
    await world.sendMail();
    expect(mails(RAVI)).toEqual([]);
  });
});

describe('mails about one episode', () => {
  const headerOf = (source: string | undefined, name: string) =>
    new RegExp(`^${name}: (.*)$`, 'm').exec((source ?? '').replace(/\r\n[ \t]+/g, ' '))?.[1]?.trim();

  it('form one thread across reports, which names only what was sent; one of several begins its own', async () => {
    const watch = await begin(['list:1']);
    await world.pool.query(`UPDATE rule_version SET definition = definition || '{"tellsEnd": true}'`);
    await see(watch, 2100);
    await world.pass(MINUTE);
    await world.sendMail();
    // Its end is told through another report.
    await startWatch(world, {
      slug: 'steel-smoker',
      audiences: [`person:${world.people.ravi}`],
      condition: fallsBelow('1.00'),
    });
    await world.pass(0);
    await world.pool.query('UPDATE report_rule SET report_id = $1 WHERE report_id = $2', [
      await reportOf('Ravi Oduya, at once'),
      await reportOf('Pricing, at once'),
    ]);
    await see(watch, 2400);
    await world.sendMail();
    await world.pass(MINUTE);
    await alarm(watch);
    await world.sendMail();
    const got = await Promise.all(mails(RAVI).map(({ id }) => world.standins.room.read(id)));
    const [first, over, next] = got;
    expect(headerOf(first?.source, 'In-Reply-To')).toBeUndefined();
    expect(headerOf(over?.source, 'In-Reply-To')).toBe(first?.messageId);
    expect(headerOf(over?.source, 'References')).toBe(first?.messageId);
    expect(over?.text).toContain('Ravi Oduya, at once');
    expect(headerOf(next?.source, 'In-Reply-To')).toBeUndefined();
  });
});

describe('hours in which she is not to be disturbed', () => {
  it('hold mails, which go one after another when they end, in the order of their numbers', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await hours(ravi, { quiet: NIGHT });
    await passTo(at(22, 0));
    for (let times = 0; times < 4; times += 1) await alarm(watch);
    await world.sendMail();
    expect(mails(RAVI)).toEqual([]);
    expect(new Set((await deliveries(ravi)).map(({ heldUntil }) => heldUntil))).toEqual(new Set([at(7, 0, 1)]));
    expect(await nextByClockAt(world.pool)).toBeLessThanOrEqual(at(7, 0, 1));
    await passTo(at(7, 0, 1) - 1);
    await world.sendMail();
    expect(mails(RAVI)).toEqual([]);
    for (let times = 0; times < 5; times += 1) {
      await passTo(Math.max(world.now, at(7, 0)));
      await world.sendMail();
    }
    const numbers = await Promise.all(
      mails(RAVI).map(async ({ id }) =>
        Number(/, mail (\d+)/.exec((await world.standins.room.read(id))?.text ?? '')?.[1]),
      ),
    );
    expect(numbers).toEqual([1, 2, 3, 4]);
  });

  it('let an alert of the weight that she set pass whole, and it says which numbers are still held; a digest waits', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await daily('list:1', 'Night report');
    await world.pool.query(`UPDATE report SET due_at = to_timestamp($1 / 1000.0) WHERE name = 'Night report'`, [
      at(23, 0),
    ]);
    await hours(ravi, { quiet: NIGHT, passes: 'high' });
    await passTo(at(22, 30));
    await alarm(watch);
    await world.sendMail();
    await world.pool.query(`UPDATE rule_version SET definition = definition || '{"weight": "high"}'`);
    await passTo(at(23, 0));
    await alarm(watch);
    await world.sendMail();
    const got = await Promise.all(mails(RAVI).map(({ id }) => world.standins.room.read(id)));
    expect(got.map((mail) => /, mail (\d+)/.exec(mail?.text ?? '')?.[1])).toEqual(['2']);
    expect(got[0]?.text).toContain('Mail 1 is held until you want to be reached.');
    expect((await deliveries(ravi)).map(({ state }) => state).sort()).toEqual(['kept back', 'kept back', 'sent']);
  });

  it('say nothing of what is held in a mail that is held with it, and comes after it', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await hours(ravi, { quiet: NIGHT });
    for (const hour of [22, 23]) {
      await passTo(at(hour, 30));
      await alarm(watch);
      await world.sendMail();
    }
    expect(mails(RAVI)).toEqual([]);
    await passTo(at(31, 30));
    for (let mail = 0; mail < 2; mail += 1) {
      await world.pass(0);
      await world.sendMail();
    }
    const got = await Promise.all(mails(RAVI).map(({ id }) => world.standins.room.read(id)));
    expect(got.map((mail) => /, mail (\d+)/.exec(mail?.text ?? '')?.[1]).sort()).toEqual(['1', '2']);
    expect(got.filter((mail) => mail?.text?.includes('held'))).toEqual([]);
  });

  it('hold nothing any more once she says so', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await hours(ravi, { quiet: NIGHT });
    await passTo(at(22, 30));
    await alarm(watch);
    await world.sendMail();
    expect(mails(RAVI)).toEqual([]);
    await hours(ravi, { quiet: { from: 23 * 60, to: 7 * 60 } });
    await world.pass(0);
    await world.sendMail();
    expect(mails(RAVI)).toHaveLength(1);
  });

  it('are not those of a mail that asks to confirm an address', async () => {
    const { tom } = world.people;
    await hours(tom, { quiet: NIGHT });
    await passTo(at(23, 0));
    await inTransaction(world.pool, (db) =>
      askToConfirm(world.services.pipeline, db, tom, { name: 'Inés Calloway' }, world.now),
    );
    await world.sendMail();
    expect(mails(TOM)).toHaveLength(1);
  });

  it('begin while a mail is tried again: it waits for their end like any other', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await hours(ravi, { quiet: NIGHT });
    await passTo(at(21, 50));
    world.standins.world.push('mail', null, 'defers');
    await alarm(watch);
    await world.sendMail();
    world.standins.world.push('mail', null, 'accepts');
    await passTo(at(22, 10));
    await world.sendMail();
    expect(mails(RAVI)).toEqual([]);
    await passTo(at(7, 0, 1));
    await world.sendMail();
    expect(await world.rows('SELECT state, response FROM delivery WHERE person_id = $1', [ravi])).toMatchObject([
      { state: 'sent' },
    ]);
    expect(mails(RAVI)).toHaveLength(1);
  });
});

describe('people', () => {
  it('are added once, are asked before they hear, and one who is taken out hears nothing more', async () => {
    const place = { locale: 'en-GB', zone };
    const eva = await addReader(world.pool, { name: 'Eva Lind', email: 'eva@heatherlow.example' }, place);
    expect(await addReader(world.pool, { name: 'Eva L', email: 'eva@heatherlow.example' }, place)).toBeNull();
    await world.pool.query(`UPDATE person SET email = 'Eva@Heatherlow.example' WHERE id = $1`, [eva]);
    expect(await addReader(world.pool, { name: 'Eva L', email: 'eva@heatherlow.example' }, place)).toBeNull();
    await world.pool.query(`UPDATE person SET email = 'eva@heatherlow.example' WHERE id = $1`, [eva]);
    if (eva === null) throw new Error('nobody was added');
    const watch = await begin([`person:${eva}`]);
    await confirmAddress(world.pool, eva, 'eva@heatherlow.example', world.now);
    await alarm(watch);
    expect(await removeReader(world.pool, eva, world.now)).toBe(true);
    expect(await removeReader(world.pool, eva, world.now)).toBe(false);
    await alarm(watch);
    await world.sendMail();
    expect(mails('eva@heatherlow.example')).toEqual([]);
    expect(stateOf(await deliveries(eva))).toEqual([[1, 'given up', 'removed']]);
    expect((await listReaders(world.pool, null, 100)).map(({ name }) => name)).toEqual([
      'Inés Calloway',
      'Ravi Oduya',
      'Tom Aske',
    ]);
    expect(await findReaderNow(world.pool, eva)).toBeNull();
    // Whoever is added anew has to confirm anew.
    expect(await addReader(world.pool, { name: 'Eva Lind', email: 'eva@heatherlow.example' }, place)).toBe(eva);
    expect(await findReaderNow(world.pool, eva)).toMatchObject({ confirmedAt: null, reports: [] });
    await removeReader(world.pool, eva, world.now);
  });

  it('are told why there was nothing on a day', async () => {
    const { ravi } = world.people;
    const watch = await begin(['list:1']);
    await daily('list:1');
    const day = { from: at(0, 0, 1), until: at(0, 0, 2) };
    await passTo(at(12, 0, 1));
    expect(await notNotifiedBy(world.pool, ravi, day, null)).toMatchObject([
      { name: 'Pricing, at once', mails: 0, cuts: 0, stoodBack: 0, leftAt: null },
      { name: 'Pricing, daily', mails: 0, cuts: 1, quiet: 1, leftAt: null },
    ]);
    await alarm(watch);
    await leave(await reportOf('Pricing, daily'), ravi);
    expect(await notNotifiedBy(world.pool, ravi, day, null)).toMatchObject([
      { mails: 1 },
      { mails: 0, leftAt: world.now },
    ]);
    expect(await listDeliveries(world.pool, { person: ravi, day }, 10)).toHaveLength(1);
    expect(
      await listDeliveries(world.pool, { person: ravi, day: { from: at(0, 0, 1), until: at(0, 0, 2) } }, 10),
    ).toEqual([]);
    expect(await notNotifiedBy(world.pool, world.people.tom, day, null)).toEqual([]);
  });
});

type Step = 'alarm' | 'pass' | 'leave' | 'return' | 'refuse' | 'again' | 'move' | 'confirm' | 'quiet' | 'loud' | 'send';

describe('whatever happens to a reader', () => {
  it('she gets each edition once, and no number is missing that a mail does not explain', async () => {
    const steps = fc.array(
      fc.constantFrom<Step>(
        'alarm',
        'alarm',
        'alarm',
        'pass',
        'pass',
        'leave',
        'return',
        'refuse',
        'again',
        'move',
        'confirm',
        'quiet',
        'loud',
        'send',
        'send',
      ),
      { minLength: 10, maxLength: 40 },
    );
    await fc.assert(
      fc.asyncProperty(steps, async (taken) => {
        await world.clear();
        await followRavi(taken);
      }),
      { numRuns: RUNS },
    );
  }, 600_000);
});

/** Lets all of it happen, then everything go out, and holds what came to what was made. */
async function followRavi(taken: Step[]): Promise<void> {
  const { ravi } = world.people;
  await world.pool.query('UPDATE person SET email = $2 WHERE id = $1', [ravi, RAVI]);
  const watch = await begin(['list:1']);
  const report = await reportOf('Pricing, at once');
  let moved = 0;
  const address = async () => (await findReaderNow(world.pool, ravi))?.email ?? '';
  /** Editions that were made while he read the report. */
  const his = new Set<EditionId>();
  let reads = true;
  const noteEditions = async (before: number) => {
    const rows = await world.rows<{ id: EditionId }>('SELECT id FROM edition WHERE report_id = $1 AND number > $2', [
      report,
      before,
    ]);
    if (reads) for (const { id } of rows) his.add(id);
  };
  const acts: Record<Step, () => Promise<unknown>> = {
    alarm: async () => {
      const [row] = await world.rows<{ editions: number }>('SELECT editions FROM report WHERE id = $1', [report]);
      await alarm(watch);
      await noteEditions(row?.editions ?? 0);
    },
    pass: () => world.pass(5 * HOUR),
    leave: async () => {
      await leave(report, ravi);
      reads = false;
      // What was cancelled is not owed any more.
      for (const { id } of await world.rows<{ id: EditionId }>(
        `SELECT x.edition_id AS id
          FROM delivery_edition x
          JOIN delivery d ON d.id = x.delivery_id
          WHERE d.person_id = $1 AND d.reason = 'left'`,
        [ravi],
      ))
        his.delete(id);
    },
    return: async () => {
      await back(report, ravi);
      reads = true;
    },
    refuse: async () => world.standins.world.push('mail', await address(), 'has no such mailbox'),
    again: async () => {
      world.standins.world.push('mail', await address(), 'accepts');
      await tryAddressAgain(world.pool, ravi);
    },
    move: async () => {
      moved += 1;
      await setReader(
        world.pool,
        ravi,
        {
          name: 'Ravi Oduya',
          email: `ravi${moved}@heatherlow.example`,
          locale: 'en-GB',
          zone,
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
    },
    confirm: async () => confirmAddress(world.pool, ravi, await address(), world.now),
    quiet: () => hours(ravi, { quiet: NIGHT }),
    loud: () => hours(ravi, {}),
    send: () => world.sendMail(),
  };
  for (const step of [...taken, 'again', 'confirm', 'return', 'loud'] as const) {
    await acts[step]();
    await world.pass(0);
  }
  for (let rounds = 0; rounds < 12; rounds += 1) {
    await world.pass(10 * HOUR);
    await world.sendMail();
  }
  await alarm(watch);
  const [last] = await world.rows<{ id: EditionId }>(
    'SELECT id FROM edition WHERE report_id = $1 ORDER BY number DESC LIMIT 1',
    [report],
  );
  if (last !== undefined) his.add(last.id);
  await world.sendMail();
  const sent = await world.rows<{ edition: EditionId; times: number }>(
    `SELECT x.edition_id AS edition, count(*)::int AS times FROM delivery_edition x
      JOIN delivery d ON d.id = x.delivery_id
     WHERE d.person_id = $1 AND d.state = 'sent' GROUP BY 1`,
    [ravi],
  );
  expect(sent.filter(({ times }) => times !== 1)).toEqual([]);
  expect(new Set(sent.map(({ edition }) => edition))).toEqual(his);
  const rows = (await deliveries(ravi)).filter(({ number }) => number !== null);
  expect(rows.map(({ number }) => number)).toEqual(rows.map((_, place) => place + 1));
  const spent = rows.filter(({ state }) => state === 'given up').map(({ number }) => number);
  const said = rows.filter(({ state }) => state === 'sent').flatMap(({ plain }) => explained(plain ?? ''));
  expect([...said].sort((one, other) => one - other)).toEqual(spent);
  // What came is what stands as sent, each once by its identity.
  const room = world.standins.room.list().filter(({ to }) => to.some((each) => each.startsWith('ravi')));
  expect(new Set(room.map(({ messageId }) => messageId)).size).toBe(room.length);
  expect(room).toHaveLength(rows.filter(({ state }) => state === 'sent').length);
}

/** The numbers that a mail says never came. */
function explained(text: string): number[] {
  return [...text.matchAll(/Mails? ([\d, toand]+?) (?:was|were) /g)].flatMap(([, list = '']) =>
    list.split(/, | and /).flatMap((part) => {
      const [from = 0, to = from] = part.split(' to ').map(Number);
      return Array.from({ length: to - from + 1 }, (_, more) => from + more);
    }),
  );
}
