import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, type Browser } from '#scripts/system/browser';
import { TRADE_NAME, TRADE_PASSWORD } from '#standins/shops/wholesale';
import { startApp, type RunningApp } from '../support/app';
import { begin, CHAIN, onlyRecord, pointAt, start, takeRows } from '../support/set-up';
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

async function read(address: string): Promise<void> {
  await begin(app, address);
  await reader.driver.get(address);
  await app.page.find('[data-picture] img');
}

describe('a list that is built anew', () => {
  it('is found again by what its records were, in one click', async () => {
    const { page } = app;
    await read(`${app.site('supplier')}/lots`);
    const count = await takeRows(app);
    const said = await page.reads(/This page L\d+ .* records Its values altered L\d+ .* records/, '[data-trials]');
    const [, here, altered] =
      /This page (L\d+ .*?) \d+ records Its values altered (L\d+ .*?) \d+ records/.exec(said) ?? [];
    expect(altered).not.toBe(here);
    await onlyRecord(app);
    await start(app);
    await page.reads(`Value , holds ${count} records`, CHAIN);
    await page.press('grade');
    await page.reads(/^[A-F] now/, '[data-state-chart]');
    await stage('layout', 'rebuilt', 'supplier');
    await page.press('Run now');
    await page.reads(
      /Value , broken The page has no table any more whose heads are those of the table with “Lot”/,
      CHAIN,
    );
    await page.press('Mend it');
    await page.reads(`${count} of the ${count} known ones are there`, '[data-mending]');
    await page.reads(
      new RegExp(`price per kg £\\d+\\.\\d\\d ${count} of ${count} records read as they last did`),
      '[data-mending]',
    );
    await page.reads(`${count} records, as they would be read`);
    await page.find('[data-picked]');
    await page.press('Accept and save');
    await page.reads('version 2 by Inés');
    await page.reads(`Value , holds ${count} records`, CHAIN);
    await page.reads('None so far');
  });
});

describe('pointing', () => {
  it('marks on the picture what is taken, and offers all at once first on a page of many', async () => {
    const { page } = app;
    await read(`${app.site('skepwright')}/p/copper-smoker-large`);
    await page.press('Take Product › offers › price');
    await page.reads('price', '[data-taken-mark]');
    await page.press('Leave out price');
    await page.reads(/^(?!.*Leave out price)/s, '[data-sentence]');
    await begin(app, `${app.site('combe-larder')}/goods`);
    await page.reads(/Many at once.*8 rows of a table.*What is read.*Or single values/s);
  });

  it('says of two picks what they have in common, and of a third that nothing tells it apart', async () => {
    const { page } = app;
    await read(`${app.site('heatherlow')}/`);
    await pointAt(app, reader, '.row .what', 'nothing', 0);
    await page.find('[data-pick-value]');
    await pointAt(app, reader, '.row .what', 'shift', 3);
    await page.reads(/24 blocks of one kind/, '[data-joint]');
    await pointAt(app, reader, '.row .what', 'alt', 5);
    await page.reads('Nothing in how the page is built tells those apart.');
  });

  it('leaves a part out of the text that is watched', async () => {
    const { page } = app;
    await read(`${app.site('bulletin')}/`);
    await page.press('Watch the whole text');
    await page.reads('You are visitor', '[data-trials]');
    await pointAt(app, reader, '.meta');
    await page.press('Leave this part out of “text”');
    await page.reads(/^(?!.*You are visitor)/s, '[data-trials]');
    await page.press('Fetch again and compare');
    await page.reads('Two fetches read the same.', '[data-masks]');
  });
});

describe('a formula', () => {
  it('asks another watch by its name, and shows the answer before it is saved', async () => {
    const { page } = app;
    await stage('price', '30.00', 'heatherlow/copper-smoker-large');
    await stage('price', '26.50', 'combe-larder/copper-smoker-large');
    await begin(app, `${app.site('heatherlow')}/shop/copper-smoker-large`);
    await page.press('Take Product › offers › price');
    await page.reads('£30.00', '[data-taken]');
    await page.press('Copper smoker, large');
    await page.write('What is followed', 'Ours');
    await onlyRecord(app);
    await start(app);
    await page.reads(/Value , holds £30\.00/, CHAIN);
    await begin(app, `${app.site('combe-larder')}/goods/copper-smoker-large`);
    await page.press('Take Beside the label “Our price”');
    await page.press('Compute another from these');
    await page.write('Formula', 'latest("Ours", "price") - price');
    await page.reads('£3.50', '[data-taken]');
    await onlyRecord(app);
    await start(app);
    await page.reads(/Value , holds £26\.50, £3\.50/, CHAIN);
  });
});

