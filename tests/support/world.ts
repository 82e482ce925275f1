import type { PersonId, WatchId } from '#core/id';
import { mkdtempSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { inject } from 'vitest';
import { PRICE } from './price';
import type { Condition } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import { pageDefinition, type Field } from '#core/read/definition';
import { money } from '#core/value/parse';
import { DAY, HOUR, type Instant, type Interval } from '#core/when/interval';
import { readConfig, type Config } from '#server/config';
import { addList, addPerson } from '#server/db/person/people';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { prepareDatabase } from '#server/db/base/prepare';
import { claimDue } from '#server/db/source/sources';
import { createWatch, type RulePlan } from '#server/actions/edit-watch';
import { sendWaiting } from '#server/deliver/deliver';
import { moveClock } from '#server/pipeline/clock';
import { runSource, type RunSummary } from '#server/pipeline/run';
import { openServices, type Services } from '#server/work/services';
import { preparePartitions } from '#server/db/base/partitions';
import { anyPort } from '#scripts/system/ports';
import { BEGINNING } from './beginning';
import { TEMPLATE, urlOf } from './database';
import { emptierOf } from './empty-database';
import { startStandins, type Standins } from '#standins/server';

let databases = 0;

/** Makes a database of its own, up to date and empty; returns its address. */
export const freshDatabase = (): Promise<string> => copyOf(TEMPLATE);

/** Makes a database of its own in which nothing is, no table either; returns its address. */
export const bareDatabase = (): Promise<string> => copyOf('template0');

async function copyOf(template: string): Promise<string> {
  databases += 1;
  const name = `test_${process.pid}_${Date.now()}_${databases}`;
  const client = new pg.Client({ connectionString: inject('postgresUrl') });
  await client.connect();
  await client.query(`CREATE DATABASE ${name} TEMPLATE ${template}`);
  await client.end();
  return urlOf(inject('postgresUrl'), name);
}

/** A whole Shrike without its web: database, stand-ins and services on one clock that the test sets. */
export interface TestWorld {
  now: Instant;
  config: Config;
  environment: Record<string, string>;
  pool: Pool;
  services: Services;
  standins: Standins;
  people: { ines: PersonId; ravi: PersonId; tom: PersonId };
  /** Lets time pass, then runs every look that is due, and says how each came out. */
  pass: (ms: number) => Promise<RunSummary[]>;
  /** Sends every mail that waits, whether its time has come or not. */
  sendMail: () => Promise<number>;
  /** Rows of a query. */
  rows: <Row extends pg.QueryResultRow>(text: string, values?: unknown[]) => Promise<Row[]>;
  /** Begins anew a day later: no watches, the stage as the world made it, the smoker at £24.00. */
  clear: () => Promise<void>;
  close: () => Promise<void>;
}

/** Opens a world of its own for a test file. */
export async function openWorld(settings: Record<string, string> = {}): Promise<TestWorld> {
  const [port, smtpPort, databaseUrl] = [await anyPort(), await anyPort(), await freshDatabase()];
  const environment = {
    SHRIKE_DATABASE_URL: databaseUrl,
    SHRIKE_ADMITTED: `*.localhost:${port}`,
    SHRIKE_SMTP_PORT: String(smtpPort),
    SHRIKE_LOG_LEVEL: 'silent',
    SHRIKE_SECRET_KEY: 'a key for tests alone',
    ...settings,
  };
  const config = readConfig(environment);
  // A database of the test's own choosing may be a bare one.
  if (settings.SHRIKE_DATABASE_URL !== undefined) await prepareDatabase(config);
  let now = BEGINNING;
  const clock = () => now;
  const standins = await startStandins({
    port,
    smtpPort,
    folder: mkdtempSync(join(inject('scratch'), 'standins-')),
    clock,
  });
  const services = await openServices(config, clock);
  const { pool, pipeline, post } = services;
  const emptyDatabase = emptierOf(pool, BEGINNING);
  await preparePartitions(pool, BEGINNING - DAY, BEGINNING + 60 * DAY);
  return {
    get now() {
      return now;
    },
    set now(moment) {
      now = moment;
    },
    config,
    environment,
    pool,
    services,
    standins,
    people: await makePeople(pool),
    rows: async (text, values) => (await pool.query(text, values)).rows as never,
    pass: async (ms) => {
      now += ms;
      const summaries: RunSummary[] = [];
      for (;;) {
        await moveClock(pipeline, now);
        const claimed = await claimDue(pool, now, config.leaseMs, 50);
        if (claimed.length === 0) return summaries;
        summaries.push(...(await Promise.all(claimed.map((source) => runSource(pipeline, source)))));
      }
    },
    sendMail: () => sendWaiting(post),
    clear: async () => {
      await emptyDatabase();
      standins.world.push('forget', null, '');
      standins.room.empty();
      now += DAY;
      setPrice({ standins }, 2400);
    },
    close: async () => {
      await post.jobs.close();
      await services.close();
      await standins.close();
    },
  };
}

/** Makes three people and the list Pricing; Tom has not confirmed his address. */
export async function makePeople(pool: Pool): Promise<TestWorld['people']> {
  const place = { locale: 'en-GB', zone: 'Europe/London' };
  const ines = await addPerson(pool, {
    name: 'Inés Calloway',
    email: 'ines@heatherlow.example',
    ...place,
    confirmedAt: BEGINNING,
  });
  const ravi = await addPerson(pool, {
    name: 'Ravi Oduya',
    email: 'ravi@heatherlow.example',
    ...place,
    confirmedAt: BEGINNING,
  });
  const tom = await addPerson(pool, { name: 'Tom Aske', email: 'tom@heatherlow.example', ...place, confirmedAt: null });
  await addList(pool, 'Pricing', [ines, ravi]);
  return { ines, ravi, tom };
}

export { PRICE } from './price';

/** A price that has fallen below a limit, in pounds. */
export const fallsBelow = (pounds: string): Condition => ({
  kind: 'crossing',
  of: { asked: { field: 'price' } },
  limits: { is: 'below', limit: money(pounds, 'GBP'), inclusive: false },
});

/** A new rule, told to those who are named. */
export const ruleOf = (
  condition: Condition,
  audiences: string[],
  whenAlreadyMet: RuleDefinition['whenAlreadyMet'] = 'wait',
): RulePlan => ({
  id: null,
  definition: { when: condition, whenAlreadyMet },
  audiences,
});

/** What a test watch may differ in. */
export interface WatchOptions {
  slug?: string;
  fields?: Field[];
  condition?: Condition | null;
  whenAlreadyMet?: RuleDefinition['whenAlreadyMet'];
  frequency?: Interval;
  audiences?: string[];
}

/** Starts a watch on an item of Skepwright, told to Pricing. */
export function startWatch(
  world: Pick<TestWorld, 'pool' | 'standins' | 'people' | 'now'>,
  options: WatchOptions = {},
): Promise<WatchId> {
  const host = `skepwright.localhost:${world.standins.port}`;
  const slug = options.slug ?? 'copper-smoker-large';
  const condition = options.condition === undefined ? fallsBelow('22.00') : options.condition;
  const plan = {
    definition: pageDefinition('Copper smoker', options.fields ?? [PRICE]),
    frequency: options.frequency ?? { count: 1, unit: 'hour' as const },
    rules: condition === null ? [] : [ruleOf(condition, options.audiences ?? ['list:1'], options.whenAlreadyMet)],
  };
  const source = { address: `http://${host}/p/${slug}`, host, site: 'Skepwright', mostAtOnce: 4 };
  return inTransaction(world.pool, (db) => createWatch(db, source, plan, { person: world.people.ines, at: world.now }));
}

/** Sets an item's price on the stage, in pence. */
export function setPrice(world: Pick<TestWorld, 'standins'>, pence: number, slug = 'copper-smoker-large'): void {
  world.standins.world.push('price', slug, String(pence));
}

/** An hour's pass that is sure to reach the next look of an hourly watch. */
export const NEXT_LOOK = HOUR;
