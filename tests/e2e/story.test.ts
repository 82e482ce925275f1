import { request } from 'undici';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { PATIENCE_MS } from '../support/until';

interface Mail {
  id: string;
  to: string[];
  subject: string;
  messageId: string;
}

let app: RunningApp;
beforeAll(async () => {
  app = await startApp();
});
afterAll(() => app.stop());

const SLUG = 'copper-smoker-large';
const product = () => `${app.site('skepwright')}/p/${SLUG}`;

async function onStage(what: string, value: string, slug = SLUG): Promise<void> {
  const response = await request(`http://127.0.0.1:${app.places.standinsPort}/push`, {
    method: 'POST',
    headers: {
      host: `stage.localhost:${app.places.standinsPort}`,
      'content-type': 'application/x-www-form-urlencoded',
    },
    body: new URLSearchParams({ what, slug, value }).toString(),
  });
  await response.body.dump();
  expect(response.statusCode).toBe(303);
}

/** The stage as a person uses it: its page in the browser. */
async function setPriceOnStage(pounds: string): Promise<void> {
  const { page } = app;
  await page.go(app.site('stage'));
  const field = await page.find(`tr[id="${SLUG}"] input[type=text]`);
  await field.clear();
  await field.sendKeys(pounds);
  await page.pressAt(`tr[id="${SLUG}"] td:nth-child(2) button`);
  await page.reads('Stage');
}

async function mails(): Promise<Mail[]> {
  return app.page.driver.executeAsyncScript<Mail[]>(
    `const done = arguments[arguments.length - 1]; fetch('/mails.json').then((answer) => answer.json()).then(done);`,
  );
}

/** The mail room does not refresh itself: it is opened until it keeps so many. */
async function mailRoomKeeps(count: number): Promise<void> {
  await app.page.driver.wait(
    async () => {
      await app.page.go(app.site('mailroom'));
      return (await app.page.text()).includes(`${count} kept`);
    },
    PATIENCE_MS,
    `the mail room never kept ${count}`,
  );
}

async function openWatch(): Promise<void> {
  await app.page.go(`${app.web}/watches`);
  await app.page.press('Copper smoker, large');
  await app.page.find('[data-sentence]');
}

const expectAccessible = async () => expect(await serious(app.page.driver)).toEqual([]);

