import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { By, Key, until, type WebDriver } from 'selenium-webdriver';
import { fitTo, openBrowser, type Look } from './system/browser';
import { ROOT, stateFolder } from './system/state';

// Takes the pictures in docs/screenshots from the running demo: npm run demo, then npm run screenshots [name …].

interface Shot {
  name: string;
  look?: Partial<Look>;
  take: (driver: WebDriver, web: string, standins: number) => Promise<void>;
}

const SETTLE_MS = 900;
const WAIT_MS = 15_000;

const open = (path: string) => (driver: WebDriver, web: string) => driver.get(web + path);
const find = (driver: WebDriver, selector: string) => driver.wait(until.elementLocated(By.css(selector)), WAIT_MS);
const press = async (driver: WebDriver, xpath: string) =>
  (await driver.wait(until.elementLocated(By.xpath(xpath)), WAIT_MS)).click();

async function watchNamed(driver: WebDriver, web: string, name: string): Promise<void> {
  await driver.get(`${web}/watches`);
  await press(driver, `//a[normalize-space()="${name}"]`);
  await find(driver, '[data-chart] path');
}

const reportNamed = (name: string) => async (driver: WebDriver, web: string) => {
  await driver.get(`${web}/reports`);
  await press(driver, `//a[normalize-space()="${name}"]`);
  await find(driver, '[data-next-edition] iframe');
};

async function begin(driver: WebDriver, web: string, address: string): Promise<void> {
  await driver.get(`${web}/watches/new`);
  await (await find(driver, 'input[name=address]')).sendKeys(address);
  await press(driver, '//button[normalize-space()="Fetch it"]');
}

const PRICE_CELL = 'table table tr:nth-of-type(2) td:nth-of-type(2)';

/** Sets up a watch on a product by pointing at its price, as far as a picture needs it. */
async function pointAtPrice(driver: WebDriver, web: string, standins: number): Promise<void> {
  const address = `http://combe-larder.localhost:${standins}/goods/goatskin-gloves`;
  await driver.get(address);
  const { x, y } = await driver.executeScript<{ x: number; y: number }>(
    `const box = document.querySelector('${PRICE_CELL}').getBoundingClientRect(); return { x: box.x + box.width ` +
      '/ 2, y: box.y + box.height / 2 };',
  );
  await begin(driver, web, address);
  const picture = await find(driver, '[data-picture]');
  await driver.executeScript(
    `const [picture, x, y] = arguments; const { left, top, width } = picture.getBoundingClientRect();
     picture.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: left + (x * width) / 1280, clientY: top + (y * width) / 1280 }));`,
    picture,
    x,
    y,
  );
  await find(driver, '[data-pick-value]');
}

async function setUp(driver: WebDriver, web: string, standins: number): Promise<void> {
  await pointAtPrice(driver, web, standins);
  await press(driver, '//button[starts-with(normalize-space(), "Take price")]');
}

async function sayRule(driver: WebDriver): Promise<void> {
  await press(driver, '//button[normalize-space()="On to the rule"]');
  await press(driver, '//label[normalize-space()="falls below"]');
  await (await driver.wait(until.elementLocated(By.css('input[inputmode=decimal]')), WAIT_MS)).sendKeys('15.00');
}

async function dropDraft(driver: WebDriver, web: string): Promise<void> {
  await sleep(SETTLE_MS);
  await driver.get(`${web}/watches/new`);
  for (const button of await driver.findElements(By.css('button[value=drop]'))) await button.click();
}

const SHOTS: Shot[] = [
  { name: 'briefing', take: open('/') },
  { name: 'briefing-dark', look: { dark: true }, take: open('/') },
  { name: 'raised', take: open('/raised') },
  {
    name: 'rule',
    take: async (driver, web) => {
      await watchNamed(driver, web, 'Honey store');
      await press(driver, '//a[normalize-space()="a rule from here"]');
      const limit = await find(driver, 'input[inputmode=decimal]');
      await limit.sendKeys(Key.CONTROL, 'a', Key.NULL, '18.2');
      await press(driver, '//label[normalize-space()="rises above"]');
      await find(driver, '[data-bracket]');
    },
  },
  { name: 'watches', take: open('/watches') },
  {
    name: 'watch',
    take: async (driver, web) => {
      await watchNamed(driver, web, 'Copper smoker, large');
      await press(driver, '//a[normalize-space()="why at a reading"]');
      await find(driver, '[data-moment]');
    },
  },
  { name: 'items', take: open('/items') },
  { name: 'rules', take: open('/rules?sort=told') },
  { name: 'stencil', take: open('/stencils/1') },
  { name: 'watch-question', take: (driver, web) => watchNamed(driver, web, 'Fondant 12.5 kg') },
  { name: 'set-up-value', take: pointAtPrice },
  {
    name: 'set-up-records',
    take: async (driver, web, standins) => {
      await begin(driver, web, `http://supplier.localhost:${standins}/lots`);
      await press(driver, '//button[contains(@aria-label, "rows of a table")]');
      await find(driver, '[data-records] tbody tr');
      await find(driver, '[data-picture] img');
    },
  },
  {
    name: 'set-up-rule',
    take: async (driver, web, standins) => {
      await setUp(driver, web, standins);
      await sayRule(driver);
    },
  },
  { name: 'reports', take: open('/reports') },
  { name: 'report', take: reportNamed('Brands, weekly') },
  {
    name: 'edition',
    take: async (driver, web) => {
      await reportNamed('Pricing, daily')(driver, web);
      await press(driver, '//*[@data-editions]//a');
      await find(driver, '[data-deliveries]');
    },
  },
  { name: 'outbox', take: open('/outbox') },
  { name: 'people', take: open('/people') },
  {
    name: 'mail',
    take: async (driver, web) => {
      await driver.get(`${web}/outbox`);
      await press(driver, '(//table[@data-outbox]//a[starts-with(normalize-space(.), "Skepwright:")])[1]');
      await find(driver, 'iframe');
    },
  },
];

async function main(): Promise<void> {
  const ports = join(stateFolder('demo'), 'ports.json');
  if (!existsSync(ports)) throw new Error('Start the demo first: npm run demo');
  const { web, standins } = JSON.parse(readFileSync(ports, 'utf8')) as { web: number; standins: number };
  const address = process.env.SHRIKE_SHOW ?? `http://localhost:${web}`;
  const folder = process.env.SHRIKE_SHOTS ?? join(ROOT, 'docs', 'screenshots');
  mkdirSync(folder, { recursive: true });
  const asked = process.argv.slice(2);
  for (const shot of SHOTS.filter(({ name }) => asked.length === 0 || asked.includes(name))) {
    const look = { width: 1280, height: 800, ...shot.look };
    const { driver, close } = await openBrowser(look);
    try {
      await fitTo(driver, look);
      await shot.take(driver, address, standins);
      // Where the pointer was left it would show what it points at.
      await driver.actions().move({ x: 4, y: 4 }).perform();
      await sleep(SETTLE_MS);
      writeFileSync(join(folder, `${shot.name}.png`), Buffer.from(await driver.takeScreenshot(), 'base64'));
      process.stdout.write(`${shot.name}.png\n`);
      if (shot.name.startsWith('set-up')) await dropDraft(driver, address);
    } finally {
      await close();
    }
  }
}

main().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
