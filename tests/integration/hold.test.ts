import type { DeliveryId } from '#core/id';
import { numbered } from '../support/numbered';
import { emptyPlan } from '#core/plan/plan';
import { randomUUID } from 'node:crypto';
import { createServer } from 'node:net';
import type { AddressInfo, Socket } from 'node:net';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { pageDefinition, type Field } from '#core/read/definition';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { beginDraft } from '#server/db/watch/drafts';
import { findDelivery, listDeliveries, requeueDelivery } from '#server/db/delivery/deliveries';
import { orderPreview, listPreviews } from '#server/db/source/previews';
import { isOutage } from '#server/db/base/outage';
import { inTransaction } from '#server/db/base/pool';
import { claimDue } from '#server/db/source/sources';
import { findChangeText, findTrail, listChanges } from '#server/db/reading/views/changes';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch } from '#server/actions/edit-watch';
import { deliver } from '#server/deliver/deliver';
import { Mailer } from '#server/deliver/mail';
import { runSource } from '#server/pipeline/run';
import { takePreview } from '#server/work/preview';
import { openSite, page, type Site } from '../support/site';
import { ruleOf, NEXT_LOOK, openWorld, PRICE, type TestWorld } from '../support/world';
import { loopback } from '../support/mail-servers';

// What a dying process, a second worker and an odd page may not do: be tried for ever, be told twice, take others
// along.

const LEASE_MS = 60_000;
const OFFER =
  '<script ' +
  'type="application/ld+json">{"@type":"Product","offers":{"price":"24.00","priceCurrency":"GBP"}}</script><p>£24.00</p>';

let world: TestWorld;
let site: Site;
let body = OFFER;
beforeAll(async () => {
  site = await openSite({
    '/p': (request, response) => page(body)(request, response),
    '/q': (request, response) => page(OFFER)(request, response),
  });
  world = await openWorld({ SHRIKE_ADMITTED: site.host, SHRIKE_READING_TIMEOUT_MS: '3000' });
});
afterAll(async () => {
  site.close();
  await world.close();
});
beforeEach(async () => {
  body = OFFER;
  await world.clear();
});

const watchOn = (path: string, fields: Field[], more: { audiences?: string[]; condition?: 'change' } = {}) =>
  inTransaction(world.pool, (db) =>
    createWatch(
      db,
      { address: site.base + path, host: site.host, site: 'Shop', mostAtOnce: 10 },
      {
        definition: pageDefinition('Smoker', fields),
        frequency: { count: 1, unit: 'hour' },
        rules:
          more.condition === undefined
            ? []
            : [ruleOf({ kind: 'change', asked: { field: fields[0]?.key ?? '' } }, more.audiences ?? [])],
      },
      { person: world.people.ines, at: world.now },
    ),
  );

/** As if another process had begun with what is due, and had come to its end. */
async function dieOver(path: string): Promise<void> {
  await world.pool.query(
    `UPDATE due SET lease_token = $2, begun_by = $3, lease_until = $4
      WHERE source_id = (SELECT id FROM source WHERE address = $1)`,
    [site.base + path, randomUUID(), randomUUID(), new Date(world.now - 1)],
  );
}

describe('a source over which the process that fetched it came to its end', () => {
  it('is run by itself after the first time, and set aside after the second, which is told; its neighbours go on', async () => {
    const [deadly, good] = [
      await watchOn('/p', [PRICE], { audiences: ['list:1'], condition: 'change' }),
      await watchOn('/q', [PRICE]),
    ];
    await world.pass(0);
    world.now += HOUR;
    await dieOver('/p');
    expect(
      (await claimDue(world.pool, world.now, LEASE_MS, 10, { suspects: false })).map((source) => source.address),
    ).toEqual([`${site.base}/q`]);
    const [suspect] = await claimDue(world.pool, world.now, LEASE_MS, 10, { suspects: true });
    expect(suspect).toMatchObject({ address: `${site.base}/p`, deaths: 1 });
    await dieOver('/p');
    const before = site.asked.length;
    const [again] = await claimDue(world.pool, world.now, LEASE_MS, 10, { suspects: true });
    if (again === undefined) throw new Error('it was not claimed');
    expect(await runSource(world.services.pipeline, again)).toMatchObject({ outcome: 'failed', notices: 1 });
    expect(site.asked.length).toBe(before);
    expect((await findWatch(world.pool, deadly))?.problem?.sentence).toContain('Twice now the worker came to an end');
    expect((await findWatch(world.pool, good))?.problem).toBe(null);
    await world.sendMail();
    expect(world.standins.room.list().length).toBeGreaterThan(0);
    expect(await claimDue(world.pool, world.now + 20 * HOUR, LEASE_MS, 10, { suspects: true })).toEqual([]);
    // A day later it is tried once more, and is well.
    world.now += DAY + HOUR;
    expect((await world.pass(0)).map(({ outcome }) => outcome)).not.toContain('failed');
    expect(await world.rows('SELECT deaths FROM due WHERE deaths > 0')).toEqual([]);
  });

  it('is no suspect where this very process could not store a run, since the database was away', async () => {
    await watchOn('/p', [PRICE]);
    for (let times = 0; times < 4; times += 1) {
      const [claimed] = await claimDue(world.pool, world.now, LEASE_MS, 1);
      expect(claimed?.deaths).toBe(0);
      world.now += LEASE_MS + 1;
    }
  });
});

