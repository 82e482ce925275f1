import { once } from 'node:events';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Clause } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import { pageDefinition, type WatchDefinition } from '#core/read/definition';
import type { Decimal } from '#core/value/decimal';
import { readConfig } from '#server/config';
import { claimDue } from '#server/db/source/sources';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { moveClock } from '#server/pipeline/clock';
import { runSource } from '#server/pipeline/run';
import { openServices, type Services } from '#server/work/services';
import { withDatabase, type BenchDatabase } from './database';
import { median, say, spread } from './figures';
import { HOUR, START } from './runs';

// What the states of rules cost: a run of 10,000 records under five rules each over a bare update of as many rows; and
// a run in a database of a million series under one rule, and of a million rules, over the same run in one of a
// thousand.

const RECORDS = 10_000;
const RULES = 5;
const ROUNDS = 5;
const FEW = 1_000;
const MANY = 1_000_000;
/** So many records come in each run of the others. */
const CAME = 50;
const RULES_EACH = 10;

const DEFINITION: WatchDefinition = {
  ...pageDefinition('Sensors', []),
  records: { from: 'senml' },
  fields: [
    {
      key: 'value',
      label: 'value',
      type: { kind: 'number' },
      mode: 'measured',
      polarity: 'neither',
      locale: null,
      locators: [{ way: 'part', part: 'value' }],
    },
  ],
};

/** A limit that is met by half of what comes, held for a while: each reading moves what is remembered. */
const above = (limit: number): RuleDefinition => ({
  when: {
    kind: 'level',
    of: { asked: { field: 'value' } },
    limits: { is: 'above', limit: { kind: 'number', amount: String(limit) as Decimal, unit: 'Cel' }, inclusive: false },
  } satisfies Clause,
  hold: { for: 'readings', count: 1_000 },
  whenAlreadyMet: 'raise',
});

interface Feed {
  server: Server;
  port: number;
  /** Which of its records a feed shows next, and the time they bear. */
  now: number;
  points: number;
}

/** Points of as many sensors, in SenML (RFC 8428): each time other values, and never the same twice. */
async function startFeed(): Promise<Feed> {
  const feed: Feed = { server: createServer(), port: 0, now: START, points: CAME };
  feed.server.on('request', (_request, response) => {
    const pack = Array.from({ length: feed.points }, (_, at) => ({
      n: `s${at}`,
      u: 'Cel',
      t: feed.now / 1000,
      v: 20 + ((at * 7919 + feed.now / HOUR) % 100) / 10,
    }));
    response.setHeader('content-type', 'application/senml+json');
    response.end(JSON.stringify(pack));
  });
  feed.server.listen(0, '127.0.0.1');
  await once(feed.server, 'listening');
  feed.port = (feed.server.address() as AddressInfo).port;
  return feed;
}

/** A watch on the feed, with so many rules. */
async function watchFeed({ pool, owner }: BenchDatabase, { port }: Feed, rules: number): Promise<void> {
  const where = {
    address: `http://127.0.0.1:${port}/senml`,
    host: `127.0.0.1:${port}`,
    site: 'Gateway',
    mostAtOnce: 4,
  };
  const plan = {
    definition: DEFINITION,
    frequency: { count: 1, unit: 'hour' as const },
    rules: Array.from({ length: rules }, (_, at) => ({
      id: null,
      definition: above(20 + at),
      audiences: [`person:${owner}`],
    })),
  };
  await inTransaction(pool, (db) => createWatch(db, where, plan, { person: owner, at: START }));
}

/** Does all that is due an hour later, clock and claims with it, and says how long that took, in ms. */
async function timedRun({ pool, pipeline }: Services, feed: Feed, clock: { now: number }): Promise<number> {
  clock.now += HOUR;
  feed.now = clock.now;
  const began = performance.now();
  await moveClock(pipeline, clock.now);
  const claimed = await claimDue(pool, clock.now, HOUR, 8);
  for (const source of claimed) await runSource(pipeline, source);
  if (claimed.length !== 1) throw new Error(`${claimed.length} sources were due`);
  return performance.now() - began;
}

async function withFeed(
  work: (database: BenchDatabase, feed: Feed, services: Services, clock: { now: number }) => Promise<void>,
): Promise<void> {
  const feed = await startFeed();
  try {
    await withDatabase(`127.0.0.1:${feed.port}`, START, async (database) => {
      const clock = { now: START };
      const services = await openServices(readConfig(database.environment), () => clock.now);
      try {
        await work(database, feed, services, clock);
      } finally {
        await services.pipeline.jobs.close();
        await services.close();
      }
    });
  } finally {
    feed.server.close();
  }
}

