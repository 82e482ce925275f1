import type { ReportId, WatchId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { DAY, HOUR, MINUTE, type Instant } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { findReport } from '#server/db/report/reports';
import { askForRun } from '#server/actions/edit-watch';
import { cutByHand } from '#server/pipeline/report/cut';
import { saveReport } from '#server/pipeline/report/store';
import { fallsBelow, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// Reports that tell at once, but gather for a while first: the first news begins it, and it is cut when that is up (4).

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(() => world.clear());
afterAll(() => world.close());

const gatherFor = async (id: ReportId, minutes: number | null) => {
  const report = await findReport(world.pool, id);
  if (report === null) throw new Error('no report');
  const cadence =
    minutes === null ? { cut: 'at once' as const } : { cut: 'at once' as const, gather: minutes * MINUTE };
  const saved = {
    id,
    over: report.version,
    plan: { name: report.name, order: { ...report.order, cadence } },
    passOver: false,
  };
  return inTransaction(world.pool, (db) =>
    saveReport(db, world.services.pipeline.ids, saved, world.people.ines, world.now),
  );
};

/** A watch that is told at once to some, and the report through which it is. */
async function begin(audiences: string[], minutes: number | null): Promise<{ watch: WatchId; report: ReportId }> {
  const watch = await startWatch(world, { audiences, condition: null });
  await world.pass(0);
  const other = await startWatch(world, { audiences, slug: 'steel-smoker', condition: fallsBelow('1.00') });
  const [report] = await world.rows<{ id: ReportId }>(
    'SELECT j.report_id AS id FROM report_rule j JOIN rule u ON u.id = j.rule_id WHERE u.watch_id = $1',
    [other],
  );
  if (report === undefined) throw new Error('no report');
  if (minutes !== null) await gatherFor(report.id, minutes);
  return { watch, report: report.id };
}

/** Alerts at each fall: a watch of its own for each, so that they do not hold one another back. */
async function alertAt(at: Instant, audiences: string[], slug: string): Promise<void> {
  await world.pass(at - world.now);
  setPrice(world, 3000, slug);
  const watch = await startWatch(world, { audiences, slug, condition: fallsBelow('22.00') });
  await world.pass(0);
  setPrice(world, 2000, slug);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
}

const SLUGS = ['copper-smoker-small', 'cedar-hive-six', 'extractor-four', 'jars-340-72', 'fondant-12'];
const ravi = () => [`person:${world.people.ravi}`];
const cuts = (id: ReportId) =>
  world.rows<{ made: Instant; lines: number }>(
    'SELECT made_at AS made, lines FROM cut WHERE report_id = $1 AND lines IS NOT NULL ORDER BY number',
    [id],
  );
const mails = (id: ReportId) =>
  world.rows<{ number: number; plain: string; person: number }>(
    'SELECT number, plain, person_id AS person FROM delivery WHERE report_id = $1 ORDER BY id',
    [id],
  );

describe('ten minutes’ gathering', () => {
  it('takes alerts at 10:00, 10:04 and 10:11 in cuts at 10:10 and 10:21', async () => {
    const { report } = await begin(ravi(), 10);
    const ten = world.now + HOUR;
    await alertAt(ten, ravi(), SLUGS[0] ?? '');
    await alertAt(ten + 4 * MINUTE, ravi(), SLUGS[1] ?? '');
    expect(await mails(report)).toEqual([]);
    await world.pass(ten + 10 * MINUTE - world.now);
    await alertAt(ten + 11 * MINUTE, ravi(), SLUGS[2] ?? '');
    await world.pass(ten + 21 * MINUTE - world.now);
    await world.pass(DAY / 2);
    expect(await cuts(report)).toEqual([
      { made: ten + 10 * MINUTE, lines: 2 },
      { made: ten + 21 * MINUTE, lines: 1 },
    ]);
    const told = await mails(report);
    expect(told.map(({ number }) => number)).toEqual([1, 2]);
    expect(told[0]?.plain).toMatch(/covers what was gathered in 10 min, which raised 2 alerts/);
    expect(await world.rows('SELECT FROM gathered')).toEqual([]);
  });

  it('tells nobody twice whom another report told at once meanwhile', async () => {
    const { report } = await begin(['list:1'], 10);
    const ten = world.now + HOUR;
    // Ravi hears of it at once by a report of his own; Inés by the one that gathers.
    await world.pass(HOUR);
    setPrice(world, 3000, SLUGS[0]);
    const watch = await startWatch(world, {
      audiences: ['list:1'],
      slug: SLUGS[0] ?? '',
      condition: fallsBelow('22.00'),
    });
    const [rule] = await world.rows<{ id: number }>('SELECT id FROM rule WHERE watch_id = $1', [watch]);
    await startWatch(world, { audiences: ravi(), slug: SLUGS[1] ?? '', condition: fallsBelow('1.00') });
    const [own] = await world.rows<{ id: ReportId }>('SELECT max(id) AS id FROM report');
    await world.rows('INSERT INTO report_rule (report_id, rule_id, joined_at) VALUES ($1, $2, now())', [
      own?.id,
      rule?.id,
    ]);
    await world.pass(0);
    setPrice(world, 2000, SLUGS[0]);
    await askForRun(world.pool, watch, world.now);
    await world.pass(0);
    expect((await mails(own?.id as ReportId)).map(({ person }) => person)).toEqual([world.people.ravi]);
    await world.pass(ten + 10 * MINUTE - world.now);
    expect((await mails(report)).map(({ person }) => person)).toEqual([world.people.ines]);
    expect(
      await world.rows(
        `SELECT decision, in_favour_of AS report FROM notification WHERE report_id = $1 AND person_id = $2`,
        [report, world.people.ravi],
      ),
    ).toEqual([{ decision: 'stood back', report: own?.id }]);
  });

  it('ends as it began where it is made longer meanwhile, and where it is taken off', async () => {
    const { report } = await begin(ravi(), 10);
    const ten = world.now + HOUR;
    await alertAt(ten, ravi(), SLUGS[0] ?? '');
    await gatherFor(report, 60);
    await world.pass(10 * MINUTE);
    expect((await cuts(report)).map(({ made }) => made)).toEqual([ten + 10 * MINUTE]);
    await alertAt(ten + 20 * MINUTE, ravi(), SLUGS[1] ?? '');
    await gatherFor(report, null);
    await alertAt(ten + 30 * MINUTE, ravi(), SLUGS[2] ?? '');
    expect(await mails(report)).toHaveLength(1);
    await world.pass(50 * MINUTE);
    expect((await cuts(report)).map(({ made, lines }) => [made - ten, lines])).toEqual([
      [10 * MINUTE, 1],
      [80 * MINUTE, 2],
    ]);
    await alertAt(ten + 90 * MINUTE, ravi(), SLUGS[3] ?? '');
    expect(await mails(report)).toHaveLength(3);
  });

  it('ends with a cut by hand, and begins anew with what comes after', async () => {
    const { report } = await begin(ravi(), 10);
    const ten = world.now + HOUR;
    await alertAt(ten, ravi(), SLUGS[0] ?? '');
    await world.pass(3 * MINUTE);
    await inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, report, world.now));
    await alertAt(ten + 5 * MINUTE, ravi(), SLUGS[1] ?? '');
    await world.pass(10 * MINUTE);
    expect((await cuts(report)).map(({ made, lines }) => [made - ten, lines])).toEqual([
      [3 * MINUTE, 1],
      [15 * MINUTE, 1],
    ]);
  });

  it('takes what broke, too, and is joined by what is told to the same people at once', async () => {
    const { report } = await begin(ravi(), 10);
    const gone = await startWatch(world, { audiences: ravi(), slug: SLUGS[0] ?? '', condition: fallsBelow('1.00') });
    await world.pass(0);
    expect(
      await world.rows(
        'SELECT DISTINCT j.report_id AS id FROM report_rule j JOIN rule u ON u.id = j.rule_id WHERE u.watch_id = $1',
        [gone],
      ),
    ).toEqual([{ id: report }]);
    world.standins.world.push('page', SLUGS[0] ?? '', 'missing');
    for (let look = 0; look < 8; look += 1) {
      await askForRun(world.pool, gone, world.now);
      await world.pass(HOUR);
    }
    const [first] = await mails(report);
    expect(first?.plain).toMatch(/Copper smoker/);
    expect(await world.rows('SELECT FROM gathered')).toEqual([]);
  });

  it('is lost with its report, and nothing of it is told', async () => {
    const { report } = await begin(ravi(), 10);
    await alertAt(world.now + HOUR, ravi(), SLUGS[0] ?? '');
    await world.rows('UPDATE report SET ended_at = now(), due_at = NULL WHERE id = $1', [report]);
    await world.pass(HOUR);
    expect(await mails(report)).toEqual([]);
  });
});