describe('a look over which the process came to its end', () => {
  it('is begun twice, and then told of', async () => {
    const draft = { address: `${site.base}/p`, content: emptyPlan(''), body: null, finalAddress: null };
    const draftId = await beginDraft(world.pool, world.people.ines, draft, world.now);
    const look = await orderPreview(
      world.pool,
      { draftId, purpose: 'page', address: draft.address, request: {} },
      world.now,
    );
    await world.pool.query('UPDATE preview SET begun = 2 WHERE id = $1', [look]);
    await takePreview(world.services.looking, { look });
    expect((await listPreviews(world.pool, draftId))[0]).toMatchObject({
      state: 'failed',
      problem: expect.stringContaining('Twice the worker came to an end') as string,
    });
  });
});

describe('a watch with a path that takes for ever, or a formula that nobody can work out', () => {
  it('fails by itself, with a sentence, and is told; the others on its source are read', async () => {
    body = OFFER + '<div><span>1</span></div>'.repeat(20_000);
    const css: Field = { ...PRICE, locators: [{ way: 'css', selector: 'div:has(~ div:has(~ div))' }] };
    const odd: Field = {
      ...PRICE,
      key: 'odd',
      label: 'odd',
      type: { kind: 'computed', formula: 'round(price, price)' },
      locators: [],
    };
    const [slow, formula, good] = [
      await watchOn('/p', [css]),
      await watchOn('/p', [PRICE, odd]),
      await watchOn('/p', [PRICE]),
    ];
    await world.pass(0);
    expect((await findWatch(world.pool, slow))?.problem?.sentence).toMatch(/takes too long/);
    expect((await findWatch(world.pool, formula))?.problem?.sentence).toContain('round needs a number of places');
    expect((await findWatch(world.pool, good))?.series[0]?.value).toMatchObject({ amount: '24.00' });
    expect((await findWatch(world.pool, good))?.problem).toBe(null);
  });
});

describe('an error while a run is stored', () => {
  it.each([
    [{ code: '57P01', message: 'terminating connection' }, true],
    [{ code: '08006', message: '' }, true],
    [{ code: 'ECONNREFUSED', message: '' }, true],
    [{ code: '40P01', message: 'deadlock detected' }, true],
    [new Error('Connection terminated unexpectedly'), true],
    [new Error('timeout exceeded when trying to connect'), true],
    [{ code: '22P05', message: 'odd text' }, false],
    [{ code: '23505', message: 'twice' }, false],
    [new TypeError('x is not a function'), false],
    [new RangeError('too deep'), false],
    [new Error('[big.js] Invalid decimal places'), false],
  ])('%j is an outage: %s', (error, outage) => expect(isOutage(error)).toBe(outage));
});