/** Measures the states of rules. */
export async function benchStates(): Promise<void> {
  await withFeed(stepsOfARun);
  await withFeed(manySeries);
  await withFeed(manyRules);
}

async function stepsOfARun(
  database: BenchDatabase,
  feed: Feed,
  services: Services,
  clock: { now: number },
): Promise<void> {
  feed.points = RECORDS;
  await watchFeed(database, feed, RULES);
  await timedRun(services, feed, clock);
  await timedRun(services, feed, clock);
  await database.pool.query(
    'CREATE TABLE bare (LIKE rule_state INCLUDING ALL); INSERT INTO bare SELECT * FROM rule_state; ANALYZE bare',
  );
  const rounds: { run: number; bare: number }[] = [];
  for (let round = 0; round < ROUNDS; round += 1)
    rounds.push({ run: await timedRun(services, feed, clock), bare: await bareUpdate(database.pool, clock.now) });
  const steps = RECORDS * RULES;
  const perSecond = (steps / median(rounds.map(({ run }) => run))) * 1000;
  say(
    `${steps.toLocaleString('en')} steps of rules in a run of ${RECORDS.toLocaleString('en')} records, fetched, ` +
      `read and stored: ${perSecond.toFixed(0)} steps/s; over a bare batched update of as many rows ` +
      `${spread(rounds.map(({ run, bare }) => run / bare))}`,
  );
}

/** Rewrites as many states as there are, from one array, as little as can be done. */
async function bareUpdate(pool: Pool, at: number): Promise<number> {
  const { rows } = await pool.query<{ rule: number; record: number; memory: object }>(
    'SELECT rule_id AS rule, record_id AS record, memory FROM bare',
  );
  const values = [
    rows.map(({ rule }) => rule),
    rows.map(({ record }) => record),
    rows.map(({ memory }) => JSON.stringify({ ...memory, at })),
  ];
  const began = performance.now();
  const { rowCount } = await pool.query(
    `UPDATE bare b SET memory = n.memory FROM unnest($1::int[], $2::bigint[], $3::jsonb[]) AS n(rule, record, memory)
     WHERE b.rule_id = n.rule AND b.record_id = n.record`,
    values,
  );
  if (rowCount !== RECORDS * RULES) throw new Error(`${rowCount} rows were updated`);
  return performance.now() - began;
}

const timesOf = async (services: Services, feed: Feed, clock: { now: number }): Promise<number[]> => {
  const times: number[] = [];
  for (let round = 0; round < ROUNDS + 2; round += 1) times.push(await timedRun(services, feed, clock));
  return times.slice(2);
};

const held = () => process.memoryUsage().rss / 2 ** 20;

/** Fills the database from `few` on to `many`, and compares a run in it with one before. */
async function compare(
  what: string,
  { services, feed, clock }: { services: Services; feed: Feed; clock: { now: number } },
  few: () => Promise<void>,
  many: () => Promise<void>,
): Promise<void> {
  await few();
  // What filling left to be written is not what a run costs.
  await services.pool.query('CHECKPOINT');
  const [small, before] = [await timesOf(services, feed, clock), held()];
  await many();
  await services.pool.query('CHECKPOINT');
  const [large, after] = [await timesOf(services, feed, clock), held()];
  const base = median(small);
  say(
    `a run in a database of ${MANY.toLocaleString('en')} ${what}: ${median(large).toFixed(1)} ms; over one of ` +
      `${FEW.toLocaleString('en')} ${spread(large.map((each) => each / base))}, aim 1.2; memory of the worker ` +
      `${before.toFixed(0)} MB, then ${after.toFixed(0)} MB`,
  );
}

/** Writes a row again with some of its columns otherwise, so many times. */
async function again(
  pool: Pool,
  table: string,
  where: string,
  change: string,
  [from, to]: readonly [number, number],
): Promise<void> {
  const { rows } = await pool.query<{ columns: string }>(
    `SELECT string_agg(column_name, ', ' ORDER BY ordinal_position) AS columns FROM information_schema.columns
     WHERE table_schema = 'public' AND table_name = $1 AND is_generated = 'NEVER'`,
    [table],
  );
  const columns = rows[0]?.columns ?? '';
  await pool.query(
    `INSERT INTO ${table} (${columns}) OVERRIDING SYSTEM VALUE
     SELECT ${columns
       .split(', ')
       .map((column) => `y.${column}`)
       .join(', ')} FROM generate_series(${from}, ${to - 1}) AS n
     CROSS JOIN (SELECT * FROM ${table} WHERE ${where} LIMIT 1) x
     CROSS JOIN LATERAL jsonb_populate_record(NULL::public.${table}, to_jsonb(x) || ${change}) y`,
  );
}

