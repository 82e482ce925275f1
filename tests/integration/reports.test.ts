import type { PersonId, ReportId, WatchId } from '#core/id';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { storedDocument, type EditionDocument } from '#core/tell/edition/document';
import { blankDefinition, type ReportDefinition } from '#core/tell/definition';
import type { Cadence } from '#core/when/cadence';
import { DAY, HOUR, MINUTE, SECOND, type Instant } from '#core/when/interval';
import { claimDue } from '#server/db/source/sources';
import { askForRun } from '#server/actions/edit-watch';
import { inTransaction } from '#server/db/base/pool';
import { findReport } from '#server/db/report/reports';
import { moveClock } from '#server/pipeline/clock';
import { cutByHand, cutNextReport } from '#server/pipeline/report/cut';
import { endReport, makeReport, saveReport } from '#server/pipeline/report/store';
import { previewOf } from '#server/pipeline/report/preview';
import { runSource } from '#server/pipeline/run';
import { fallsBelow, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';
import { IS_LONG, tries } from '#tests/support/search';

/** How many weeks apart a price moves in ten years of them: each week in a search. */
const APART = IS_LONG ? 1 : 12;
const RUNS = tries(9);
const zone = 'Europe/London';
const daily = (at: number): Cadence => ({ cut: 'daily', at, zone });
const order = (change: Partial<ReportDefinition> = {}): ReportDefinition => ({
  ...blankDefinition(zone, ['list:1']),
  cadence: daily(450),
  ...change,
});
const NET = order();
const EACH = order({ shows: 'each', by: 'none' });

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const make = (asked: ReportDefinition, name = 'Pricing, daily') =>
  inTransaction(world.pool, (db) =>
    makeReport(db, world.services.pipeline.ids, { name, order: asked }, world.people.ines, world.now),
  );
const save = (id: ReportId, over: number, asked: ReportDefinition, passOver = false) =>
  inTransaction(world.pool, (db) =>
    saveReport(
      db,
      world.services.pipeline.ids,
      { id, over, plan: { name: 'Pricing, daily', order: asked }, passOver },
      world.people.ines,
      world.now,
    ),
  );
const cut = (id: ReportId) => inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, id, world.now));
const passTo = (at: Instant) => world.pass(at - world.now);

/** A moment by the clock in London, on a day so many days from the world's present one; it is summer there. */
const at = (hour: number, minute = 0, days = 0): Instant => {
  const day = Math.floor((world.now + HOUR) / DAY) * DAY + days * DAY;
  return day - HOUR + hour * HOUR + minute * MINUTE;
};

/** Sets a price and has it seen, at the present moment. */
async function see(watch: WatchId, pence: number): Promise<void> {
  setPrice(world, pence);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
}

interface Edition {
  number: number;
  document: EditionDocument;
}
const editions = async (id: ReportId): Promise<Edition[]> =>
  (
    await world.rows<{ number: number; document: unknown }>(
      'SELECT number, document FROM edition WHERE report_id = $1 ORDER BY number',
      [id],
    )
  ).map(({ number, document }) => ({ number, document: storedDocument.read(document) }));
const cuts = (id: ReportId) =>
  world.rows<{ number: number; from: number; to: number; made: Instant; planned: number; lines: number }>(
    `SELECT number, from_seq AS from, to_seq AS to, made_at AS made, planned, lines
      FROM cut
      WHERE report_id = $1
      ORDER BY number`,
    [id],
  );
const deliveries = (id: ReportId) =>
  world.rows<{
    person: PersonId;
    number: number;
    state: string;
    reason: string | null;
    subject: string;
    plain: string;
    html: string;
  }>(
    `SELECT d.person_id AS person, d.number, d.state, d.reason, d.subject, d.plain, d.html FROM delivery d
     WHERE d.report_id = $1 ORDER BY d.number, d.person_id`,
    [id],
  );
const rowsOf = ({ document }: Edition) => document.groups.flatMap(({ rows }) => rows);

/** The smoker is watched, at £24.00, since an hour. */
async function begin(condition: Parameters<typeof startWatch>[1] = { condition: null }): Promise<WatchId> {
  const watch = await startWatch(world, condition);
  await world.pass(0);
  expect(await world.rows('SELECT FROM series WHERE watch_id = $1', [watch])).toHaveLength(1);
  return watch;
}

