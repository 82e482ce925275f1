import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, type Browser } from '#scripts/system/browser';
import { TRADE_NAME, TRADE_PASSWORD } from '#standins/shops/wholesale';
import { startApp, type RunningApp } from '../support/app';
import { begin, CHAIN, onlyRecord, passConsent, pointAt, start } from '../support/set-up';
import { onStage } from '../support/stage';

let app: RunningApp;
let reader: Browser;
beforeAll(async () => {
  app = await startApp();
  reader = await openBrowser({ width: 1280, height: 900 });
  // What lies in the middle of the window stands where it does in the picture.
  const inner = await reader.driver.executeScript<number>('return innerHeight');
  await reader.driver
    .manage()
    .window()
    .setRect({ width: 1280, height: 900 + 900 - inner });
});
afterAll(async () => {
  await reader.close();
  await app.stop();
});

describe('a page behind a wall', () => {
  const address = () => `${app.site('nectarine-row')}/item/extractor-four`;

  it('is rendered of itself where that shows more, and the wall is named and passed by pointing at its button', async () => {
    const { page } = app;
    await onStage(app.places.standinsPort, 'price', '248.00', 'nectarine-row/extractor-four');
    await begin(app, address());
    await page.press('Value');
    await page.reads(/A wall that asks for consent stands before the page.*Accept\s+Reject/s, '[data-wall="consent"]');
    await page.reads(/Fetched by a browser, which takes longer/, '[data-way-chosen]');
    await reader.driver.get(address());
    await reader.driver.wait(
      () => reader.driver.executeScript<boolean>(`return document.querySelector('#no') !== null`),
      10_000,
    );
    await pointAt(app, reader, '#no');
    await page.find('[data-picture] img');
    await page.reads(/the browser shows .*price.* that a plain fetch does not have/, '[data-way-chosen]');
    expect(await page.text('[data-wall]')).toBe('');
  });

  it('is read behind it from then on, each time', async () => {
    const { page } = app;
    await passConsent(reader);
    await pointAt(app, reader, '.tag');
    await page.reads('£248.00', '[data-pick]');
    await page.press('Take price');
    await onlyRecord(app);
    await start(app);
    await page.reads(/Value , holds £248\.00/, CHAIN);
    await onStage(app.places.standinsPort, 'price', '239.00', 'nectarine-row/extractor-four');
    await page.press('Run now');
    await page.reads(/£248\.00 £239\.00/, '[data-changes]');
  });

  it('is opened by what else is pressed on it, such as a tab', async () => {
    const { page } = app;
    await begin(app, address());
    await page.press('Value');
    await page.pressIn('[data-wall]', 'Accept');
    await page.reads(/the browser shows .*price/, '[data-way-chosen]');
    await pointAt(app, reader, '[data-tab="carriage"]');
    await page.press('Press “Carriage” before the page is read');
    await page.reads(/4\.50/, '[data-candidates]');
  });

  it('is signed in to with what it asks for, and what is secret is shown nowhere', async () => {
    const { page } = app;
    await begin(app, `${app.site('heatherlow')}/wholesale`);
    await page.press('Value');
    await page.find('[data-wall="sign-in"]');
    await page.writeIn('[data-wall]', 'Trade name', TRADE_NAME);
    await page.writeIn('[data-wall]', 'Password', 'heather-guess');
    await page.pressIn('[data-wall]', 'Sign in');
    await page.reads(
      /It still stands there after: fill in “Trade name” with “calloway”, fill in “Password” with the secret, click “Sign in”\./,
    );
    expect(await page.driver.getPageSource()).not.toContain('heather-guess');
    await page.writeIn('[data-wall]', 'Trade name', TRADE_NAME);
    await page.writeIn('[data-wall]', 'Password', TRADE_PASSWORD);
    await page.pressIn('[data-wall]', 'Sign in');
    await page.reads(/\d+ rows of a table.*Ref\., Article, Price/is);
    expect(await page.driver.getPageSource()).not.toContain(TRADE_PASSWORD);
  });
});

describe('an address', () => {
  it('without a scheme is tried encrypted and then without', async () => {
    const { page } = app;
    await begin(app, `${app.site('skepwright')}/p/copper-smoker-large`.replace(/^http:\/\//, ''));
    await page.press('Source');
    await page.reads(/Skepwright/);
    expect(await page.driver.executeScript(`return document.querySelector('input[inputmode="url"]').value`)).toMatch(
      /^http:\/\//,
    );
  });

  it('with a scheme is tried as it was meant, and what is wrong is said', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/new`);
    await page.write('Which page, list', `${app.site('skepwright')}/`.replace(/^http:/, 'https:'));
    await page.press('Fetch it');
    await page.reads(/answers here without encryption.*Try it with http:\/\//);
  });
});
