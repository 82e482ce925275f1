import { request } from 'undici';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { WatchId } from '#core/id';
import { pageDefinition } from '#core/read/definition';
import { inTransaction } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { numbered } from '../support/numbered';
import { ask, fromOwnPage } from '../support/requests';
import { onStage } from '../support/stage';
import { until } from '../support/until';
import { fallsBelow, PRICE, ruleOf } from '../support/world';

// Who hears: asked, confirmed, reached when they want to be, and gone when they want to be gone.

let app: RunningApp;
let watch: WatchId;
beforeAll(async () => {
  app = await startApp();
  const host = `skepwright.localhost:${app.places.standinsPort}`;
  await onStage(app.places.standinsPort, 'price', '24.00', 'steel-smoker');
  const source = { address: `http://${host}/p/steel-smoker`, host, site: 'Skepwright', mostAtOnce: 4 };
  const rules = [ruleOf(fallsBelow('22.00'), ['list:1'])];
  const plan = {
    definition: pageDefinition('Steel smoker', [PRICE]),
    frequency: { count: 1, unit: 'hour' as const },
    rules,
  };
  watch = await inTransaction(app.pool, (db) => createWatch(db, source, plan, { person: numbered(1), at: Date.now() }));
  await until(async () => (await rows('SELECT FROM rule WHERE begun_at IS NOT NULL')).length === 1);
}, 120_000);
afterAll(() => app.stop());

const rows = async <Row extends object>(text: string, values: unknown[] = []) =>
  (await app.pool.query<Row>(text, values)).rows;

interface Mail {
  id: string;
  to: string[];
  subject: string;
}

async function inRoom<T>(path: string): Promise<T> {
  const headers = { host: `mailroom.localhost:${app.places.standinsPort}` };
  return (await request(`http://127.0.0.1:${app.places.standinsPort}${path}`, { headers })).body.json() as Promise<T>;
}

/** Waits for a mail to somebody whose subject begins so, and returns its text and its headers. */
async function mailTo(address: string, subject: string): Promise<string> {
  let found: Mail | undefined;
  await until(async () => {
    found = (await inRoom<Mail[]>('/mails.json')).find(
      (mail) => mail.to.includes(address) && mail.subject.startsWith(subject),
    );
    return found !== undefined;
  });
  const { text, source } = await inRoom<{ text: string; source: string }>(`/mail/${found?.id}.json`);
  return `${text}\n${source}`;
}

const linkIn = (source: string, kind: string) => new RegExp(`${app.web}/${kind}/[\\w-]+`).exec(source)?.[0] ?? '';

/** A fall below the limit of the watch: an alert. */
async function alarm(): Promise<void> {
  for (const pence of ['24.00', '21.00']) {
    const before = (await rows('SELECT FROM run')).length;
    await onStage(app.places.standinsPort, 'price', pence, 'steel-smoker');
    await app.page.go(`${app.web}/watches/${watch}`);
    await app.page.press('Run now');
    await until(async () => (await rows('SELECT FROM run')).length > before);
  }
}