describe('a daily report', () => {
  it('tells each reader at its time what moved since it was made, once, with the net of it', async () => {
    const watch = await begin();
    const id = await make(NET);
    for (const price of [2200, 2300, 2100]) {
      await world.pass(10 * MINUTE);
      await see(watch, price);
    }
    await passTo(at(7, 29, 1));
    expect(await editions(id)).toEqual([]);
    await passTo(at(7, 30, 1));
    const [first] = await editions(id);
    expect(first === undefined ? [] : rowsOf(first)).toMatchObject([
      { was: { amount: '24.00' }, now: { amount: '21.00' }, net: { parts: [{ moves: 3 }] }, moved: true },
    ]);
    await world.sendMail();
    const mails = world.standins.room.list().filter(({ subject }) => subject.startsWith('Pricing, daily'));
    expect(mails.flatMap(({ to }) => to).sort()).toEqual(['ines@heatherlow.example', 'ravi@heatherlow.example']);
    expect(mails[0]?.subject).toContain('£21.00, down 12.5%');
    await passTo(at(7, 30, 1));
    expect(await editions(id)).toHaveLength(1);
  });

  it('makes no edition where nothing moved, and says in the next how many such cuts there were', async () => {
    const watch = await begin();
    const id = await make(NET);
    await passTo(at(7, 30, 1));
    await passTo(at(7, 30, 1));
    expect(await editions(id)).toEqual([]);
    await see(watch, 2000);
    await passTo(at(7, 30, 1));
    const [only] = await editions(id);
    expect(only?.document.coverage.quietCuts).toBe(2);
    expect(await cuts(id)).toMatchObject([
      { number: 1 },
      { number: 2, lines: 0 },
      { number: 3, lines: 0 },
      { number: 4, lines: 1 },
    ]);
  });

  it('says so where that is asked', async () => {
    await begin();
    const id = await make(order({ whenNothing: 'say' }));
    await passTo(at(7, 30, 1));
    expect((await deliveries(id)).map(({ subject }) => subject)).toEqual(
      Array(2).fill(expect.stringMatching(/^Pricing, daily: nothing moved since /)),
    );
  });

  it('says what returned, and what is held to a size is held to it', async () => {
    const watch = await begin();
    const [all, falls] = [
      await make(NET),
      await make(
        order({ size: { ...NET.size, falls: { is: 'percent', least: '5' as never }, rises: { is: 'off' } } }),
        'Falls',
      ),
    ];
    for (const price of [2200, 2300, 2400]) {
      await world.pass(10 * MINUTE);
      await see(watch, price);
    }
    await passTo(at(7, 30, 1));
    expect((await editions(all))[0]?.document.kinds).toEqual({ returned: 1 });
    expect(await editions(falls)).toEqual([]);
  });
});

