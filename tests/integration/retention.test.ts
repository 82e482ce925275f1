import { IS_LONG } from '#tests/support/search';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DAY, HOUR } from '#core/when/interval';
import { RETAINED, retentionFault } from '#core/retention';
import { keepFor, removeOld, retentionNow } from '#server/db/base/retention';
import { takenNow } from '#server/db/base/views/space-taken';
import { preparePartitions } from '#server/db/base/partitions';
import { retentionOf } from '#server/work/services';
import { NEXT_LOOK, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// Ten years of a watch, a sensor and their mails, tidied as a worker does: what is kept is bounded, and what is kept is
// whole.

/** Ten in the long run; in fewer than four nothing is old enough to go. */
const YEARS = IS_LONG ? 10 : 6;
const PATIENCE_MS = 600_000;
const A_YEAR = 365 * DAY;

let world: TestWorld;
let watch = 0;
beforeAll(async () => {
  world = await openWorld({ SHRIKE_KEEP_READING_DAYS: '730', SHRIKE_KEEP_NEWS_DAYS: '1095' });
  setPrice(world, 2400);
  watch = await startWatch(world, { condition: { kind: 'change', asked: { field: 'price' } } });
  await world.pass(0);
});
afterAll(() => world.close());

const count = async (table: string) =>
  (await world.rows<{ n: number }>(`SELECT count(*)::int AS n FROM ${table}`))[0]?.n ?? 0;
const TABLES = [
  'run',
  'watch_run',
  'verdict',
  'snapshot',
  'reading',
  'change',
  'alert',
  'episode',
  'edition',
  'delivery',
  'delivery_attempt',
  'notification',
  'session',
  'draft',
  'posted_message',
  'cut',
];

/**
 * A month of looks, half of which bring another reading and no news, and of a sensor's points, written as runs would;
 * then one change, run and mailed for real.
 */
async function month(at: number): Promise<void> {
  const from = new Date(at).toISOString();
  await world.pool.query(
    `WITH looks AS (
       INSERT INTO run (id, source_id, due_at, started_at, took_ms, late_ms, outcome, status, bytes, snapshot_id)
       SELECT nextval('record_id') + 50, s.id, t, t, 5, 5, CASE WHEN extract(hour FROM t)::int % 8 = 0 THEN 'same'
         ELSE 'changed' END, 200, 100, s.snapshot_id
       FROM source s, generate_series($1::timestamptz, $1::timestamptz + interval '27 days', '4 hours') t
       RETURNING id, started_at, outcome
     ), seen AS (
       INSERT INTO watch_run (watch_id, run_id, started_at, outcome) SELECT $2, id, started_at, outcome FROM looks
     ), judged AS (
       INSERT INTO verdict (id, run_id, rule_id, rule_version, series_id, state_before, state_after, taken, reason,
         inputs, made_at)
       SELECT nextval('record_id') + 51, l.id, (SELECT min(id) FROM rule), 1, (SELECT min(id) FROM series), 'calm',
         'calm', false, '"not met"', '{}', l.started_at FROM looks l
     )
     INSERT INTO reading (series_id, first_seen, last_seen, kind, amount, run_id)
     SELECT 9000000, t, t, 'number', 1, 1
     FROM generate_series($1::timestamptz, $1::timestamptz + interval '27 days', '6 hours') t`,
    [from, watch],
  );
  await world.pool.query(
    `WITH own AS (INSERT INTO account (person_id, password, made_at) VALUES ($2, 'x', $1::text::timestamptz)
      ON CONFLICT (person_id) DO UPDATE SET made_at = excluded.made_at RETURNING id)
     INSERT INTO session (token_hash, account_id, created_at, expires_at)
     SELECT sha256($1::text::bytea), id, $1::text::timestamptz, $1::text::timestamptz + interval '30 days' FROM own`,
    [from, world.people.ines],
  );
  await world.pool.query(
    `INSERT INTO draft (person_id, address, content, updated_at) VALUES ($1, 'http://a.example/', '{}', $2)`,
    [world.people.ines, from],
  );
}

describe('years of looks', () => {
  it(
    'stay bounded, in small steps, and what news needs is kept as long as the news',
    { timeout: PATIENCE_MS },
    async () => {
      const beginning = world.now;
      const retention = retentionOf(world.config);
      const most: Record<string, number> = {};
      for (let step = 0; step < YEARS * 12; step += 1) {
        world.now = beginning + (step + 1) * 30 * DAY;
        await preparePartitions(world.pool, world.now - 30 * DAY, world.now + DAY);
        await month(world.now - 29 * DAY);
        setPrice(world, 2400 + ((step * 7) % 500));
        await world.pass(NEXT_LOOK);
        await world.sendMail();
        await removeOld(world.pool, retention, world.now);
        if (step > 4 * 12) for (const table of TABLES) most[table] = Math.max(most[table] ?? 0, await count(table));
      }
      // A month has some 160 looks and 110 points; those of one month, the news of three years and the points of two
      // are left.
      expect(most.run).toBeLessThan(170 * 3 + 60);
      expect(most.watch_run).toBeLessThan(170 * 3 + 60);
      expect(most.verdict).toBeLessThan(170 * 3 + 60);
      expect(most.reading).toBeLessThan(110 * 27 + 200);
      expect(most.snapshot).toBeLessThan(20);
      for (const table of ['change', 'alert', 'edition', 'delivery'])
        expect(most[table], table).toBeLessThanOrEqual(2 * 38);
      expect(most.session).toBeLessThan(4);
      expect(most.draft).toBeLessThan(6);

      const orphans = await world.rows<{ what: string }>(
        `SELECT 'change without its run' AS what FROM change c
          WHERE NOT EXISTS (SELECT FROM run r WHERE r.id = c.run_id)
       UNION ALL SELECT 'alert without its change' FROM alert a
       WHERE a.change_id IS NOT NULL AND NOT EXISTS (SELECT FROM change c WHERE c.id = a.change_id)
       UNION ALL SELECT 'alert without its verdict' FROM alert a
       WHERE a.change_id IS NOT NULL AND NOT EXISTS (SELECT FROM verdict v WHERE v.change_id = a.change_id)
       UNION ALL SELECT 'edition without its alerts' FROM edition e
       WHERE NOT EXISTS (SELECT FROM edition_alert a WHERE a.edition_id = e.id)
       UNION ALL SELECT 'source without its snapshot' FROM source s
       WHERE s.snapshot_id IS NOT NULL AND NOT EXISTS (SELECT FROM snapshot n WHERE n.id = s.snapshot_id)
       UNION ALL SELECT 'series without its open reading' FROM series s
       WHERE NOT EXISTS (SELECT FROM reading r WHERE r.series_id = s.id AND r.first_seen = s.open_since)`,
      );
      expect(orphans).toEqual([]);
    },
  );

  it('leave a price that has not moved for longer than readings are kept in force', async () => {
    world.now += 5 * A_YEAR;
    await world.pool.query('UPDATE due SET due_at = $1', [new Date(world.now + HOUR)]);
    await removeOld(world.pool, retentionOf(world.config), world.now);
    expect(await count(`reading r JOIN series s ON s.id = r.series_id AND s.open_since = r.first_seen`)).toBe(1);
    setPrice(world, 1000);
    world.now += 2 * HOUR;
    await world.pool.query('UPDATE watch SET read_due_at = $1', [new Date(world.now)]);
    expect(await world.pass(0)).toMatchObject([{ outcome: 'read', changes: 1 }]);
  });

  it('keep of mails the words for as long as somebody chose, and that they went for as long as the news', async () => {
    world.now += DAY;
    setPrice(world, 2000);
    await world.pool.query('UPDATE watch SET read_due_at = $1', [new Date(world.now)]);
    await world.pool.query('UPDATE due SET due_at = $1', [new Date(world.now)]);
    await world.pass(0);
    await world.sendMail();
    const mails = () =>
      world.rows<{ words: boolean; subject: string | null }>(
        `SELECT plain IS NOT NULL AS words, subject FROM delivery WHERE state = 'sent' AND ordered_at > $1`,
        [new Date(world.now - 31 * DAY)],
      );
    const before = await mails();
    expect(before.length).toBeGreaterThan(0);
    for (const what of ['mails', 'editions'] as const)
      await keepFor(world.pool, what, 10, world.people.ines, world.now);
    const tidy = async () =>
      removeOld(world.pool, await retentionNow(world.pool, retentionOf(world.config)), world.now);
    world.now += 9 * DAY;
    await tidy();
    expect((await mails()).every(({ words }) => words)).toBe(true);
    world.now += 2 * DAY;
    await tidy();
    expect(await mails()).toEqual(before.map(({ subject }) => ({ words: false, subject })));
    expect(await count('edition')).toBe(0);
    expect(await count('change')).toBeGreaterThan(0);
  });

  it('say what each kind takes, and what it grew by', async () => {
    const taken = await takenNow(world.pool, world.now);
    expect(taken.map(({ what }) => what)).toEqual([...RETAINED]);
    const [total] = await world.rows<{ n: number }>('SELECT pg_database_size(current_database())::float8 AS n');
    const sum = taken.reduce((all, { bytes }) => all + bytes, 0);
    expect(sum).toBeGreaterThan(1_000_000);
    expect(sum).toBeLessThan(total?.n ?? 0);
    for (const { what, bytes, weekBytes } of taken) {
      // The words of all mails were let go just now.
      if (what !== 'mails') expect(bytes, what).toBeGreaterThan(0);
      expect(weekBytes, what).toBeLessThanOrEqual(bytes);
    }
  });

  it.each([0, 36_501, 1.5])('are not set to %s days', async (days) => {
    expect(retentionFault(days)).toMatch(/whole number of days/);
    if (Number.isInteger(days))
      await expect(keepFor(world.pool, 'news', days, world.people.ines, world.now)).rejects.toThrow();
  });

  it('let two tidy at once', async () => {
    await Promise.all(Array.from({ length: 3 }, () => removeOld(world.pool, retentionOf(world.config), world.now)));
  });
});
