import { fork, spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';
import { money } from '#core/value/parse';
import { inTransaction } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { stopChild } from '#scripts/system/processes';
import { ROOT } from '#scripts/system/state';
import { withDatabase, type BenchDatabase } from './database';
import { median, say } from './figures';
import { addressOf, DEFINITION, HOUR, START, type AskedRuns } from './runs';

// Runs a second through the whole pipeline, stored, over fetching and parsing the same pages with the same libraries
// and storing nothing: with pages that never change, and with pages that always do; by one process, two and four. The
// two are timed in turn, round by round, on the same cores in the same processes, so that the ratio says what the
// pipeline adds.

const SOURCES = 400;
const ROUNDS = 5;
const PROCESSES = [1, 2, 4];

async function setUp({ pool, owner }: BenchDatabase, port: number): Promise<void> {
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
    const where = {
      address: addressOf(port, source),
      host: `127.0.0.1:${port}`,
      site: 'Skepwright',
      mostAtOnce: SOURCES,
    };
    await inTransaction(pool, (db) => createWatch(db, where, plan, { person: owner, at: START }));
  }
}

interface Pages {
  child: ChildProcess;
  port: number;
  turn: (to: 'changing' | 'still') => Promise<void>;
}

async function startPages(): Promise<Pages> {
  const child = spawn(process.execPath, ['--import', 'tsx', join(ROOT, 'bench/serve.ts')], {
    cwd: ROOT,
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  const [words] = (await once(child.stdout, 'data')) as [Buffer];
  const turn = async (to: string) => {
    child.stdin.write(to);
    await once(child.stdout, 'data');
  };
  return { child, port: Number(words.toString().split(' ')[1]), turn };
}

async function startProcess(environment: Record<string, string>): Promise<ChildProcess> {
  const child = fork(join(ROOT, 'bench/runs.ts'), {
    cwd: ROOT,
    execArgv: ['--import', 'tsx'],
    env: { ...process.env, ...environment },
  });
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
    `${name}: ${full.toFixed(0)} runs/s stored, ${bare.toFixed(0)} pages/s fetched and parsed; ratio ` +
      `${median(ratios).toFixed(2)} (${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)} over ` +
      `${ROUNDS} rounds${aim})`,
  );
}

/** Measures polling: pages that never change, and pages that always do, by one worker and by several. */
export async function benchPipeline(): Promise<void> {
  const pages = await startPages();
  try {
    await withDatabase(`127.0.0.1:${pages.port}`, START, async (database) => {
      await setUp(database, pages.port);
      const clock = { now: START };
      for (const count of PROCESSES)
        await measureBy(count, { ...database.environment, BENCH_PORT: String(pages.port) }, pages, clock);
    });
  } finally {
    await stopChild(pages.child);
  }
}

async function measureBy(
  count: number,
  environment: Record<string, string>,
  pages: Pages,
  clock: { now: number },
): Promise<void> {
  const started = await Promise.all(Array.from({ length: count }, () => startProcess(environment)));
  const by = count === 1 ? 'one worker ' : `${count} workers  `;
  await pages.turn('still');
  await perSecond(started, () => ({ what: 'runs', now: clock.now }));
  await measure(`pages that never change,  ${by}`, count === 1 ? '; aim 1.2' : '', started, clock);
  await pages.turn('changing');
  await measure(`pages that always change, ${by}`, count === 1 ? '; aim 0.5' : '', started, clock);
  await Promise.all(started.map((child) => (child.disconnect(), once(child, 'exit'))));
}
