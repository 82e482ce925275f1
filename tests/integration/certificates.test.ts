import { X509Certificate } from 'node:crypto';
import { createServer, type Server } from 'node:https';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { listHosts, pauseHost, setHost, trustHost } from '#server/db/source/hosts';
import { inTransaction } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { HOUR } from '#core/when/interval';
import { AddressRules } from '#server/fetch/addresses';
import { Renderer } from '#server/fetch/rendered/renderer';
import { SELF_SIGNED } from '../support/certificate';
import { openThreads } from '../support/reading';
import { openWorld, PRICE, type TestWorld } from '../support/world';
import { pageDefinition } from '#core/read/definition';

const FINGERPRINT = new X509Certificate(SELF_SIGNED.cert).fingerprint256;
const PAGE =
  '<!doctype html><script ' +
  'type="application/ld+json">{"@type":"Product","offers":{"price":"24.00","priceCurrency":"GBP"}}</script><h1>Smoker</h1><p>£24.00</p>';

const SLOWNESS = 45_000;

let server: Server;
let world: TestWorld;
let host = '';
let asked = 0;

beforeAll(async () => {
  server = createServer(SELF_SIGNED, (request, response) => {
    if (request.url !== '/robots.txt') asked += 1;
    if (request.url === '/p/slow') world.now += SLOWNESS;
    response.writeHead(request.url === '/robots.txt' ? 404 : 200, { 'content-type': 'text/html' }).end(PAGE);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  host = `shop.localhost:${(server.address() as AddressInfo).port}`;
  world = await openWorld({ SHRIKE_ADMITTED: host });
});
afterAll(async () => {
  server.closeAllConnections();
  server.close();
  await world.close();
});

const hostNow = async () => (await listHosts(world.pool, '', 100)).find((each) => each.name === host);

describe('a certificate that nobody vouches for', () => {
  it('fails the run with its reason, and nothing is sent to the site', async () => {
    const source = { address: `https://${host}/p/1`, host, site: 'Shop', mostAtOnce: 2 };
    const plan = {
      definition: pageDefinition('Smoker', [PRICE]),
      frequency: { count: 1, unit: 'hour' as const },
      rules: [],
    };
    await inTransaction(world.pool, (db) =>
      createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
    );
    expect(await world.pass(1000)).toMatchObject([{ outcome: 'failed' }]);
    const [watch] = await world.rows<{ problem: { sentence: string } }>('SELECT problem FROM watch');
    expect(watch?.problem.sentence).toContain('certificate cannot be trusted');
    expect(watch?.problem.sentence).toContain('by its fingerprint under Hosts');
    expect(asked).toBe(0);
    expect(await hostNow()).toMatchObject({ refusedCertificate: FINGERPRINT, trustedCertificate: null });
  });

  it('is trusted by its fingerprint, on this host, and read at once', async () => {
    await trustHost(world.pool, host, FINGERPRINT, world.now);
    expect(await world.pass(1000)).toMatchObject([{ outcome: 'read' }]);
    expect(await hostNow()).toMatchObject({ refusedCertificate: null, trustedCertificate: FINGERPRINT, failing: 0 });
  });

  it('of another fingerprint is refused all the same', async () => {
    await trustHost(world.pool, host, FINGERPRINT.replace(/^../, '00'), world.now);
    await new Promise((resolve) => setTimeout(resolve, 4_500)); // the open connection is let go
    expect(await world.pass(HOUR)).toMatchObject([{ outcome: 'failed' }]);
    await trustHost(world.pool, host, FINGERPRINT, world.now);
    await world.pass(1000);
  });
});

describe('a host', () => {
  it('that is paused is not asked, and what fell due meanwhile is asked once', async () => {
    await pauseHost(world.pool, host, world.now);
    const before = asked;
    expect(await world.pass(5 * HOUR)).toEqual([]);
    await pauseHost(world.pool, host, null);
    expect(await world.pass(1000)).toHaveLength(1);
    expect(asked).toBe(before + 1);
  });

  it('with a pause between requests is asked one thing at a time', async () => {
    await setHost(
      world.pool,
      host,
      { mostAtOnce: 10, pauseMs: 60_000, robotsHeeded: true, runsADay: null },
      { id: world.people.ines, zone: 'UTC' },
    );
    for (const path of ['2', '3']) {
      const source = { address: `https://${host}/p/${path}`, host, site: 'Shop', mostAtOnce: 2 };
      const plan = {
        definition: pageDefinition('Smoker', [PRICE]),
        frequency: { count: 1, unit: 'hour' as const },
        rules: [],
      };
      await inTransaction(world.pool, (db) =>
        createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
      );
    }
    expect(await world.pass(1000)).toHaveLength(1);
    expect(await world.pass(1000)).toHaveLength(0);
    expect(await world.pass(60_000)).toHaveLength(1);
  });

  it('has its pause after each answer, however long that took', async () => {
    await world.pass(60_000);
    const source = { address: `https://${host}/p/slow`, host, site: 'Shop', mostAtOnce: 2 };
    const plan = {
      definition: pageDefinition('Smoker', [PRICE]),
      frequency: { count: 1, unit: 'minute' as const },
      rules: [],
    };
    const begun = world.now + 60_000;
    await inTransaction(world.pool, (db) =>
      createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
    );
    expect(await world.pass(60_000)).toHaveLength(1);
    expect((await hostNow())?.nextAt).toBe(begun + SLOWNESS + 60_000);
    await setHost(
      world.pool,
      host,
      { mostAtOnce: 10, pauseMs: 0, robotsHeeded: true, runsADay: null },
      { id: world.people.ines, zone: 'UTC' },
    );
  });
});

describe('a page rendered from a host whose certificate nobody vouches for', () => {
  const limits = {
    executable: '/usr/bin/chromium',
    pagesAtOnce: 1,
    timeoutMs: 20_000,
    mostBytes: 2_000_000,
    userAgent: 'test',
  };
  const reading = openThreads();
  afterAll(() => reading.close());
  const rendererThatTrusts = (trusted: string | null) =>
    new Renderer(
      new AddressRules([host]),
      limits,
      () => null,
      reading,
      () => Promise.resolve(trusted),
    );

  it('is refused with the fingerprint to decide on, and nothing is sent', async () => {
    const renderer = rendererThatTrusts(null);
    const before = asked;
    const rendered = await renderer.render({ address: `https://${host}/p/1`, steps: [] });
    expect(rendered).toMatchObject({ ok: false, error: { reason: 'bad certificate', host, fingerprint: FINGERPRINT } });
    expect(asked).toBe(before);
    await renderer.close();
  });

  it('is rendered where just that certificate is trusted by hand, and no other', async () => {
    const renderer = rendererThatTrusts(FINGERPRINT);
    const rendered = await renderer.render({ address: `https://${host}/p/1`, steps: [] });
    expect(rendered.ok && rendered.value.kind === 'page' && rendered.value.body()).toContain('£24.00');
    await renderer.close();
    const wary = rendererThatTrusts(FINGERPRINT.replace(/^../, '00'));
    expect(await wary.render({ address: `https://${host}/p/1`, steps: [] })).toMatchObject({
      ok: false,
      error: { reason: 'bad certificate' },
    });
    await wary.close();
  });
});
