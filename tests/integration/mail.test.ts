import { mkdtempSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, inject, it } from 'vitest';
import type { ReportId } from '#core/id';
import { mailFile, Mailer, type OutgoingMail } from '#server/deliver/mail';
import { anyPort } from '#scripts/system/ports';
import { MailRoom } from '#standins/mailroom/room';
import { World } from '#standins/world/world';
import { loopback } from '../support/mail-servers';

let room: MailRoom;
let mailer: Mailer;
let port: number;
let folder: string;
const world = new World(() => Date.UTC(2026, 5, 1));

beforeAll(async () => {
  port = await anyPort();
  folder = mkdtempSync(join(inject('scratch'), 'mail-'));
  room = await MailRoom.open(folder, world, port);
  mailer = new Mailer({ from: 'Shrike <shrike@heatherlow.example>', servers: [loopback(port)], signing: null });
});
afterAll(async () => {
  mailer.close();
  await room.close();
});
beforeEach(() => {
  room.empty();
  world.push('forget', null, '');
});

const mail = (change: Partial<OutgoingMail> = {}): OutgoingMail => ({
  messageId: '<1.abc@heatherlow.example>',
  to: { name: 'Ravi Oduya', address: 'ravi@heatherlow.example' },
  leave: null,
  thread: [],
  files: [],
  subject: 'Skepwright: Copper smoker price £21.50',
  html: '<p>£21.50</p>',
  text: '£21.50\n',
  list: null,
  sentAgain: false,
  ...change,
});

async function received() {
  const [first] = room.list();
  const opened = await room.read(first?.id ?? '');
  if (opened === null) throw new Error('no mail came');
  return opened;
}

describe('a mail', () => {
  it('arrives as it was ordered, in both forms, under its own identity', async () => {
    const sent = await mailer.send(mail());
    expect(sent).toMatchObject({ ok: true, value: expect.stringContaining('250') as string });
    expect(await received()).toMatchObject({
      messageId: '<1.abc@heatherlow.example>',
      to: ['ravi@heatherlow.example'],
      subject: 'Skepwright: Copper smoker price £21.50',
      html: expect.stringContaining('<p>£21.50</p>') as string,
      text: '£21.50\n',
      sentAgain: false,
    });
    expect((await received()).source).toContain('Auto-Submitted: auto-generated');
  });

  it('names the report that it is of, whatever that is called', async () => {
    await mailer.send(mail({ list: { report: 12 as ReportId, name: 'Prices\r\nBcc: x@elsewhere.example <y> "z"' } }));
    const { source } = await received();
    expect(source.replace(/\r?\n /g, ' ')).toMatch(
      /^List-Id: "Prices Bcc: x@elsewhere\.example y z" <report-12\.[\w.-]+>\r?$/im,
    );
    expect(source).not.toMatch(/^bcc:/im);
    expect((await mailFile('Shrike <shrike@heatherlow.example>', mail(), 0)).toString()).not.toMatch(/^List-Id/im);
  });

  it('is marked when it may be the second copy', async () => {
    await mailer.send(mail({ sentAgain: true }));
    expect((await received()).sentAgain).toBe(true);
  });

  it('cannot be made to carry another header or another reader by what a page says', async () => {
    await mailer.send(
      mail({
        subject: 'Smoker\r\nBcc: everybody@elsewhere.example',
        to: { name: 'Ravi"\r\nCc: x@elsewhere.example', address: 'ravi@heatherlow.example' },
      }),
    );
    const opened = await received();
    expect(opened.to).toEqual(['ravi@heatherlow.example']);
    expect(opened.source).not.toMatch(/^(bcc|cc):/im);
  });

  it('keeps names and words of every script', async () => {
    await mailer.send(
      mail({
        subject: 'Včelařství: kuřák 249 Kč',
        to: { name: 'Inés Čalloway 山田', address: 'ines@heatherlow.example' },
      }),
    );
    expect(await received()).toMatchObject({ subject: 'Včelařství: kuřák 249 Kč' });
  });
});

describe('a server that does not take it', () => {
  it.each([
    ['defers', '451'],
    ['refuses', '550'],
  ])('%s: its own words are told', async (conduct, code) => {
    world.push('mail', null, conduct);
    const sent = await mailer.send(mail());
    expect(sent).toMatchObject({
      ok: false,
      error: { outcome: 'refused', response: expect.stringContaining(code) as string },
    });
    expect(room.list()).toEqual([]);
  });

  it('is not there: that is told apart from a refusal', async () => {
    const nobody = new Mailer({
      from: 'shrike@heatherlow.example',
      servers: [loopback(await anyPort())],
      signing: null,
    });
    expect(await nobody.send(mail())).toMatchObject({
      ok: false,
      error: { outcome: 'no answer', response: expect.stringContaining('ECONNREFUSED') as string },
    });
    nobody.close();
  });
});

describe('the mail room', () => {
  it('keeps its mails over a restart, the newest first', async () => {
    await mailer.send(mail());
    await mailer.send(mail({ messageId: '<2.def@heatherlow.example>', subject: 'the second' }));
    const other = await MailRoom.open(folder, world, await anyPort());
    expect(other.list().map((each) => each.messageId)).toEqual([
      '<2.def@heatherlow.example>',
      '<1.abc@heatherlow.example>',
    ]);
    await other.close();
  });
});
