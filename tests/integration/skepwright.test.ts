import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { candidates } from '#core/read/candidates';
import { pageRecord } from '#core/read/records';
import { pageFacts, selectElements } from '#core/read/html';
import { readField } from '#core/read/agree';
import { ITEMS, type Item } from '#standins/world/items';
import { openWorld, PRICE, type TestWorld } from '../support/world';
import { documentOf } from '../support/document';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());

async function pageOf(item: Item): Promise<string> {
  const fetched = await world.services.pipeline.sources.fetch({
    way: 'plain',
    request: {},
    robotsHeeded: true,
    address: `http://skepwright.localhost:${world.standins.port}/p/${item.slug}`,
  });
  if (!fetched.ok || fetched.value.kind !== 'page') throw new Error(`no page of ${item.name}`);
  return fetched.value.body();
}

const pounds = (pence: number) => (pence / 100).toFixed(2);

describe('every item of the shop', () => {
  it.each(ITEMS.map((item) => [item.name, item] as const))(
    '%s is read alike by its meaning and by its place',
    async (_name, item) => {
      const document = documentOf(await pageOf(item));
      const { locale, siteName, title } = pageFacts(document);
      expect([locale, siteName, title]).toEqual(['en-GB', 'Skepwright', item.name]);
      const typing = { locale, address: null };
      const expected = {
        ok: true,
        value: {
          value: { kind: 'money', amount: pounds(world.standins.world.offer(item).pence), currency: 'GBP' },
          byLocale: false,
        },
      };
      expect(readField(pageRecord(document), PRICE, typing)).toMatchObject(expected);
      expect(
        readField(pageRecord(document), { ...PRICE, locators: [{ way: 'css', selector: '#price' }] }, typing),
      ).toMatchObject(expected);
    },
  );

  it('offers what can be watched, each by a place that is its own', async () => {
    const [item] = ITEMS;
    if (item === undefined) throw new Error('the shop is empty');
    const document = documentOf(await pageOf(item));
    const found = candidates(document);
    expect(found[0]).toMatchObject({ where: 'Product › offers › price', value: { kind: 'money' } });
    expect(found.map((candidate) => candidate.where)).toEqual(
      expect.arrayContaining(['Product › name', 'Product › offers › availability']),
    );
    for (const locator of found.flatMap((each) => each.locators)) {
      if (locator.way !== 'css') continue;
      const matched = selectElements(document, locator.selector);
      expect(matched.ok && matched.value.length).toBe(1);
    }
  });
});
