import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { AddressRules } from '#server/fetch/addresses';
import { startBrowser } from '#server/fetch/rendered/browser';
import { FilteringProxy } from '#server/fetch/rendered/proxy';
import { memoryOf, processesBelow } from '#server/processes';
import { ReadingPool } from '#server/reading/pool';
import { Renderer } from '#server/fetch/rendered/renderer';
import { anyPort } from '#scripts/system/ports';
import { stateFolder } from '#scripts/system/state';
import { startStandins } from '#standins/server';
import { say } from './figures';

// Pages a minute through the renderer, with steps, picture and boxes, over the same browser loading the same page and
// writing it down, one after another in as many lanes; and the memory that the browser holds, early and late over 200
// pages.

const PAGES = 200;
const BARE_PAGES = 40;
const LANES = 2;
const EXECUTABLE = process.env.SHRIKE_BROWSER ?? '/usr/bin/chromium';

/** Measures rendering. */
export async function benchRendered(): Promise<void> {
  const folder = mkdtempSync(join(stateFolder('bench'), 'rendered-'));
  const [port, smtpPort] = [await anyPort(), await anyPort()];
  const standins = await startStandins({ port, smtpPort, folder, clock: () => Date.now() });
  const rules = new AddressRules([`*.localhost:${port}`]);
  const address = `http://skepwright.localhost:${port}/p/copper-smoker-large`;
  const limits = {
    executable: EXECUTABLE,
    pagesAtOnce: LANES,
    timeoutMs: 45_000,
    mostBytes: 5_000_000,
    userAgent: 'bench',
  };
  const reading = new ReadingPool({ threads: 1, deadlineMs: 5_000, hold: false });
  const renderer = new Renderer(rules, limits, () => null, reading);
  try {
    const bare = await barePages(rules, address);
    const held: number[] = [];
    const full = await inLanes(PAGES, async (at) => {
      const rendered = await renderer.render({ address, steps: [] });
      if (!rendered.ok) throw new Error(`the page was not rendered: ${rendered.error.reason}`);
      if (at % 10 === 9) held.push(memoryOf(processesBelow(process.pid)));
    });
    const [early, late, most] = [held[1] ?? 0, held.at(-1) ?? 0, Math.max(...held)];
    say(
      `rendered pages: ${full.toFixed(0)} a minute with picture and boxes, ${bare.toFixed(0)} a minute bare; ` +
        `ratio ${(full / bare).toFixed(2)}`,
    );
    say(
      `memory held by the browser over ${PAGES} pages: ${mb(early)} after 20, ${mb(late)} at the end, ` +
        `${mb(most)} at most; ratio end to 20 ${(late / early).toFixed(2)}`,
    );
  } finally {
    await renderer.close();
    await reading.close();
    await standins.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

const mb = (bytes: number) => `${Math.round(bytes / 1_000_000)} MB`;

async function barePages(rules: AddressRules, address: string): Promise<number> {
  const proxy = await FilteringProxy.open(rules);
  const { browser, close } = await startBrowser(EXECUTABLE, proxy.address);
  try {
    return await inLanes(BARE_PAGES, async () => {
      const context = await browser.newContext();
      const page = await context.newPage();
      await page.goto(address, { waitUntil: 'networkidle' });
      await page.content();
      await context.close();
    });
  } finally {
    await close();
    await proxy.close();
  }
}

/** Pages a minute. */
async function inLanes(count: number, work: (at: number) => Promise<void>): Promise<number> {
  const began = performance.now();
  let next = 0;
  const lane = async () => {
    while (next < count) await work(next++);
  };
  await Promise.all(Array.from({ length: LANES }, lane));
  return (count / (performance.now() - began)) * 60_000;
}
