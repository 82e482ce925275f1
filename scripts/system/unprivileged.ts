import { spawnSync } from 'node:child_process';

/** Whom to run a program as. */
export interface Identity {
  uid: number;
  gid: number;
}

/**
 * As root: the unprivileged user that PostgreSQL and Chromium run as. As an ordinary user: null, for they then run
 * as that user.
 */
export function unprivileged(name = 'postgres'): Identity | null {
  if (process.getuid?.() !== 0) return null;
  const number = (flag: string) => Number(spawnSync('id', [flag, name], { encoding: 'utf8' }).stdout.trim());
  const identity = { uid: number('-u'), gid: number('-g') };
  if (!(identity.uid > 0))
    throw new Error(`There is no user “${name}” to run the database as. Debian's package postgresql makes it.`);
  return identity;
}
