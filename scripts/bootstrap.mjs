// Runs one of our TypeScript programs from a bare clone: checks Node, installs the npm packages that the lock file
// names if they are not there as it names them, then hands over. Plain JavaScript: nothing is installed yet.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const [program, ...rest] = process.argv.slice(2);
const [major, minor] = process.versions.node.split('.').map(Number);

if (major < 20 || (major === 20 && minor < 19)) {
  console.error(`Shrike needs Node 20.19 or newer; this is ${process.versions.node}.`);
  process.exit(1);
}

const lock = createHash('sha256')
  .update(readFileSync(join(root, 'package-lock.json')))
  .digest('hex');
const marker = join(root, 'node_modules', '.installed-from');
if (!existsSync(marker) || readFileSync(marker, 'utf8') !== lock) {
  console.log('Installing the npm packages …');
  // Not `npm ci`: that refuses a lock file in which a registry had no build of some package for some other platform.
  const words = ['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'];
  const installed = spawnSync('npm', words, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'] });
  if (installed.status !== 0) {
    console.error('The npm packages could not be installed; npm says why above.');
    process.exit(1);
  }
  writeFileSync(marker, lock);
}

const child = spawn(process.execPath, ['--import', 'tsx', join(root, program), ...rest], {
  cwd: root,
  stdio: 'inherit',
});
// Ctrl-C reaches the child by itself; a signal sent to this process alone is passed on.
process.on('SIGINT', () => undefined);
for (const signal of ['SIGTERM', 'SIGHUP']) process.on(signal, () => child.kill(signal));
child.on('exit', (code, signal) => process.exit(code ?? (signal === 'SIGINT' ? 130 : 1)));
