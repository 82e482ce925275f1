import type { ChangeId, ReportId, WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { blankDefinition, type ReportDefinition } from '#core/tell/definition';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { seriesOf } from '#server/db/report/present';
import { placeNews } from '#server/db/report/reports';
import { askForRun } from '#server/actions/edit-watch';
import { cutByHand } from '#server/pipeline/report/cut';
import { endReport, makeReport, saveReport } from '#server/pipeline/report/store';
import { previewOf } from '#server/pipeline/report/preview';
import { reportTrailOf } from '#server/pipeline/report/trail';
import { fallsBelow, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// Reports that are cut with what happens: at once, with a commit that brought what their order takes, or after each run
// of what they follow (4).

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const readers = () => [`person:${world.people.ravi}`];
const order = (change: Partial<ReportDefinition> = {}): ReportDefinition => ({
  ...blankDefinition('Europe/London', readers()),
  cadence: { cut: 'at once', of: 'its order' },
  shows: 'each',
  by: 'none',
  ...change,
});
const make = (asked: ReportDefinition, name = 'As it moves') =>
  inTransaction(world.pool, (db) =>
    makeReport(db, world.services.pipeline.ids, { name, order: asked }, world.people.ines, world.now),
  );
const save = (id: ReportId, over: number, asked: ReportDefinition, passOver = false) =>
  inTransaction(world.pool, (db) =>
    saveReport(
      db,
      world.services.pipeline.ids,
      { id, over, plan: { name: 'As it moves', order: asked }, passOver },
      world.people.ines,
      world.now,
    ),
  );

async function begin(options: Parameters<typeof startWatch>[1] = { condition: null }): Promise<WatchId> {
  const watch = await startWatch(world, options);
  await world.pass(0);
  return watch;
}

async function see(watch: WatchId, pence: number, slug?: string): Promise<void> {
  setPrice(world, pence, slug);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
}

const cuts = (id: ReportId) =>
  world.rows<{ from: number; to: number; lines: number }>(
    'SELECT from_seq AS from, to_seq AS to, lines FROM cut WHERE report_id = $1 AND lines IS NOT NULL ORDER BY number',
    [id],
  );
const mails = (id: ReportId) =>
  world.rows<{ number: number; subject: string; plain: string; atOnce: boolean; state: string }>(
    'SELECT number, subject, plain, at_once AS "atOnce", state FROM delivery WHERE report_id = $1 ORDER BY id',
    [id],
  );

const minuteOf = (at: number) => Math.floor(at / MINUTE) % (24 * 60);

describe('a report that tells at once what its order takes', () => {
  it('makes an edition of each commit that brought news, and none where nothing moved', async () => {
    const watch = await begin();
    const id = await make(order());
    await see(watch, 2200);
    await see(watch, 2200);
    await world.pass(MINUTE);
    await see(watch, 2100);
    const told = await mails(id);
    expect(told.map(({ number, atOnce }) => [number, atOnce])).toEqual([
      [1, true],
      [2, true],
    ]);
    expect(told[0]?.plain).toContain('£24.00 -> £22.00');
    expect(told[1]?.plain).toContain('£22.00 -> £21.00');
    expect(told[1]?.plain).not.toContain('had nothing to tell');
    expect(await cuts(id)).toHaveLength(2);
  });

  it('tells nothing of what it does not take, nor of a size that is not asked', async () => {
    const watch = await begin();
    const [stock, falls] = [
      await make(order({ takes: { ...order().takes, sorts: ['stock'] } }), 'Stock'),
      await make(order({ size: { ...order().size, falls: { is: 'percent', least: '10' as never } } }), 'Falls'),
    ];
    await see(watch, 2300);
    expect(await mails(stock)).toEqual([]);
    expect(await mails(falls)).toEqual([]);
    await see(watch, 2000);
    expect(await mails(stock)).toEqual([]);
    expect(await mails(falls)).toHaveLength(1);
  });

  it('is not cut with what it does not follow', async () => {
    const [watch, other] = [await begin(), await begin({ condition: null, slug: 'steel-smoker' })];
    const id = await make(order({ takes: { ...order().takes, only: { ...order().takes.only, watches: [other] } } }));
    await see(watch, 2200);
    expect(await cuts(id)).toEqual([]);
    await see(other, 1500, 'steel-smoker');
    expect(await cuts(id)).toMatchObject([{ lines: 1 }]);
  });

  it('tells each stretch once: its cuts meet, also where one is cut by hand between', async () => {
    const watch = await begin();
    const id = await make(order());
    for (const price of [2300, 2200]) await see(watch, price);
    await inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, id, world.now));
    await world.pass(0);
    await see(watch, 2100);
    const made = await cuts(id);
    expect(made.map(({ lines }) => lines)).toEqual([1, 1, 0, 1]);
    for (const [place, { from }] of made.entries()) if (place > 0) expect(from).toBe(made[place - 1]?.to);
  });

  it('does not tell again what its reader heard at once through the rule’s own report, and says how much that was', async () => {
    const watch = await begin({ audiences: readers(), condition: fallsBelow('23.00') });
    const id = await make(order());
    await see(watch, 2200);
    // The fall is the alert: nothing is left of it for Ravi.
    expect(await mails(id)).toEqual([]);
    expect(await world.rows('SELECT decision FROM notification WHERE report_id = $1', [id])).toEqual([
      { decision: 'stood back' },
    ]);
    await see(watch, 2150);
    expect(await mails(id)).toHaveLength(1);
  });

  it('tells what another report was to tell, and never did, without what it had told itself', async () => {
    const watch = await begin({ audiences: readers(), condition: fallsBelow('23.00') });
    const other = await begin({ condition: null, slug: 'steel-smoker' });
    const id = await make(order({ cadence: { cut: 'at once', of: 'its order', gather: 10 * MINUTE } }));
    await see(watch, 2200);
    await see(other, 1500, 'steel-smoker');
    await world.pass(10 * MINUTE);
    const [own] = await mails(id);
    expect(own?.plain).toContain('£15.00');
    expect(own?.plain).not.toContain('£22.00');
    const [rules] = await world.rows<{ id: ReportId }>('SELECT report_id AS id FROM report_rule');
    await inTransaction(world.pool, (db) => endReport(db, rules?.id as ReportId, 'shrike.example', world.now));
    await world.pass(MINUTE);
    const [, instead] = await mails(id);
    expect(instead?.plain).toContain('£22.00');
    expect(instead?.plain).not.toContain('£15.00');
  });

  it('loses nothing that is gathered with that while she cannot be reached', async () => {
    const watch = await begin({ audiences: readers(), condition: fallsBelow('23.00') });
    const other = await begin({ condition: null, slug: 'steel-smoker' });
    const id = await make(order({ cadence: { cut: 'at once', of: 'its order', gather: 10 * MINUTE } }));
    await see(watch, 2200);
    await see(other, 1500, 'steel-smoker');
    await world.pass(10 * MINUTE);
    await world.rows(`UPDATE delivery SET state = 'sent', sent_at = ordered_at WHERE report_id = $1`, [id]);
    await world.rows('UPDATE person SET paused_at = now() WHERE id = $1', [world.people.ravi]);
    const [rules] = await world.rows<{ id: ReportId }>('SELECT report_id AS id FROM report_rule');
    await inTransaction(world.pool, (db) => endReport(db, rules?.id as ReportId, 'shrike.example', world.now));
    await see(other, 1400, 'steel-smoker');
    await world.pass(10 * MINUTE);
    expect(await mails(id)).toHaveLength(2);
    await world.rows('UPDATE person SET paused_at = NULL WHERE id = $1', [world.people.ravi]);
    await world.pass(MINUTE);
    const [, instead] = await mails(id);
    expect(instead?.plain).toContain('£22.00');
    expect(instead?.plain).toContain('£15.00 -> £14.00');
    expect(instead?.plain).not.toContain('£13.05 -> £15.00');
  });

  it('gathers what comes within ten minutes from the first news on', async () => {
    const watch = await begin();
    const id = await make(order({ cadence: { cut: 'at once', of: 'its order', gather: 10 * MINUTE } }));
    await see(watch, 2300);
    await world.pass(4 * MINUTE);
    await see(watch, 2200);
    await world.pass(5 * MINUTE);
    expect(await mails(id)).toEqual([]);
    await world.pass(MINUTE);
    expect(await cuts(id)).toMatchObject([{ lines: 2 }]);
    expect(await mails(id)).toHaveLength(1);
  });

  it('gathers from the first news on that it takes, and not at all where it takes none', async () => {
    const watch = await begin();
    const falls = { is: 'percent' as const, least: '10' as never };
    const id = await make(
      order({ cadence: { cut: 'at once', of: 'its order', gather: 10 * MINUTE }, size: { ...order().size, falls } }),
    );
    await see(watch, 2390);
    await world.pass(DAY);
    expect(await cuts(id)).toEqual([]);
    await see(watch, 2380);
    await world.pass(8 * MINUTE);
    await see(watch, 2000);
    const begun = world.now;
    await world.pass(9 * MINUTE);
    expect(await mails(id)).toEqual([]);
    await world.pass(MINUTE);
    expect(await mails(id)).toHaveLength(1);
    expect(await world.rows('SELECT made_at AS at, lines FROM cut WHERE report_id = $1 AND number > 1', [id])).toEqual([
      { at: begun + 10 * MINUTE, lines: 1 },
    ]);
  });

  it('that gathers ends as it began, by what it was then, and what is said anew holds after it', async () => {
    const [watch, other] = [await begin(), await begin({ condition: null, slug: 'steel-smoker' })];
    const only = (id: WatchId) => ({ ...order().takes, only: { ...order().takes.only, watches: [id] } });
    const first = order({ cadence: { cut: 'at once', of: 'its order', gather: 10 * MINUTE }, takes: only(watch) });
    const id = await make(first);
    await see(watch, 2300);
    await world.pass(2 * MINUTE);
    // Of another watch, and by the clock: before the gathering is up, too.
    const { now } = world;
    const daily = order({ cadence: { cut: 'daily', at: minuteOf(now + MINUTE), zone: 'UTC' }, takes: only(other) });
    expect(await save(id, 1, daily)).toBe(2);
    expect(await previewOf(world.pool, daily, id, now)).toMatchObject({
      difference: null,
      endsFirst: { what: 'gathering', until: now + 8 * MINUTE },
    });
    expect(await save(id, 2, { ...daily, cadence: { cut: 'never' } })).toBe(3);
    // From now on: what had begun is not passed over.
    expect(await save(id, 3, { ...daily, cadence: { cut: 'monthly', day: 1, at: 0, zone: 'UTC' } }, true)).toBe(4);
    expect(await save(id, 4, { ...daily, cadence: { cut: 'never' } })).toBe(5);
    await see(other, 1500, 'steel-smoker');
    await see(watch, 2200);
    const [change] = await world.rows<{ id: ChangeId }>('SELECT max(id) AS id FROM change WHERE watch_id = $1', [
      watch,
    ]);
    await placeNews(world.pool);
    const trail = await reportTrailOf(world.pool, { of: 'change', id: change?.id as ChangeId });
    expect(trail).toMatchObject([{ version: 1, came: { to: 'not cut yet' }, at: now + 8 * MINUTE }]);
    await world.pass(8 * MINUTE);
    const made = () =>
      world.rows<{ at: number; version: number; lines: number }>(
        'SELECT made_at AS at, report_version AS version, lines FROM cut WHERE report_id = $1 AND number > 1 ORDER BY id',
        [id],
      );
    expect(await made()).toEqual([{ at: now + 8 * MINUTE, version: 1, lines: 2 }]);
    await world.pass(DAY);
    expect(await made()).toHaveLength(1);
    expect(await world.rows('SELECT due_at AS due, gathers_by AS by FROM report WHERE id = $1', [id])).toEqual([
      { due: null, by: null },
    ]);
  });

  it('that tells at once from now on tells first what waits, as it was, and says no more than that', async () => {
    const [watch, other] = [await begin(), await begin({ condition: null, slug: 'steel-smoker' })];
    const only = (...watches: WatchId[]) => ({ ...order().takes, only: { ...order().takes.only, watches } });
    const id = await make(order({ cadence: { cut: 'never' }, takes: only(watch) }));
    await see(watch, 2300);
    await see(other, 1500, 'steel-smoker');
    const both = order({ takes: only(watch, other) });
    expect(await previewOf(world.pool, both, id, world.now)).toMatchObject({
      difference: null,
      endsFirst: { what: 'cut' },
    });
    await save(id, 1, both);
    await see(other, 1400, 'steel-smoker');
    expect(await cuts(id)).toMatchObject([{ lines: 1 }, { lines: 1 }]);
  });

  it('holds up no look where a newer Shrike wrote its order', async () => {
    const watch = await begin();
    const id = await make(order());
    await world.pool.query(`UPDATE report_version SET definition = definition || '{"v": 99}' WHERE report_id = $1`, [
      id,
    ]);
    await see(watch, 2200);
    expect(await world.rows('SELECT FROM change')).toHaveLength(1);
    expect(await cuts(id)).toEqual([]);
  });

  it('is not the report that a sentence’s ‘at once’ joins', async () => {
    await make(order());
    await begin({ audiences: readers(), condition: fallsBelow('23.00') });
    expect(await world.rows(`SELECT FROM report WHERE ended_at IS NULL`)).toHaveLength(2);
  });
});

