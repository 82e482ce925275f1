import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { WatchId } from '#core/id';
import { askForRun } from '#server/actions/edit-watch';
import { preparePartitions } from '#server/db/base/partitions';
import { bundleOf } from '#scripts/system/build';
import { anyPort } from '#scripts/system/ports';
import { startPostgres, type RunningPostgres } from '#scripts/system/postgres';
import { stopChild } from '#scripts/system/processes';
import { ROOT, stateFolder } from '#scripts/system/state';
import { MailRoom } from '#standins/mailroom/room';
import { until } from '../support/until';
import { openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// The worker, the database and the mail server are stopped at moments that nobody chose, while prices move and mails go
// out. `SHRIKE_STOPS` says how often, `SHRIKE_STOPS_SEED` at which moments.

const ROUNDS = Number(process.env.SHRIKE_STOPS ?? 6);
const SEED = Number(process.env.SHRIKE_STOPS_SEED ?? Date.now() % 1_000_000);
const MANY = 50;
const READERS = 2;
const LONGEST_MS = 700;
const ROUND_MS = 90_000;

const SETTINGS = {
  SHRIKE_LEASE_MS: '1500',
  SHRIKE_JOB_EXPIRY_SECONDS: '2',
  SHRIKE_JOB_SWEEP_SECONDS: '1',
  SHRIKE_POLL_MS: '50',
  SHRIKE_MAIL_FIRST_RETRY_MS: '300',
  SHRIKE_MAIL_LONGEST_RETRY_MS: '1000',
};

/**
 * Moments and things that look chosen by nobody, the same again for the same seed (a linear congruential generator).
 */
function chance(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((state / 2 ** 32) * below);
  };
}

let folder: string;
let database: { port: number; folder: string; running: RunningPostgres };
let mail: { port: number; folder: string; room: MailRoom };
let world: TestWorld;
let watch: WatchId;
let worker: ChildProcess;

beforeAll(async () => {
  folder = mkdtempSync(join(stateFolder('test'), 'stopped-'));
  chmodSync(folder, 0o755); // the database's own user must be able to enter
  const own = { port: await anyPort(), folder: join(folder, 'postgres') };
  database = { ...own, running: await startPostgres(own.folder, own.port) };
  const smtpPort = await anyPort();
  world = await openWorld({
    ...SETTINGS,
    SHRIKE_DATABASE_URL: database.running.url,
    SHRIKE_SMTP_PORT: String(smtpPort),
  });
  const room = mkdtempSync(join(inject('scratch'), 'mail-'));
  mail = { port: smtpPort, folder: room, room: await MailRoom.open(room, world.standins.world, smtpPort) };
  world.now = Date.now();
  setPrice(world, 2400);
  watch = await startWatch(world, { condition: { kind: 'change', asked: { field: 'price' } } });
  await preparePartitions(world.pool, Date.now());
  await world.pass(0);
  worker = startWorker();
});
afterAll(async () => {
  await stopChild(worker);
  await world.close();
  await mail.room.close();
  await database.running.stop();
  rmSync(folder, { recursive: true, force: true });
});

const startWorker = () =>
  spawn(process.execPath, [bundleOf('worker')], {
    cwd: ROOT,
    env: { ...process.env, ...world.environment },
    stdio: 'ignore',
  });

/** What is stopped as by a power cut, and comes back a moment later. */
const STOPS = {
  worker: async () => {
    worker.kill('SIGKILL');
    await sleep(0);
    worker = startWorker();
  },
  database: async (downMs: number) => {
    const [pid = ''] = readFileSync(join(database.folder, 'data', 'postmaster.pid'), 'utf8').split('\n');
    process.kill(Number(pid), 'SIGQUIT');
    await sleep(downMs);
    database.running = await startPostgres(database.folder, database.port);
  },
  mail: async (downMs: number) => {
    await mail.room.close();
    await sleep(downMs);
    mail.room = await MailRoom.open(mail.folder, world.standins.world, mail.port);
  },
};
const THINGS = Object.keys(STOPS) as (keyof typeof STOPS)[];

/** Counts rows; null while the database is away. */
async function count(table: string): Promise<number | null> {
  try {
    return (await world.rows<{ n: number }>(`SELECT count(*)::int AS n FROM ${table}`))[0]?.n ?? 0;
  } catch {
    return null;
  }
}

it(
  'a worker that starts while the database is away waits for it, and works when it is back',
  async () => {
    await stopChild(worker);
    const before = await count('run');
    const [pid = ''] = readFileSync(join(database.folder, 'data', 'postmaster.pid'), 'utf8').split('\n');
    process.kill(Number(pid), 'SIGQUIT');
    await until(async () => (await count('run')) === null);
    const env = { ...process.env, ...world.environment, SHRIKE_LOG_LEVEL: 'info' };
    worker = spawn(process.execPath, [bundleOf('worker')], {
      cwd: ROOT,
      env,
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    let said = '';
    worker.stdout?.on('data', (piece: Buffer) => (said += piece.toString()));
    const gone = () => worker.exitCode !== null;
    await until(() => gone() || said.includes('the database is away'));
    expect(gone()).toBe(false);
    database.running = await startPostgres(database.folder, database.port);
    await until(() => gone() || said.includes('worker started'));
    await askForRun(world.pool, watch, Date.now());
    await until(async () => ((await count('run')) ?? 0) > (before ?? 0));
    expect(await count('run')).toBeGreaterThan(before ?? 0);
  },
  ROUND_MS,
);

it(
  'the worker, the database or the mail server stopped at any moment: each change is told once, and each mail is ' +
    'accounted for',
  async () => {
    const any = chance(SEED);
    for (let round = 1; round <= ROUNDS; round += 1) {
      setPrice(world, 2400 + 10 * round);
      await askForRun(world.pool, watch, Date.now());
      await sleep(any(LONGEST_MS));
      const thing = THINGS[any(THINGS.length)] ?? 'worker';
      await STOPS[thing](any(LONGEST_MS));
      await until(
        async () => (await count('change')) === round,
        async () => `round ${round} of seed ${SEED}, ${thing} stopped: ${await count('change')} changes were seen`,
        ROUND_MS,
      );
    }
    const sent = () => count("delivery WHERE state = 'sent'");
    await until(
      async () => (await sent()) === READERS * ROUNDS,
      async () => `seed ${SEED}: ${await sent()} of ${READERS * ROUNDS} were sent`,
      ROUND_MS,
    );
    await stopChild(worker);

    expect([await count('change'), await count('alert'), await count('edition'), await count('delivery')]).toEqual([
      ROUNDS,
      ROUNDS,
      ROUNDS,
      READERS * ROUNDS,
    ]);
    const came = mail.room.list();
    const identities = new Set(came.map(({ messageId }) => messageId));
    expect(identities.size).toBe(READERS * ROUNDS);
    expect(came.length - identities.size).toBeLessThanOrEqual(came.filter(({ sentAgain }) => sentAgain).length);
    const numbers = await world.rows<{ numbers: number[] }>(
      'SELECT to_jsonb(array_agg(number ORDER BY number)) AS numbers FROM delivery GROUP BY person_id',
    );
    const all = Array.from({ length: ROUNDS }, (_, at) => at + 1);
    expect(numbers.map((row) => row.numbers)).toEqual([all, all]);
    // Over many rounds some of them hit a mail on its way.
    if (ROUNDS >= MANY) expect(await count('delivery_attempt')).toBeGreaterThan(READERS * ROUNDS);
    expect(await count("delivery_attempt WHERE outcome = 'accepted'")).toBe(READERS * ROUNDS);
  },
  ROUNDS * ROUND_MS,
);
