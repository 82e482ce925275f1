import { anyPort } from '#scripts/system/ports';
import { SMTPServer, type SMTPServerOptions } from 'smtp-server';
import type { MailServer } from '#server/deliver/mail-server';
import { FOR_LOCALHOST } from './certificate';

/** A mail server on loopback that asks for nothing. */
export const loopback = (port: number): MailServer => ({
  host: '127.0.0.1',
  port,
  security: 'offered',
  signIn: null,
  ca: null,
});

/** The name that the certificate of tests is for. */
export const CERTIFIED = 'localhost';

/** A mail server with an encrypted door, which may ask who is there; what it took. */
export interface TestServer {
  port: number;
  took: string[];
  close: () => Promise<void>;
}

/** Opens one. `users` are those whom it lets in. */
export async function openMailServer(
  options: SMTPServerOptions,
  users: Record<string, string> | null = null,
): Promise<TestServer> {
  const took: string[] = [];
  const server = new SMTPServer({
    ...FOR_LOCALHOST,
    logger: false,
    disableReverseLookup: true,
    closeTimeout: 300,
    authOptional: users === null,
    ...(users === null ? { disabledCommands: ['AUTH'] } : {}),
    onAuth: ({ username = '', password }, _session, callback) =>
      users?.[username] === password ? callback(null, { user: username }) : callback(new Error('wrong password')),
    onData: (stream, _session, callback) => {
      const pieces: Buffer[] = [];
      stream.on('data', (piece: Buffer) => pieces.push(piece));
      stream.on('end', () => {
        took.push(Buffer.concat(pieces).toString('utf8'));
        callback(null, 'taken');
      });
    },
    ...options,
  });
  server.on('error', () => undefined);
  const port = await anyPort();
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', () => resolve()));
  return { port, took, close: () => new Promise((resolve) => server.close(() => resolve())) };
}
