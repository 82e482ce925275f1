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

/** Any free port. */
export function anyPort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.once('error', reject);
    server.listen(0, '127.0.0.1', () => {
      const address = server.address();
      const port = typeof address === 'object' && address !== null ? address.port : 0;
      server.close(() => resolve(port));
    });
  });
}
