import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuild } from './system/build';
import { ensureDebianPackages, FOR_TESTS } from './system/debian';
import { ROOT } from './system/state';

// Everything there is to test, from a bare clone: the checks beside the unit tests, then integration and end-to-end
// tests. It says how long each part took; the last line tells how many passed and failed; each check counts as one.
// `--long` looks further: each search for a counterexample is ten times as long, and the worker, the database and the
// mail server are stopped 200 times; `--search=N` says how long by itself. Files that are named are tested alone.

/** What is checked in one lane; the linter, which takes as long as all else, has the other. */
const CHECKS = ['types', 'dead', 'format:check', 'audit'];
/** Tests that need no more than the code. */
const BESIDE_CHECKS = 'unit';
const PROJECTS = ['integration', 'e2e', 'alone'];
/** Vitest's word for every project. */
const EVERY = '*';
const USUAL_SEARCH = '100';
const LONG_SEARCH = '1000';
const LONG_STOPS = '200';

interface Tally {
  passed: number;
  failed: number;
}

/** What vitest writes of a run, as far as it is told here. */
interface Result {
  numPassedTests: number;
  numFailedTests: number;
  testResults: {
    name: string;
    message: string;
    assertionResults: { fullName: string; status: string; failureMessages: string[] }[];
  }[];
}

const say = (line: string) => process.stdout.write(`${line}\n`);
const total: Tally = { passed: 0, failed: 0 };
const failures: string[] = [];
const add = (tally: Tally) => {
  total.passed += tally.passed;
  total.failed += tally.failed;
};

async function check(name: string): Promise<Tally> {
  const child = spawn('npm', ['run', '--silent', name], { cwd: ROOT });
  const said: Buffer[] = [];
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (piece: Buffer) => said.push(piece));
  const code = await new Promise<number>((resolve) => child.once('close', (exit) => resolve(exit ?? 1)));
  say(`${code === 0 ? '✓' : '×'} check: ${name}`);
  if (code === 0) return { passed: 1, failed: 0 };
  say(Buffer.concat(said).toString().trim());
  failures.push(`check: ${name}`);
  return { passed: 0, failed: 1 };
}

/** Does a part of the whole, and says how long it took. */
async function timed(name: string, part: () => Promise<void>): Promise<void> {
  const began = performance.now();
  await part();
  times.push(`${name} ${formatTook(performance.now() - began)}`);
}

const times: string[] = [];
const formatTook = (ms: number) => `${Math.floor(ms / 60_000)}:${String(Math.round(ms / 1000) % 60).padStart(2, '0')}`;

/** The checks, which all lean on the types of routes, and the unit tests beside the longest of them. */
async function checkAll(test: () => Promise<void>): Promise<void> {
  spawnSync('npm', ['run', '--silent', 'typegen'], { cwd: ROOT });
  const lane = async () => {
    for (const name of CHECKS) add(await check(name));
    await test();
  };
  await Promise.all([check('lint').then(add), lane()]);
}

/** What failed in a run, each with the first lines of why: a reader of the end of a long log finds it there. */
function failed(project: string, { testResults }: Result): string[] {
  return testResults.flatMap(({ name, message, assertionResults }) => {
    const file = name.replace(`${ROOT}/`, '');
    const tests = assertionResults.filter(({ status }) => status === 'failed');
    if (tests.length === 0) return message === '' ? [] : [`${project}: ${file}: ${firstLines(message)}`];
    return tests.map(
      ({ fullName, failureMessages }) => `${project}: ${file}: ${fullName}\n${firstLines(failureMessages.join('\n'))}`,
    );
  });
}

const firstLines = (text: string) => text.split('\n').slice(0, 8).join('\n').slice(0, 2000);

/** Runs one project of tests; a run that ends without telling its result is a failure of its own. */
async function runTests(project: string, files: string[], folder: string): Promise<Tally> {
  const file = join(folder, `${project === EVERY ? 'all' : project}.json`);
  const reporters = ['--reporter=default', '--reporter=json', `--outputFile.json=${file}`];
  const child = spawn(
    process.execPath,
    [
      join(ROOT, 'node_modules/vitest/vitest.mjs'),
      'run',
      '--project',
      project,
      '--passWithNoTests',
      ...reporters,
      ...files,
    ],
    {
      cwd: ROOT,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: process.env,
    },
  );
  const code = await new Promise<number>((resolve) => child.once('exit', (exit) => resolve(exit ?? 1)));
  try {
    const result = JSON.parse(readFileSync(file, 'utf8')) as Result;
    failures.push(...failed(project, result));
    const count = result.numFailedTests === 0 && code !== 0 ? 1 : result.numFailedTests;
    return { passed: result.numPassedTests, failed: count };
  } catch {
    failures.push(`${project}: ended with ${code}, and told no result`);
    return { passed: 0, failed: 1 };
  }
}

/** What the command line asks for. */
function asked(): { files: string[]; search: string; stops: string | null } {
  const given = process.argv.slice(2);
  const isLong = given.includes('--long');
  const flag = given.find((word) => word.startsWith('--search='))?.slice('--search='.length);
  return {
    files: given.filter((word) => !word.startsWith('--search=') && word !== '--long'),
    search: flag ?? (isLong ? LONG_SEARCH : USUAL_SEARCH),
    stops: isLong ? LONG_STOPS : null,
  };
}

async function main(): Promise<void> {
  ensureDebianPackages(say, FOR_TESTS);
  const { files, search, stops } = asked();
  process.env.SHRIKE_SEARCH = search;
  if (stops !== null) process.env.SHRIKE_STOPS ??= stops;
  const folder = mkdtempSync(join(tmpdir(), 'shrike-test-'));
  const test = (project: string) => async () => add(await runTests(project, files, folder));
  if (files.length === 0) {
    await timed('checks and unit', () => checkAll(test(BESIDE_CHECKS)));
    for (const project of PROJECTS) {
      if (project === 'e2e') await timed('build', () => Promise.resolve(ensureBuild('test', say)));
      await timed(project, test(project));
    }
  } else {
    if (files.some((file) => file.includes('e2e'))) ensureBuild('test', say);
    await timed('tests', test(EVERY));
  }
  rmSync(folder, { recursive: true, force: true });
}

main()
  .catch((error: unknown) => {
    say(error instanceof Error ? error.message : String(error));
    add({ passed: 0, failed: 1 });
  })
  .finally(() => {
    for (const failure of failures) say(`\n× ${failure}`);
    say(`\n${times.join(', ')}`);
    say(`${total.passed} passed, ${total.failed} failed`);
    process.exitCode = total.failed === 0 ? 0 : 1;
  });
