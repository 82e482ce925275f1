import { createHash } from 'node:crypto';
import { accessSync, constants, mkdirSync } from 'node:fs';
import { homedir } from 'node:os';
import { basename, dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The clone's own folder. */
export const ROOT = resolve(dirname(fileURLToPath(import.meta.url)), '../..');

/**
 * The folder that holds what a running Shrike keeps, outside the clone and keyed by its path: under /var/lib as root,
 * for the clone may stand where the database's user cannot enter; else under the user's own state folder.
 */
export function stateFolder(kind: string): string {
  const key = `${basename(ROOT)}-${createHash('sha256').update(ROOT).digest('hex').slice(0, 10)}`;
  const base =
    process.getuid?.() === 0 ? '/var/lib' : (process.env.XDG_STATE_HOME ?? join(homedir(), '.local', 'state'));
  const folder = join(base, 'shrike', key, kind);
  mkdirSync(folder, { recursive: true });
  return folder;
}

/**
 * The folder that holds what Shrike keeps when it is started for real: the one that is said, else one for the whole
 * machine as root, or the user's own. It stays where it is when the clone moves.
 */
export function dataFolder(said: string | undefined): string {
  const own = () => join(process.env.XDG_DATA_HOME ?? join(homedir(), '.local', 'share'), 'shrike');
  const folder = said ? resolve(said) : process.getuid?.() === 0 ? '/var/lib/shrike/data' : own();
  try {
    mkdirSync(folder, { recursive: true, mode: 0o755 });
    accessSync(folder, constants.R_OK | constants.W_OK | constants.X_OK);
    return folder;
  } catch (error) {
    throw new Error(
      `The data folder ${folder} cannot be used: ${(error as Error).message}. Say another in SHRIKE_DATA, or give this ` +
        'one to the user who starts Shrike.',
      { cause: error },
    );
  }
}
