import { numbered } from '../support/numbered';
import type { WatchId } from '#core/id';
import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { openBody, sniffFormat, type Format } from '#core/read/body';
import { listingsOf } from '#core/read/listing/listing';
import { DAY, HOUR } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { claimDue } from '#server/db/source/sources';
import { findWatch } from '#server/db/watch/views/watch-now';
import { listRecords } from '#server/db/reading/records';
import { createWatch } from '#server/actions/edit-watch';
import { runSource } from '#server/pipeline/run';
import { mutated, SAMPLES } from '../support/mutated';
import { openSite, type Site } from '../support/site';
import { openWorld, type TestWorld } from '../support/world';
import { tries } from '#tests/support/search';

// What a source sends may be anything. However odd, a run ends in the record: read, or failed with a reason.

let world: TestWorld;
let site: Site;
let body = '';
beforeAll(async () => {
  site = await openSite({
    '/data': (_, response) => response.writeHead(200, { 'content-type': 'application/json' }).end(body),
  });
  world = await openWorld({ SHRIKE_ADMITTED: site.host });
});
afterAll(async () => {
  site.close();
  await world.close();
});
beforeEach(() => world.clear());

/** Sets up whatever a good body proposes, then sends another; returns how the run with it came out. */
async function turnInto(good: string, bad: string) {
  body = good;
  const opened = openBody(good, sniffFormat(good), world.now);
  const [listing] = opened.ok ? listingsOf(opened.value) : [];
  if (listing === undefined) throw new Error('nothing is proposed');
  const { records, fields, identity } = listing;
  const definition = {
    subject: 'Data',
    records,
    fields,
    identity,
    variant: null,
    chosen: null,
    leftOut: [],
    guards: [],
  };
  const plan = { definition, frequency: { count: 1, unit: 'hour' as const }, rules: [] };
  const source = { address: `${site.base}/data`, host: site.host, site: 'Site', mostAtOnce: 4 };
  const id = await inTransaction(world.pool, (db) =>
    createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
  );
  expect(await world.pass(0)).toMatchObject([{ outcome: 'read' }]);
  body = bad;
  const [run] = await world.pass(HOUR);
  const records_ = await listRecords(world.pool, id, { words: '', chosen: null, most: 100 });
  return { run, problem: (await findWatch(world.pool, id))?.problem?.sentence ?? null, records: records_ };
}

const rows = (...given: { name: string; price: string }[]) =>
  `[${given.map(({ name, price }) => `{"name": "${name}", "price": ${price}}`).join(', ')}]`;
const GOOD = rows({ name: 'Hive tool', price: '1.50' }, { name: 'Smoker fuel', price: '2.50' });
/** Text that no compression makes shorter. */
const noise = (length: number) => createHash('shake256', { outputLength: length }).update('noise').digest('hex');

describe('a run that meets odd words', () => {
  it.each([
    ['a nought character', rows({ name: 'Hive\\u0000 tool', price: '1' })],
    ['half a character', rows({ name: 'Hive\\ud800 tool', price: '1' })],
    ['half a character the other way', rows({ name: '\\udc00Hive', price: '1' })],
    ['a name without end', rows({ name: noise(20_000), price: '1' })],
    ['a name of control characters', rows({ name: '\\u0001\\u001b[31m', price: '1' })],
    ['a number beyond all size', rows({ name: 'Hive tool', price: '1e400' })],
    ['a number with digits without end', rows({ name: 'Hive tool', price: '9'.repeat(5000) })],
    ['a number below all size', rows({ name: 'Hive tool', price: '1e-400' })],
    ['names that quote SQL', rows({ name: "A'; DROP TABLE watch; --", price: '1' })],
    ['names of its own workings', rows({ name: '__proto__', price: '1' }, { name: 'constructor', price: '2' })],
  ])('%s: it ends in the record', async (_, bad) => {
    const { run, problem } = await turnInto(GOOD, bad);
    expect(run?.outcome).toMatch(/^(read|failed)$/);
    expect(problem ?? '').not.toContain('could not be kept');
    expect(await world.rows('SELECT FROM run')).toHaveLength(2);
  });
});

