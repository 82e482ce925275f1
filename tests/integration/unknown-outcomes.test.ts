import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import type { DeliveryId } from '#core/id';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { deliver } from '#server/deliver/deliver';
import { Mailer, type OutgoingMail } from '#server/deliver/mail';
import { loopback } from '../support/mail-servers';
import { openScriptedServer, type Breaking, type Script, type ScriptedServer, type Seen } from '../support/smtp-script';
import { openWorld, setPrice, startWatch, type TestWorld } from '../support/world';

// A mail whose server breaks off: before its dot nothing was taken; after it only the server's answer says so.

const opened: { close: () => unknown }[] = [];
afterEach(async () => {
  for (const each of opened.splice(0).reverse()) await each.close();
});
const open = async (script: Script): Promise<ScriptedServer> => {
  const server = await openScriptedServer(script);
  opened.push(server);
  return server;
};

const MAIL: OutgoingMail = {
  messageId: '<1.abc@heatherlow.example>',
  to: { name: 'Ravi', address: 'ravi@heatherlow.example' },
  leave: null,
  thread: [],
  files: [],
  subject: 'Skepwright: Copper smoker £21.50',
  html: null,
  text: '£21.50\n',
  list: null,
  sentAgain: false,
};
const SOON_MS = 400;

/** Sends one mail through a scripted server; what came of it, and what the server saw. */
async function sendTo(script: Script, mostMs?: number) {
  const server = await open(script);
  const mailer = new Mailer({ from: 'shrike@heatherlow.example', servers: [loopback(server.port)], signing: null });
  opened.push(mailer);
  const sent = await mailer.send(MAIL, mostMs);
  return { outcome: sent.ok ? ('accepted' as const) : sent.error.outcome, seen: server.seen, mails: server.mails };
}

/** What an honest clerk would say who stands beside the server. */
function lawful(seen: readonly Seen[]): string[] {
  const last = seen.at(-1);
  if (last === undefined || !last.dot) return ['no answer', 'unknown'];
  if (/^250[ -].*\r\n$/.test(last.answered)) return ['accepted'];
  return ['unknown'];
}

describe('a mail whose server breaks off', () => {
  it.each<Breaking>(['closes', 'resets'])('at each byte of what it says, and %s, is what it is', async (breaking) => {
    const whole = (await sendTo({})).seen[0]?.said ?? 0;
    expect(whole).toBeGreaterThan(60);
    for (let after = 1; after < whole; after += 1) {
      const { outcome, seen } = await sendTo({ afterSaying: after, breaking });
      expect(lawful(seen), `after ${after} of ${whole}`).toContain(outcome);
      // What had not begun is no riddle: nobody waits for it as for what may have come.
      if (!seen.some(({ dot }) => dot) && after < 40) expect([after, outcome]).toEqual([after, 'no answer']);
    }
  });

  it('at each tenth byte of what it hears is what it is, and never called refused', async () => {
    const whole = (await sendTo({})).seen[0]?.heard ?? 0;
    for (let after = 1; after < whole; after += 9) {
      const { outcome, seen } = await sendTo({ afterHearing: after, breaking: 'resets' });
      expect(lawful(seen), `after ${after} of ${whole}`).toContain(outcome);
    }
  });

  it.each<[string, Script, string]>([
    ['closes after the dot', { toMail: '', breaking: 'closes' }, 'unknown'],
    ['answers 250 without the end of its line', { toMail: '250 taken', breaking: 'closes' }, 'unknown'],
    ['answers with what is no answer', { toMail: 'so be it\r\n' }, 'unknown'],
    ['answers as if more were to come', { toMail: '354 go on\r\n' }, 'unknown'],
    ['answers without end', { toMail: 'without end' }, 'unknown'],
    ['says nothing more', { toMail: '' }, 'unknown'],
    ['refuses for now', { toMail: '451 not now\r\n' }, 'refused'],
    ['refuses for good', { toMail: '550 5.7.1 no\r\n' }, 'refused'],
    ['takes it', {}, 'accepted'],
  ])('that %s after the dot', async (_what, script, outcome) => {
    const sent = await sendTo(script, SOON_MS);
    expect([sent.outcome, sent.mails.length]).toEqual([outcome, 1]);
  });

  it('and dawdles before the dot was not taken', async () => {
    const sent = await sendTo({ afterSaying: 30, breaking: 'falls silent' }, SOON_MS);
    expect([sent.outcome, sent.mails]).toEqual(['no answer', []]);
  });

  it('is given to the next where the first had not got it whole, and to no other where it had', async () => {
    for (const [script, taken] of [
      [{ afterSaying: 70, breaking: 'resets' }, 1],
      [{ toMail: '250 taken', breaking: 'closes' }, 0],
      [{ toMail: 'what?\r\n' }, 0],
    ] as [Script, number][]) {
      const [first, second] = [await open(script), await open({})];
      const servers = [loopback(first.port), loopback(second.port)];
      const mailer = new Mailer({ from: 'shrike@heatherlow.example', servers, signing: null });
      opened.push(mailer);
      await mailer.send(MAIL);
      expect([first.mails.length, second.mails.length]).toEqual([taken === 0 ? 1 : 0, taken]);
    }
  });
});

