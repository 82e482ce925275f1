import { numbered } from '../support/numbered';
import { pageDefinition } from '#core/read/definition';
import { Key, logging } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser } from '#scripts/system/browser';
import { inTransaction } from '#server/db/base/pool';
import { askForRun, createWatch, setWatchState } from '#server/actions/edit-watch';
import { Page, startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { onStage } from '../support/stage';
import { fallsBelow, PRICE, ruleOf } from '../support/world';

let app: RunningApp;
beforeAll(async () => {
  app = await startApp();
  const host = `skepwright.localhost:${app.places.standinsPort}`;
  for (const [slug, subject] of [
    ['steel-smoker', 'Stainless smoker'],
    ['extractor-nine', 'Extractor, nine-frame, electric, with a name that is much longer than any table has room for'],
    ['nowhere', 'A page that is not there'],
  ] as const) {
    const source = { address: `http://${host}/p/${slug}`, host, site: 'Skepwright', mostAtOnce: 4 };
    const plan = {
      definition: pageDefinition(subject, [PRICE]),
      frequency: { count: 1, unit: 'hour' as const },
      rules: [ruleOf(fallsBelow('1.00'), ['list:1'])],
    };
    await inTransaction(app.pool, (db) => createWatch(db, source, plan, { person: numbered(1), at: Date.now() }));
  }
  await app.page.go(`${app.web}/watches`);
  await app.page.reads('The page is not there (404).');
});
afterAll(() => app.stop());

const VIEWS = [
  '/',
  '/watches',
  '/watches/1',
  '/watches/3',
  '/watches/new',
  '/raised',
  '/reports',
  '/reports/new',
  '/outbox',
  '/sites',
  '/hosts',
  '/mail',
];

describe('every view', () => {
  it('is accessible in the dark', async () => {
    const { driver, close } = await openBrowser({ width: 1280, height: 800, dark: true });
    try {
      const page = new Page(driver);
      for (const view of VIEWS) {
        await page.go(app.web + view);
        await page.find('main');
        expect([view, await serious(page.driver)]).toEqual([view, []]);
      }
      const paper = await driver.executeScript<string>(
        'return getComputedStyle(document.documentElement).backgroundColor',
      );
      expect(paper).toBe('rgb(29, 26, 23)');
    } finally {
      await close();
    }
  });

  it('can be used on a narrow screen: the page itself never scrolls sideways', async () => {
    const { driver, close } = await openBrowser({ width: 500, height: 800 });
    try {
      const page = new Page(driver);
      for (const view of VIEWS) {
        await page.go(app.web + view);
        await page.find('main');
        const wider = await driver.executeScript<number>(
          'return document.documentElement.scrollWidth - document.documentElement.clientWidth',
        );
        expect([view, wider]).toEqual([view, 0]);
      }
    } finally {
      await close();
    }
  });

  it('runs without an error, and nothing that was put into it', async () => {
    const { driver } = app.page;
    for (const view of VIEWS) {
      await app.page.go(app.web + view);
      await app.page.find('main');
    }
    const said = await driver.manage().logs().get(logging.Type.BROWSER);
    expect(
      said.filter((entry) => entry.level.value >= logging.Level.SEVERE.value).map((entry) => entry.message),
    ).toEqual([]);
    const foreign = `
      const script = document.createElement('script');
      script.textContent = 'window.ran = true';
      document.body.append(script);
      document.body.insertAdjacentHTML('beforeend', '<img src="data:," onerror="window.ran = true">');
      setTimeout(() => arguments[0](window.ran ?? false), 500);`;
    expect(await driver.executeAsyncScript<boolean>(foreign)).toBe(false);
  });

  it('brings its own fonts', async () => {
    await app.page.go(app.web);
    const loaded = await app.page.driver.executeAsyncScript<string[]>(
      'const done = arguments[0]; document.fonts.ready.then(() => done([...document.fonts].filter((font) => ' +
        `font.status === 'loaded').map((font) => font.family)));`,
    );
    expect(loaded.join()).toMatch(/Newsreader/);
    expect(loaded.join()).toMatch(/Hanken/);
  });
});

describe('a view on screen', () => {
  const loads = () =>
    app.page.driver.executeScript<number>(
      `return performance.getEntriesByType('resource').filter(({ name }) => name.includes('.data')).length`,
    );

  it('is not loaded again while nothing moves, and follows what does', async () => {
    const { page, pool } = app;
    await page.go(`${app.web}/watches`);
    await page.find('[data-watches]');
    await page.driver.sleep(STILL_MS);
    expect(await loads()).toBe(0);
    await inTransaction(pool, (db) => setWatchState(db, numbered(2), 'paused', Date.now()));
    await page.reads('Paused 1', 'nav[aria-label=Show]');
    await inTransaction(pool, (db) => setWatchState(db, numbered(2), 'running', Date.now()));
    await page.reads('Paused 0', 'nav[aria-label=Show]');
  });

  it('shows a value that moved without any rule minding', async () => {
    const { page, pool, places } = app;
    await page.go(`${app.web}/watches`);
    await page.reads('Stainless smoker', '[data-watches]');
    await page.driver.sleep(STILL_MS);
    await onStage(places.standinsPort, 'price', '14.45', 'steel-smoker');
    await inTransaction(pool, (db) => askForRun(db, numbered(1), Date.now()));
    await page.reads('£14.45', '[data-watches]');
    expect(await page.text('[data-watches]')).toMatch(/in \d+ (min|h)/);
  });

  it('shows a run of its source that somebody else asked for', async () => {
    const { page, pool } = app;
    await page.go(`${app.web}/watches/1`);
    await page.find('[data-version]');
    await inTransaction(pool, (db) => setWatchState(db, numbered(1), 'paused', Date.now()));
    await page.reads('Paused', 'header, main');
    await inTransaction(pool, (db) => setWatchState(db, numbered(1), 'running', Date.now()));
    await page.driver.wait(
      async () => !(await page.text('main')).includes('Paused'),
      10_000,
      'it is still said to be paused',
    );
  });
});

describe('following', () => {
  it.each([
    [
      'a place that is none and topics that are none',
      '?since=soon&topic=everything&topic=watch:9999999999999999&topic=watch:-1',
    ],
    ['nothing at all', ''],
    [
      'more topics than a view has',
      `?since=1&${Array.from({ length: 300 }, (_, at) => `topic=watch:${at}`).join('&')}`,
    ],
  ])('is answered when it asks for %s', async (_what, query) => {
    const script = `
      const done = arguments[arguments.length - 1];
      const source = new EventSource('/live' + arguments[0]);
      source.addEventListener('moved', ({ data }) => { source.close(); done(data); });
      source.addEventListener('error', () => { source.close(); done('refused'); });`;
    expect(await app.page.driver.executeAsyncScript<string>(script, query)).toBe('"all"');
  });
});

describe('many who follow', () => {
  const follow = async (end: AbortController) => {
    const response = await fetch(`${app.web}/live?topic=watches`, { signal: end.signal });
    await response.body?.getReader().read();
    return response.status;
  };

  it('are let go of when they leave, and told when there are too many', async () => {
    // The browser of the tests follows as well.
    const [some, more] = [MOST_OWN - 10, 20].map((length) => Array.from({ length }, () => new AbortController()));
    expect(new Set(await Promise.all(some?.map(follow) ?? []))).toEqual(new Set([200]));
    expect(new Set(await Promise.all(more?.map(follow) ?? []))).toEqual(new Set([200, 503]));
    for (const end of [...(some ?? []), ...(more ?? [])]) end.abort();
    await app.page.driver.wait(
      async () => (await follow(new AbortController())) === 200,
      5_000,
      'those who left still count',
    );
    expect((await fetch(`${app.web}/healthz`)).status).toBe(200);
  });
});

/** Of one visitor. */
const MOST_OWN = 40;

/** Longer than a view ever went without a load when it was loaded every so often. */
const STILL_MS = 12_000;

describe('the keyboard', () => {
  it('finds a watch: / puts the cursor into the search, and a pasted address finds its watch', async () => {
    const { page } = app;
    await page.go(app.web);
    await page.find('input[type=search]');
    await page.driver.actions().sendKeys('/').perform();
    await page.driver
      .actions()
      .sendKeys(`${app.site('skepwright')}/p/steel-smoker`, Key.ENTER)
      .perform();
    await page.reads('Stainless smoker', '[data-watches]');
    expect(await page.text('[data-watches]')).not.toContain('Extractor');
  });

  it('finds everything by its name in the box that Ctrl K opens, and goes there', async () => {
    const { page } = app;
    const { driver } = page;
    const keys = () => driver.actions();
    const open = () => keys().keyDown(Key.CONTROL).sendKeys('k').keyUp(Key.CONTROL).perform();
    await page.go(app.web);
    await page.find('main');
    await open();
    await page.reads('New watch', '[role=dialog]');
    await keys().sendKeys('stainless').perform();
    await page.reads('Stainless smoker Skepwright', '[role=dialog]');
    expect(await serious(driver)).toEqual([]);
    await keys().sendKeys(Key.ENTER).perform();
    await page.reads('Stainless smoker', 'h1');
    await open();
    await keys().sendKeys('retent').perform();
    await page.reads('Settings: Retention', '[role=dialog]');
    await keys().sendKeys(Key.ENTER).perform();
    await page.reads('Retention', 'main nav [aria-current=page]');
    await open();
    await keys().sendKeys('no such thing').perform();
    await page.reads('Nothing goes by these words.', '[role=dialog]');
    await keys().sendKeys(Key.ESCAPE).perform();
    expect(await driver.findElements({ css: '[role=dialog]' })).toEqual([]);
    const found = async (words: string) => (await fetch(`${app.web}/find.data?q=${encodeURIComponent(words)}`)).status;
    expect(await Promise.all([found(''), found('%_\\'), found('x'.repeat(9_000)), found('\u0000')])).toEqual([
      200, 200, 200, 200,
    ]);
  });

  it('says a day in the reader’s own way, or chooses it from a month; what is no day is refused with a sentence', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/1/rules/new?field=price`);
    await page.press('How long, how often, when it is told');
    await page.write('Its last day', '31/12/2026');
    await page.press('switched off: kept, and not judged');
    await page.reads('until 2026-12-31');
    // Half a day is none yet, and what is no day leaves what was said before.
    await page.write('Its last day', '1/1/20');
    expect(await page.text()).toContain('until 2026-12-31');
    await page.write('Its last day', '31/13/2026');
    await page.driver.actions().sendKeys(Key.TAB).perform();
    await page.reads('Write it as 31 Dec 2026.');
    expect(await page.text()).toContain('until 2026-12-31');
    await page.write('Its last day', '1 Dec 2026');
    await page.press('Choose its last day from a month');
    await page.pressAt('[aria-label*="24 December 2026"]');
    await page.reads('until 2026-12-24');
  });

  it('reaches the page past the navigation, and opens and closes what changes a part of the sentence', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/1`);
    await page.find('[data-part=frequency]');
    await page.driver.executeScript(`document.querySelector('[data-part=frequency]').focus()`);
    await page.driver.actions().sendKeys(Key.ENTER).perform();
    await page.reads('How often it runs', '[role=dialog]');
    await page.driver.actions().sendKeys(Key.ESCAPE).perform();
    const isBack = () =>
      page.driver.executeScript<boolean>('return document.activeElement?.dataset.part === "frequency"');
    await page.driver.wait(isBack, 5_000, 'the focus did not come back to the sentence');
  });
});