describe('a stretch', () => {
  it('takes a run that was begun before the cut and committed after it into the next', async () => {
    const watch = await begin();
    const id = await make(EACH);
    await passTo(at(7, 29, 1));
    setPrice(world, 2200);
    world.now += 58 * SECOND;
    await askForRun(world.pool, watch, world.now);
    const [source] = await claimDue(world.pool, world.now, world.config.leaseMs, 1);
    if (source === undefined) throw new Error('nothing was due');
    let cutBetween = false;
    await runSource(
      {
        ...world.services.pipeline,
        onStep: async (step) => {
          if (step !== 'judged') return;
          world.now += 4 * SECOND;
          cutBetween = (await cutNextReport(world.services.pipeline, world.now)) === true;
        },
      },
      source,
    );
    expect(cutBetween).toBe(true);
    await world.pass(0);
    expect(await editions(id)).toEqual([]);
    await passTo(at(7, 30, 1));
    expect((await editions(id)).map(({ document }) => document.counts.moves)).toEqual([1]);
  });

  it('takes one that was committed before', async () => {
    const watch = await begin();
    const id = await make(EACH);
    await passTo(at(7, 29, 1));
    await see(watch, 2200);
    await passTo(at(7, 30, 0));
    expect((await editions(id)).map(({ document }) => document.counts.moves)).toEqual([1]);
  });

  it('of cuts that were missed is one, late, and the next comes at its time', async () => {
    const watch = await begin();
    await passTo(at(5, 59, 1));
    const id = await make(order({ cadence: { cut: 'every', hours: 3, from: 360, zone }, shows: 'net' }));
    await passTo(at(6, 0));
    await see(watch, 2200);
    // Nothing runs from 08:00 to 16:10.
    world.now = at(16, 10);
    await world.pass(0);
    await passTo(at(18, 0));
    const made = await cuts(id);
    expect(made.map(({ made: when }) => new Date(when).toISOString().slice(11, 16))).toEqual([
      '04:59',
      '05:00',
      '15:10',
      '17:00',
    ]);
    expect(made[2]).toMatchObject({ planned: 3, lines: 1 });
    expect((await editions(id))[0]?.document.stretch.missed).toMatchObject({ count: 3, first: at(9) });
  });

  it.each<[string, number, boolean]>([
    ['within its minute', 59_999, false],
    ['once that is over', MINUTE, true],
  ])('that is made %s is late, or not', async (_said, after, late) => {
    const watch = await begin();
    const id = await make(EACH);
    await passTo(at(7, 29, 1));
    await see(watch, 2200);
    world.now = at(7, 30) + after;
    await world.pass(0);
    const [made] = await editions(id);
    expect(made?.document.stretch.missed != null).toBe(late);
  });

  it('goes on over a change of cadence: the next cut is by the new one and covers from the last', async () => {
    const watch = await begin();
    // The next Monday, 08:00.
    const monday = { cut: 'weekly' as const, days: [1], at: 480, zone };
    const id = await make(order({ cadence: monday }));
    while (new Date(world.now + HOUR).getUTCDay() !== 1 || world.now < at(8)) await passTo(at(8, 0, 1));
    const first = await cuts(id);
    expect(new Date(first.at(-1)?.made ?? 0).getUTCDay()).toBe(1);
    await see(watch, 2200);
    await passTo(at(12, 0, 2));
    await save(id, 1, order({ cadence: daily(480) }));
    await passTo(at(8, 0, 1));
    const all = await cuts(id);
    expect(all).toHaveLength(first.length + 1);
    expect(new Date(world.now).getUTCDay()).toBe(4);
    expect(all.at(-1)).toMatchObject({ from: first.at(-1)?.to, lines: 1 });
    expect((await editions(id)).at(-1)?.document.stretch.from).toBe(first.at(-1)?.made);
  });

  it('of a cut by hand is one like any other, and the planned one still comes and covers from it', async () => {
    const watch = await begin();
    const id = await make(EACH);
    await see(watch, 2200);
    await world.pass(MINUTE);
    expect(await cut(id)).toBe(true);
    await world.pass(0);
    await see(watch, 2300);
    await passTo(at(7, 30, 1));
    expect((await editions(id)).map(({ document }) => document.counts.moves)).toEqual([1, 1]);
    expect(await cuts(id)).toMatchObject([{ planned: 0 }, { planned: 0 }, { planned: 1 }]);
  });

  it('begins from now on, or from the last cut, when a report leaves never', async () => {
    const watch = await begin();
    const never = order({ cadence: { cut: 'never' } });
    const [on, over] = [await make(never), await make(never, 'Another')];
    await see(watch, 2200);
    await save(on, 1, NET);
    await save(over, 1, NET, true);
    await passTo(at(7, 30, 1));
    expect(await editions(on)).toHaveLength(1);
    expect(await editions(over)).toEqual([]);
  });

  it('that was due lapses when a report goes over to never, and is covered by the next cut by hand', async () => {
    const watch = await begin();
    const id = await make(EACH);
    await see(watch, 2200);
    world.now = at(7, 30, 1);
    await save(id, 1, { ...EACH, cadence: { cut: 'never' } });
    await passTo(at(7, 30, 2));
    expect(await editions(id)).toEqual([]);
    await cut(id);
    await world.pass(0);
    expect((await editions(id)).map(({ document }) => document.counts.moves)).toEqual([1]);
  });

  it('that was due is cut as it was before it is saved anew', async () => {
    const watch = await begin();
    const id = await make(EACH);
    await see(watch, 2200);
    world.now = at(7, 30, 1);
    await save(id, 1, order({ takes: { ...EACH.takes, sorts: ['stock'] } }));
    await world.pass(0);
    expect((await editions(id)).map(({ document }) => document.counts.moves)).toEqual([1]);
    expect(await world.rows('SELECT report_version AS v FROM cut WHERE report_id = $1 ORDER BY number', [id])).toEqual([
      { v: 1 },
      { v: 1 },
    ]);
  });
});

