import { createServer } from 'node:net';

/** True when nothing listens on this loopback port. */
export function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });
}

const TRIES = 50;

/** The preferred port, or the next free one after it. */
export async function freePort(preferred: number, taken: number[] = []): Promise<number> {
  for (let port = preferred; port < preferred + TRIES; port += 1) {
    if (!taken.includes(port) && (await isFree(port))) return port;
  }
  throw new Error(`No free port between ${preferred} and ${preferred + TRIES - 1} on this machine.`);
}

/**
 * Below the ports that systems give to connections going out (RFC 6335 begins those at 49152, Linux at 32768): one of
 * those is free one moment, and the other end of somebody's connection the next, before anything listens on it.
 */
const LOWEST = 12_000;
const HIGHEST = 32_000;
const given = new Set<number>();

/** Any free port; never the same one twice. */
export async function anyPort(): Promise<number> {
  for (;;) {
    const port = LOWEST + Math.floor(Math.random() * (HIGHEST - LOWEST));
    if (given.has(port) || !(await isFree(port))) continue;
    given.add(port);
    return port;
  }
}
