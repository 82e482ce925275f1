import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { chmodSync, mkdtempSync, openSync, rmSync, writeSync, closeSync } from 'node:fs';
import type { ServerResponse } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { WatchId } from '#core/id';
import { pageDefinition } from '#core/read/definition';
import { askForRun, createWatch } from '#server/actions/edit-watch';
import { preparePartitions } from '#server/db/base/partitions';
import { inTransaction } from '#server/db/base/pool';
import { readPulse } from '#server/db/base/workers';
import { bundleOf } from '#scripts/system/build';
import { anyPort } from '#scripts/system/ports';
import { startPostgres, type RunningPostgres } from '#scripts/system/postgres';
import { stopChild } from '#scripts/system/processes';
import { ROOT, stateFolder } from '#scripts/system/state';
import { openSite, type Site } from '../support/site';
import { until } from '../support/until';
import { openWorld, PRICE, ruleOf, type TestWorld } from '../support/world';

// A real disk of its own, as large as this, is filled to its end and freed again, where one may be mounted.
const DISK = '220m';

function mount(folder: string): string | null {
  const done = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${DISK}`, 'tmpfs', folder], { encoding: 'utf8' });
  return done.status === 0 ? null : (done.stderr ?? 'there is no mount');
}

/** Root within a container may not always. */
function mayMount(): boolean {
  const folder = mkdtempSync(join(tmpdir(), 'shrike-mount-'));
  const can = mount(folder) === null;
  if (can) spawnSync('umount', ['-l', folder]);
  rmSync(folder, { recursive: true, force: true });
  return can;
}

/** Longer than any test: what comes back before it was given back, and did not run out. */
const LEASE_MS = '3600000';
const HEX = 150_000;

let disk: string;
let database: RunningPostgres;
let world: TestWorld;
let site: Site;
let worker: ChildProcess;
let watch: WatchId;
let said = '';
let pounds = 24;

const filler = () => join(disk, 'filler');

/** Takes all the room that is left. */
function fill(): void {
  const file = openSync(filler(), 'a');
  for (let piece = 1_000_000; piece >= 1; piece = piece / 10) {
    try {
      for (;;) writeSync(file, Buffer.alloc(piece, 1));
    } catch {
      // A smaller one may still fit.
    }
  }
  closeSync(file);
}

const offer = (_: unknown, response: ServerResponse) =>
  response
    .writeHead(200, { 'content-type': 'text/html; charset=utf-8' })
    .end(
      `<script type="application/ld+json">{"@type":"Product","offers":{"price":"${pounds}.00","priceCurrency":"GBP"}}` +
        `</script><p>£${pounds}.00</p><pre>${randomBytes(HEX).toString('hex')}</pre>`,
    );

const ask = () => askForRun(world.pool, watch, Date.now()).catch(() => false);
const fullSince = async () => (await readPulse(world.pool, Date.now())).fullSince;
const count = async (table: string) =>
  (await world.rows<{ n: number }>(`SELECT count(*)::int AS n FROM ${table}`))[0]?.n ?? 0;

describe.skipIf(!mayMount())('a disk that is full', () => {
  beforeAll(async () => {
    disk = mkdtempSync(join(stateFolder('test'), 'disk-'));
    expect(mount(disk)).toBeNull();
    chmodSync(disk, 0o755);
    database = await startPostgres(join(disk, 'postgres'), await anyPort(), { max_wal_size: '64MB' });
    site = await openSite({ '/smoker': offer });
    world = await openWorld({
      SHRIKE_DATABASE_URL: database.url,
      SHRIKE_ADMITTED: site.host,
      SHRIKE_LEASE_MS: LEASE_MS,
      SHRIKE_POLL_MS: '50',
      SHRIKE_LOG_LEVEL: 'info',
    });
    world.now = Date.now();
    await preparePartitions(world.pool, Date.now());
    const source = { address: `${site.base}/smoker`, host: site.host, site: 'Shop', mostAtOnce: 2 };
    const plan = {
      definition: pageDefinition('Smoker', [PRICE]),
      frequency: { count: 1, unit: 'day' as const },
      rules: [ruleOf({ kind: 'change', asked: { field: 'price' } }, [`person:${world.people.ines}`])],
    };
    watch = await inTransaction(world.pool, (db) =>
      createWatch(db, source, plan, { person: world.people.ines, at: Date.now() }),
    );
    const env = { ...process.env, ...world.environment };
    worker = spawn(process.execPath, [bundleOf('worker')], { cwd: ROOT, env, stdio: ['ignore', 'pipe', 'pipe'] });
    for (const stream of [worker.stdout, worker.stderr])
      stream?.on('data', (piece: Buffer) => (said += piece.toString()));
    await until(async () => (await count('run')) === 1);
  });
  afterAll(async () => {
    await stopChild(worker);
    await world.close();
    site.close();
    await database.stop();
    spawnSync('umount', ['-l', disk]);
    rmSync(disk, { recursive: true, force: true });
  });

  it('is said, nothing is fetched in vain meanwhile, and with room all goes on at once, told once', async () => {
    expect(await fullSince()).toBeNull();
    fill();
    await until(
      async () => {
        pounds -= 1;
        await ask();
        await sleep(300);
        return (await fullSince()) !== null;
      },
      () => said.slice(-3000),
    );
    const since = await fullSince();
    const [runs, fetched] = [await count('run'), site.asked.length];
    await ask();
    await sleep(5000);
    expect(site.asked.length).toBe(fetched);
    expect(await count('run')).toBe(runs);
    expect(await fullSince()).toBe(since);
    expect((await readPulse(world.pool, Date.now())).workers).toBe(1);

    rmSync(filler());
    await until(async () => (await fullSince()) === null);
    await until(async () => (await count('run')) > runs);
    await until(() => world.standins.room.list().length > 0);
    await sleep(1500);
    const ids = world.standins.room.list().map(({ messageId }) => messageId);
    expect(new Set(ids).size).toBe(ids.length);
    expect(await count(`delivery WHERE state = 'sent'`)).toBe(ids.length);
    expect(said).not.toContain('nobody caught');
    expect(said).toContain('there is room again');
  });
});
