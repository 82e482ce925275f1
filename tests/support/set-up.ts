import { setTimeout as sleep } from 'node:timers/promises';
import type { Browser } from '#scripts/system/browser';
import type { RunningApp } from './app';

/** The chain of a watch, on its page. */
export const CHAIN = 'ol[aria-label="The chain"]';

/** Begins a watch on an address, up to the set-up. */
export async function begin({ web, page }: RunningApp, address: string): Promise<void> {
  await page.go(`${web}/watches/new`);
  await page.write('Which page, list', address);
  await page.press('Fetch it');
  await page.find('[data-sentence] .said');
}

/** Takes all rows of the one table that is offered; says how many there are. */
export async function takeRows({ page }: RunningApp): Promise<number> {
  const count = Number(/(\d+) rows of a table/.exec(await page.reads(/\d+ rows of a table/))?.[1]);
  await page.press(`Read ${count} rows of a table`);
  return count;
}

/** What is held while pointing: nothing picks, Shift says 'also this', Alt 'not this'. */
export type Held = 'nothing' | 'shift' | 'alt';

/**
 * Points at a place on the picture of the page, where a reader of the page itself sees it: the nth that a selector
 * matches.
 */
export async function pointAt(
  { page }: RunningApp,
  reader: Browser,
  selector: string,
  held: Held = 'nothing',
  nth = 0,
): Promise<void> {
  const middle = await reader.driver.executeScript<{ x: number; y: number }>(
    `const box = document.querySelectorAll(${JSON.stringify(selector)})[${nth}].getBoundingClientRect(); return ` +
      '{ x: box.x + box.width / 2, y: box.y + box.height / 2 };',
  );
  const picture = await page.find('[data-picture]');
  await page.driver.executeScript(
    'arguments[0].parentElement.scrollIntoView({ block: "center" }); arguments[0].parentElement.scrollTop = 0',
    picture,
  );
  const frame = await page.driver.executeScript<{ left: number; top: number; width: number }>(
    'const { left, top, width } = arguments[0].getBoundingClientRect(); return { left, top, width };',
    picture,
  );
  const scale = frame.width / 1280;
  await page.driver.executeScript(
    `const [picture, x, y, held] = arguments;
     const keys = { shiftKey: held === 'shift', altKey: held === 'alt' };
     for (const kind of ['mousemove', 'click']) picture.dispatchEvent(new MouseEvent(kind, { bubbles: true, clientX: x, clientY: y, ...keys }));`,
    picture,
    frame.left + middle.x * scale,
    frame.top + middle.y * scale,
    held,
  );
}

const MOST_PRESSES = 5;

/** Says that nobody is to be told; again where the page moved under the pointer. */
export async function onlyRecord({ page }: RunningApp): Promise<void> {
  await page.press('Rule');
  for (
    let press = 0;
    press < MOST_PRESSES && !(await page.text('[data-sentence]')).includes('only record it');
    press += 1
  ) {
    await page.press('never: only record it, tell nobody');
    await sleep(200);
  }
  await page.reads('only record it', '[data-sentence]');
}

/** Starts the watch; presses again where the page moved under the pointer. */
export async function start({ page }: RunningApp): Promise<void> {
  const isStarted = async () => (await page.text(CHAIN)) !== '';
  for (let press = 0; press < MOST_PRESSES && !(await isStarted()); press += 1) {
    await page.press('Start watching');
    for (let wait = 0; wait < 25 && !(await isStarted()); wait += 1) await sleep(200);
  }
  await page.find(CHAIN);
}

/**
 * Goes past the consent wall of a shop that fills its pages in by script, and waits for the price, as a reader of the
 * page would.
 */
export async function passConsent(reader: Browser): Promise<void> {
  await reader.driver.executeScript(`document.querySelector('#no')?.click()`);
  await reader.driver.wait(
    () => reader.driver.executeScript<boolean>(`return document.querySelector('.tag') !== null`),
    10_000,
  );
}