describe('a report after each run', () => {
  it('is cut with each look, also with one that brought nothing, and says so where that is asked', async () => {
    const watch = await begin();
    const [says, skips] = [
      await make(order({ cadence: { cut: 'after each run' }, whenNothing: 'say' }), 'Says'),
      await make(order({ cadence: { cut: 'after each run' } }), 'Skips'),
    ];
    await askForRun(world.pool, watch, world.now);
    await world.pass(0);
    await world.pass(MINUTE);
    await see(watch, 2200);
    expect((await cuts(says)).map(({ lines }) => lines)).toEqual([0, 1]);
    expect((await mails(says)).map(({ subject }) => /nothing moved/i.test(subject))).toEqual([true, false]);
    expect(await mails(skips)).toHaveLength(1);
    expect((await mails(skips))[0]?.plain).toContain('Before it one cut had nothing to tell');
  });

  it('is cut with a look that failed, and tells what broke', async () => {
    await begin();
    const id = await make(order({ cadence: { cut: 'after each run' } }));
    world.standins.world.push('page', 'copper-smoker-large', 'retired');
    for (let looks = 0; looks < 3; looks += 1) await world.pass(HOUR);
    const told = await mails(id);
    expect(await cuts(id)).toHaveLength(3);
    expect(told).toHaveLength(1);
    expect(told[0]?.subject).toMatch(/not read/);
  });
});

