import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';

const POSTGRES = '/usr/lib/postgresql';

/**
 * The folder of PostgreSQL's server programs, the newest that Debian installed, or those of one version; null when
 * there are none.
 */
export function postgresPrograms(version: string | null = null): string | null {
  if (!existsSync(POSTGRES)) return null;
  const versions = version === null ? readdirSync(POSTGRES).sort((a, b) => Number(b) - Number(a)) : [version];
  return versions.map((each) => join(POSTGRES, each, 'bin')).find((bin) => existsSync(join(bin, 'postgres'))) ?? null;
}

/** A package of Debian's, and whether it is there. */
export interface Package {
  name: string;
  has: () => boolean;
}

export const DATABASE: Package = { name: 'postgresql', has: () => postgresPrograms() !== null };
/** What renders pages. */
export const BROWSER: Package = { name: 'chromium', has: () => existsSync('/usr/bin/chromium') };
/** What drives it in tests and for pictures. */
const DRIVER: Package = { name: 'chromium-driver', has: () => existsSync('/usr/bin/chromedriver') };

export const FOR_THE_DEMO = [DATABASE, BROWSER, DRIVER];

/** Tests need another program that opens our workbooks, too. */
export const FOR_TESTS = [
  ...FOR_THE_DEMO,
  { name: 'libreoffice-calc-nogui', has: () => existsSync('/usr/lib/libreoffice/program/libsclo.so') },
];

/** Installs the Debian packages that are missing. Throws with a clear sentence where that cannot be done. */
export function ensureDebianPackages(say: (line: string) => void, needed: Package[]): void {
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

/** Whether Debian packages can be installed here without asking anybody. */
export const mayInstall = (): boolean => rights() !== null;

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
