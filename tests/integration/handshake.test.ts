import { createServer as createPlain } from 'node:http';
import { createServer as createSecure, type ServerOptions } from 'node:https';
import { createServer as createSocket, type AddressInfo, type Server } from 'node:net';
import { afterAll, describe, expect, it } from 'vitest';
import { AddressRules } from '#server/fetch/addresses';
import { Fetcher } from '#server/fetch/fetcher';
import { describeFetchProblem } from '#server/fetch/problem';
import { SELF_SIGNED } from '../support/certificate';

const LIMITS = { timeoutMs: 4_000, mostBytes: 100_000, mostRedirects: 3, userAgent: 'Shrike test' };
const servers: Server[] = [];
afterAll(() => servers.forEach((server) => server.close()));

async function listening(server: Server): Promise<number> {
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return (server.address() as AddressInfo).port;
}

/** Why nothing comes from an encrypted address of this server. */
async function refusal(server: Server): Promise<string> {
  const host = `shop.localhost:${await listening(server)}`;
  const fetcher = new Fetcher(new AddressRules([host]), LIMITS);
  const fetched = await fetcher.fetch({ address: `https://${host}/` });
  await fetcher.close();
  return fetched.ok ? 'it came' : describeFetchProblem(fetched.error);
}

const secure = (options: ServerOptions) =>
  createSecure({ ...SELF_SIGNED, ...options }, (_request, response) => void response.end('<p>£24.00</p>'));

describe('where no encrypted connection comes about, it is said in words', () => {
  it('that the site speaks without encryption alone', async () => {
    expect(await refusal(createPlain((_request, response) => void response.end('hello')))).toMatch(
      /answers here without encryption.*Try it with http:\/\/\./,
    );
  });

  it('that it offers outdated encryption alone', async () => {
    const old = { minVersion: 'TLSv1', maxVersion: 'TLSv1.1', ciphers: 'DEFAULT@SECLEVEL=0' } as const;
    expect(await refusal(secure(old))).toMatch(/only outdated encryption/);
  });

  it('that it breaks off', async () => {
    expect(await refusal(createSocket((socket) => void socket.once('data', () => socket.destroy())))).toMatch(
      /broke off/,
    );
  });

  it('that it made its certificate itself', async () => {
    expect(await refusal(secure({}))).toMatch(/certificate cannot be trusted: the site made it itself\./);
  });

  it('that something there is no web site at all', async () => {
    expect(await refusal(createSocket((socket) => void socket.end('220 mail.example ESMTP ready\r\n')))).toMatch(
      /without encryption|broke off/,
    );
  });

  it('but never in the letters of a program', async () => {
    for (const server of [
      createPlain(() => undefined),
      createSocket((socket) => void socket.destroy()),
      secure({ maxVersion: 'TLSv1.2' }),
    ])
      expect(await refusal(server)).not.toMatch(/err_|ssl|openssl|eproto|econn/i);
  });
});
