import { spawn, type ChildProcess } from 'node:child_process';
import { createWriteStream, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './state';

/** One of our own programs, running beside this one. */
export interface Running {
  name: string;
  child: ChildProcess;
  stop: () => Promise<void>;
}

const PATIENCE_MS = 15_000;

/**
 * Starts one of our TypeScript programs; what it prints goes to a file of its own. It leads its own process group,
 * so that Ctrl-C reaches it through `stop` alone, in our order.
 */
export function startProgram(
  name: string,
  program: string,
  words: string[],
  environment: Record<string, string | undefined>,
  logFolder: string,
): Running {
  mkdirSync(logFolder, { recursive: true });
  const log = createWriteStream(join(logFolder, `${name}.log`), { flags: 'a', mode: 0o600 });
  const child = spawn(process.execPath, [...wordsFor(program), ...words], {
    cwd: ROOT,
    env: { ...process.env, NODE_ENV: 'production', ...environment },
    stdio: ['ignore', 'pipe', 'pipe'],
    detached: true,
  });
  child.stdout.pipe(log, { end: false });
  child.stderr.pipe(log, { end: false });
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
