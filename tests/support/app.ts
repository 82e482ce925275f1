import { mkdtempSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { By, until, type WebDriver, type WebElement } from 'selenium-webdriver';
import { inject } from 'vitest';
import { openPool, type Pool } from '#server/db/base/pool';
import { buildFolder } from '#scripts/system/build';
import { openBrowser, type Browser, type Look } from '#scripts/system/browser';
import { anyPort } from '#scripts/system/ports';
import { untilAnswers, type Running } from '#scripts/system/processes';
import { startStandinsProgram, startWebProgram, startWorkerProgram, type Places } from '#scripts/system/shrike';
import { BEGINNING } from './beginning';
import { freshDatabase, makePeople } from './world';
import { PATIENCE_MS } from './until';

/** A whole Shrike in processes of its own, with a browser before it. */
export interface RunningApp {
  web: string;
  places: Places;
  pool: Pool;
  browser: Browser;
  page: Page;
  worker: Running;
  site: (name: string) => string;
  stop: () => Promise<void>;
}

/** Starts web, worker and stand-ins on free ports, and a browser of the given size. */
export async function startApp(look: Look = { width: 1280, height: 800 }): Promise<RunningApp> {
  const folder = mkdtempSync(join(inject('scratch'), 'app-'));
  const places: Places = {
    databaseUrl: await freshDatabase(),
    webPort: await anyPort(),
    standinsPort: await anyPort(),
    smtpPort: await anyPort(),
    standinsFolder: folder,
    logFolder: join(folder, 'logs'),
    signInAs: 'ines@heatherlow.example',
    build: buildFolder('test'),
    stillAt: BEGINNING,
    bundled: true,
    secretKey: 'a key for tests alone',
  };
  const pool = openPool(places.databaseUrl, 3, () => undefined);
  await makePeople(pool);
  const quick = {
    SHRIKE_MAIL_FIRST_RETRY_MS: '1500',
    SHRIKE_POLL_MS: '100',
    SHRIKE_JOB_EXPIRY_SECONDS: '5',
    SHRIKE_JOB_SWEEP_SECONDS: '1',
  };
  const programs = [startStandinsProgram(places), startWorkerProgram(places, quick), startWebProgram(places)];
  const web = `http://localhost:${places.webPort}`;
  await untilAnswers(`${web}/healthz`, (status) => status === 200, programs);
  const browser = await openBrowser(look);
  const stop = async () => {
    await browser.close();
    await Promise.all(programs.map((program) => program.stop()));
    await pool.end();
  };
  const site = (name: string) => `http://${name}.localhost:${places.standinsPort}`;
  return { web, places, pool, browser, page: new Page(browser.driver), worker: programs[1] as Running, site, stop };
}

/** The browser's page in a reader's words: what to press, what to write, what to wait for. */
export class Page {
  constructor(readonly driver: WebDriver) {}

  go(address: string): Promise<void> {
    return this.driver.get(address);
  }

  /** Waits for what a selector matches; the error shows what the page said instead. */
  async find(selector: string): Promise<WebElement> {
    try {
      return await this.driver.wait(until.elementLocated(By.css(selector)), PATIENCE_MS);
    } catch {
      throw new Error(
        `nothing matches ${selector}; the page said: ${(await this.text()).replace(/\s+/g, ' ').slice(0, 1500)}`,
      );
    }
  }

  /** Presses the button, link or label with just this text or name, once it can be pressed. */
  async press(words: string): Promise<void> {
    const named =
      `[normalize-space()=${quote(words)} or @aria-label=${quote(words)} or starts-with(normalize-space(), ` +
      `${quote(`${words},`)})]`;
    const path =
      `//button[not(@disabled)]${named}|//a${named}|//summary${named}|//label[normalize-space()=${quote(words)} or ` +
      `starts-with(normalize-space(), ${quote(words)})]|//*[@role="menuitem"]${named}`;
    await this.#patiently(async () => {
      const [element] = await this.driver.findElements(By.xpath(path));
      if (element === undefined) throw new Error(`there is no “${words}” to press`);
      await this.#click(element);
    });
  }

  async pressAt(selector: string): Promise<void> {
    await this.#patiently(async () => this.#click(await this.find(selector)));
  }

  /** Writes into the field with this label or name, in place of what stands there. */
  async write(label: string, text: string): Promise<void> {
    await this.#patiently(async () => {
      const path =
        `//*[self::input or self::textarea][@id=//label[starts-with(normalize-space(), ${quote(label)})]/@for or ` +
        `@aria-label=${quote(label)}]`;
      const field = await this.driver.findElement(By.xpath(path));
      await field.sendKeys('\uE009a\uE000', text === '' ? '\uE003' : text);
    });
  }

  /** Chooses an option of the list with this label. */
  async choose(label: string, option: string): Promise<void> {
    await this.#patiently(async () => {
      const list = await this.driver.findElement(
        By.xpath(`//select[@id=//label[normalize-space()=${quote(label)}]/@for]`),
      );
      await list.findElement(By.xpath(`./option[starts-with(normalize-space(), ${quote(option)})]`)).click();
    });
  }

  /** Writes into a field of one part of the page. */
  async writeIn(part: string, label: string, text: string): Promise<void> {
    await this.#patiently(async () => (await this.#fieldIn(part, label)).sendKeys('\uE009a\uE000', text));
  }

  /** Chooses an option of a list in one part of the page. */
  async chooseIn(part: string, label: string, option: string): Promise<void> {
    await this.#patiently(async () => {
      const list = await this.#fieldIn(part, label);
      await list.findElement(By.xpath(`./option[normalize-space()=${quote(option)}]`)).click();
    });
  }

  /** Presses a label or a button in one part of the page. */
  async pressIn(part: string, words: string): Promise<void> {
    await this.#patiently(async () => {
      const within = await this.driver.findElement(By.css(part));
      const named = `[normalize-space()=${quote(words)}]`;
      await this.#click(await within.findElement(By.xpath(`.//label${named}|.//button${named}`)));
    });
  }

  /**
   * Clicks on an element. A page that shifts under the pointer just then has the click land beside it, or end on what
   * it did not begin on, which a reader would see and do again. What opens a list does so at the pointer’s going down,
   * and covers itself.
   */
  async #click(element: WebElement): Promise<void> {
    await this.driver.executeScript(
      `window.missed = true;
      const done = arguments[0].hasAttribute("aria-haspopup") ? "pointerdown" : "click";
      arguments[0].addEventListener(done, () => (window.missed = false), { once: true, capture: true })`,
      element,
    );
    await element.click();
    if (await this.driver.executeScript<boolean>('return window.missed === true')) throw new Error('the click missed');
  }

  async #fieldIn(part: string, label: string): Promise<WebElement> {
    const within = await this.driver.findElement(By.css(part));
    const named = await within.findElement(By.xpath(`.//label[starts-with(normalize-space(), ${quote(label)})]`));
    return this.driver.findElement(By.id((await named.getAttribute('for')) ?? ''));
  }

  text(selector = 'body'): Promise<string> {
    return this.driver.executeScript<string>(
      `return document.querySelector(${JSON.stringify(selector)})?.innerText ?? ''`,
    );
  }

  /** Waits until the text of a part says this; the error shows what it said instead. */
  async reads(expected: string | RegExp, selector = 'body'): Promise<string> {
    let said = '';
    for (const end = Date.now() + PATIENCE_MS; Date.now() < end; await sleep(120)) {
      said = (await this.text(selector).catch(() => '')).replace(/\s+/g, ' ');
      if (typeof expected === 'string' ? said.includes(expected) : expected.test(said)) return said;
    }
    throw new Error(`“${selector}” never said ${String(expected)}; it said: ${said.slice(0, 1500)}`);
  }

  async #patiently(act: () => Promise<void>): Promise<void> {
    for (const end = Date.now() + PATIENCE_MS; ; await sleep(120)) {
      try {
        return await act();
      } catch (error) {
        if (Date.now() > end) throw error;
      }
    }
  }
}

function quote(words: string): string {
  return words.includes('"') ? `'${words}'` : `"${words}"`;
}