describe('people', () => {
  it('are pasted as they are written; what is no address is said, and nobody is added', async () => {
    const { page } = app;
    await page.go(`${app.web}/people`);
    await page.reads('Tom Aske', '[data-people]');
    expect(await serious(app.page.driver)).toEqual([]);
    await page.press('Add people');
    await page.write(
      'Addresses, with commas, semicolons or lines between them',
      'Eva Lind <eva@heatherlow.example>; bo@',
    );
    await page.press('Add and ask them');
    await page.reads('“bo@” is no mail address, or more than 200 were given. Nobody was added.');
    await page.write(
      'Addresses, with commas, semicolons or lines between them',
      '"Lind, Eva" <eva@heatherlow.example>; bo@heatherlow.example, tom@heatherlow.example',
    );
    await page.press('Add and ask them');
    await page.reads(
      'Eva Lind and Bo were added. Each was asked to confirm the address. One address was known already.',
    );
    await page.go(`${app.web}/people`);
    expect((await rows('SELECT FROM person')).length).toBe(5);
    await page.reads('not confirmed, asked', '[data-people]');
  });

  it('confirm with the button of the page that their mail leads to; following the link changes nothing', async () => {
    const { page } = app;
    const link = linkIn(await mailTo('eva@heatherlow.example', 'Inés Calloway asks'), 'confirm');
    await page.go(link);
    await page.reads('May Shrike write to you?');
    await page.reads('Eva Lind, at eva@heatherlow.example');
    expect(await serious(app.page.driver)).toEqual([]);
    const confirmed = () => rows(`SELECT FROM person WHERE name = 'Eva Lind' AND confirmed_at IS NOT NULL`);
    expect(await confirmed()).toEqual([]);
    await page.press('Yes, confirm this address');
    await page.reads('Your address is confirmed');
    expect(await confirmed()).toHaveLength(1);
    await page.go(`${app.web}/confirm/${'x'.repeat(80)}`);
    await page.reads('This link leads nowhere');
    await page.go(linkIn(await mailTo('bo@heatherlow.example', 'Inés'), 'confirm').replace('/confirm/', '/confirm/x'));
    await page.reads('This link leads nowhere');
  });

  it('are invited to sign in, choose a password once, and are shut out again', async () => {
    const { page } = app;
    const [eva] = await rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Eva Lind'`);
    await page.go(`${app.web}/people/${eva?.id}`);
    await page.reads('Eva Lind hears, and does not sign in.');
    await page.press('Invite to sign in');
    await page.reads('The invitation is on its way.');
    const link = linkIn(await mailTo('eva@heatherlow.example', 'Inés Calloway invites'), 'invited');
    await page.go(link);
    await page.reads('Eva Lind, at eva@heatherlow.example');
    expect(await serious(app.page.driver)).toEqual([]);
    await page.write('Password', 'too short');
    await page.press('Sign in');
    await page.reads('A password needs at least 12 characters');
    await page.write('Password', 'wax sheets by the case');
    await page.press('Sign in');
    await until(async () => (await page.driver.getCurrentUrl()) === `${app.web}/`);
    const accounts = () => rows(`SELECT FROM account WHERE person_id = ${eva?.id}`);
    expect(await accounts()).toHaveLength(1);
    await page.go(`${app.web}/people/${eva?.id}`);
    await page.reads('This is you.');
    await page.driver.manage().deleteAllCookies();
    await page.go(link);
    await page.reads('This invitation was used already');
    await page.go(`${app.web}/people/${eva?.id}`);
    await page.reads('signs in with this address, and may do everything here.');
    await rows(
      `INSERT INTO account (person_id, password, made_at)
        SELECT id, 'x', now()
        FROM person
        WHERE name = 'Inés Calloway'`,
    );
    await page.press('End the account');
    await page.pressIn('[role=alertdialog], [role=dialog]', 'End it');
    await page.reads('The account has ended');
    expect(await accounts()).toEqual([]);
    await rows('DELETE FROM account');
  });

  it('are put on a list, which the report reaches from then on', async () => {
    const { page } = app;
    await page.go(`${app.web}/people`);
    await page.press('Change Pricing');
    await page.pressIn('[role=dialog]', 'Eva Lind');
    await page.pressIn('[role=dialog]', 'Keep');
    await page.reads('Eva Lind', '[data-lists]');
    await page.go(`${app.web}/people`);
    await page.press('New list');
    await page.write('What it is called', 'pricing');
    await page.pressIn('[role=dialog]', 'Keep');
    await page.reads('There is another list of this name.');
    await alarm();
    const source = await mailTo('eva@heatherlow.example', 'Skepwright: Steel smoker');
    expect(source).toContain('List-Unsubscribe-Post: List-Unsubscribe=One-Click');
  });
});

