import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { once } from 'node:events';
import { openBody } from '#core/read/body';
import { pageDefinition } from '#core/read/definition';
import { readBody } from '#core/read/read';
import { money } from '#core/value/parse';
import { readConfig } from '#server/config';
import { addPerson } from '#server/db/people';
import { inTransaction } from '#server/db/pool';
import { prepareDatabase } from '#server/db/prepare';
import { claimDue } from '#server/db/sources';
import { createWatch } from '#server/db/watches';
import { AddressRules } from '#server/fetch/addresses';
import { Fetcher } from '#server/fetch/fetcher';
import { runSource } from '#server/pipeline/run';
import { openServices, type Services } from '#server/work/services';
import { preparePartitions } from '#server/db/partitions';
import { anyPort } from '#scripts/system/ports';
import { startPostgres } from '#scripts/system/postgres';
import { stopChild } from '#scripts/system/processes';
import { ROOT, stateFolder } from '#scripts/system/state';
import { median, say } from './figures';

// Runs a second through the whole pipeline, stored, over fetching and parsing the same pages with the same libraries
// and storing nothing: once with pages that never change, once with pages that always do. The two are timed in turn,
// round by round, on the same cores in the same process, so that the ratio says what the pipeline adds.

const SOURCES = 400;
const AT_ONCE = 8;
const ROUNDS = 5;
const START = Date.UTC(2026, 5, 1);
const HOUR = 3_600_000;

const DEFINITION = pageDefinition('Copper smoker', [
  {
    key: 'price',
    label: 'price',
    type: { kind: 'money', currency: 'GBP' },
    mode: 'stepwise',
    polarity: 'up is good',
    locale: null,
    locators: [{ way: 'structured', type: 'Product', path: 'offers.price' }],
  },
]);

const addressOf = (port: number, source: number) => `http://127.0.0.1:${port}/p/${source}`;

async function inLanes(count: number, work: (at: number) => Promise<void>): Promise<number> {
  let next = 0;
  const began = performance.now();
  const lane = async () => {
    while (next < count) {
      next += 1;
      await work(next - 1);
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, lane));
  return (count / (performance.now() - began)) * 1000;
}

/** The floor: fetch and parse, with the same fetcher, parser and reader; nothing is stored. */
function floor(fetcher: Fetcher, port: number): Promise<number> {
  return inLanes(SOURCES, async (source) => {
    const fetched = await fetcher.fetch({ address: addressOf(port, source) });
    if (!fetched.ok || fetched.value.kind !== 'page') throw new Error('the page did not come');
    const body = openBody(fetched.value.body(), 'html', START);
    const read = body.ok ? readBody(body.value, DEFINITION, { address: null, latest: () => undefined }) : body;
    if (!read.ok || !read.value.records[0]?.fields[0]?.outcome.ok) throw new Error('the page was not read');
  });
}

/** The whole: claim, fetch, read, compare, judge, store. */
async function whole(services: Services, now: number): Promise<number> {
  const began = performance.now();
  let done = 0;
  for (;;) {
    const claimed = await claimDue(services.pool, now, HOUR, AT_ONCE * 4);
    if (claimed.length === 0) return (done / (performance.now() - began)) * 1000;
    let next = 0;
    const lane = async () => {
      while (next < claimed.length) {
        const source = claimed[next];
        next += 1;
        if (source !== undefined) await runSource(services.pipeline, source);
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, lane));
    done += claimed.length;
  }
}

async function setUp(services: Services, port: number): Promise<void> {
  await preparePartitions(services.pool, START);
  const owner = await addPerson(services.pool, {
    name: 'Inés',
    email: 'ines@heatherlow.example',
    locale: 'en-GB',
    zone: 'Europe/London',
    confirmedAt: START,
  });
  const condition = { kind: 'crossing' as const, field: 'price', direction: 'below' as const, limit: money('1.00', 'GBP'), inclusive: false };
  const plan = {
    definition: DEFINITION,
    frequency: { count: 1, unit: 'hour' as const },
    rules: [{ id: null, definition: { condition, whenAlreadyMet: 'wait' as const }, audiences: [`person:${owner}`] }],
  };
  for (let source = 0; source < SOURCES; source += 1) {
    const where = { address: addressOf(port, source), host: `127.0.0.1:${port}`, site: 'Skepwright', mostAtOnce: SOURCES };
    await inTransaction(services.pool, (db) => createWatch(db, where, plan, owner, START));
  }
}

async function startPages(): Promise<{ child: ChildProcess; port: number; turn: (to: 'changing' | 'still') => Promise<void> }> {
  const child = spawn(process.execPath, ['--import', 'tsx', join(ROOT, 'bench/serve.ts')], { cwd: ROOT, stdio: ['pipe', 'pipe', 'inherit'] });
  const [words] = (await once(child.stdout, 'data')) as [Buffer];
  const turn = async (to: string) => {
    child.stdin.write(to);
    await once(child.stdout, 'data');
  };
  return { child, port: Number(words.toString().split(' ')[1]), turn };
}

async function measure(name: string, aim: number, services: Services, fetcher: Fetcher, port: number, clock: { now: number }): Promise<void> {
  const ratios: number[] = [];
  const figures: [number, number][] = [];
  for (let round = 0; round <= ROUNDS; round += 1) {
    clock.now += HOUR;
    const bare = await floor(fetcher, port);
    const full = await whole(services, clock.now);
    if (round === 0) continue; // the first warms both up
    figures.push([full, bare]);
    ratios.push(full / bare);
  }
  const [full, bare] = [median(figures.map(([each]) => each)), median(figures.map(([, each]) => each))];
  say(
    `${name}: ${full.toFixed(0)} runs/s stored, ${bare.toFixed(0)} pages/s fetched and parsed; ratio ${median(ratios).toFixed(2)} (${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)} over ${ROUNDS} rounds; aim ${aim})`,
  );
}

/** Measures polling: pages that never change, and pages that always do. */
export async function benchPipeline(): Promise<void> {
  const folder = mkdtempSync(join(stateFolder('bench'), 'run-'));
  chmodSync(folder, 0o755);
  const database = await startPostgres(join(folder, 'postgres'), await anyPort());
  const pages = await startPages();
  const admitted = `127.0.0.1:${pages.port}`;
  const config = readConfig({ SHRIKE_DATABASE_URL: database.url, SHRIKE_ADMITTED: admitted, SHRIKE_LOG_LEVEL: 'silent' });
  await prepareDatabase(config);
  const clock = { now: START };
  const services = await openServices(config, () => clock.now);
  const fetcher = new Fetcher(new AddressRules([admitted]), { timeoutMs: 20_000, mostBytes: 5_000_000, mostRedirects: 5, userAgent: 'bench' });
  try {
    await setUp(services, pages.port);
    await whole(services, START);
    await measure('pages that never change ', 1.2, services, fetcher, pages.port, clock);
    await pages.turn('changing');
    await measure('pages that always change', 0.5, services, fetcher, pages.port, clock);
  } finally {
    await fetcher.close();
    await services.pipeline.jobs.close();
    await services.close();
    await stopChild(pages.child);
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}