describe('a watch that is not read', () => {
  const fail = async (watch: WatchId, page: 'retired' | 'there') => {
    world.standins.world.push('page', 'copper-smoker-large', page);
    for (let looks = 0; looks < 3; looks += 1) {
      await askForRun(world.pool, watch, world.now);
      await world.pass(HOUR);
    }
  };
  const heardBy = async (person: keyof TestWorld['people']) =>
    (
      await world.rows<{ subject: string }>(
        `SELECT subject FROM delivery WHERE person_id = $1 AND purpose = 'edition' ORDER BY id`,
        [world.people[person]],
      )
    ).map(({ subject }) => /not read|read again/i.exec(subject)?.[0].toLowerCase() ?? subject);
  const both = () => ({ ...order(), readers: [`person:${world.people.ines}`, `person:${world.people.tom}`] });

  it('is told once at once to whom answers for it, though her own report takes what broke; the others hear by that', async () => {
    const watch = await begin();
    const id = await make(both());
    await world.pool.query('UPDATE person SET confirmed_at = $1', [new Date(world.now)]);
    await fail(watch, 'retired');
    await fail(watch, 'there');
    expect(await heardBy('ines')).toEqual(['not read', 'read again']);
    expect(await heardBy('tom')).toEqual(['not read', 'read again']);
    expect((await mails(id)).map(({ number }) => number)).toEqual([1, 2]);
  });

  it('is told once at once to whom a rule tells of it, too, beside what else there is', async () => {
    const watch = await begin({ audiences: [`person:${world.people.ines}`] });
    await make(both());
    await world.pool.query('UPDATE person SET confirmed_at = $1', [new Date(world.now)]);
    await fail(watch, 'retired');
    expect(await heardBy('ines')).toEqual(['not read']);
    expect(await heardBy('tom')).toEqual(['not read']);
  });

  it('is told by a digest all the same: that says how all stands', async () => {
    const watch = await begin();
    const id = await make({ ...both(), cadence: { cut: 'never' } });
    await fail(watch, 'retired');
    await inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, id, world.now));
    await world.pass(0);
    expect((await mails(id)).filter(({ plain }) => (plain as string | null)?.includes('NOT READ'))).toHaveLength(1);
    expect(await heardBy('ines')).toEqual(['not read', 'not read']);
  });
});