describe('one price on one page, watched all the way to the inbox', () => {
  it('begins with an empty briefing that says how to start', async () => {
    await app.page.go(app.web);
    await app.page.reads('Nothing is watched yet');
    await app.page.reads('Inés Calloway');
    await expectAccessible();
  });

  it('says in plain words when a page cannot be read', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/new`);
    await page.press('Fetch it');
    await page.reads('Paste an address first.');
    for (const [address, sentence] of [
      ['http://127.0.0.1:22/', 'inside a private network'],
      ['ftp://example.com/', 'It should begin with http'],
      [`${app.site('skepwright')}/p/nothing`, 'The page is not there (404).'],
    ] as const) {
      await page.write('Which page, list', address);
      await page.press('Fetch it');
      await page.reads(sentence);
    }
    await onStage('page', 'not a page');
    await page.write('Which page, list', product());
    await page.press('Fetch it');
    await page.reads('not a page or data but application/pdf');
    await onStage('page', 'huge');
    await page.press('Fetch it');
    await page.reads('larger than 5 MB');
    await onStage('page', 'there');
    await expectAccessible();
  });

  it('shows what can be read on the page, and tries a selector on the spot', async () => {
    const { page } = app;
    await onStage('price', '24.00');
    await page.write('Which page, list', product());
    await page.press('Fetch it');
    await page.reads(/Product › offers › price £24\.00/, '[data-candidates]');

    await page.write('CSS selector', 'price__now');
    await page.reads('Nothing on the page matches. But .price__now matches one element.', '[data-trial]');
    await page.press('Use it');
    await page.reads(/One element matches\. .*£24\.00/, '[data-trial]');
    await page.write('CSS selector', '.card__price');
    await page.reads(/\d elements match/, '[data-trial]');
    await page.write('CSS selector', '.nothing-here');
    await page.reads('Nothing on the page matches.', '[data-trial]');
    await page.write('CSS selector', 'p[');
    await page.reads(/Unmatched|selector|Expected|attribute/i, 'body');
    await page.write('CSS selector', '');
    await expectAccessible();
  });

  it('says the sentence back as it is filled, with the distance from the limit', async () => {
    const { page } = app;
    await page.press('Take Product › offers › price');
    await page.reads(
      'Every 2 hours, read price of Copper smoker, large from Skepwright; tell ____ when ____.',
      '[data-sentence]',
    );
    await page.press('On to the rule');
    await page.press('falls below');
    await page.write('The limit', '2400');
    await page.reads('Is the decimal mark where you meant it?');
    await page.write('The limit', '0.22');
    await page.reads('Is the decimal mark where you meant it?');
    await page.write('The limit', 'cheap');
    await page.reads('“cheap” cannot be a limit');
    await page.write('The limit', '25');
    await page.reads('It is met already.');
    await page.reads('£1.00 below the limit');
    await page.write('The limit', '22.50');
    await page.reads('Price is £24.00 now, £1.50 above the limit (6.7%).', '[data-standing]');
    await page.press('On to who should hear');
    await page.press('Pricing');
    await page.press('Source');
    await page.press('every hour');
    await page.reads(
      'Every hour, read price of Copper smoker, large from Skepwright; tell Pricing at once when price falls ' +
        'below £22.50.',
      '[data-sentence]',
    );
    await page.press('Inbox');
    await page.reads('Nothing is stored and nothing is sent.');
    await expectAccessible();
  });

  it('keeps the half-made watch as a draft', async () => {
    const { page } = app;
    await page.reads(/draft kept/);
    await page.go(`${app.web}/watches/new`);
    await page.reads('Half-made watches');
    await page.press('Copper smoker, large');
    await page.reads('Every hour, read price of Copper smoker, large', '[data-sentence]');
  });

  it('runs at once when it is started; the first run is a baseline and sends nothing', async () => {
    const { page } = app;
    await page.press('Start watching');
    await page.reads('Value , holds £24.00', 'ol[aria-label="The chain"]');
    await page.reads('price falls below £22.50: calm', 'ol[aria-label="The chain"]');
    await page.find('[data-chart] path');
    await page.reads('None so far.');
    await expectAccessible();
    await page.go(app.site('mailroom'));
    await page.reads('No mail has come yet.');
  });

  it('mails when the price falls, with everything there is to say', async () => {
    const { page } = app;
    await setPriceOnStage('21.50');
    await openWatch();
    await page.press('Run now');
    await page.reads(/£24\.00 £21\.50 ▼ ?2\.50 ?10\.4%/, '[data-changes]');
    await page.reads('accepted for Ravi Oduya', '[data-trail]');
    await page.reads('the condition was not met before and is met now; calm → raised', '[data-trail]');

    await page.go(app.site('mailroom'));
    await page.reads('Skepwright: Copper smoker, large price £21.50, down £2.50 (10.4%)');
    const received = await mails();
    expect(received.map((mail) => mail.to[0]).sort()).toEqual(['ines@heatherlow.example', 'ravi@heatherlow.example']);
    expect(new Set(received.map((mail) => mail.messageId)).size).toBe(2);
    await page.press('Skepwright: Copper smoker, large price £21.50, down £2.50 (10.4%)');
    await page.press('Plain text');
    const text = await page.reads('Seen:', '#text');
    for (const told of [
      '£24.00',
      '£21.50',
      'Last read before',
      'price falls below £22.50',
      product(),
      `${app.web}/watches/1`,
    ])
      expect(text).toContain(told);

    await page.press('HTML');
    await page.driver.switchTo().frame(await page.find('iframe'));
    const links = await page.driver.executeScript<string[]>(
      `return [...document.querySelectorAll('a')].map((link) => link.href)`,
    );
    expect(links).toContain(product());
    expect(links).toContain(`${app.web}/watches/1`);
    await page.driver.switchTo().defaultContent();
    await page.go(product());
    await page.reads('£21.50', '#price');
  });

  it('leads the briefing with it', async () => {
    const { page } = app;
    await page.go(app.web);
    await page.reads('Skepwright now asks £21.50 for Copper smoker, large, £1.00 below your limit', '[data-lead]');
    await expectAccessible();
    await page.press('trail');
    await page.reads('Trail of £24.00 → £21.50');
  });

  it('is told once: another look says nothing more', async () => {
    const { page } = app;
    await openWatch();
    await page.press('Run now');
    await page.reads('3 runs', '[data-ribbon]');
    await mailRoomKeeps(2);
  });
});

describe('a watch can be changed', () => {
  it('asks before unsaved edits are left, and keeps them when she stays', async () => {
    const { page } = app;
    await openWatch();
    await page.pressAt('[data-part=frequency]');
    await page.press('every 6 hours');
    await page.pressAt('[data-sentence]');
    await page.reads('Edited, not saved yet.', '[data-unsaved]');
    await page.press('Outbox');
    await page.reads('Leave without saving?');
    await page.press('Stay');
    await page.reads('Every 6 hours', '[data-sentence]');
    await page.press('Save as version 2');
    await page.reads('version 2 by Inés');
    const rows = await app.pool.query('SELECT version, interval_ms FROM watch');
    expect(rows.rows).toEqual([{ version: 2, interval_ms: 6 * 3_600_000 }]);
  });

  it('can have its limit moved, and asks what to do when that is met already', async () => {
    const { page } = app;
    await page.pressAt('[data-part=condition]');
    await page.write('The limit', '22.00');
    await page.reads('It is met already.');
    await page.press('Raise it now, at the first run');
    await page.pressAt('[data-sentence]');
    await page.press('Save as version 3');
    await page.reads('version 3 by Inés');
    await page.reads('raised since', 'ol[aria-label="The chain"]');
    await mailRoomKeeps(4);
  });

  it('can have a second rule, said, kept and judged by itself, and taken away again', async () => {
    const { page } = app;
    const chain = 'ol[aria-label="The chain"]';
    await openWatch();
    await page.pressAt('[data-add-rule]');
    await page.reads('Rule 2: Say when it matters.', '[data-unsaved]');
    await page.pressAt('[data-rules] li:nth-child(2) [data-part=condition]');
    await page.press('changes');
    await page.pressAt('[data-sentence]');
    await page.reads(/at once when price changes/, '[data-rules] li:nth-child(2)');
    await page.press('Save as version 4');
    await page.reads('version 4 by Inés');
    await page.reads('2 rules: 1 raised', chain);
    await page.pressAt('[data-rules] li:nth-child(2) [aria-label="Take rule 2 away"]');
    await page.press('Save as version 5');
    await page.reads('version 5 by Inés');
    await page.reads('price falls below £22.00: raised since', chain);
    await mailRoomKeeps(4);
  });

  it('can be paused and started', async () => {
    const { page } = app;
    await openWatch();
    await page.press('Pause');
    await page.reads('paused; nothing is fetched', 'ol[aria-label="The chain"]');
    await page.press('Start');
    await page.reads('answered in', 'ol[aria-label="The chain"]');
  });
});

describe('when something breaks', () => {
  it('the chain says that the page went away; the last good value stands, stale, and nothing is called a change', async () => {
    const { page } = app;
    await onStage('page', 'retired');
    await openWatch();
    await page.press('Run now');
    await page.reads('The page was retired for good (410).', 'ol[aria-label="The chain"]');
    await page.reads('£21.50, stale', 'ol[aria-label="The chain"]');
    await page.reads(/1 in all/);
    await page.go(`${app.web}/watches?show=broken`);
    await page.reads('£21.50, stale');
    await onStage('page', 'there');
  });

  it(
    'one way is enough where all around the value is as it was: the chain says which ways are lost, and they are ' +
      'mended with a press',
    async () => {
      const { page } = app;
      await onStage('layout', 'rebuilt');
      await openWatch();
      await page.press('Run now');
      await page.reads(/Value , holds £21\.50; all around as it was, but price by /, 'ol[aria-label="The chain"]');
      await page.press('Confirm the new way');
      await page.reads('version 6 by Inés');
      await page.reads('Value , holds £21.50 Rule', 'ol[aria-label="The chain"]');
      await page.reads(/1 in all/);
    },
  );

  it('mail is tried again until the server accepts it, and the chain says so meanwhile', async () => {
    const { page } = app;
    await onStage('price', '23.00');
    await openWatch();
    await page.press('Run now');
    await page.reads('calm since', 'ol[aria-label="The chain"]');
    await onStage('mail', 'refuses', '');
    await onStage('price', '20.00');
    await page.press('Run now');
    await page.reads('The mail server refuses the mail', 'ol[aria-label="The chain"]');
    await page.go(`${app.web}/outbox`);
    await page.reads(/refused.*does not take your mail/, '[data-outbox]');
    await onStage('mail', 'accepts', '');
    await page.go(app.site('mailroom'));
    await page.reads(/\d kept/);
    await app.page.go(`${app.web}/outbox`);
    await page.reads('sent at attempt', '[data-outbox]');
    await expectAccessible();
  });

  it('a worker that stops is noticed by its health page', async () => {
    const before = await fetch(`${app.web}/healthz`);
    expect([before.status, await before.json()]).toMatchObject([200, { web: 'ok', database: 'ok', worker: 'ok' }]);
    await app.worker.stop();
    const after = await fetch(`${app.web}/healthz`);
    expect([after.status, await after.json()]).toMatchObject([503, { worker: 'not seen' }]);
    await app.page.go(app.web);
    await app.page.reads('No worker is running');
  });
});

describe('the edges', () => {
  it('refuses requests that did not come from its own pages', async () => {
    const foreign = await fetch(`http://127.0.0.1:${app.places.webPort}/watches/1`, {
      method: 'POST',
      headers: { origin: 'http://elsewhere.example', 'content-type': 'application/x-www-form-urlencoded' },
      body: 'intent=delete',
    });
    expect(foreign.status).toBeGreaterThanOrEqual(400);
    await app.page.go(`${app.web}/watches/1`);
    await app.page.reads('Copper smoker, large');
  });

  it('says so when there is no such page, with a way back', async () => {
    await app.page.go(`${app.web}/watches/999`);
    await app.page.reads('Back to the briefing');
    await app.page.go(`${app.web}/nowhere`);
    await app.page.reads('There is no such page');
  });

  it('deletes a watch only after asking', async () => {
    const { page } = app;
    await openWatch();
    await page.pressAt('button[aria-label="More"]');
    await page.press('Delete this watch');
    await page.reads('Delete this watch?', '[role=alertdialog]');
    await page.press('Keep it');
    await page.pressAt('button[aria-label="More"]');
    await page.press('Delete this watch');
    await page.press('Delete it');
    await page.reads('Nothing is watched yet');
  });
});
