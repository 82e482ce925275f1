import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuild } from './system/build';
import { ensureDebianPackages, FOR_TESTS } from './system/debian';
import { ROOT } from './system/state';

// Everything there is to test, from a bare clone: the checks, then unit, integration and end-to-end tests. The last
// line tells how many passed and failed; each check counts as one. `--search=N` makes each search for a counterexample
// N tries long; other words go to vitest, for a part of the tests.

/**
 * What is checked, by what goes one after another; beside each other they take as long as the longest. All lean on the
 * types of routes.
 */
const CHECKS = [['lint'], ['types', 'dead', 'format:check']];
const PROJECTS = ['unit', 'integration', 'e2e'];

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

async function checkAll(): Promise<void> {
  spawnSync('npm', ['run', '--silent', 'typegen'], { cwd: ROOT });
  await Promise.all(
    CHECKS.map(async (names) => {
      for (const name of names) add(await check(name));
    }),
  );
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
async function runTests(project: string, words: string[], search: string, folder: string): Promise<Tally> {
  say(`\n${project} tests`);
  const file = join(folder, `${project}.json`);
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
      ...words,
    ],
    {
      cwd: ROOT,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, SHRIKE_SEARCH: search },
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

async function main(): Promise<void> {
  ensureDebianPackages(say, FOR_TESTS);
  const flag = '--search=';
  const words = process.argv.slice(2).filter((word) => !word.startsWith(flag));
  const search = process.argv.find((word) => word.startsWith(flag))?.slice(flag.length) ?? '100';
  const folder = mkdtempSync(join(tmpdir(), 'shrike-test-'));
  await checkAll();
  for (const project of PROJECTS) {
    if (project === 'e2e') ensureBuild('test', say);
    add(await runTests(project, words, search, folder));
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
    say(`${total.passed} passed, ${total.failed} failed`);
    process.exitCode = total.failed === 0 ? 0 : 1;
  });