describe('an item’s entry', () => {
  it('stands as it was at the cut, whatever was read before its edition was made', async () => {
    const watch = await begin();
    await world.pool.query(
      `INSERT INTO item (reference, name, zone, made_at) VALUES ('HA-1', 'Copper smoker', 'Europe/London', now())`,
    );
    await world.pool.query(`UPDATE record SET item_id = 1 WHERE watch_id = $1`, [watch]);
    await world.pool.query(`INSERT INTO site (name, said, kind) VALUES ('Heatherlow', 'Heatherlow', 'own')`);
    await world.pool.query(
      `INSERT INTO listing (item_id, site_id, price)
        SELECT 1, id, '{"kind": "money", "amount": "22.50", "currency": "GBP"}'
        FROM site
        WHERE kind = 'own'`,
    );
    const id = await make(NET);
    await see(watch, 2200);
    await world.pass(MINUTE);
    expect(await cut(id)).toBe(true);
    setPrice(world, 1500);
    await askForRun(world.pool, watch, world.now);
    const [source] = await claimDue(world.pool, world.now, world.config.leaseMs, 1);
    if (source === undefined) throw new Error('nothing was due');
    expect(await runSource(world.services.pipeline, source)).toMatchObject({ changes: 1 });
    await world.pass(0);
    const [first] = await editions(id);
    expect(first?.document.groups).toMatchObject([
      {
        of: 'item',
        note: 'HA-1',
        place: { now: { place: 2, of: 2 }, was: { place: 1, of: 2 } },
        rows: [
          { site: { name: 'Heatherlow' }, now: { amount: '22.50' }, moved: false },
          {
            site: { name: 'Skepwright' },
            was: { amount: '24.00' },
            now: { amount: '22.00' },
            toOurs: { amount: '-0.50' },
            wentBelow: true,
          },
        ],
      },
    ]);
    await passTo(at(7, 30, 1));
    expect((await editions(id))[1]?.document.groups[0]?.rows[1]).toMatchObject({
      was: { amount: '22.00' },
      now: { amount: '15.00' },
    });
  });
});

describe('what may not be', () => {
  it('a report saved over another’s change', async () => {
    const id = await make(NET);
    expect(await save(id, 1, EACH)).toBe(2);
    expect(await save(id, 1, NET)).toBeNull();
  });

  it('a report cut, or saved, after it was deleted; what is unsent is cancelled, and its editions stay', async () => {
    const watch = await begin();
    const id = await make(order({ readers: ['list:1', `person:${world.people.tom}`] }));
    await see(watch, 2200);
    await passTo(at(7, 30, 1));
    expect((await deliveries(id)).map(({ state, reason }) => [state, reason])).toEqual([
      ['queued', null],
      ['queued', null],
      ['kept back', 'unconfirmed'],
    ]);
    expect(await findReport(world.pool, id)).toMatchObject({ unsent: 3 });
    expect(await inTransaction(world.pool, (db) => endReport(db, id, world.config.mailDomain, world.now))).toBe(3);
    expect(await inTransaction(world.pool, (db) => endReport(db, id, world.config.mailDomain, world.now))).toBe(0);
    await see(watch, 2000);
    await passTo(at(7, 30, 1));
    expect(await cut(id)).toBe(false);
    expect(await save(id, 1, NET)).toBeNull();
    expect(await editions(id)).toHaveLength(1);
    await world.sendMail();
    expect(world.standins.room.list()).toEqual([]);
  });

  it('a cut lost of which no edition could be made: it is tried again, and comes before those after it', async () => {
    const watch = await begin();
    const id = await make(EACH);
    await see(watch, 2200);
    const [{ definition } = { definition: {} }] = await world.rows<{ definition: object }>(
      'SELECT definition FROM report_version WHERE report_id = $1',
      [id],
    );
    await world.pool.query(`UPDATE report_version SET definition = '{"v": 99}' WHERE report_id = $1`, [id]);
    world.now = at(7, 30, 1);
    await world.pass(0).catch(() => undefined);
    expect(await editions(id)).toEqual([]);
    await world.pool.query('UPDATE report_version SET definition = $2 WHERE report_id = $1', [id, definition]);
    await world.pass(2 * HOUR);
    expect((await editions(id)).map(({ document }) => document.counts.moves)).toEqual([1]);
  });
});