describe('a reader without an account', () => {
  it('has a page of her own, where she reads her mails, leaves a report and says when she wants to be reached', async () => {
    const { page } = app;
    const link = linkIn(await mailTo('eva@heatherlow.example', 'Skepwright: Steel smoker'), 'reader');
    // The mail is in her box a moment before it is written down as sent.
    await until(async () => (await rows(`SELECT FROM delivery WHERE state = 'sent'`)).length > 0);
    await page.go(link);
    await page.reads('What Shrike sent to Eva Lind');
    await page.press('Skepwright: Steel smoker price £21.00');
    await page.find('iframe[title="The mail"]');
    expect(await serious(app.page.driver)).toEqual([]);
    await page.press('Quiet hours: nothing is sent in them');
    await page.write('From', '7:00');
    await page.write('Until', '7:00');
    await page.press('Keep');
    await page.reads('Quiet hours that begin when they end would never end. Say another end, or none.');
    await page.press('Leave Pricing, at once');
    await page.reads('left');
    expect(await rows(`SELECT FROM reader_left WHERE back_at IS NULL`)).toHaveLength(1);
    await page.press('Get again Pricing, at once');
    await page.find('[aria-label="Leave Pricing, at once"]');
  });

  it('leaves a report with one click of her mail program, and by a link whose page has a button', async () => {
    const { page } = app;
    const link = linkIn(await mailTo('eva@heatherlow.example', 'Skepwright: Steel smoker'), 'leave');
    const path = new URL(link).pathname;
    expect((await ask(app.web, path)).status).toBe(200);
    expect(await rows(`SELECT FROM reader_left WHERE back_at IS NULL`)).toEqual([]);
    // A link that was tampered with.
    expect(
      (await ask(app.web, path.replace('/leave/', '/leave/x'), { form: { 'List-Unsubscribe': 'One-Click' } })).status,
    ).toBe(404);
    expect(await rows(`SELECT FROM reader_left WHERE back_at IS NULL`)).toEqual([]);
    const isLeft = () => rows(`SELECT FROM reader_left WHERE back_at IS NULL`);
    // A form of a page that says nothing of where it is comes from "null", as a browser posts it without a script.
    const isSame = { origin: 'null' };
    for (const headers of [{}, {}, { origin: 'null' }, { origin: 'https://mail.example' }] as Record<
      string,
      string
    >[]) {
      const oneClick = { form: { 'List-Unsubscribe': 'One-Click' }, headers };
      expect((await ask(app.web, path, oneClick)).status, JSON.stringify(headers)).toBe(200);
      expect(await isLeft(), JSON.stringify(headers)).toHaveLength(1);
      if (!('origin' in headers)) continue;
      expect((await ask(app.web, path, { form: { intent: 'return' }, headers: isSame })).status).toBe(200);
      expect(await isLeft()).toEqual([]);
    }
    expect((await ask(app.web, path, { form: { intent: 'leave' }, headers: isSame })).status).toBe(200);
    expect(await isLeft()).toHaveLength(1);
    await page.go(`${app.web}/reports`);
    await page.reads('Eva Lind left it.');
    await page.press('Pricing, at once');
    await page.reads('Eva Lind left it.');
    await page.find('a[href*="/feed/"]');
    await page.go(link);
    await page.reads('You have left Pricing, at once');
    await page.press('Get it again from now on');
    await page.reads('Leave Pricing, at once?');
    await page.press('Leave it');
    await page.reads('You have left Pricing, at once');
    expect(await serious(app.page.driver)).toEqual([]);
  });

  it('ends all links of the mails that she has, to her page and to leave', async () => {
    const { page } = app;
    const mail = await mailTo('eva@heatherlow.example', 'Skepwright: Steel smoker');
    await page.go(linkIn(mail, 'reader'));
    await page.press('End all links of mails so far');
    await page.reads('This link leads nowhere');
    for (const to of ['reader', 'leave'])
      expect((await ask(app.web, new URL(linkIn(mail, to)).pathname)).status).toBe(404);
  });
});

