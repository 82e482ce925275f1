import { By } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, type Browser } from '#scripts/system/browser';
import { TRADE_TOKEN } from '#standins/shops/wholesale';
import { startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { begin, CHAIN, onlyRecord, passConsent, pointAt, start, takeRows } from '../support/set-up';
import { onStage } from '../support/stage';

let app: RunningApp;
let reader: Browser;
beforeAll(async () => {
  app = await startApp();
  reader = await openBrowser({ width: 1280, height: 900 });
});
afterAll(async () => {
  await reader.close();
  await app.stop();
});

const stage = (what: string, value: string, slug: string) => onStage(app.places.standinsPort, what, value, slug);
const expectAccessible = async () => expect(await serious(app.page.driver)).toEqual([]);

describe('a page without semantics, pointed at', () => {
  const address = () => `${app.site('combe-larder')}/goods/copper-smoker-large`;

  it('shows how the picked price is found, and that this does not lean on its value', async () => {
    await stage('price', '26.50', 'combe-larder/copper-smoker-large');
    await begin(app, address());
    await reader.driver.get(address());
    await app.page.find('[data-picture] img');
    await pointAt(app, reader, 'table table tr:nth-of-type(2) td:nth-of-type(2)');
    await app.page.reads('£26.50', '[data-pick]');
    await app.page.reads(/Beside the label “Our price”/, '[data-pick]');
    await app.page.reads(/The first price under “Copper smoker, large”/, '[data-pick]');
    await app.page.reads(
      /With the value blanked 1, 2, 3 still find the place; altered, 1, 2, 3 read the other value/,
      '[data-pick]',
    );
    await app.page.reads('Under: Copper smoker, large', '[data-frame]');
    await expectAccessible();
  });

  it('reads more from the same page, and computes what it costs delivered', async () => {
    const { page } = app;
    await page.press('Take price');
    await page.press('Take Beside the label “Delivery”');
    await page.press('Compute another from these');
    await page.write('Formula', 'price + delivery');
    await page.reads(/£30\.45/, '[data-taken]');
  });

  it(
    'tries the reading elsewhere: another product is told by what stands around its price, its values altered are ' +
      'read altered',
    async () => {
      const { page } = app;
      await page.reads(/This page £26\.50 £3\.95/, '[data-trials]');
      await page.reads(/Its values altered £73\.49 £6\.14/, '[data-trials]');
      await page.write('On another address', `${app.site('combe-larder')}/goods/steel-smoker`);
      await page.press('Try it there');
      await page.reads(
        /steel-smoker – – – .*in question: under the heading now “Stainless smoker”, before “Copper smoker, large”/,
        '[data-trials]',
      );
      await onlyRecord(app);
      await start(app);
      await page.reads(/Value , holds £26\.50, £3\.95, £30\.45/, CHAIN);
    },
  );

  it('goes on when the page is built anew around it, says so, and takes the new way over when confirmed', async () => {
    const { page } = app;
    await stage('layout', 'rebuilt', 'combe-larder/copper-smoker-large');
    await page.press('Run now');
    await page.reads(/Value , broken/, CHAIN);
    // What was “Delivery” is called “Carriage” now: that is asked, and the price is read all the while.
    await page.reads(/Delivery: “£3\.95” is in question/, CHAIN);
    await page.press('Yes, from here on');
    await page.reads('version 2 by Inés');
    await page.press('Confirm the new way');
    await page.reads('version 3 by Inés');
    await page.reads(/Value , holds £26\.50/, CHAIN);
    await page.reads('None so far.');
  });

  it('asks whether another product in its place is the one that is followed, and calls nothing a change', async () => {
    const { page } = app;
    await stage('page', 'swapped', 'combe-larder/copper-smoker-large');
    await page.press('Run now');
    await page.reads(/in question/, CHAIN);
    await page.reads(/still the (price|delivery) you follow/, '[data-question]');
    await page.reads('stale', CHAIN);
    await page.reads('None so far.');
    await stage('page', 'there', 'combe-larder/copper-smoker-large');
  });
});

describe('a page that its script fills in, behind a consent wall', () => {
  const address = () => `${app.site('nectarine-row')}/item/extractor-four`;

  it('is rendered after a step, tried one by one with a picture after each', async () => {
    const { page } = app;
    await stage('price', '248.00', 'nectarine-row/extractor-four');
    await begin(app, address());
    await page.find('[data-picture] img');
    await page.press('Source');
    await page.press('Add a step');
    await page.write('The words on it', 'Reject');
    await page.press('Try the steps');
    await page.find('[data-tried] img[alt*="click “Reject”"]');
    await page.press('Fetch with these steps');
    await page.reads(/The browser shows .*price.* that a plain fetch does not have/, '[data-needed]');
    await expectAccessible();
  });

  it('is pointed at, started, and kept with its picture for the day it changes', async () => {
    const { page } = app;
    await reader.driver.get(address());
    await reader.driver.sleep(500);
    await passConsent(reader);
    await page.press('Value');
    await page.find('[data-picture] img');
    await pointAt(app, reader, '.tag');
    await page.reads('£248.00', '[data-pick]');
    await page.press('Take price');
    await onlyRecord(app);
    await start(app);
    await page.reads(/Value , holds £248\.00/, CHAIN);
    await stage('price', '239.00', 'nectarine-row/extractor-four');
    await page.press('Run now');
    await page.reads(/£248\.00 £239\.00/, '[data-changes]');
    await page.find('[data-before-after] img[alt^="Before"]');
    await page.find('[data-before-after] img[alt^="After"]');
  });

  it('is mended on its own picture when it is built anew', async () => {
    const { page } = app;
    await stage('layout', 'rebuilt', 'nectarine-row/extractor-four');
    await page.press('Run now');
    await page.reads(/Value , broken/, CHAIN);
    await page.press('Mend it');
    await page.reads(/£239\.00/, '[data-mending]');
    await page.reads('it reads as the last good value did', '[data-mending]');
    await page.find('[data-picture] [data-picked]');
    await page.press('Accept and save');
    await page.reads('version 2 by Inés');
    await page.reads(/Value , holds £239\.00/, CHAIN);
    await page.reads('1 in all');
  });

  it('a broken script is a failure with its reason, and no change', async () => {
    const { page } = app;
    await stage('script', 'broken', 'nectarine-row/extractor-four');
    await page.press('Run now');
    await page.reads(/Value , broken/, CHAIN);
    await page.reads('1 in all');
  });
});

/**
 * How many lots the supplier offers is another number each day: as its page shows them, which tells the same as its
 * XML.
 */
async function lotsOfToday(): Promise<number> {
  await app.page.driver.get(`${app.site('supplier')}/lots`);
  return (await app.page.driver.findElements(By.css('tr > td:first-child'))).length;
}

describe('many records', () => {
  it('of a table over several pages: rows, fields and identity are proposed, and further pages followed', async () => {
    const { page } = app;
    await begin(app, `${app.site('combe-larder')}/goods`);
    await page.press('Read 8 rows of a table');
    await page.reads(/ref\. article price stock/, '[data-records]');
    await page.press('Source');
    await page.press('The request');
    await page.choose('Further pages', 'by a link');
    await page.press('Fetch with this');
    await page.press('Value');
    await page.reads('24 records');
    await onlyRecord(app);
    await start(app);
    await page.reads(/Value , holds 24 records/, CHAIN);
    await page.reads(/Copper smoker, large/, '[data-records]');
  });

  it('of a table with grades', async () => {
    const { page } = app;
    await begin(app, `${app.site('supplier')}/lots`);
    const count = await takeRows(app);
    await page.reads(/lot goods grade weight price per kg packed/, '[data-records]');
    await page.reads(/grade grade/, '[data-taken]');
    await onlyRecord(app);
    await start(app);
    await page.reads(`Value , holds ${count} records`, CHAIN);
  });

  it('of a list, with a rule on how many records it has', async () => {
    const { page } = app;
    await begin(app, `${app.site('supplier')}/lots`);
    const count = await takeRows(app);
    await page.reads(/lot goods grade weight price per kg packed/, '[data-records]');
    await page.press('Rule');
    await page.choose('When', 'number of records');
    await page.press('rises above');
    await page.write('The limit', String(count + 5));
    await page.press('Report');
    await page.press('Pricing');
    await start(app);
    await page.reads(`Value , holds ${count} records`, CHAIN);
    await page.reads(`tell Pricing at once when number of records rises above ${count + 5}`, '[data-sentence]');
    await page.press('Run now');
    await page.reads(new RegExp(`Records (Find among them )?${count} `));
  });

  it.each([
    ['XML', 'supplier', '/lots.xml', /number goods grade/, null],
    ['an Atom feed', 'forage', '/atom.xml', /called title published link/, 12],
    ['an RSS feed', 'forage', '/rss.xml', /called title published link/, 12],
    ['JSON', 'webshop', '/summary.json', /date orders visits revenue amount/, 14],
    ['CSV with semicolons and decimal commas', 'webshop', '/spend.csv', /day campaign spend EUR clicks/, 60],
    ['SenML', 'gateway', '/senml', /called value source’s time/, 23],
  ] as const)('of %s: format, fields and identity are found by themselves', async (_name, site, path, heads, known) => {
    const { page } = app;
    const rows = known ?? (await lotsOfToday());
    expect(rows).toBeGreaterThan(0);
    const count = new RegExp(`(?<!\\d)${rows} records`);
    await begin(app, app.site(site) + path);
    await page.reads(heads, '[data-records]');
    await page.reads(count);
    await onlyRecord(app);
    await start(app);
    await page.reads(count, CHAIN);
  });

  it('of metrics: one of several is chosen, a counter is read as what was added', async () => {
    const { page } = app;
    await begin(app, `${app.site('webshop')}/metrics`);
    await page.press('Read orders: 12 samples, a counter');
    await page.reads(/North, desktop/, '[data-records]');
    await onlyRecord(app);
    await start(app);
    await page.press('Run now');
    await page.reads(/North, desktop \d/, '[data-records]');
  });

  it('that turn up later are offered, and taken with a press', async () => {
    const { page } = app;
    await begin(app, `${app.site('gateway')}/senml`);
    await page.press('All of them, and whatever turns up later');
    await page.pressIn('[aria-label="Chosen records"]', 'Extractor speed');
    await page.press('Source');
    await page.write('Or every', '1');
    await page.choose('unit', 'seconds');
    await onlyRecord(app);
    await start(app);
    await page.reads(/Value , holds 22 records/, CHAIN);
    // What was left out stays out; what is new is offered.
    await app.pool.query(
      `UPDATE watch_version SET definition = jsonb_set(definition, '{leftOut}', '[]')
        WHERE watch_id = (SELECT max(watch_id) FROM watch_version)`,
    );
    await page.reads('One record turned up', 'main');
    await page.press('Take Extractor speed');
    await page.reads(/Value , holds 23 records/, CHAIN);
  });

  it('that fall silent are told, with what was last good, until they are heard of again', async () => {
    const { page, pool } = app;
    const own = `record_id = (SELECT r.id FROM record r WHERE r.identity = 'apiary/store/temperature' ORDER BY r.watch_id DESC LIMIT 1)`;
    await stage('sensor', 'silent', 'gateway/store/temperature');
    await new Promise((resolve) => setTimeout(resolve, 2500));
    // As if three hours had gone by.
    await pool.query(
      `UPDATE series SET last_good_at = last_good_at - interval '3 hours', source_at = source_at - interval '3 hours'
        WHERE ${own}`,
    );
    await page.reads(/Value , broken 1 of 23 records sends nothing good\. Last good: /, CHAIN);
    await page.reads(/Store temperature [\d.]+ °C, silent since /, '[data-records]');
    await page.reads('See what is read', 'main');
    await stage('sensor', 'usual', 'gateway/store/temperature');
    await page.reads(/Value , holds 23 records/, CHAIN);
  });

  it(
    'that send more points than a chart can show are drawn by the least and ' +
      'the most of each stretch, which is said',
    async () => {
      const { page, pool } = app;
      await pool.query(
        `INSERT INTO reading (series_id, first_seen, last_seen, kind, amount, unit, run_id)
       SELECT s.id, t, t, 'number', 90 + n % 7, '% RH', 1
       FROM (SELECT s.id FROM series s JOIN record r ON r.id = s.record_id
         WHERE r.identity = 'apiary/store/humidity' ORDER BY r.watch_id DESC
         LIMIT 1) s, generate_series(1, 6000) n, LATERAL (SELECT now() - n * interval '10 s' AS t) at`,
      );
      await page.press('Store humidity');
      await page.reads(
        /too many readings to draw each: the least and the most of every \d+ s stand for the rest/,
        '[data-thinned]',
      );
      await page.find('[data-chart] path');
      // What is called the value of now is that, and not the highest of the last stretch.
      const written =
        `return [...document.querySelectorAll('[data-chart] text')].map((each) => each.textContent).find((words) => ` +
        `words.endsWith(' now'))`;
      const now = await page.driver.wait(() => page.driver.executeScript<string | undefined>(written), 5_000);
      expect(await page.text('[data-records] [aria-current]')).toContain(now?.replace(' now', ''));
    },
  );
});

describe('a page’s words', () => {
  it('are watched whole, without what moves by itself', async () => {
    const { page } = app;
    await begin(app, `${app.site('bulletin')}/`);
    await page.press('Watch the whole text');
    await page.reads('Fetch again and compare', '[data-masks]');
    await new Promise((resolve) => setTimeout(resolve, 1500));
    await page.press('Fetch again and compare');
    await page.reads(/“\d\d:\d\d:\d\d\.?” → “\d\d:\d\d:\d\d\.?”/, '[data-masks]');
    // Now and then the visitor count moves as well as the clock.
    while (!(await page.text('[data-masks]')).includes('Nothing else differs')) {
      for (const button of (await page.driver.findElements(By.css('[data-masks] li button'))).slice(0, 1))
        await button.click();
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
    await page.reads('Nothing else differs between two fetches.', '[data-masks]');
    await page.press('Watch for a phrase');
    await page.write('The phrase looked for', 'standstill');
    await page.reads(/yes|no/, '[data-trials]');
    await onlyRecord(app);
    await start(app);
    await page.reads(/Value , holds/, CHAIN);
  });
});

describe('what needs a secret', () => {
  it('signs in with a token that is never shown again', async () => {
    const { page } = app;
    await begin(app, `${app.site('heatherlow')}/wholesale/prices.json`);
    await page.reads('Nothing has come from there yet.');
    await page.choose('Sign-in', 'token');
    await page.write('Token', TRADE_TOKEN);
    await page.press('Fetch with this');
    await page.reads(/Comes as JSON/);
    const html = await page.driver.getPageSource();
    expect(html).not.toContain(TRADE_TOKEN);
    const stored = await app.pool.query('SELECT request::text FROM draft');
    expect(JSON.stringify(stored.rows)).not.toContain(TRADE_TOKEN);
  });
});

describe('what another program posts', () => {
  it('is taken when it is signed, once an id, and read at once', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/new`);
    await page.press('make a signed address to post to');
    await page.reads('Waiting for the first message');
    await page.press('Make the secret');
    await page.find('[data-secret]');
    const [address, secret] = [await page.text('[data-posting-address]'), await page.text('[data-secret]')];
    await expectAccessible();
    await post(address.trim(), secret.trim());
    await page.reads(/A message came .*sensor readings \(SenML\)/, '[data-posted]');
    await page.press('Value');
    await page.press('Read 23 points');
    await onlyRecord(app);
    await start(app);
    await page.reads(/the last message came/, CHAIN);
    await page.reads(/Value , holds 23 records/, CHAIN);
    const runs = async () =>
      Number(
        (
          await app.pool.query<{ n: number }>(
            `SELECT count(*)::int AS n FROM run r JOIN source s ON s.id = r.source_id WHERE s.way = 'posted'`,
          )
        ).rows[0]?.n,
      );
    const before = await runs();
    expect(await post(address.trim(), 'not the secret')).toContain('401');
    expect(await post(address.trim(), secret.trim())).toContain('202');
    await page.driver.wait(async () => (await runs()) === before + 1, 10_000, 'the message started no run');
  });

  /** As a person does it: on the stage, with address and secret pasted. */
  async function post(address: string, secret: string): Promise<string> {
    await reader.driver.get(app.site('stage'));
    const [to, key] = [
      await reader.driver.findElement({ css: 'input[name=address]' }),
      await reader.driver.findElement({ css: 'input[name=secret]' }),
    ];
    await to.sendKeys(address);
    await key.sendKeys(secret, '\uE007');
    await reader.driver.wait(
      () => reader.driver.executeScript<boolean>(`return /Answered|No answer/.test(document.body.innerText)`),
      10_000,
    );
    return reader.driver.executeScript<string>('return document.body.innerText');
  }
});

describe('hosts', () => {
  it('are paused as a whole, and the chain says so', async () => {
    const { page } = app;
    const host = `supplier.localhost:${app.places.standinsPort}`;
    await page.go(`${app.web}/hosts`);
    await expectAccessible();
    await page.press(`Pause ${host}`);
    await page.reads(/paused as a whole since/, `tr:has([data-host="${host}"])`);
    await page.go(`${app.web}/watches?q=lots`);
    await page.pressAt('[data-watches] tbody a');
    await page.reads(`${host} is paused as a whole`, CHAIN);
    await page.go(`${app.web}/hosts`);
    await page.press(`Start ${host}`);
    await page.reads(/answers/, `tr:has([data-host="${host}"])`);
    await page.press(`Change how ${host} is asked`);
    await page.write('Pause after each request', '2');
    await page.press('Keep');
    await page.reads('Kept.', '[role=dialog]');
    expect((await app.pool.query('SELECT pause_ms FROM host WHERE name = $1', [host])).rows).toEqual([
      { pause_ms: 2000 },
    ]);
  });
});
