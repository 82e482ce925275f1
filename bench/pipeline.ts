import { fork, spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { money } from '#core/value/parse';
import { readConfig } from '#server/config';
import { preparePartitions } from '#server/db/partitions';
import { addPerson } from '#server/db/people';
import { inTransaction, openPool, type Pool } from '#server/db/pool';
import { prepareDatabase } from '#server/db/prepare';
import { createWatch } from '#server/db/watches';
import { anyPort } from '#scripts/system/ports';
import { startPostgres } from '#scripts/system/postgres';
import { stopChild } from '#scripts/system/processes';
import { ROOT, stateFolder } from '#scripts/system/state';
import { median, say } from './figures';
import { addressOf, DEFINITION, HOUR, START, type AskedRuns } from './runs';

// Runs a second through the whole pipeline, stored, over fetching and parsing the same pages with the same libraries
// and storing nothing: with pages that never change, and with pages that always do; by one process, two and four. The two
// are timed in turn, round by round, on the same cores in the same processes, so that the ratio says what the pipeline adds.

const SOURCES = 400;
const ROUNDS = 5;
const PROCESSES = [1, 2, 4];

async function setUp(pool: Pool, port: number): Promise<void> {
  await preparePartitions(pool, START);
  const owner = await addPerson(pool, {
    name: 'Inés',
    email: 'ines@heatherlow.example',
    locale: 'en-GB',
    zone: 'Europe/London',
    confirmedAt: START,
  });
  const when = {
    kind: 'crossing' as const,
    of: { asked: { field: 'price' } },
    limits: { is: 'below' as const, limit: money('1.00', 'GBP'), inclusive: false },
  };
  const plan = {
    definition: DEFINITION,
    frequency: { count: 1, unit: 'hour' as const },
    rules: [{ id: null, definition: { when, whenAlreadyMet: 'wait' as const }, audiences: [`person:${owner}`] }],
  };
  for (let source = 0; source < SOURCES; source += 1) {
    const where = { address: addressOf(port, source), host: `127.0.0.1:${port}`, site: 'Skepwright', mostAtOnce: SOURCES };
    await inTransaction(pool, (db) => createWatch(db, where, plan, owner, START));
  }
}

interface Pages {
  child: ChildProcess;
  port: number;
  turn: (to: 'changing' | 'still') => Promise<void>;
}

async function startPages(): Promise<Pages> {
  const child = spawn(process.execPath, ['--import', 'tsx', join(ROOT, 'bench/serve.ts')], { cwd: ROOT, stdio: ['pipe', 'pipe', 'inherit'] });
  const [words] = (await once(child.stdout, 'data')) as [Buffer];
  const turn = async (to: string) => {
    child.stdin.write(to);
    await once(child.stdout, 'data');
  };
  return { child, port: Number(words.toString().split(' ')[1]), turn };
}

async function startProcess(environment: Record<string, string>): Promise<ChildProcess> {
  const child = fork(join(ROOT, 'bench/runs.ts'), { cwd: ROOT, execArgv: ['--import', 'tsx'], env: { ...process.env, ...environment } });
  child.once('exit', (code) => {
    if (code !== 0) process.exit(1);
  });
  await once(child, 'message');
  return child;
}

/** How much all of them did in a second. */
async function perSecond(processes: ChildProcess[], ask: (at: number) => AskedRuns): Promise<number> {
  const began = performance.now();
  const done = await Promise.all(
    processes.map(async (child, at) => {
      child.send(ask(at));
      const [count] = (await once(child, 'message')) as [number];
      return count;
    }),
  );
  return (done.reduce((sum, count) => sum + count, 0) / (performance.now() - began)) * 1000;
}

async function measure(name: string, aim: string, processes: ChildProcess[], clock: { now: number }): Promise<void> {
  const share = SOURCES / processes.length;
  const figures: { full: number; bare: number }[] = [];
  for (let round = 0; round <= ROUNDS; round += 1) {
    clock.now += HOUR;
    const bare = await perSecond(processes, (at) => ({ what: 'floor', from: at * share, count: share }));
    const full = await perSecond(processes, () => ({ what: 'runs', now: clock.now }));
    if (round > 0) figures.push({ full, bare }); // the first warms both up
  }
  const ratios = figures.map(({ full, bare }) => full / bare);
  const [full, bare] = [median(figures.map((each) => each.full)), median(figures.map((each) => each.bare))];
  say(
    `${name}: ${full.toFixed(0)} runs/s stored, ${bare.toFixed(0)} pages/s fetched and parsed; ratio ${median(ratios).toFixed(2)} (${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)} over ${ROUNDS} rounds${aim})`,
  );
}

/** Measures polling: pages that never change, and pages that always do, by one worker and by several. */
export async function benchPipeline(): Promise<void> {
  const folder = mkdtempSync(join(stateFolder('bench'), 'run-'));
  chmodSync(folder, 0o755);
  const database = await startPostgres(join(folder, 'postgres'), await anyPort());
  const pages = await startPages();
  const environment = { SHRIKE_DATABASE_URL: database.url, SHRIKE_ADMITTED: `127.0.0.1:${pages.port}`, SHRIKE_LOG_LEVEL: 'silent' };
  await prepareDatabase(readConfig(environment));
  const pool = openPool(database.url, 1, () => undefined);
  const clock = { now: START };
  try {
    await setUp(pool, pages.port);
    for (const count of PROCESSES) {
      const started = await Promise.all(Array.from({ length: count }, () => startProcess({ ...environment, BENCH_PORT: String(pages.port) })));
      const by = count === 1 ? 'one worker ' : `${count} workers  `;
      await pages.turn('still');
      await perSecond(started, () => ({ what: 'runs', now: clock.now }));
      await measure(`pages that never change,  ${by}`, count === 1 ? '; aim 1.2' : '', started, clock);
      await pages.turn('changing');
      await measure(`pages that always change, ${by}`, count === 1 ? '; aim 0.5' : '', started, clock);
      await Promise.all(started.map((child) => (child.disconnect(), once(child, 'exit'))));
    }
  } finally {
    await pool.end();
    await stopChild(pages.child);
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}