describe('a cadence that is changed', () => {
  const daily = () => order({ cadence: { cut: 'daily', at: 450, zone: 'Europe/London' } });

  it('to at once: what waits is cut at saving', async () => {
    const watch = await begin();
    const id = await make(daily());
    await see(watch, 2200);
    await save(id, 1, order());
    await world.pass(0);
    expect((await mails(id)).map(({ number }) => number)).toEqual([1]);
    expect(
      await world.rows('SELECT report_version AS v FROM cut WHERE report_id = $1 ORDER BY number DESC LIMIT 1', [id]),
    ).toEqual([{ v: 1 }]);
    await world.pass(DAY);
    expect(await mails(id)).toHaveLength(1);
  });

  it('from gathering to daily: what is gathered goes when it would have gone', async () => {
    const watch = await begin();
    const id = await make(order({ cadence: { cut: 'at once', of: 'its order', gather: 30 * MINUTE } }));
    await see(watch, 2200);
    await save(id, 1, daily());
    await world.pass(29 * MINUTE);
    expect(await mails(id)).toEqual([]);
    await world.pass(MINUTE);
    expect(await mails(id)).toHaveLength(1);
    await world.pass(DAY);
    expect(await mails(id)).toHaveLength(1);
  });

  it('refuses to make one of rules one of an order, and the other way round', async () => {
    const id = await make(order());
    expect(await save(id, 1, order({ cadence: { cut: 'at once' } }))).toBeNull();
  });
});