describe('the outbox', () => {
  it('answers why somebody got nothing on a day', async () => {
    const { page } = app;
    await page.go(`${app.web}/outbox`);
    expect(await serious(app.page.driver)).toEqual([]);
    await page.choose('Reader', 'Eva Lind');
    await until(() => page.driver.getCurrentUrl().then((address) => address.includes('reader=')));
    const day = new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/London' }).format(new Date());
    await page.go(`${await page.driver.getCurrentUrl()}&day=${day}`);
    await page.reads('One mail ordered, as listed; Eva left it', '[data-unheard]');
    await page.go(`${app.web}/outbox?state=kept+back&report=9999`);
    await page.reads('No delivery is of this sort.');
    await page.go(`${app.web}/outbox?reader=x&day=2026-13-45&state=nonsense`);
    await page.reads('Steel smoker', '[data-outbox]');
  });

  it('says of an address that refuses mail for good that it is paused, and tries it again when asked', async () => {
    const { page } = app;
    await onStage(app.places.standinsPort, 'mail', 'has no such mailbox', '');
    await alarm();
    const paused = () =>
      rows<{ id: number }>(`SELECT id FROM person WHERE paused_at IS NOT NULL AND name = 'Ravi Oduya'`);
    await until(async () => (await paused()).length === 1);
    await page.go(`${app.web}/people/${(await paused())[0]?.id}`);
    await page.reads('there is no such mailbox');
    await page.reads('one mail kept back');
    expect(await serious(app.page.driver)).toEqual([]);
    await onStage(app.places.standinsPort, 'mail', 'accepts', '');
    await page.press('Try the address again');
    await mailTo('ravi@heatherlow.example', 'Pricing, at once: one edition kept back until now');
    await page.go(`${app.web}/people`);
    await page.reads('Ravi Oduya', '[data-people]');
  });

  it('refuses what is no setting of a person, and takes nobody out who signs in or is gone', async () => {
    const own = { headers: fromOwnPage(app.web) };
    const good = {
      intent: 'keep',
      name: 'Ravi Oduya',
      email: 'ravi@heatherlow.example',
      zone: 'Europe/London',
      locale: 'en-GB',
      isQuiet: 'no',
      gathers: 'no',
      routes: '{"low":["mail"],"usual":["mail"],"high":["mail"]}',
    };
    const kept = async (change: Record<string, string>) =>
      (await ask(app.web, '/people/2.data', { form: { ...good, ...change }, ...own })).body;
    expect(await kept({ email: 'ravi' })).toContain('This is not a mail address.');
    expect(await kept({ email: 'tom@heatherlow.example' })).toContain('There is another person with this address.');
    expect(await kept({ zone: 'Mars/Olympus' })).toContain('Say in which time zone.');
    expect(await kept({ locale: 'xx' })).toContain('Choose how numbers and dates are written.');
    expect(await kept({ name: '' })).toContain('Say the name');
    expect(await kept({ isQuiet: 'yes', quietFrom: '22:00', quietTo: '24:00' })).toContain(
      'Say when the quiet hours begin and end',
    );
    for (const routes of [
      '',
      '{',
      'null',
      '[]',
      '{"low":[]}',
      '{"low":"mail","usual":["mail"],"high":["mail"]}',
      '{"low":["pigeon"],"usual":["mail"],"high":["mail"]}',
    ])
      expect(await kept({ routes }), routes).toMatch(/cannot be read|would come: choose a channel/);
    expect(await kept({ phone: '07700 900123' })).toContain('with its country code');
    for (const webhook of [
      'ftp://hook.example/',
      'hook.example',
      'javascript:alert(1)',
      `https://hook.example/${'x'.repeat(2_000)}`,
    ])
      expect(await kept({ webhook }), webhook).toContain('A webhook is a web address');
    // An address that differs in its letters alone is the same, and stays confirmed.
    await rows(`UPDATE person SET email = 'Ravi@heatherlow.example' WHERE id = 2`);
    await kept({});
    expect(await rows(`SELECT email, confirmed_at IS NOT NULL AS confirmed FROM person WHERE id = 2`)).toEqual([
      { email: 'Ravi@heatherlow.example', confirmed: true },
    ]);
    await rows(`UPDATE person SET email = 'ravi@heatherlow.example' WHERE id = 2`);
    // Whoever signs in is not shut out.
    const changed = await ask(app.web, '/people/1.data', {
      form: { ...good, name: 'Inés Calloway', email: 'other@heatherlow.example' },
      ...own,
    });
    expect(changed.body).toContain('Whoever signs in does so with this address');
    expect((await ask(app.web, '/people/1.data', { form: { intent: 'remove' }, ...own })).body).toContain(
      'Whoever signs in cannot be taken out here.',
    );
    expect(await rows(`SELECT email, removed_at FROM person WHERE id = 1`)).toEqual([
      { email: 'ines@heatherlow.example', removed_at: null },
    ]);
    expect((await ask(app.web, '/people/999')).status).toBe(404);
    expect((await ask(app.web, '/people/99999999999999999999')).status).toBe(404);
    expect((await ask(app.web, '/people.data', { form: { intent: 'nothing' }, ...own })).status).toBe(400);
    expect(await rows(`SELECT email FROM person WHERE id = 2`)).toEqual([{ email: 'ravi@heatherlow.example' }]);
  });
});
