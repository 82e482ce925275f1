import { spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { createStream } from 'rotating-file-stream';
import { request } from 'undici';
import { backOff, SECOND } from '#core/when/interval';
import { ROOT } from './state';

/** One of our own programs, running beside this one. */
export interface Running {
  name: string;
  child: ChildProcess;
  stop: () => Promise<void>;
}

const PATIENCE_MS = 15_000;
const LOG_SIZE = '10M';
const LOGS_KEPT = 5;

/**
 * Starts one of our TypeScript programs; what it prints goes to a file of its own, of which the last ones are kept. It
 * leads its own process group,
 * so that Ctrl-C reaches it through `stop` alone, in our order; and ends when this process does.
 */
export function startProgram(
  name: string,
  program: string,
  words: string[],
  environment: Record<string, string | undefined>,
  logFolder: string,
): Running {
  mkdirSync(logFolder, { recursive: true, mode: 0o700 });
  const log = createStream(`${name}.log`, { path: logFolder, size: LOG_SIZE, maxFiles: LOGS_KEPT, mode: 0o600 });
  // A disk that is full loses lines, and ends nobody.
  log.on('error', () => undefined);
  const child = spawn(process.execPath, [...wordsFor(program), ...words], {
    cwd: ROOT,
    env: { ...process.env, NODE_ENV: 'production', SHRIKE_STARTED_BY: String(process.pid), ...environment },
    stdio: ['ignore', 'pipe', 'pipe'],
    detached: true,
  });
  child.stdout.pipe(log, { end: false });
  child.stderr.pipe(log, { end: false });
  child.once('close', () => log.end());
  return { name, child, stop: () => stopChild(child) };
}

/** What Node is told to run a program of ours: one in TypeScript goes through tsx, a bundle by itself. */
const wordsFor = (program: string): string[] =>
  program.endsWith('.ts') ? ['--import', 'tsx', join(ROOT, program)] : [program];

/** Asks a child to stop, and insists when it does not. */
export async function stopChild(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  child.kill('SIGTERM');
  const insist = setTimeout(() => child.kill('SIGKILL'), PATIENCE_MS);
  await gone;
  clearTimeout(insist);
}

const FIRST_WAIT_MS = SECOND;
const LONGEST_WAIT_MS = 30 * SECOND;
/** Whoever ran this long had a good start. */
const RAN_WELL_MS = 60 * SECOND;

/** Starts a running program again whenever it ends by itself, after longer and longer waits. */
export function keepRunning(running: Running, start: () => Running, say: (line: string) => void): void {
  let stopping = false;
  let ends = 0;
  let startedAt = Date.now();
  const again = async () => {
    if (stopping) return;
    ends = Date.now() - startedAt > RAN_WELL_MS ? 1 : ends + 1;
    const wait = backOff(ends, FIRST_WAIT_MS, LONGEST_WAIT_MS);
    say(`The ${running.name} ended by itself; it is started again in ${wait / SECOND} s. Its log says why.`);
    await sleep(wait);
    if (stopping) return;
    startedAt = Date.now();
    running.child = start().child;
    running.child.once('exit', () => void again());
  };
  running.child.once('exit', () => void again());
  running.stop = () => {
    stopping = true;
    return stopChild(running.child);
  };
}

const ANSWER_TRIES = 240;

/** Waits until an address answers as it should, by whatever name it is asked, or one of the programs ends. */
export async function untilAnswers(
  url: string,
  isWell: (status: number) => boolean,
  programs: Running[],
  host = new URL(url).host,
): Promise<void> {
  for (let tries = 0; tries < ANSWER_TRIES; tries += 1) {
    const ended = programs.find(({ child }) => child.exitCode !== null);
    if (ended !== undefined)
      throw new Error(`The ${ended.name} ended by itself (exit ${ended.child.exitCode}); its log says why.`);
    if (isWell(await statusOf(url, host))) return;
    await sleep(250);
  }
  throw new Error(`${url} did not answer in time.`);
}

/** The status of an answer; nought where there is none. */
async function statusOf(url: string, host: string): Promise<number> {
  try {
    const { statusCode, body } = await request(url, { headers: { host } });
    await body.dump();
    return statusCode;
  } catch {
    return 0;
  }
}
