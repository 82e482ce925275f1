import { createServer, type AddressInfo, type Socket } from 'node:net';

/** A server that says just the bytes that a test gives it, to whoever asks, and then hangs up. */
export interface RawServer {
  port: number;
  /** What is said from now on; a function speaks for itself. */
  say: (answer: string | Buffer | ((socket: Socket) => void)) => void;
  close: () => Promise<void>;
}

/** Opens one on loopback. */
export async function openRaw(greeting: string | null = null, port = 0): Promise<RawServer> {
  let answer: Parameters<RawServer['say']>[0] = '';
  const sockets = new Set<Socket>();
  const server = createServer((socket) => {
    sockets.add(socket);
    socket.on('error', () => undefined);
    socket.once('close', () => sockets.delete(socket));
    if (greeting !== null) socket.write(greeting);
    if (typeof answer === 'function') return answer(socket);
    const said = answer;
    socket.once('data', () => socket.end(said));
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return {
    port: (server.address() as AddressInfo).port,
    say: (next) => (answer = next),
    close: async () => {
      for (const socket of sockets) socket.destroy();
      await new Promise<void>((resolve) => server.close(() => resolve()));
    },
  };
}

/** Counts what nobody caught while something is done. */
export async function countUncaught(work: () => Promise<void>): Promise<string[]> {
  const seen: string[] = [];
  const note = (error: unknown) => void seen.push(String(error));
  process.on('uncaughtException', note);
  process.on('unhandledRejection', note);
  try {
    await work();
    await new Promise((resolve) => setTimeout(resolve, 50));
  } finally {
    process.off('uncaughtException', note);
    process.off('unhandledRejection', note);
  }
  return seen;
}