describe('before it is saved', () => {
  it('says what it would have made of last week, and what a change adds and drops', async () => {
    const watch = await begin();
    const id = await make(order({ cadence: { cut: 'never' } }));
    for (const price of [2300, 2200]) {
      await world.pass(HOUR);
      await see(watch, price);
    }
    const { week, difference, endsFirst } = await previewOf(world.pool, order(), id, world.now);
    expect(week).toMatchObject({ cuts: 2, editions: 2, lines: 2, more: false });
    // What waits is told at saving, as it was said before.
    expect({ difference, endsFirst }).toEqual({ difference: null, endsFirst: { what: 'cut' } });
    const gathered = await previewOf(
      world.pool,
      order({ cadence: { cut: 'at once', of: 'its order', gather: 4 * HOUR } }),
      null,
      world.now,
    );
    expect(gathered).toMatchObject({ week: { cuts: 1, editions: 1, lines: 2 }, difference: null });
    const stock = await previewOf(
      world.pool,
      order({ cadence: { cut: 'never' }, takes: { ...order().takes, sorts: ['stock'] } }),
      id,
      world.now,
    );
    expect(stock.difference).toMatchObject({
      added: { count: 0 },
      dropped: { count: 2, names: ['Copper smoker at Skepwright'] },
    });
  });
});