describe('who was told at once', () => {
  it('finds it marked in the digest; who was not does not', async () => {
    const watch = await begin({ condition: fallsBelow('22.00'), audiences: [`person:${world.people.ravi}`] });
    const id = await make(NET);
    await see(watch, 2150);
    await world.sendMail();
    await passTo(at(7, 30, 1));
    const told = await deliveries(id);
    const [ines, ravi] = [
      told.find(({ person }) => person === world.people.ines),
      told.find(({ person }) => person === world.people.ravi),
    ];
    expect(ravi?.plain).toMatch(/price falls below £22\.00, told at once, /);
    expect(ines?.plain).toMatch(/price falls below £22\.00/);
    expect(ines?.plain).not.toContain('told at once');
    expect(
      await world.rows('SELECT person_id AS person, decision FROM notification WHERE report_id = $1 ORDER BY 1', [id]),
    ).toMatchObject([
      { person: world.people.ines, decision: 'told' },
      { person: world.people.ravi, decision: 'told' },
    ]);
  });
});

describe('a preview', () => {
  it('shows the next edition as it stands, and changes nothing', async () => {
    const watch = await begin();
    const id = await make(EACH);
    await see(watch, 2200);
    const before = await cuts(id);
    const { documents } = await previewOf(world.pool, EACH, id, world.now);
    expect(documents.map(({ counts }) => counts.moves)).toEqual([1]);
    expect(await cuts(id)).toEqual(before);
    expect(await editions(id)).toEqual([]);
    const other = await previewOf(world.pool, order({ takes: { ...EACH.takes, sorts: ['stock'] } }), id, world.now);
    expect(other.documents[0]?.counts.lines).toBe(0);
    expect(other.documents[0]?.coverage.leftOut).toBe(1);
  });

  it('says what the last week would have been', async () => {
    const watch = await begin();
    for (const price of [2200, 2300]) {
      await passTo(at(12, 0, 1));
      await see(watch, price);
    }
    await passTo(at(12, 0, 2));
    const { week } = await previewOf(world.pool, NET, null, world.now);
    expect(week).toMatchObject({ cuts: 7, editions: 2, lines: 2, longest: 1, quiet: 5 });
  });
});

