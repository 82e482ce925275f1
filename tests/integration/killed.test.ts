import type { WatchId } from '#core/id';
import { preparePartitions } from '#server/db/base/partitions';
import { spawn, type ChildProcess } from 'node:child_process';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { inTransaction } from '#server/db/base/pool';
import { askForRun } from '#server/actions/edit-watch';
import { bundleOf } from '#scripts/system/build';
import { stopChild } from '#scripts/system/processes';
import { ROOT } from '#scripts/system/state';
import { openWorld, setPrice, startWatch, type TestWorld } from '../support/world';
import { until } from '../support/until';

const SETTINGS = {
  SHRIKE_LEASE_MS: '1500',
  SHRIKE_JOB_EXPIRY_SECONDS: '2',
  SHRIKE_JOB_SWEEP_SECONDS: '1',
  SHRIKE_POLL_MS: '50',
};
const STEPS = [
  'claimed',
  'fetched',
  'read',
  'judged',
  'ordered',
  'committed',
  'taken',
  'begun',
  'accepted',
  'recorded',
];
const READERS = 2;

let world: TestWorld;
let watch: WatchId;
beforeAll(async () => {
  world = await openWorld(SETTINGS);
  world.now = Date.now();
  setPrice(world, 2400);
  watch = await startWatch(world, { condition: { kind: 'change', asked: { field: 'price' } } });
  await preparePartitions(world.pool, Date.now());
  await world.pass(0);
});
afterAll(() => world.close());

function start(bundle: string, ...words: string[]): ChildProcess {
  return spawn(process.execPath, [bundle, ...words], {
    cwd: ROOT,
    env: { ...process.env, ...world.environment },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
}

/** Starts a worker that stands still at a step, and kills it there as a power cut would. */
async function killAt(step: string): Promise<void> {
  const worker = start(bundleOf('halting-worker'), step);
  let said = '';
  worker.stdout?.on('data', (piece: Buffer) => (said += piece.toString()));
  const gone = new Promise((resolve) => worker.once('exit', resolve));
  await until(
    () => said.includes(`halted at ${step}`),
    () => `the worker never reached ${step}`,
  );
  worker.kill('SIGKILL');
  await gone;
}

const messageIds = () => new Set(world.standins.room.list().map((mail) => mail.messageId));
const count = async (table: string) =>
  (await world.rows<{ n: number }>(`SELECT count(*)::int AS n FROM ${table}`))[0]?.n ?? 0;

describe('a worker killed in the middle', () => {
  it.each(STEPS.map((step, round) => ({ step, round: round + 1 })))(
    'at “$step” loses nothing and tells nothing twice',
    async ({ step, round }) => {
      world.now = Date.now();
      world.standins.room.empty();
      setPrice(world, 2400 + 10 * round);
      await inTransaction(world.pool, (db) => askForRun(db, watch, Date.now()));
      await killAt(step);

      const worker = start(bundleOf('worker'));
      try {
        const sent = async () => (await world.rows(`SELECT FROM delivery WHERE state = 'sent'`)).length;
        await until(
          async () => (await sent()) === READERS * round,
          async () => `${await sent()} of ${READERS * round} deliveries were sent`,
        );
      } finally {
        await stopChild(worker);
      }
      expect(messageIds().size).toBe(READERS);
      expect(new Set(world.standins.room.list().flatMap((mail) => mail.to)).size).toBe(READERS);
      expect([await count('change'), await count('alert'), await count('edition'), await count('delivery')]).toEqual([
        round,
        round,
        round,
        READERS * round,
      ]);
      expect(world.standins.room.list().some((mail) => mail.sentAgain)).toBe(step === 'begun' || step === 'accepted');
    },
  );
});
