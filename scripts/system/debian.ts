import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';

const POSTGRES = '/usr/lib/postgresql';

/** The folder of PostgreSQL's server programs, the newest that Debian installed; null when there is none. */
export function postgresPrograms(): string | null {
  if (!existsSync(POSTGRES)) return null;
  const versions = readdirSync(POSTGRES).sort((a, b) => Number(b) - Number(a));
  return (
    versions.map((version) => join(POSTGRES, version, 'bin')).find((bin) => existsSync(join(bin, 'postgres'))) ?? null
  );
}

const NEEDED = [
  { name: 'postgresql', has: () => postgresPrograms() !== null },
  { name: 'chromium', has: () => existsSync('/usr/bin/chromium') },
  { name: 'chromium-driver', has: () => existsSync('/usr/bin/chromedriver') },
];

/** What only tests need: another program that opens our workbooks. */
export const FOR_TESTS = [
  { name: 'libreoffice-calc-nogui', has: () => existsSync('/usr/lib/libreoffice/program/libsclo.so') },
];

/** Installs the Debian packages that are missing. Throws with a clear sentence where that cannot be done. */
export function ensureDebianPackages(say: (line: string) => void, besides: typeof NEEDED = []): void {
  const needed = [...NEEDED, ...besides];
  const missing = needed.filter((each) => !each.has()).map((each) => each.name);
  if (missing.length === 0) return;
  const list = missing.join(' ');
  const prefix = rights();
  if (prefix === null) {
    throw new Error(
      `These Debian packages are missing and need root to install: ${list}. Run “sudo apt-get install ${list}” ` +
        '(or the same as root), then start again.',
    );
  }
  say(`Installing from Debian: ${list} …`);
  apt(prefix, ['update', '-q']);
  apt(prefix, ['install', '-y', '-q', '--no-install-recommends', ...missing]);
  const still = needed.filter((each) => !each.has()).map((each) => each.name);
  if (still.length > 0)
    throw new Error(
      `Debian's package manager did not install: ${still.join(' ')}. Install them by hand, then start again.`,
    );
}

/** What to put before a command that needs root: nothing as root, sudo where it asks for no password; else null. */
function rights(): string[] | null {
  if (process.getuid?.() === 0) return [];
  return spawnSync('sudo', ['-n', 'true'], { stdio: 'ignore' }).status === 0 ? ['sudo', '-n'] : null;
}

function apt(prefix: string[], words: string[]): void {
  const [command = '', ...rest] = [...prefix, 'env', 'DEBIAN_FRONTEND=noninteractive', 'apt-get', ...words];
  const done = spawnSync(command, rest, { encoding: 'utf8', cwd: '/' });
  if (done.status !== 0)
    throw new Error(
      `“apt-get ${words.join(' ')}” failed:\n${(done.stderr ?? '').trim().split('\n').slice(-4).join('\n')}`,
    );
}