const FAR = 1_000_000_000;

async function manySeries(
  database: BenchDatabase,
  feed: Feed,
  services: Services,
  clock: { now: number },
): Promise<void> {
  await watchFeed(database, feed, 1);
  await timedRun(services, feed, clock);
  const { pool } = database;
  const { rows } = await pool.query<{ id: number }>(
    `SELECT id FROM record WHERE identity LIKE '%s0%' ORDER BY id LIMIT 1`,
  );
  const record = rows[0]?.id ?? 0;
  const fill = async (from: number, to: number) => {
    await again(pool, 'record', `id = ${record}`, `jsonb_build_object('id', ${FAR} + n, 'identity', 'other ' || n)`, [
      from,
      to,
    ]);
    await again(
      pool,
      'series',
      `record_id = ${record}`,
      `jsonb_build_object('id', ${FAR} + n, 'record_id', ${FAR} + n)`,
      [from, to],
    );
    await again(pool, 'rule_state', `record_id = ${record}`, `jsonb_build_object('record_id', ${FAR} + n)`, [from, to]);
    await pool.query('VACUUM ANALYZE record, series, rule_state');
  };
  await compare(
    'series under one rule',
    { services, feed, clock },
    () => fill(CAME, FEW),
    () => fill(FEW, MANY),
  );
}

async function manyRules(
  database: BenchDatabase,
  feed: Feed,
  services: Services,
  clock: { now: number },
): Promise<void> {
  feed.points = 1;
  await watchFeed(database, feed, RULES_EACH);
  await timedRun(services, feed, clock);
  const { pool } = database;
  const fill = async (from: number, to: number) => {
    await again(pool, 'source', 'id = 1', `jsonb_build_object('id', ${FAR} + n, 'address', 'http://127.0.0.1/' || n)`, [
      from,
      to,
    ]);
    await again(
      pool,
      'due',
      'source_id = 1',
      `jsonb_build_object('source_id', ${FAR} + n, 'due_at', '2100-01-01', 'lease_until', null, 'lease_token', null)`,
      [from, to],
    );
    await again(pool, 'watch', 'id = 1', `jsonb_build_object('id', ${FAR} + n, 'source_id', ${FAR} + n)`, [from, to]);
    await again(pool, 'watch_version', 'watch_id = 1', `jsonb_build_object('watch_id', ${FAR} + n)`, [from, to]);
    await again(pool, 'record', 'watch_id = 1', `jsonb_build_object('id', ${FAR} + n, 'watch_id', ${FAR} + n)`, [
      from,
      to,
    ]);
    await again(
      pool,
      'series',
      'watch_id = 1',
      `jsonb_build_object('id', ${FAR} + n, 'watch_id', ${FAR} + n, 'record_id', ${FAR} + n)`,
      [from, to],
    );
    for (let rule = 1; rule <= RULES_EACH; rule += 1) {
      const id = `${FAR} + n * ${RULES_EACH} + ${rule}`;
      await again(pool, 'rule', `id = ${rule}`, `jsonb_build_object('id', ${id}, 'watch_id', ${FAR} + n)`, [from, to]);
      await again(pool, 'rule_version', `rule_id = ${rule}`, `jsonb_build_object('rule_id', ${id})`, [from, to]);
      await again(
        pool,
        'rule_state',
        `rule_id = ${rule}`,
        `jsonb_build_object('rule_id', ${id}, 'record_id', ${FAR} + n)`,
        [from, to],
      );
      await again(pool, 'report_rule', `rule_id = ${rule}`, `jsonb_build_object('id', ${id}, 'rule_id', ${id})`, [
        from,
        to,
      ]);
    }
    await pool.query('VACUUM ANALYZE');
  };
  await compare(
    'rules',
    { services, feed, clock },
    () => fill(1, FEW / RULES_EACH),
    () => fill(FEW / RULES_EACH, MANY / RULES_EACH),
  );
}
