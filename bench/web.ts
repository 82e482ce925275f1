import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { join } from 'node:path';
import { anyPort } from '#scripts/system/ports';
import { stopChild } from '#scripts/system/processes';
import { ROOT } from '#scripts/system/state';
import { median, say } from './figures';

// Pages of the web a second, with the data of a running demo: this checkout beside another one (`npm run bench -- web
// OTHER-CHECKOUT`, with its own build/demo), in turn, round by round, on the same cores and the same database. Without
// another one, over the same server's answer to /healthz, which renders nothing.

const READERS = 20;
const ROUND_MS = 6_000;
const ROUNDS = 3;

interface Web {
  port: number;
  child: ChildProcess;
}

async function startWeb(checkout: string, environment: Record<string, string>): Promise<Web> {
  const port = await anyPort();
  const child = spawn(process.execPath, ['--import', 'tsx', join(checkout, 'server/web/main.ts')], {
    cwd: checkout,
    env: {
      ...process.env,
      ...environment,
      NODE_ENV: 'production',
      SHRIKE_PORT: String(port),
      SHRIKE_PUBLIC_URL: `http://localhost:${port}`,
      SHRIKE_BUILD: 'build/demo',
      SHRIKE_LOG_LEVEL: 'info',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  while (!String((await once(child.stdout as NodeJS.ReadableStream, 'data')) as unknown).includes('web started'));
  child.stdout?.resume();
  return { port, child };
}

/**
 * Requests a second that so many readers, each asking for the next as soon as it has one, are answered; and the slowest
 * of them.
 */
async function load(
  { port }: Web,
  path: string,
  readers = READERS,
  ms = ROUND_MS,
): Promise<{ perSecond: number; slowestMs: number; bytes: number }> {
  const agent = new Agent({ keepAlive: true, maxSockets: readers });
  const end = performance.now() + ms;
  let done = 0;
  let slowest = 0;
  let bytes = 0;
  const reader = async () => {
    while (performance.now() < end) {
      const began = performance.now();
      bytes = await get(port, path, agent);
      slowest = Math.max(slowest, performance.now() - began);
      done += 1;
    }
  };
  const began = performance.now();
  await Promise.all(Array.from({ length: readers }, reader));
  agent.destroy();
  return { perSecond: (done / (performance.now() - began)) * 1000, slowestMs: slowest, bytes };
}

function get(port: number, path: string, agent: Agent): Promise<number> {
  return new Promise((resolve, reject) => {
    const asked = request(
      { host: '127.0.0.1', port, path, agent, headers: { host: `localhost:${port}`, accept: 'text/html' } },
      (answer) => {
        let bytes = 0;
        answer.on('data', (piece: Buffer) => (bytes += piece.length));
        answer.on('end', () =>
          answer.statusCode === 200 ? resolve(bytes) : reject(new Error(`${path} answered ${answer.statusCode}`)),
        );
      },
    );
    asked.on('error', reject);
    asked.end();
  });
}

const PATHS = ['/watches', '/', '/outbox'];

/** Measures pages a second. */
export async function benchWeb(words: string[]): Promise<void> {
  const databaseUrl = process.env.SHRIKE_DATABASE_URL;
  if (databaseUrl === undefined) {
    say('web: start the demo, and say its database in SHRIKE_DATABASE_URL and its reader in SHRIKE_SIGN_IN_AS');
    return;
  }
  const environment = {
    SHRIKE_DATABASE_URL: databaseUrl,
    SHRIKE_SIGN_IN_AS: process.env.SHRIKE_SIGN_IN_AS ?? 'ines.calloway@heatherlow.example',
  };
  const other = words.find((word) => existsSync(join(word, 'server/web/main.ts')));
  const [own, beside] = [
    await startWeb(ROOT, environment),
    other === undefined ? null : await startWeb(other, environment),
  ];
  try {
    for (const path of PATHS) await compare(path, own, beside);
    await manyReaders(own);
  } finally {
    await stopChild(own.child);
    if (beside !== null) await stopChild(beside.child);
  }
}

async function compare(path: string, own: Web, beside: Web | null): Promise<void> {
  const ratios: number[] = [];
  const figures: { perSecond: number; slowestMs: number; bytes: number }[] = [];
  const floors: number[] = [];
  await load(own, path, READERS, 1500);
  if (beside !== null) await load(beside, path, READERS, 1500);
  for (let round = 0; round < ROUNDS; round += 1) {
    const figure = await load(own, path);
    const floor = await (beside === null ? load(own, '/healthz') : load(beside, path));
    figures.push(figure);
    floors.push(floor.perSecond);
    ratios.push(figure.perSecond / floor.perSecond);
  }
  const [perSecond, slowest] = [
    median(figures.map((each) => each.perSecond)),
    median(figures.map((each) => each.slowestMs)),
  ];
  say(
    `${path}: ${perSecond.toFixed(1)} pages/s to ${READERS} readers at once ` +
      `(${Math.round((figures[0]?.bytes ?? 0) / 1000)} kB each, slowest ${Math.round(slowest)} ms); ` +
      `${beside === null ? '/healthz' : 'the other checkout'} ${median(floors).toFixed(1)}/s; ratio ` +
      `${median(ratios).toFixed(2)} (${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)})`,
  );
}

/** Memory of the web process before, under and after a hundred readers. */
async function manyReaders(own: Web): Promise<void> {
  const held = () =>
    Number(/^VmRSS:\s*(\d+)/m.exec(readFileSync(`/proc/${own.child.pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;
  const before = held();
  const rounds: number[] = [];
  for (let round = 0; round < 4; round += 1) {
    await load(own, '/watches', 100, 10_000);
    rounds.push(held());
  }
  say(
    `memory of the web: ${before.toFixed(0)} MB before, then after each of four rounds of 100 readers ` +
      `${rounds.map((each) => each.toFixed(0)).join(', ')} MB`,
  );
}