describe('whatever happens', () => {
  type Step =
    | { is: 'move'; pence: number }
    | { is: 'pass'; minutes: number }
    | { is: 'cut' }
    | { is: 'save'; cadence: number }
    | { is: 'down'; hours: number };
  const CADENCES: Cadence[] = [
    daily(450),
    { cut: 'every', hours: 1, from: 0, zone },
    { cut: 'every', hours: 5, from: 390, zone: 'America/Sao_Paulo' },
    { cut: 'never' },
    { cut: 'weekly', days: [1, 4], at: 30, zone: 'Pacific/Auckland' },
    { cut: 'monthly', day: 31, at: 480, zone },
    { cut: 'at once', of: 'its order' },
    { cut: 'at once', of: 'its order', gather: 90 * MINUTE },
    { cut: 'after each run' },
  ];
  const step: fc.Arbitrary<Step> = fc.oneof(
    fc.record({ is: fc.constant('move' as const), pence: fc.integer({ min: 1000, max: 1009 }) }),
    fc.record({ is: fc.constant('pass' as const), minutes: fc.integer({ min: 1, max: 2000 }) }),
    fc.record({ is: fc.constant('cut' as const) }),
    fc.record({ is: fc.constant('save' as const), cadence: fc.nat(CADENCES.length - 1) }),
    fc.record({ is: fc.constant('down' as const), hours: fc.integer({ min: 1, max: 60 }) }),
  );

  it(
    'each change is in exactly one cut of each report, cuts meet, and numbers have no gaps',
    { timeout: 600_000 },
    async () => {
      await fc.assert(
        fc.asyncProperty(fc.array(step, { minLength: 5, maxLength: 25 }), async (steps) => {
          await world.clear();
          const watch = await begin();
          const reports = [
            await make({ ...EACH, most: null }),
            await make({ ...EACH, most: null, cadence: CADENCES[1] ?? daily(0) }, 'Hourly'),
          ];
          const versions = [1, 1];
          // Two workers are at it all the time.
          const work = (ms: number) => Promise.all([world.pass(ms), moveClock(world.services.pipeline, world.now)]);
          for (const [n, each] of steps.entries()) {
            const which = n % reports.length;
            const id = reports[which] ?? (0 as ReportId);
            if (each.is === 'move')
              await Promise.all([see(watch, each.pence), moveClock(world.services.pipeline, world.now)]);
            else if (each.is === 'pass') await work(each.minutes * MINUTE);
            else if (each.is === 'cut') await Promise.all([cut(id), work(0)]);
            else if (each.is === 'save')
              versions[which] =
                (await save(id, versions[which] ?? 1, {
                  ...EACH,
                  most: null,
                  cadence: CADENCES[each.cadence] ?? daily(0),
                })) ?? 0;
            else world.now += each.hours * HOUR;
          }
          world.now += MINUTE;
          for (const id of reports) await cut(id);
          await work(0);
          const changes = await world.rows<{ id: number; seq: number }>('SELECT id, seq FROM change ORDER BY seq');
          for (const id of reports) {
            const made = await cuts(id);
            expect(made.slice(1).map(({ from }) => from)).toEqual(made.slice(0, -1).map(({ to }) => to));
            expect(made.map(({ number }) => number)).toEqual(made.map((_, n) => n + 1));
            const told = (await editions(id)).flatMap((edition) => rowsOf(edition).flatMap((row) => row.changes));
            expect(told.sort()).toEqual(changes.map((change) => change.id).sort());
            const numbers = (await deliveries(id))
              .filter(({ person }) => person === world.people.ravi)
              .map(({ number }) => number);
            expect(numbers).toEqual(numbers.map((_, n) => n + 1));
            expect((await editions(id)).map(({ number }) => number)).toEqual((await editions(id)).map((_, n) => n + 1));
          }
        }),
        { numRuns: RUNS },
      );
    },
  );

  it(
    'over ten years, with outages: each change once, each mail once and not before its time, no number missing',
    { timeout: 900_000 },
    async () => {
      const watch = await begin();
      const asked: Cadence[] = [
        { cut: 'weekly', days: [7], at: 90, zone },
        { cut: 'monthly', day: 31, at: 150, zone: 'America/Sao_Paulo' },
        { cut: 'at once', of: 'its order' },
      ];
      const reports: ReportId[] = [];
      for (const [n, cadence] of asked.entries())
        reports.push(await make({ ...EACH, most: null, cadence }, `Report ${n}`));
      for (let week = 0; week < 522; week += APART) {
        await world.pass(((week * 37) % 150) * HOUR);
        await see(watch, 2000 + ((week * 61) % 97));
        // Now and then nothing runs for a week or two.
        if (week % 13 >= 11) world.now += (APART * 7 + (week % 8)) * DAY;
        else await world.pass(APART * 7 * DAY - ((week * 37) % 150) * HOUR);
        if ((week / APART) % 5 === 0) await world.sendMail();
      }
      for (const id of reports) await cut(id);
      await world.pass(0);
      await world.sendMail();
      const changes = (await world.rows<{ id: number }>('SELECT id FROM change')).map(({ id }) => id);
      expect(changes.length).toBeGreaterThan(500 / APART);
      for (const id of reports) {
        const told = (await editions(id)).flatMap((edition) => rowsOf(edition).flatMap((row) => row.changes));
        expect(told.toSorted()).toEqual(changes.toSorted());
        const mails = (await deliveries(id)).filter(({ person }) => person === world.people.ravi);
        expect(mails.map(({ number, state }) => [number, state])).toEqual(mails.map((_, n) => [n + 1, 'sent']));
      }
      const early = await world.rows(
        `SELECT d.id FROM delivery d JOIN delivery_edition x ON x.delivery_id = d.id
          JOIN edition e ON e.id = x.edition_id JOIN cut c ON c.id = e.cut_id
       WHERE d.sent_at < c.made_at OR c.made_at < c.due_at`,
      );
      expect(early).toEqual([]);
      const ids = world.standins.room.list().map(({ messageId }) => messageId);
      expect(new Set(ids).size).toBe(ids.length);
    },
  );
});