describe('a mail that may have arrived', () => {
  let world: TestWorld;
  let server: ScriptedServer;

  beforeAll(async () => {
    server = await openScriptedServer({ toMail: '' });
    server.script.toMail = '250 taken';
    server.script.breaking = 'closes';
    world = await openWorld({ SHRIKE_SMTP_PORT: String(server.port) });
  });
  afterAll(async () => {
    await world.close();
    await server.close();
  });

  /** Orders one mail to Ravi alone; which delivery that is. */
  async function ordered(): Promise<DeliveryId> {
    await world.clear();
    server.mails.length = 0;
    await startWatch(world, { audiences: [`person:${world.people.ravi}`] });
    await world.pass(0);
    setPrice(world, 2150);
    await world.pass(HOUR);
    const [row] = await world.rows<{ id: DeliveryId }>(`SELECT id FROM delivery WHERE purpose = 'edition'`);
    if (row === undefined) throw new Error('no mail was ordered');
    return row.id;
  }

  /** Tries it every few minutes for five days; when a copy came, in minutes from the first. */
  async function tryFor(id: DeliveryId, ms: number): Promise<number[]> {
    const came: number[] = [];
    const from = world.now;
    for (const end = from + ms; world.now < end; world.now += 5 * MINUTE) {
      const before = server.mails.length;
      await deliver(world.services.post, id);
      for (let nth = before; nth < server.mails.length; nth += 1) came.push((world.now - from) / MINUTE);
    }
    return came;
  }

  const stands = async (id: DeliveryId) =>
    (await world.rows(`SELECT state, reason, sent_again, attempts FROM delivery WHERE id = $1`, [id]))[0];

  it('is sent again three times at most in five days, marked, by longer and longer waits', async () => {
    const id = await ordered();
    const came = await tryFor(id, 5 * DAY);
    expect(came).toHaveLength(4);
    const waits = came.slice(1).map((at, nth) => at - (came[nth] ?? 0));
    for (const [nth, wait] of waits.entries()) expect(wait).toBeGreaterThan((waits[nth - 1] ?? 0) * 2);
    expect(server.mails.map((mail) => /^X-Sent-Again:/m.test(mail))).toEqual([false, true, true, true]);
    expect(new Set(server.mails.map((mail) => /^Message-ID: (.*)$/m.exec(mail)?.[1])).size).toBe(1);
    expect(await stands(id)).toEqual({ state: 'given up', reason: 'unknown outcome', sent_again: true, attempts: 4 });
  });

  it('says in the outbox that it may have arrived, while it waits', async () => {
    const id = await ordered();
    await deliver(world.services.post, id);
    expect(await world.rows(`SELECT state, response FROM delivery WHERE id = $1`, [id])).toEqual([
      { state: 'queued', response: expect.stringMatching(/^It may have arrived: /) as unknown },
    ]);
  });

  it('is not sent again to whoever would rather lose it, nor told through another report', async () => {
    const id = await ordered();
    await world.rows('UPDATE person SET rather_lose = true WHERE id = $1', [world.people.ravi]);
    expect(await tryFor(id, DAY)).toEqual([0]);
    expect(await stands(id)).toMatchObject({ state: 'given up', reason: 'unknown outcome', attempts: 1 });
  });

  it('is not sent again to her either where a worker ended while it was sent', async () => {
    const id = await ordered();
    await world.rows('UPDATE person SET rather_lose = true WHERE id = $1', [world.people.ravi]);
    const halted = new Error('ended');
    const onStep = (step: string) => (step === 'accepted' ? Promise.reject(halted) : Promise.resolve());
    server.script.toMail = '250 taken\r\n';
    await expect(deliver({ ...world.services.post, onStep }, id)).rejects.toBe(halted);
    expect(await tryFor(id, DAY)).toEqual([]);
    expect([await stands(id), server.mails.length]).toMatchObject([
      { state: 'given up', reason: 'unknown outcome' },
      1,
    ]);
    server.script.toMail = '250 taken';
  });
});
