import { createHash } from 'node:crypto';
import { mkdirSync } from 'node:fs';
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