describe('a text of a megabyte and a half', () => {
  const LONG = 'The colony is calm and the stores are full. '.repeat(34_000);
  const TEXT: Field = {
    ...PRICE,
    key: 'text',
    label: 'text',
    type: { kind: 'text' },
    locators: [{ way: 'css', selector: 'main' }],
  };

  it('is mailed and shown by what differs, and is whole on a page of its own', async () => {
    body = `<html><main>${LONG}</main></html>`;
    const watch = await watchOn('/p', [TEXT], { audiences: ['list:1'], condition: 'change' });
    await world.pass(0);
    body = `<html><main>${LONG.slice(0, 700_000)} Varroa was found. ${LONG.slice(700_000)}</main></html>`;
    await world.pass(NEXT_LOOK);
    await world.sendMail();
    const [mail] = world.standins.room.list();
    if (mail === undefined) throw new Error('no mail came');
    const [delivery] = await listDeliveries(world.pool, { states: ['sent'] }, 1);
    const sent = await findDelivery(world.pool, numbered(delivery?.id ?? 0));
    expect(`${sent?.html}${sent?.plain}`.length).toBeLessThan(60_000);
    expect(sent?.plain).toContain('Varroa was found');
    const changes = await listChanges(world.pool, watch, 10);
    expect(
      JSON.stringify([
        changes,
        await findWatch(world.pool, watch),
        await findTrail(world.pool, watch, numbered(changes[0]?.id ?? 0)),
      ]).length,
    ).toBeLessThan(60_000);
    expect((await findChangeText(world.pool, watch, numbered(changes[0]?.id ?? 0), 'now'))?.length).toBeGreaterThan(
      1_400_000,
    );
    expect(await findChangeText(world.pool, numbered(watch + 1), numbered(changes[0]?.id ?? 0), 'now')).toBe(null);
  });
});

describe('a mail', () => {
  async function ordered(): Promise<DeliveryId> {
    await watchOn('/p', [PRICE], { audiences: [`person:${world.people.ravi}`], condition: 'change' });
    await world.pass(0);
    body = OFFER.replaceAll('24.00', '21.00');
    await world.pass(NEXT_LOOK);
    const [row] = await listDeliveries(world.pool, { states: ['queued', 'sending', 'refused', 'given up'] }, 1);
    return numbered<DeliveryId>(row?.id ?? 0);
  }

  it('that is pressed to be sent again n times is sent once', async () => {
    world.standins.world.push('mail', null, 'defers');
    const id = await ordered();
    await deliver(world.services.post, id);
    expect((await findDelivery(world.pool, id))?.state).toBe('refused');
    world.standins.world.push('mail', null, 'accepts');
    const presses = await Promise.all(Array.from({ length: 8 }, () => requeueDelivery(world.pool, id, world.now)));
    expect(presses.filter(Boolean)).toHaveLength(1);
    await Promise.all(Array.from({ length: 8 }, () => deliver(world.services.post, id)));
    expect(world.standins.room.list()).toHaveLength(1);
    expect(await requeueDelivery(world.pool, id, world.now)).toBe(false);
  });

  it('that is refused n times at once waits once', async () => {
    world.standins.world.push('mail', null, 'defers');
    const id = await ordered();
    await Promise.all(Array.from({ length: 6 }, () => deliver(world.services.post, id)));
    expect(await findDelivery(world.pool, id)).toMatchObject({ state: 'refused', attempts: 1 });
  });

  it(
    'that a worker was stopped over in the middle, and which was sent meanwhile by another, stays sent when the ' +
      'first goes on',
    async () => {
      const id = await ordered();
      // The first server holds the end of the mail back until the test lets it go.
      const held: (() => void)[] = [];
      const slow = createServer((socket) => holdMail(socket, held));
      await new Promise<void>((resolve) => slow.listen(0, '127.0.0.1', resolve));
      const mailer = new Mailer({
        from: 'shrike@heatherlow.example',
        servers: [loopback((slow.address() as AddressInfo).port)],
        signing: null,
      });
      const stopped = deliver({ ...world.services.post, mailer, leaseMs: 6_000 }, id);
      while (held.length === 0) await new Promise((resolve) => setTimeout(resolve, 20));
      world.now += 5 * MINUTE;
      await deliver(world.services.post, id);
      expect(await findDelivery(world.pool, id)).toMatchObject({ state: 'sent', attempts: 2, sentAgain: true });
      held[0]?.();
      await stopped;
      expect(await findDelivery(world.pool, id)).toMatchObject({ state: 'sent', attempts: 2 });
      await world.sendMail();
      expect(world.standins.room.list()).toHaveLength(1);
      mailer.close();
      slow.close();
    },
  );
});

/**
 * A mail server that takes a mail as far as its last line, and then says nothing but a refusal, when it is let go on.
 */
function holdMail(socket: Socket, held: (() => void)[]): void {
  let data = false;
  socket.write('220 slow\r\n');
  socket.on('error', () => undefined);
  socket.on('data', (piece: Buffer) => {
    const said = piece.toString();
    if (data && said.includes('\r\n.\r\n')) held.push(() => socket.write('451 try later\r\n'));
    else if (/^DATA/i.test(said)) {
      data = true;
      socket.write('354 go on\r\n');
    } else if (!data) socket.write(/^QUIT/i.test(said) ? '221 bye\r\n' : '250 fine\r\n');
  });
}