describe('a digest that leaves out what was told at once', () => {
  const daily = (toldBefore: ReportDefinition['toldBefore']) =>
    order({ cadence: { cut: 'daily', at: 450, zone: 'Europe/London' }, toldBefore });

  it('counts it, and sends no mail where nothing remains; the trail says who told it', async () => {
    const watch = await begin({ audiences: readers(), condition: fallsBelow('23.00') });
    const [marks, leaves] = [await make(daily('mark'), 'Marks'), await make(daily('leave out'), 'Leaves')];
    await see(watch, 2200);
    await world.sendMail();
    await world.pass(DAY);
    expect((await mails(marks)).map(({ plain }) => plain.includes('told at once'))).toEqual([true]);
    expect(await mails(leaves)).toEqual([]);
    expect(
      await world.rows('SELECT decision, in_favour_of IS NOT NULL AS told FROM notification WHERE report_id = $1', [
        leaves,
      ]),
    ).toEqual([{ decision: 'stood back', told: true }]);
    for (const price of [2150, 2400, 2200]) {
      await world.pass(MINUTE);
      await see(watch, price);
    }
    await world.sendMail();
    await world.pass(DAY);
    expect(
      (await mails(leaves)).map(({ plain }) => /One line that you were told before is left out/i.test(plain)),
    ).toEqual([true]);
  });

  it('tells what was to be told at once and has not gone out by then, and does not say that it was told', async () => {
    const watch = await begin({ audiences: readers(), condition: fallsBelow('23.00') });
    const [marks, leaves] = [await make(daily('mark'), 'Marks'), await make(daily('leave out'), 'Leaves')];
    await see(watch, 2200);
    await world.pass(DAY);
    for (const report of [marks, leaves]) {
      const [mail, ...others] = await mails(report);
      expect(others).toEqual([]);
      expect(mail?.plain).toContain('£24.00 -> £22.00');
      expect(mail?.plain).not.toContain('told at once');
    }
  });
});

describe('a report of values as they stand', () => {
  it('has them at each cut, as they stood at it, moved or not; of a deleted watch it is said', async () => {
    const [watch, other] = [await begin(), await begin({ condition: null, slug: 'steel-smoker' })];
    const [mine, theirs] = [await seriesOf(world.pool, watch, 10), await seriesOf(world.pool, other, 10)];
    expect(mine.map(({ name }) => name)).toEqual(['Copper smoker: price']);
    const present = [...theirs, ...mine].map(({ id: series }, place) => ({ series, name: `Value ${place}` }));
    const id = await make(order({ cadence: { cut: 'daily', at: 450, zone: 'Europe/London' }, shows: 'net', present }));
    await see(watch, 2200);
    await world.pass(DAY);
    await see(watch, 2100);
    const [first] = await mails(id);
    expect(first?.subject).toMatch(/^As it moves: Value 0 £/);
    expect(first?.plain).toMatch(/- Value 0: £\d+\.\d\d.*\n- Value 1: £22\.00/);
    await world.pool.query(`UPDATE watch SET state = 'deleted' WHERE id = $1`, [other]);
    await world.pass(DAY);
    const [, second] = await mails(id);
    expect(second?.plain).toMatch(/- Value 0: none \(its watch was deleted\)\n- Value 1: £21\.00/);
    const { documents } = await previewOf(world.pool, order({ cadence: { cut: 'never' }, present }), id, world.now);
    expect(documents[0]?.present?.map(({ name }) => name)).toEqual(['Value 0', 'Value 1']);
  });
});
