import { setTimeout as sleep } from 'node:timers/promises';
import { mkdtempSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { MOST_AT_ONCE, type Fitting } from '../../app/parts/bulk/answer';
import { placeNews } from '#server/db/report/reports';
import { refreshStandings } from '#server/db/watch/standings';
import { buildFolder } from '#scripts/system/build';
import { anyPort } from '#scripts/system/ports';
import { untilAnswers, type Running } from '#scripts/system/processes';
import { startWebProgram } from '#scripts/system/shrike';
import { copyWatches } from '../support/many';
import { NEXT_LOOK, openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

const COPIES = 50_000;
/** A table of fewer rows may be read through. */
const BIG = 5_000;
const FILL_MS = 600_000;

let world: TestWorld;
let web: string;
let program: Running;

beforeAll(async () => {
  world = await openWorld();
  await startWatch(world);
  await world.pass(0);
  for (const pence of [2100, 2500]) {
    setPrice(world, pence);
    await world.pass(NEXT_LOOK);
  }
  await world.sendMail();
  await placeNews(world.pool);
  await refreshStandings(world.pool, world.now, 10);
  await copyWatches(world.pool, COPIES);
  const folder = mkdtempSync(join(inject('scratch'), 'many-'));
  const webPort = await anyPort();
  web = `http://localhost:${webPort}`;
  const places = {
    databaseUrl: world.config.databaseUrl,
    webPort,
    standinsPort: world.standins.port,
    smtpPort: 1,
    standinsFolder: folder,
    logFolder: join(folder, 'logs'),
    signInAs: 'ines@heatherlow.example',
    build: buildFolder('test'),
    stillAt: null,
    bundled: true,
    secretKey: 'a key for tests alone',
  };
  program = startWebProgram(places);
  await untilAnswers(`${web}/healthz`, (status) => status > 0, [program]);
}, FILL_MS);
afterAll(async () => {
  await program.stop();
  await world.close();
});

/** How often each big table was read from its first row to its last. */
async function readThrough(): Promise<Record<string, number>> {
  // What a connection counted it tells when it has rested for a second.
  await sleep(1_500);
  const { rows } = await world.pool.query<{ name: string; scans: number }>(
    `SELECT s.relname AS name, s.seq_scan AS scans
      FROM pg_stat_user_tables s
      JOIN pg_class c ON c.oid = s.relid
      WHERE c.reltuples > $1`,
    [BIG],
  );
  return Object.fromEntries(rows.map(({ name, scans }) => [name, scans]));
}

const moved = (before: Record<string, number>, after: Record<string, number>) =>
  Object.fromEntries(Object.entries(after).filter(([name, scans]) => scans !== before[name]));

describe('with fifty thousand watches', () => {
  it('there are tables that would take long to read through', async () => {
    expect(Object.keys(await readThrough())).toEqual(
      expect.arrayContaining(['watch', 'source', 'standing', 'record', 'series', 'change', 'delivery']),
    );
  });

  it.each([
    ['the briefing', '/'],
    ['the list', '/watches'],
    ['the list further on', `/watches?after=${encodeURIComponent('Copper smoker 25000')}&id=250001`],
    ['what is raised', '/watches?show=raised'],
    ['what is broken', '/watches?show=broken'],
    ['what is paused', '/watches?show=paused'],
    ['a search', '/watches?q=smoker+4321'],
    ['a search for what is nowhere', '/watches?q=nowhere+to+be+found'],
    ['a pasted address', '/watches?q=http%3A%2F%2Fskepwright'],
    ['all that a list has', '/watches/fitting'],
    ['all that a search finds', '/watches/fitting?q=smoker+4321'],
    ['a watch', '/watches/1'],
    ['another watch', '/watches/250001'],
    ['the outbox', '/outbox'],
    ['what was told to me', '/told'],
    ['the outbox further on', '/outbox?before=1780000000000&id=9'],
    ['the outbox of a day', '/outbox?day=2026-01-15'],
    ['what has not gone out', '/outbox?state=unsent'],
    ['the sites', '/sites'],
    ['the hosts', '/hosts'],
    ['hosts further on', '/hosts?after=host3'],
    ['a new watch', '/watches/new'],
    ['how it is', '/healthz'],
  ])('%s is shown without reading any of them through', async (_, path) => {
    const before = await readThrough();
    const response = await fetch(`${web}${path}`);
    await response.text();
    expect(response.status).toBe(path === '/healthz' ? 503 : 200);
    expect(moved(before, await readThrough())).toEqual({});
  });

  it('finds one among them, and says how many there are', async () => {
    const page = await (await fetch(`${web}/watches?q=smoker+4321`)).text();
    expect(page).toContain('href="/watches/43211"');
    expect(page).not.toContain('href="/watches/1"');
    expect(await (await fetch(`${web}/watches`)).text()).toContain('50,001');
    const fitting = (await (await fetch(`${web}/watches/fitting`)).json()) as Fitting;
    expect([fitting.chosen.length, fitting.more]).toEqual([MOST_AT_ONCE, true]);
  });
});
