import { createServer as createTls } from 'node:https';
import type { AddressInfo } from 'node:net';
import { request } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AddressRules } from '#server/fetch/addresses';
import { Fetcher } from '#server/fetch/fetcher';
import { describeFetchProblem } from '#server/fetch/problem';
import { FilteringProxy } from '#server/fetch/rendered/proxy';
import { Mailer } from '#server/deliver/mail';
import { SELF_SIGNED } from '../support/certificate';
import { RAW_ANSWERS, RAW_MAIL } from '../support/raw-answers';
import { countUncaught, openRaw, type RawServer } from '../support/raw';
import { loopback } from '../support/mail-servers';

// Whatever a site or a mail server answers, byte by byte: it ends in a page or a stated problem, and nothing goes
// uncaught.

let site: RawServer;
let rules: AddressRules;
beforeAll(async () => {
  site = await openRaw();
  rules = new AddressRules([`site.localhost:${site.port}`]);
});
afterAll(() => site.close());

const TIMEOUT_MS = 1_000;
const LIMITS = { timeoutMs: TIMEOUT_MS, mostBytes: 2_000_000, mostRedirects: 3, userAgent: 'test' };

/** Asks for a page by way of the proxy, as a browser does; null where the connection broke off. */
function throughProxy(
  proxy: FilteringProxy,
): Promise<{ status: number; headers: NodeJS.Dict<string | string[]> } | null> {
  const { hostname, port } = new URL(proxy.address);
  return new Promise((resolve) => {
    const asked = request(
      { host: hostname, port, path: `http://site.localhost:${site.port}/`, timeout: 2 * TIMEOUT_MS },
      (answer) => {
        answer.resume();
        answer.on('error', () => undefined);
        answer.on('close', () => resolve({ status: answer.statusCode ?? 0, headers: answer.headers }));
      },
    );
    asked.on('timeout', () => asked.destroy());
    asked.on('error', () => resolve(null));
    asked.end();
  });
}

describe('the answer of a site', () => {
  const answers = Object.entries(RAW_ANSWERS);

  it.each(answers)('with %s is fetched, or refused with a sentence', async (_, answer) => {
    const fetcher = new Fetcher(rules, LIMITS);
    site.say(answer);
    const uncaught = await countUncaught(async () => {
      const fetched = await fetcher.fetch({ address: `http://site.localhost:${site.port}/` });
      if (!fetched.ok) expect(describeFetchProblem(fetched.error).length).toBeGreaterThan(10);
      else if (fetched.value.kind === 'page') expect(fetched.value.body()).not.toContain('\0');
    });
    expect(uncaught).toEqual([]);
    await fetcher.close();
  });

  it('of every kind goes through the proxy, or is a 502, and the proxy goes on', async () => {
    const proxy = await FilteringProxy.open(rules);
    const came: Record<string, number | null> = {};
    const uncaught = await countUncaught(async () => {
      for (const [name, answer] of answers) {
        site.say(answer);
        const passed = await throughProxy(proxy);
        came[name] = passed?.status ?? null;
        for (const header of ['trailer', 'x-secret', 'proxy-authenticate', 'x-shrike-refused', 'upgrade'])
          expect(passed?.headers[header], name).toBe(undefined);
      }
      site.say(RAW_ANSWERS['a page'] ?? '');
      expect((await throughProxy(proxy))?.status).toBe(200);
    });
    expect(uncaught).toEqual([]);
    expect(came).toMatchObject({
      'a page': 200,
      'status 000': 502,
      'status 099': 502,
      'status 600': 502,
      'status 999': 502,
      nothing: 502,
      'a Trailer header': 200,
    });
    await proxy.close();
  });
});

describe('a site that shows a certificate nobody vouches for', () => {
  it('is a stated problem, also while the database that knows whom we trust is away', async () => {
    const server = createTls(SELF_SIGNED, (_request, response) => response.end('<p>hi</p>'));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as AddressInfo;
    const away = () => Promise.reject(new Error('connection terminated'));
    const fetcher = new Fetcher(new AddressRules([`site.localhost:${port}`]), LIMITS, away);
    const uncaught = await countUncaught(async () => {
      expect((await fetcher.fetch({ address: `https://site.localhost:${port}/` })).ok).toBe(false);
    });
    expect(uncaught).toEqual([]);
    await fetcher.close();
    server.close();
  });
});

describe('what a mail server says', () => {
  it.each(Object.entries(RAW_MAIL))('with %s is an outcome that can be kept', async (_, answer) => {
    const server = await openRaw();
    server.say((socket) => void (answer === '' ? socket.end() : socket.write(answer)));
    const mailer = new Mailer({ from: 'shrike@heatherlow.example', servers: [loopback(server.port)], signing: null });
    const mail = {
      messageId: '<1@heatherlow.example>',
      to: { name: 'Inés', address: 'ines@heatherlow.example' },
      subject: 'x',
      html: 'x',
      text: 'x',
      leave: null,
      thread: [],
      files: [],
      list: null,
      sentAgain: false,
    };
    const uncaught = await countUncaught(async () => {
      const sent = await mailer.send(mail, TIMEOUT_MS);
      expect(sent.ok).toBe(false);
      if (sent.ok) return;
      expect(sent.error.response.length).toBeLessThanOrEqual(500);
      expect(sent.error.response.includes('\0')).toBe(false);
      expect(Buffer.from(sent.error.response, 'utf8').toString('utf8')).toBe(sent.error.response);
    });
    expect(uncaught).toEqual([]);
    mailer.close();
    await server.close();
  });
});