describe('lists', () => {
  it('say so when nothing fits, with a way back', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches?q=honey`);
    await page.reads('Nothing goes by “honey”.');
    await page.press('Show all 3');
    await page.reads('Stainless smoker', '[data-watches]');
  });

  it('can be narrowed to what is broken', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches`);
    await page.press('Broken 1');
    await page.reads('Broken', 'nav[aria-label=Show] [aria-current]');
    await page.reads('A page that is not there', '[data-watches]');
    expect(await page.text('[data-watches]')).not.toContain('Stainless');
  });

  it('lead the briefing to what is not read', async () => {
    const { page } = app;
    await page.go(app.web);
    await page.reads('Not reading');
    await page.press('Skepwright, A page that is not there');
    await page.reads('The page is not there (404).', 'ol[aria-label="The chain"]');
  });
});

describe('a site', () => {
  it('is said whose it is and called otherwise, and a name that is none is refused with a sentence', async () => {
    const { page } = app;
    await page.go(`${app.web}/sites`);
    await page.press('Change what Skepwright is');
    await page.write('What it is called', '   ');
    await page.press('Keep');
    await page.reads('A site needs a name.', '[role=dialog]');
    await page.write('What it is called', 'Skep & Wright');
    await page.driver.executeScript(`document.querySelector('[role=dialog] select').value = 'rival'`);
    await page.driver.executeScript(
      `document.querySelector('[role=dialog] select').dispatchEvent(new Event('change', { bubbles: true }))`,
    );
    await page.press('Keep');
    await page.reads('Skep & Wright', '[data-sites]');
    await page.reads('a rival’s', '[data-sites]');
    await page.go(`${app.web}/watches/1`);
    await page.reads('Skep & Wright', 'h1');
  });
});