describe('a site that wants no programs', () => {
  it('is not fetched, and says so, until its rules allow it', async () => {
    const { page } = app;
    await stage('robots', 'unwelcome', 'forage');
    await page.go(`${app.web}/watches/new`);
    await page.write('Which page, list', `${app.site('forage')}/atom.xml`);
    await page.press('Fetch it');
    await page.reads(/asks programs not to fetch this address \(its robots rules\), and Shrike heeds that/);
    await stage('robots', 'welcome', 'forage');
    await new Promise((resolve) => setTimeout(resolve, 3500));
    await page.press('Fetch it');
    await page.reads('12 records');
  });
});

describe('what stands behind a sign-in', () => {
  it('is fetched by name and password, which are never shown again', async () => {
    const { page } = app;
    await begin(app, `${app.site('heatherlow')}/wholesale/stock.csv`);
    await page.press('Source');
    await page.choose('Sign-in', 'name and password');
    await page.write('Name', TRADE_NAME);
    await page.write('Password', 'not this');
    await page.press('Fetch with this');
    await page.reads(/401|sign in/i);
    await page.write('Password', TRADE_PASSWORD);
    await page.press('Fetch with this');
    await page.press('Value');
    await page.press('Read 24 records');
    await page.reads(/ref name held/, '[data-records]');
    expect(await page.driver.getPageSource()).not.toContain(TRADE_PASSWORD);
    const stored = await app.pool.query<{ request: string }>('SELECT request::text FROM draft');
    expect(stored.rows.some(({ request }) => request.includes('"sealed"'))).toBe(true);
    for (const { request } of stored.rows) {
      expect(request).not.toContain(TRADE_PASSWORD);
      const [, sealed = ''] = /"sealed": ?"([^"]+)"/.exec(request) ?? [];
      if (sealed !== '') expect(await page.driver.getPageSource()).not.toContain(sealed);
    }
  });

  it('is reached by steps: filled in, clicked, chosen and scrolled, with a check on the way', async () => {
    const { page } = app;
    await begin(app, `${app.site('heatherlow')}/wholesale`);
    await page.press('Source');
    const step = async (number: number, act: string, fields: [string, string][]) => {
      await page.press('Add a step');
      const within = `[data-steps] li:nth-child(${number})`;
      await page.chooseIn(within, 'Do', act);
      for (const [label, text] of fields) await page.writeIn(within, label, text);
    };
    await step(1, 'fill in', [
      ['The words on it', 'Trade name'],
      ['With', TRADE_NAME],
    ]);
    await step(2, 'fill in', [['The words on it', 'Password']]);
    await page.pressIn('[data-steps] li:nth-child(2)', 'secret');
    await page.writeIn('[data-steps] li:nth-child(2)', 'With', TRADE_PASSWORD);
    await step(3, 'click', [['The words on it', 'Sign in']]);
    await page.chooseIn('[data-steps] li:nth-child(3)', 'Then check', 'the heading says');
    await page.writeIn('[data-steps] li:nth-child(3)', 'Exactly', 'Wholesale prices');
    await step(4, 'choose', [
      ['The words on it', 'Counted'],
      ['Option', 'by the case'],
    ]);
    await step(5, 'scroll', [['Screens', '4']]);
    await page.press('Try the steps');
    await page.reads(
      /fill in “Password” with the secret.*click “Sign in”.*choose “by the case” in “Counted”.*scroll 4 screens/,
      '[data-tried]',
    );
    await page.press('Fetch with these steps');
    await page.press('Value');
    await page.find('[data-picture] img');
    await page.press('Read 24 rows of a table');
    await page.reads('24 records');
    await onlyRecord(app);
    await start(app);
    await page.reads(/Value , holds 24 records/, CHAIN);
  });
});

describe('the pages of a list', () => {
  it('are counted in the address where no link leads on', async () => {
    const { page } = app;
    await begin(app, `${app.site('combe-larder')}/goods`);
    await page.press('Read 8 rows of a table');
    await page.press('Source');
    await page.press('The request');
    await page.choose('Further pages', 'by counting');
    await page.press('Fetch with this');
    await page.press('Value');
    await page.reads('24 records');
  });
});