describe('runs that meet mutated bodies', () => {
  const LOOKS = Math.max(20, tries(25));

  it.each(Object.keys(SAMPLES) as Format[])('of %s all end in the record, and for no fault of ours', async (format) => {
    await turnInto(SAMPLES[format], SAMPLES[format]);
    await fc.assert(
      fc.asyncProperty(mutated(SAMPLES[format]), async (text) => {
        body = text;
        const [run] = await world.pass(25 * HOUR);
        expect(run?.outcome).toMatch(/^(settled|read|failed)$/);
      }),
      { numRuns: LOOKS, endOnFailure: true },
    );
    expect(await world.rows(`SELECT problem FROM run WHERE problem->>'reason' = 'not kept'`)).toEqual([]);
  });
});

describe('a run that fails in a way nobody thought of', () => {
  const failing = { kept: true };
  const run = async () => {
    const [source] = await claimDue(world.pool, world.now, world.config.leaseMs, 1);
    if (source === undefined) throw new Error('nothing is due');
    const onStep = (step: string) =>
      step === 'judged' && failing.kept ? Promise.reject(new RangeError('a sum that has no end')) : Promise.resolve();
    return runSource({ ...world.services.pipeline, onStep }, source);
  };

  it('leaves nothing behind but its reason, keeps what is known, and is made up by the next', async () => {
    const { records } = await turnInto(GOOD, GOOD);
    body = rows({ name: 'Hive tool', price: '9.00' });
    world.now += 2 * HOUR;
    failing.kept = true;
    expect(await run()).toMatchObject({ outcome: 'failed' });
    const [watch] = await world.rows<{ id: WatchId; problem: { sentence: string } }>('SELECT id, problem FROM watch');
    expect(watch?.problem.sentence).toContain('could not be kept (a sum that has no end)');
    expect(await world.rows('SELECT FROM change')).toEqual([]);
    expect(
      await listRecords(world.pool, numbered(watch?.id ?? 0), { words: '', chosen: null, most: 100 }),
    ).toHaveLength(records.length);
    failing.kept = false;
    world.now += 2 * HOUR;
    expect(await run()).toMatchObject({ outcome: 'read', changes: 2 });
  });
});

describe('a run that meets odd times', () => {
  const pack = (...times: string[]) =>
    `[${times.map((time, at) => `{"bn": "yard/", "n": "scale", "u": "kg", "t": ${time}, "v": ${30 + at}}`).join(', ')}]`;
  const seconds = (at: number) => String(at / 1000);

  it.each([
    ['further ahead than clocks can be apart', () => seconds(world.now + 400 * DAY)],
    ['beyond the calendar', () => '1e18'],
    ['beyond all numbers', () => '1e400'],
    ['before the calendar', () => '-1e300'],
    ['before there was a clock to tell it', () => '-1e10'],
  ])('%s: that point is not read, and why is said', async (_, time) => {
    const { run, problem, records } = await turnInto(pack(seconds(world.now - 1000)), pack(time()));
    expect(run?.outcome).toMatch(/^(read|failed)$/);
    expect(problem).toMatch(/cannot be right|has a time that is no number/);
    expect(records[0]?.series[0]?.value).toMatchObject({ amount: '30' });
    body = pack(seconds(world.now + 500), seconds(world.now + 1000));
    await world.pass(25 * HOUR);
    expect(await world.rows('SELECT FROM reading WHERE late')).toEqual([]);
    expect(await world.rows('SELECT FROM reading')).toHaveLength(2);
  });

  it('of years ago: it takes its place in the series', async () => {
    const { problem } = await turnInto(pack(seconds(world.now - 1000)), pack(seconds(world.now - 3000 * DAY)));
    expect(problem).toBeNull();
    expect(await world.rows('SELECT FROM reading WHERE late')).toHaveLength(1);
  });
});
