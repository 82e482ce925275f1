import { createHmac } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { Ajv2020 as Ajv } from 'ajv/dist/2020.js';
import type { DeliveryId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { BY_MAIL, type Reached } from '#core/tell/channels';
import { segmentOf } from '#core/tell/short-text';
import { HOUR, MINUTE } from '#core/when/interval';
import { askForRun } from '#server/actions/edit-watch';
import { findByCode } from '#server/db/delivery/deliveries';
import { leaveReport, setReader } from '#server/db/person/readers';
import { webhookPurpose } from '#server/deliver/channels';
import { deliver } from '#server/deliver/deliver';
import { textsIn } from '#standins/texts/gateway';
import { openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// What goes by a short text and to a webhook: with the real stand-ins of a text gateway and of a program that takes
// posts.

let world: TestWorld;
const hook = () => `http://receiver.localhost:${world.standins.port}/in`;
beforeAll(async () => {
  world = await openWorld({ SHRIKE_TEXT_GATEWAY: 'texts.example' });
});
beforeEach(async () => {
  await world.clear();
  world.standins.receiver.received.length = 0;
  await reach({ phone: null, webhook: null, routes: BY_MAIL });
});
afterAll(() => world.close());

const PHONE = '+447700900123';
const ravi = () => world.people.ravi;
const reach = (reached: Reached, person = ravi(), more = {}) =>
  setReader(
    world.pool,
    person,
    {
      name: 'Ravi Oduya',
      email: 'ravi@heatherlow.example',
      locale: 'en-GB',
      zone: 'Europe/London',
      quiet: null,
      mailHour: null,
      passes: null,
      ratherLose: false,
      ...more,
      ...reached,
    },
    world.now,
  );

/** A watch whose price falls below its limit, told to Ravi alone at once. */
async function alerting() {
  const watch = await startWatch(world, { audiences: [`person:${ravi()}`] });
  await world.pass(0);
  return async (pence: number) => {
    await world.pass(MINUTE);
    setPrice(world, pence);
    await askForRun(world.pool, watch, world.now);
    await world.pass(0);
  };
}

const deliveries = () =>
  world.rows<{
    id: DeliveryId;
    channel: string;
    number: number;
    state: string;
    reason: string | null;
    response: string | null;
    beside: number | null;
    attempts: number;
  }>(
    `SELECT id, channel, number, state, reason, response, beside, attempts
      FROM delivery
      WHERE report_id IS NOT NULL
      ORDER BY id`,
  );
const said = async () => (await deliveries()).map(({ channel, number, state }) => `${channel} ${number} ${state}`);

describe('an edition by several routes', () => {
  it('has one number, goes by each of them once, and is told once', async () => {
    await reach({ phone: PHONE, webhook: hook(), routes: { ...BY_MAIL, usual: ['mail', 'text', 'webhook'] } });
    const price = await alerting();
    await price(2100);
    await world.sendMail();
    expect(await said()).toEqual(['mail 1 sent', 'text 1 sent', 'webhook 1 sent']);
    expect(
      world.standins.room
        .list()
        .map(({ to }) => to.join())
        .sort(),
    ).toEqual([`${PHONE}@texts.example`, 'ravi@heatherlow.example']);
    const [text] = await textsIn(world.standins.room);
    expect(text).toMatchObject({
      phone: PHONE,
      text: expect.stringMatching(/£21\.00.* http:\/\/localhost:4600\/m\/[\w-]{12}$/) as unknown,
    });
    expect(segmentOf(text?.text ?? '')).toMatchObject({ in: 'GSM 03.38' });
    expect(world.standins.receiver.received).toHaveLength(1);
    expect(await world.rows('SELECT decision FROM notification')).toEqual([{ decision: 'told' }]);
    await price(2400);
    await price(2000);
    await world.sendMail();
    expect((await said()).slice(-3)).toEqual(['mail 2 sent', 'text 2 sent', 'webhook 2 sent']);
  });

  it('goes by a text alone where that is chosen for its weight, and the mail after it explains nothing', async () => {
    await reach({ phone: PHONE, webhook: null, routes: { ...BY_MAIL, usual: ['text'] } });
    const price = await alerting();
    await price(2100);
    await world.sendMail();
    expect(await said()).toEqual(['text 1 sent']);
    await reach({ phone: null, webhook: null, routes: BY_MAIL });
    await price(2400);
    await price(2000);
    await world.sendMail();
    const [mail] = world.standins.room.list().filter(({ to }) => to.includes('ravi@heatherlow.example'));
    const opened = await world.standins.room.read(mail?.id ?? '');
    expect(opened?.text).not.toMatch(/No\. 1 /);
  });

  it('whose text was not taken is not missing where the mail came', async () => {
    await reach({ phone: PHONE, webhook: null, routes: { ...BY_MAIL, usual: ['mail', 'text'] } });
    const price = await alerting();
    await price(2100);
    world.standins.world.push('mail', `${PHONE}@texts.example`, 'has no such mailbox');
    await world.sendMail();
    await world.rows(`UPDATE delivery SET state = 'given up', next_attempt_at = NULL WHERE channel = 'text'`);
    await price(2400);
    await price(2000);
    await world.sendMail();
    const mails = await world.rows<{ plain: string }>(`SELECT plain FROM delivery WHERE channel = 'mail' ORDER BY id`);
    expect(mails.at(-1)?.plain).not.toMatch(/No\. 1/);
    // What the gateway refuses says nothing of her address.
    expect(await world.rows('SELECT FROM person WHERE paused_at IS NOT NULL')).toEqual([]);
  });

  it('is told through one that stood back only where it came by none', async () => {
    await reach({ phone: PHONE, webhook: null, routes: { ...BY_MAIL, usual: ['mail', 'text'] } });
    const price = await alerting();
    await price(2100);
    await world.sendMail();
    const [mail, text] = await deliveries();
    await world.rows(`UPDATE delivery SET state = 'given up' WHERE id = $1`, [text?.id]);
    expect(
      await world.rows(`SELECT FROM notification WHERE delivery_id = $1 AND decision = 'told'`, [mail?.id]),
    ).toHaveLength(1);
  });

  it('is cancelled by every channel when she leaves', async () => {
    await reach({ phone: PHONE, webhook: hook(), routes: { ...BY_MAIL, usual: ['mail', 'text', 'webhook'] } });
    const price = await alerting();
    await price(2100);
    const [report] = await world.rows<{ id: number }>('SELECT report_id AS id FROM delivery');
    await leaveReport(world.pool, report?.id as never, ravi(), 'shrike.example', world.now);
    await world.sendMail();
    expect(await said()).toEqual(['mail 1 given up', 'text 1 given up', 'webhook 1 given up']);
    expect([world.standins.room.list(), world.standins.receiver.received]).toEqual([[], []]);
  });

  it('waits for the end of quiet hours by every channel', async () => {
    await reach({ phone: PHONE, webhook: hook(), routes: { ...BY_MAIL, usual: ['mail', 'text', 'webhook'] } }, ravi(), {
      quiet: { from: 0, to: 1_439 },
    });
    const price = await alerting();
    await price(2100);
    await world.sendMail();
    expect(await said()).toEqual(['mail 1 kept back', 'text 1 kept back', 'webhook 1 kept back']);
    await reach({ phone: PHONE, webhook: hook(), routes: { ...BY_MAIL, usual: ['mail', 'text', 'webhook'] } });
    for (let turn = 0; turn < 3; turn += 1) {
      await world.pass(MINUTE);
      await world.sendMail();
    }
    expect(await said()).toEqual(['mail 1 sent', 'text 1 sent', 'webhook 1 sent']);
  });

  it('goes by a text while her address refuses mail; what has no other channel is kept back', async () => {
    await reach({ phone: PHONE, webhook: null, routes: { ...BY_MAIL, usual: ['mail', 'text'] } });
    const price = await alerting();
    await price(2100);
    world.standins.world.push('mail', 'ravi@heatherlow.example', 'has no such mailbox');
    await world.sendMail();
    await world.pass(MINUTE);
    expect(await said()).toEqual(['mail 1 given up', 'text 1 sent', 'mail null kept back']);
    await price(2400);
    await price(2000);
    await world.sendMail();
    expect((await said()).at(-1)).toBe('text 2 sent');
    await reach({ phone: null, webhook: null, routes: BY_MAIL });
    await price(2400);
    await price(1900);
    await world.sendMail();
    expect(await said()).toEqual(['mail 1 given up', 'text 1 sent', 'mail null kept back', 'text 2 sent']);
    expect(await world.rows('SELECT FROM person WHERE paused_at IS NOT NULL')).toHaveLength(1);
  });

  it('goes nowhere by a number that was taken off since it was ordered', async () => {
    await reach({ phone: PHONE, webhook: null, routes: { ...BY_MAIL, usual: ['mail', 'text'] } });
    const price = await alerting();
    await price(2100);
    await reach({ phone: null, webhook: null, routes: BY_MAIL });
    await world.sendMail();
    expect((await deliveries()).map(({ channel, state, reason }) => [channel, state, reason])).toEqual([
      ['mail', 'sent', null],
      ['text', 'given up', 'route gone'],
    ]);
  });
});

describe('a text alone', () => {
  it('goes as a mail where the number was taken off since it was ordered: what she chose to hear is not lost', async () => {
    await reach({ phone: PHONE, webhook: null, routes: { ...BY_MAIL, usual: ['text'] } });
    const price = await alerting();
    await price(2100);
    await reach({ phone: null, webhook: null, routes: BY_MAIL });
    await world.sendMail();
    expect(await said()).toEqual(['mail 1 sent']);
    expect(world.standins.room.list().map(({ to }) => to.join())).toEqual(['ravi@heatherlow.example']);
  });
});

describe('the link of a text', () => {
  it('leads to the whole of it for a while, and nothing else does', async () => {
    await reach({ phone: PHONE, webhook: null, routes: { ...BY_MAIL, usual: ['text'] } });
    const price = await alerting();
    await price(2100);
    const [{ code } = { code: '' }] = await world.rows<{ code: string }>(
      `SELECT code FROM delivery WHERE channel = 'text'`,
    );
    expect((await findByCode(world.pool, code, world.now - HOUR))?.html).toContain('Copper smoker');
    expect(await findByCode(world.pool, code, world.now + 1)).toBeNull();
    expect(await findByCode(world.pool, 'aaaaaaaaaaaa', 0)).toBeNull();
  });
});

describe('a webhook', () => {
  const byHook = async (address = hook()) => {
    await reach({ phone: null, webhook: address, routes: { ...BY_MAIL, usual: ['webhook'] } });
    return alerting();
  };

  it('gets CloudEvents, signed so that whoever has the key can tell', async () => {
    const price = await byHook();
    await price(2100);
    await world.sendMail();
    const [post] = world.standins.receiver.received;
    const [kept] = await world.rows<{ id: string }>('SELECT message_id AS id FROM delivery');
    expect(post?.headers['content-type']).toBe('application/cloudevents+json');
    const event = JSON.parse(post?.body ?? '{}') as Record<string, unknown> & {
      data: { facts: object[]; number: number };
    };
    expect(event).toMatchObject({
      specversion: '1.0',
      id: kept?.id.slice(1, -1),
      type: 'shrike.edition.v1',
      source: 'http://localhost:4600',
    });
    const schema = JSON.parse(
      await readFile(new URL('../../docs/webhook.schema.json', import.meta.url), 'utf8'),
    ) as object;
    const validate = new Ajv({ allErrors: true, allowUnionTypes: true }).compile(schema);
    expect([validate(event), validate.errors]).toEqual([true, null]);
    expect(validate({ ...event, data: { ...event.data, number: 'one' } })).toBe(false);
    expect(event.data).toMatchObject({
      number: 1,
      weight: 'usual',
      facts: [{ kind: 'alert', subject: 'Copper smoker', now: { amount: '21.00' } }],
    });
    const {
      'shrike-message-id': id = '',
      'shrike-time': time = '',
      'shrike-signature': signature,
    } = post?.headers ?? {};
    const secret = world.services.post.secrets.derive(webhookPurpose(ravi(), hook())) ?? '';
    expect(signature).toBe(
      `sha256=${createHmac('sha256', secret)
        .update(`${id}.${time}.${post?.body ?? ''}`)
        .digest('hex')}`,
    );
  });

  it('that does not take it is tried again under the same identity, and its answer is kept', async () => {
    const price = await byHook();
    await price(2100);
    world.standins.world.push('receiver', null, 'answers 500');
    await world.sendMail();
    expect((await deliveries())[0]).toMatchObject({ state: 'refused', response: '500 The receiver has a bad day.' });
    world.standins.world.push('receiver', null, 'accepts');
    await world.sendMail();
    const ids = world.standins.receiver.received.map(({ body }) => (JSON.parse(body) as { id: string }).id);
    expect([(await deliveries())[0]?.state, new Set(ids).size]).toEqual(['sent', 1]);
    expect(await world.rows('SELECT FROM person WHERE paused_at IS NOT NULL')).toEqual([]);
  });

  it('that leads elsewhere is not followed', async () => {
    const price = await byHook();
    await price(2100);
    world.standins.world.push('receiver', null, 'leads elsewhere');
    await world.sendMail();
    expect((await deliveries())[0]).toMatchObject({
      state: 'refused',
      response: expect.stringMatching(/^307/) as unknown,
    });
    expect(world.standins.receiver.received.every(({ path }) => path === '/in')).toBe(true);
  });

  it('gets what is later only after what is before it', async () => {
    const price = await byHook();
    for (const pence of [2100, 2400, 2000]) await price(pence);
    const [first, second] = await deliveries();
    await deliver(world.services.post, second?.id as DeliveryId);
    expect(world.standins.receiver.received).toEqual([]);
    await deliver(world.services.post, first?.id as DeliveryId);
    await deliver(world.services.post, second?.id as DeliveryId);
    expect(
      world.standins.receiver.received.map(
        ({ body }) => (JSON.parse(body) as { data: { number: number } }).data.number,
      ),
    ).toEqual([1, 2]);
  });

  it.each([
    'http://127.0.0.1:1/',
    'http://[::1]:1/',
    'http://169.254.169.254/latest',
    'http://localhost:1/x',
    'file:///etc/passwd',
  ])('at %s gets nothing: it is no address that may be reached', async (address) => {
    const price = await byHook(address);
    await price(2100);
    await world.sendMail();
    expect((await deliveries())[0]).toMatchObject({ state: 'queued' });
    expect((await deliveries())[0]?.response).not.toMatch(/refused$/);
  });
});
