import { hash, verify, type Options } from '@node-rs/argon2';

/**
 * Argon2id (RFC 9106) with 19 MiB, two passes, one lane: the least that OWASP's password storage cheat sheet (2025)
 * asks for.
 */
const ARGON2ID = 2;
const COST: Options = { algorithm: ARGON2ID, memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export const LEAST_PASSWORD = 12;
const MOST_PASSWORD = 200;

/** What is wrong with a password that somebody chooses; null where nothing is. */
export function passwordFault(password: string): string | null {
  const fits = password.length >= LEAST_PASSWORD && password.length <= MOST_PASSWORD;
  return fits ? null : `A password needs at least ${LEAST_PASSWORD} characters, and may have ${MOST_PASSWORD}.`;
}

/** A password as it is kept. */
export function hashPassword(password: string): Promise<string> {
  return hash(password.normalize('NFKC'), COST);
}

/** What is verified where there is no such account, so that it takes as long. */
const NOBODYS = hashPassword('nobody signs in with this');

/** Whether a password is the one that was kept; without one it takes as long to say no. */
export async function isPassword(kept: string | null, password: string): Promise<boolean> {
  const fits = await verify(kept ?? (await NOBODYS), password.normalize('NFKC')).catch(() => false);
  return kept !== null && fits;
}
