import { mkdtempSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { DAY, MINUTE, type Instant } from '#core/when/interval';
import { anyPort } from '#scripts/system/ports';
import { startStandins, type Standins } from '#standins/server';
import { chance } from '#standins/world/random';
import { BEGINNING } from '../support/beginning';

// Tests that run by the clock on the wall watch a world that stands still: whatever the hour, they begin with the same
// pages. A world that moves with the clock has the watched smoker sold out in one hour of forty.

const MOMENTS = 200;
const YEAR_MINUTES = (365 * DAY) / MINUTE;
const PAGES = [
  'skepwright/p/copper-smoker-large',
  'skepwright/p/steel-smoker',
  'skepwright/p/extractor-nine',
  'combe-larder/goods',
  'combe-larder/goods/copper-smoker-large',
  'imkerhaus/artikel/copper-smoker-large',
  'heatherlow/shop/copper-smoker-large',
  'supplier/lots',
  'supplier/lots.xml',
  'carrier/surcharges',
  'forage/atom.xml',
];

let now: Instant = BEGINNING;
let still: Standins;
let moving: Standins;
beforeAll(async () => {
  const start = async (nature?: () => Instant) => {
    const folder = mkdtempSync(join(inject('scratch'), 'beginnings-'));
    return startStandins({ port: await anyPort(), smtpPort: await anyPort(), folder, clock: () => now, nature });
  };
  still = await start(() => BEGINNING);
  moving = await start();
});
afterAll(async () => {
  await still.close();
  await moving.close();
});

/** Moments of a year that look chosen by nobody, the same again at each run. */
const MOMENTS_OF_YEAR = Array.from(
  { length: MOMENTS },
  (_, at) => BEGINNING + Math.floor(chance('moment', at) * YEAR_MINUTES) * MINUTE,
);

function pageOf({ port }: Standins, page: string): Promise<string> {
  const [site = '', ...path] = page.split('/');
  const host = `${site}.localhost:${port}`;
  return new Promise((resolve, reject) => {
    request({ host: '127.0.0.1', port, path: `/${path.join('/')}`, headers: { host } }, (answer) => {
      let text = `${answer.statusCode} `;
      answer.setEncoding('utf8').on('data', (piece: string) => (text += piece));
      answer.on('end', () => resolve(text.replaceAll(String(port), 'PORT')));
    })
      .on('error', reject)
      .end();
  });
}

async function pagesAt(standins: Standins, moment: Instant): Promise<string[]> {
  now = moment;
  return Promise.all(PAGES.map((page) => pageOf(standins, page)));
}

describe('at 200 moments of a year', () => {
  it('a world that stands still begins with the same pages, on which the smoker can be had', async () => {
    const first = await pagesAt(still, BEGINNING);
    expect(first.map((page) => page.slice(0, 3))).toEqual(PAGES.map(() => '200'));
    expect(first[0]).toContain('schema.org/InStock');
    for (const moment of MOMENTS_OF_YEAR) {
      const pages = await pagesAt(still, moment);
      expect([new Date(moment).toISOString(), pages.map((page, at) => page === first[at])]).toEqual([
        new Date(moment).toISOString(),
        PAGES.map(() => true),
      ]);
    }
  });

  it('a world that moves does not: the same check finds other pages there', async () => {
    const [first = ''] = await pagesAt(moving, BEGINNING);
    const pages = new Set([first]);
    for (const moment of MOMENTS_OF_YEAR) pages.add((await pagesAt(moving, moment))[0] ?? '');
    expect(pages.size).toBeGreaterThan(2);
  });
});
