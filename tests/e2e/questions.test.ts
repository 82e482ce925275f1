import type { WatchId } from '#core/id';
import { request } from 'undici';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { candidateAt } from '#core/read/candidates';
import { pageDefinition } from '#core/read/definition';
import { withFrames } from '#core/read/frame/take';
import { pageFacts, selectElements } from '#core/read/html';
import { inTransaction } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { startApp, type RunningApp } from '../support/app';
import { documentOf } from '../support/document';
import { onStage } from '../support/stage';
import { ruleOf } from '../support/world';
import { until } from '../support/until';

const SLUGS = [
  'copper-smoker-large',
  'steel-smoker',
  'fondant-12',
  'syrup-14',
  'wax-sheets-deep',
  'hive-stand',
  'jars-340-72',
  'jars-227-84',
  'extractor-nine',
  'cedar-hive-six',
];

let app: RunningApp;
beforeAll(async () => {
  app = await startApp();
});
afterAll(() => app.stop());

/** Points at the price of an item on its page, as the set-up does, and tells Pricing of every move. */
async function watchPrice(slug: string): Promise<WatchId> {
  const address = `${app.site('skepwright')}/p/${slug}`;
  const answered = await request(`http://127.0.0.1:${app.places.standinsPort}/p/${slug}`, {
    headers: { host: new URL(address).host },
  });
  const document = documentOf(await answered.body.text());
  const found = selectElements(document, '#price');
  const element = found.ok ? found.value[0] : undefined;
  const picked =
    element === undefined
      ? null
      : candidateAt(document, element, { locale: pageFacts(document).locale, address: null }, null);
  if (!picked?.ok) throw new Error(`nothing was picked on ${address}`);
  const { locators, type } = picked.value;
  const price = {
    key: 'price',
    label: 'price',
    type,
    mode: 'stepwise',
    polarity: 'up is good',
    locale: null,
    locators,
  } as const;
  const definition = withFrames({ format: 'html', document }, pageDefinition(slug, [price]));
  const source = { address, host: new URL(address).host, site: 'Skepwright', mostAtOnce: 8 };
  const plan = {
    definition,
    frequency: { count: 1, unit: 'hour' as const },
    rules: [ruleOf({ kind: 'change', asked: { field: 'price' } }, ['list:1'])],
  };
  return inTransaction(app.pool, (db) => createWatch(db, source, plan, { person: 1 as never, at: Date.now() }));
}

const number = async (text: string) => (await app.pool.query<{ n: number }>(text)).rows[0]?.n ?? 0;
const look = async (id: WatchId) => {
  await app.page.go(`${app.web}/watches/${id}`);
  await app.page.press('Run now');
};
const untilThere = (text: string, wanted: number) =>
  until(
    async () => (await number(text)) === wanted,
    async () => `${text}: ${await number(text)}, and not ${wanted}`,
  );

describe('ten watches whose pages put a price for members first', () => {
  const ids: WatchId[] = [];

  it('are in question: nothing is called a change, and one mail asks of all', async () => {
    for (const slug of SLUGS) ids.push(await watchPrice(slug));
    await untilThere('SELECT count(*)::int AS n FROM series', SLUGS.length);
    for (const slug of SLUGS) await onStage(app.places.standinsPort, 'layout', 'members first', slug);
    for (const id of ids) await look(id);
    await untilThere('SELECT count(*)::int AS n FROM question WHERE answer IS NULL', SLUGS.length);
    expect(await number('SELECT count(*)::int AS n FROM change')).toBe(0);
    expect(await number(`SELECT count(*)::int AS n FROM notice WHERE kind = 'question'`)).toBe(1);
  });

  it('show what stood around the value before and now, and one yes answers all ten', async () => {
    await app.page.go(`${app.web}/watches/${ids[0]}`);
    await app.page.reads(/Is £[\d.]+ still the price you follow\? It now says “for members”/, '[data-question]');
    await app.page.reads(/inc\. VAT.*for members/, '[data-question]');
    await app.page.reads('the same for 9 other watches at Skepwright', '[data-question]');
    await app.page.press('Yes, from here on');
    await untilThere(`SELECT count(*)::int AS n FROM question WHERE answer = 'yes' AND answered_by = 1`, SLUGS.length);
    await untilThere('SELECT count(*)::int AS n FROM change', SLUGS.length);
    await app.page.reads(/version 2 by Inés/);
    expect(await app.page.text()).not.toContain('still the price you follow');
  });

  it('open for pointing where somebody says no, and the price stands', async () => {
    const slug = 'ventilated-suit-m';
    const id = await watchPrice(slug);
    await untilThere('SELECT count(*)::int AS n FROM series', SLUGS.length + 1);
    await onStage(app.places.standinsPort, 'page', 'swapped', slug);
    await look(id);
    await app.page.reads(/still the price you follow/, '[data-question]');
    await app.page.press('No: point at it');
    await app.page.find('[data-guards], [data-pick], [data-mending]');
    expect(await app.page.driver.getCurrentUrl()).toContain('/watches/new/');
    expect(await number(`SELECT count(*)::int AS n FROM question WHERE answer = 'no' AND watch_id = ${id}`)).toBe(1);
    expect(await number(`SELECT count(*)::int AS n FROM change WHERE watch_id = ${id}`)).toBe(0);
  });
});
