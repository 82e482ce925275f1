import { fork } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from '#scripts/system/state';
import { TARGETS } from './targets';

// `npm run fuzz`: for an hour, texts against every border that strangers and visitors reach, each border in turn; those
// that reach more of its code are gone on from. `--minutes=N` for how long in all, `--only=NAME`, `--seed=N`. What
// throws, never ends or ends the process becomes a seed below tests/corpus/fuzzed, thrown again by the tests for good.

const HOUR_MINUTES = 60;
/** No honest text takes so long. */
const LONGEST_MS = 10_000;
const START_MS = 20_000;

const say = (line: string) => process.stdout.write(`${line}\n`);
const flag = (name: string) => process.argv.find((each) => each.startsWith(`--${name}=`))?.slice(name.length + 3);
const minutes = Number(flag('minutes') ?? HOUR_MINUTES);
const seed = Number(flag('seed') ?? Date.now() % 1_000_000);
const only = flag('only');
const targets = TARGETS.filter(({ name }) => only === undefined || name === only);
const scratch = join(ROOT, 'build/fuzz');
mkdirSync(scratch, { recursive: true });

let found = 0;
const seen = new Set<string>();

/** Keeps a text that a border gave way to; one of each reason is enough. */
function keep(name: string, text: string, because: string): void {
  const reason = because.split('\n').slice(0, 3).join(' ').replace(/\d+/g, '0');
  if (seen.has(reason)) return;
  seen.add(reason);
  found += 1;
  const folder = join(ROOT, 'tests/corpus/fuzzed', name.replaceAll(' ', '-'));
  mkdirSync(folder, { recursive: true });
  const file = join(folder, `${createHash('sha256').update(text).digest('hex').slice(0, 12)}.txt`);
  writeFileSync(file, text);
  say(`  ${because.split('\n').slice(0, 3).join('\n  ')}\n  kept as ${file.slice(ROOT.length + 1)}`);
}

interface Said {
  tried?: number;
  reached?: number;
  found?: string;
  because?: string;
}

/** Throws at one border for a while, in a process of its own. */
function fuzz(name: string, ms: number): Promise<void> {
  const file = name.replaceAll(' ', '-');
  const current = join(scratch, `${file}.current`);
  const child = fork(
    join(ROOT, 'tests/fuzz/fuzz.ts'),
    [name, String(ms), String(seed), current, join(scratch, `${file}.json`)],
    {
      execArgv: ['--import', 'tsx'],
      cwd: ROOT,
    },
  );
  const began = Date.now();
  let done = false;
  child.on('message', ({ tried, reached, found: text, because }: Said) => {
    if (text !== undefined) keep(name, text, because ?? '');
    if (tried === undefined) return;
    done = true;
    say(`${name.padEnd(14)} ${String(tried).padStart(9)} tried, ${String(reached).padStart(6)} places reached`);
  });
  const watching = setInterval(() => {
    const since = existsSync(current) ? statSync(current).mtimeMs : began;
    if (Date.now() - Math.max(since, began) < (existsSync(current) ? LONGEST_MS : START_MS)) return;
    keep(name, readFileSync(current, 'utf8'), `${name}: no end after ${LONGEST_MS / 1000} s`);
    child.kill('SIGKILL');
  }, 1_000);
  return new Promise((resolve) =>
    child.once('exit', (code, signal) => {
      clearInterval(watching);
      if (!done && signal !== 'SIGKILL')
        keep(name, existsSync(current) ? readFileSync(current, 'utf8') : '', `ended with ${code ?? signal}`);
      resolve();
    }),
  );
}

say(`seed ${seed}, ${minutes} minutes, ${targets.length} borders`);
for (const { name } of targets) await fuzz(name, (minutes * 60_000) / targets.length);
say(found === 0 ? 'nothing gave way' : `${found} gave way`);
process.exitCode = found === 0 ? 0 : 1;
