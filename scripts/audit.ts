import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './system/state';

// `npm run audit`: asks the registry whether what Shrike depends on has known faults. Where none answers, as behind a
// wall, the dated list of docs/dependencies.md stands for it, which is held against what is installed; `--write` writes
// it anew.

const LIST = join(ROOT, 'docs/dependencies.md');
const say = (line: string) => process.stdout.write(`${line}\n`);

interface Lock {
  packages: Record<string, { version?: string; dev?: boolean }>;
}

/** What runs with Shrike, itself or by another, with its version. */
function dependedOn(): string[] {
  const { packages } = JSON.parse(readFileSync(join(ROOT, 'package-lock.json'), 'utf8')) as Lock;
  const lines = Object.entries(packages).flatMap(([path, { version, dev }]) =>
    path === '' || dev === true || version === undefined
      ? []
      : [`- ${path.replace(/^.*node_modules\//, '')} ${version}`],
  );
  return [...new Set(lines)].sort();
}

function head(date: string): string {
  return (
    '# What Shrike depends on\n\n' +
    `Every package of others that runs with Shrike, by exact version, as of ${date}; \`npm run audit\` holds it against\n` +
    'what is installed, and asks the registry for known faults where one answers.\n\n'
  );
}

const wanted = dependedOn();
if (process.argv.includes('--write'))
  writeFileSync(LIST, `${head(new Date().toISOString().slice(0, 10))}${wanted.join('\n')}\n`);
const listed = readFileSync(LIST, 'utf8')
  .split('\n')
  .filter((line) => line.startsWith('- '));
const missing = wanted.filter((line) => !listed.includes(line));
const gone = listed.filter((line) => !wanted.includes(line));
if (missing.length + gone.length > 0) {
  say(`docs/dependencies.md is not what is installed: ${[...missing, ...gone].slice(0, 10).join('; ')}`);
  say('Look at what changed, then run “npm run audit -- --write”.');
  process.exit(1);
}

const audit = spawnSync('npm', ['audit', '--omit=dev', '--audit-level=high', '--json'], {
  cwd: ROOT,
  encoding: 'utf8',
});
const answer = JSON.parse(audit.stdout || '{}') as {
  error?: object;
  message?: string;
  metadata?: { vulnerabilities: object };
};
if (answer.metadata === undefined) {
  say(`No registry says what is known to be wrong; docs/dependencies.md lists ${listed.length} packages by version.`);
  process.exit(0);
}
say(JSON.stringify(answer.metadata.vulnerabilities));
process.exit(audit.status ?? 1);
