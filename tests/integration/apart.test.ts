import { spawn, type ChildProcess } from 'node:child_process';
import { connect, createServer, type Server, type Socket } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { addFirstOwner, makeFirstOwnerCode } from '#server/db/access/first-owner';
import { inTransaction } from '#server/db/base/pool';
import { beat, retire } from '#server/db/base/workers';
import { bundleOf } from '#scripts/system/build';
import { anyPort } from '#scripts/system/ports';
import { stopChild } from '#scripts/system/processes';
import { ROOT } from '#scripts/system/state';
import { until } from '../support/until';
import { openWorld, type TestWorld } from '../support/world';

/** What stands between a program and its database, and can be cut. */
async function openWire(databaseUrl: string): Promise<{ url: string; cut: () => void; mend: () => Promise<void> }> {
  const { hostname, port: farPort } = new URL(databaseUrl);
  const port = await anyPort();
  const ends = new Set<Socket>();
  let server: Server;
  const mend = () =>
    new Promise<void>((resolve) => {
      server = createServer((near) => {
        const far = connect(Number(farPort), hostname);
        for (const end of [near, far]) ends.add(end.on('error', () => undefined));
        near.pipe(far).pipe(near);
      }).listen(port, '127.0.0.1', resolve);
    });
  await mend();
  const cut = () => {
    server.close();
    for (const end of ends) end.destroy();
    ends.clear();
  };
  const url = new URL(databaseUrl);
  url.host = `127.0.0.1:${port}`;
  return { url: url.href, cut, mend };
}

const WORKER = { id: '00000000-0000-4000-8000-000000000001', process: 'test 1', lost: 0 };

let world: TestWorld;
let wire: Awaited<ReturnType<typeof openWire>>;
let apart: ChildProcess;
let said = '';

const subjects = () => world.standins.room.list().map(({ subject }) => subject);
const lives = (fullSince: number | null = null) =>
  beat(world.pool, { ...WORKER, startedAt: Date.now(), fullSince }, Date.now());

beforeAll(async () => {
  world = await openWorld();
  wire = await openWire(world.config.databaseUrl);
  const owner = { name: 'Inés Calloway', email: 'ines@heatherlow.example', zone: 'Europe/London', password: 'a hash' };
  const code = (await makeFirstOwnerCode(world.pool, Date.now())) ?? '';
  await inTransaction(world.pool, (db) => addFirstOwner(db, { ...owner, code }, Date.now()));
  await lives();
  const env = {
    ...process.env,
    ...world.environment,
    SHRIKE_DATABASE_URL: wire.url,
    SHRIKE_APART_AFTER_MS: '1000',
    SHRIKE_LOG_LEVEL: 'info',
  };
  apart = spawn(process.execPath, [bundleOf('apart')], { cwd: ROOT, env, stdio: ['ignore', 'pipe', 'pipe'] });
  for (const stream of [apart.stdout, apart.stderr]) stream?.on('data', (piece: Buffer) => (said += piece.toString()));
  await until(() => said.includes('watching'));
});
afterAll(async () => {
  await stopChild(apart);
  wire.cut();
  await world.close();
});

describe('what stands apart', () => {
  it('mails the owners when no worker runs, once, and when one does again', async () => {
    await retire(world.pool, WORKER.id);
    await until(
      () => subjects().length === 1,
      () => said,
    );
    expect(subjects()).toEqual(['Nobody hears from Shrike: no worker has run']);
    expect(world.standins.room.list()[0]?.to).toEqual(['ines@heatherlow.example']);
    await lives();
    await until(
      () => subjects().length === 2,
      () => said,
    );
    expect(subjects()[0]).toMatch(/^Shrike is well again/);
  });

  it('mails them when the disk is full', async () => {
    world.standins.room.empty();
    await lives(Date.now() - 60_000);
    await until(
      () => subjects().length === 1,
      () => said,
    );
    expect(subjects()[0]).toContain('the disk of its database has been full');
    await lives();
    await until(
      () => subjects().length === 2,
      () => said,
    );
  });

  it('mails them while the database is away, and outlives that', async () => {
    world.standins.room.empty();
    wire.cut();
    await until(
      () => subjects().length === 1,
      () => said,
    );
    expect(subjects()[0]).toContain('its database has not answered');
    await wire.mend();
    await lives();
    await until(
      () => subjects().length === 2,
      () => said,
    );
    expect(apart.exitCode).toBeNull();
    expect(said).not.toContain('nobody caught');
  });
});
