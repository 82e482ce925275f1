import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ItemId, RecordId, WatchId } from '#core/id';
import { blankItem } from '#core/items/item';
import { pageDefinition } from '#core/read/definition';
import { editItems, itemsCalled, joinRecords } from '#server/db/item/items';
import { inTransaction } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { numbered } from '../support/numbered';
import { ask, fromOwnPage } from '../support/requests';
import { onStage } from '../support/stage';
import { until } from '../support/until';
import { fallsBelow, PRICE, ruleOf } from '../support/world';

// A digest with an edition for each brand, one of which has nobody; read in the mail room, on a phone and by a program
// that takes posts.

const OFFERS = [
  ['copper-smoker-large', 'Astrel'],
  ['steel-smoker', 'Bowick'],
  ['jars-340-72', 'Calder'],
] as const;
const RAVI = numbered<number>(2);

let app: RunningApp;
const watches: WatchId[] = [];
beforeAll(async () => {
  app = await startApp();
  for (const [slug, brand] of OFFERS) watches.push(await offer(slug, brand));
}, 120_000);
afterAll(() => app.stop());

const rows = async <Row extends object>(text: string, values: unknown[] = []) =>
  (await app.pool.query<Row>(text, values)).rows;

async function offer(slug: string, brand: string): Promise<WatchId> {
  const host = `skepwright.localhost:${app.places.standinsPort}`;
  await onStage(app.places.standinsPort, 'price', '24.00', slug);
  const source = { address: `http://${host}/p/${slug}`, host, site: 'Skepwright', mostAtOnce: 4 };
  const rules = brand === 'Astrel' ? [{ ...ruleOf(fallsBelow('22.00'), ['person:2']) }] : [];
  const plan = {
    definition: pageDefinition(`${brand} offer`, [PRICE]),
    frequency: { count: 1, unit: 'hour' as const },
    rules,
  };
  const watch = await inTransaction(app.pool, (db) =>
    createWatch(db, source, plan, { person: numbered(1), at: Date.now() }),
  );
  await until(async () => (await rows('SELECT FROM record WHERE watch_id = $1', [watch])).length === 1);
  const editing = { person: numbered(1) as never, at: Date.now() };
  await inTransaction(app.pool, (db) =>
    editItems(
      db,
      [{ id: null, before: null, after: { ...blankItem(brand), name: `${brand} offer`, brand } }],
      'Europe/London',
      editing,
    ),
  );
  const item = (await itemsCalled(app.pool, [brand]))[0]?.id as ItemId;
  const [record] = await rows<{ id: RecordId }>('SELECT id FROM record WHERE watch_id = $1', [watch]);
  await inTransaction(app.pool, (db) => joinRecords(db, [{ record: record?.id as RecordId, item }], editing));
  return watch;
}

async function reprice(place: number, pence: string): Promise<void> {
  const before = (await rows('SELECT FROM change')).length;
  await onStage(app.places.standinsPort, 'price', pence, OFFERS[place]?.[0] ?? '');
  await app.page.go(`${app.web}/watches/${watches[place]}`);
  await app.page.press('Run now');
  await until(async () => (await rows('SELECT FROM change')).length > before);
}

const escape = () => app.page.driver.actions().sendKeys('\uE00C').perform();

describe('one edition for each brand', () => {
  it('is said in the report’s sentence and choices, where who has nobody is named', async () => {
    const { page } = app;
    for (const place of [0, 1, 2]) await reprice(place, '22.50');
    await page.go(`${app.web}/reports/new`);
    await page.press('Each weekday at 07:30');
    await page.choose('It is made', 'every so many hours');
    await page.write('Every so many hours', '1');
    await escape();
    await page.press('Pricing');
    await page.press('Pricinglist');
    await page.press('Inés Callowayines@');
    await escape();
    await page.press('one edition for all');
    await page.press('one for each kind of news');
    await escape();
    await page.reads('prices to nobody', '[data-values]');
    await page.reads(/prices/, '[data-next-edition]');
    await page.press('one edition for each kind of news');
    await page.press('one for each brand');
    await escape();
    await page.reads(/tell the readers of each brand, and Inés Calloway the rest, what moved/, '[data-order]');
    for (const brand of ['Astrel', 'Bowick']) {
      await page.pressAt(`[data-value="${brand}"] button`);
      await page.press('Ravi Oduyaravi@');
      await escape();
      await page.reads(`${brand} to Ravi Oduya`, '[data-values]');
    }
    await page.reads('Calder to nobody', '[data-values]');
    await page.choose('Next time it would be 3 editions', 'Calder');
    await page.reads(/Calder: .*£22\.50/, '[data-next-edition]');
    await page.press('no files');
    await page.press('CSV');
    await page.press('XLSX');
    await escape();
    await page.write('Its mails begin with it', 'Brands');
    await page.press('Start it');
    await page.find('[data-editions]');
    expect(await serious(page.driver)).toEqual([]);
  });

  it('is cut, and read in the mail room by those who are named, and by who reads the rest', async () => {
    const { page } = app;
    const [report] = await rows<{ id: number }>(`SELECT id FROM report WHERE name = 'Brands'`);
    for (const place of [0, 1, 2]) await reprice(place, '21.50');
    await until(async () => (await rows(`SELECT FROM delivery WHERE state NOT IN ('sent', 'kept back')`)).length === 0);
    await page.go(`${app.web}/reports/${report?.id}`);
    await page.press('Make it now');
    await until(
      async () =>
        (await rows(`SELECT FROM delivery WHERE state = 'sent' AND report_id = $1`, [report?.id])).length === 3,
    );
    await page.reads(/edition 1, .*Astrel/, '[data-editions]');
    await page.go(app.site('mailroom'));
    await page.reads(/ines@heatherlow\.example\s+Brands: Calder: /);
    await page.reads(/ravi@heatherlow\.example\s+Brands: Astrel: /);
    await page.press('Brands: Calder: Calder offer at Skepwright £21.50');
    await page.press('Plain text');
    await page.reads('Nobody is named for Calder, so this comes to you.');
    await page.reads('Every line is attached as CSV and XLSX.');
    // Found in the outbox by its reader.
    await page.go(`${app.web}/outbox?reader=2`);
    await page.reads('Brands, edition 1');
    await page.go(
      `${app.web}/editions/${(await rows<{ id: number }>('SELECT id FROM edition WHERE cut_id IS NOT NULL ORDER BY number LIMIT 1'))[0]?.id}`,
    );
    await page.reads('Astrel');
    await page.press('Every line');
    await page.reads(/Astrel offer, Skepwright/, '[data-lines]');
    await page.reads(/price: £22\.50 → £21\.50, ▼1\.00 4\.4%/, '[data-lines]');
  });
});

describe('routes', () => {
  it('are refused that lead nowhere, and nothing that was written is lost', async () => {
    const { page } = app;
    await page.go(`${app.web}/people/${RAVI}`);
    await page.write('Phone, for short texts', '07700 900123');
    await page.press('Keep');
    await page.reads('Write the phone number with its country code');
    await page.write('Phone, for short texts', '');
    await page.pressAt('[data-channel="high text"] button');
    await page.press('Keep');
    await page.reads('A short text needs a phone number');
    await page.write('Phone, for short texts', '+44 7700 900123');
    await page.write('Webhook, an address that takes posts', `${app.site('receiver')}/in`);
    await page.pressAt('[data-channel="usual text"] button');
    await page.pressAt('[data-channel="usual webhook"] button');
    await page.press('Keep');
    await page.reads('Kept.');
    expect(await serious(page.driver)).toEqual([]);
  });

  it(
    'bring an alert as a mail, a text on the phone whose link leads to the whole of it, and a post that the ' +
      'program shows',
    async () => {
      const { page } = app;
      await reprice(0, '24.00');
      await reprice(0, '20.00');
      await until(
        async () => (await rows(`SELECT FROM delivery WHERE channel <> 'mail' AND state = 'sent'`)).length === 2,
      );
      await page.go(app.site('texts'));
      await page.reads(/\+447700900123\s+.*Astrel offer.*£20\.00/);
      const link = /http:\/\/localhost:\d+\/m\/[\w-]{12}/.exec(await page.text())?.[0] ?? '';
      await page.go(link);
      await page.find('iframe');
      expect((await ask(app.web, '/m/aaaaaaaaaaaa')).status).toBe(404);
      expect((await ask(app.web, '/m/%00')).status).toBe(404);
      await page.go(app.site('receiver'));
      await page.reads('"specversion":"1.0"');
      await page.go(`${app.web}/outbox?reader=2`);
      await page.reads('by a short text');
      await page.reads('by a webhook');
      // The edition itself is had as data, too, and its mail as a file.
      const [of] = await rows<{ edition: number; mail: number }>(
        `SELECT x.edition_id AS edition, d.id::int AS mail
        FROM delivery d
        JOIN delivery_edition x ON x.delivery_id = d.id
        WHERE d.channel = 'mail' AND d.at_once
        ORDER BY d.id DESC`,
      );
      await page.go(`${app.web}/editions/${of?.edition}`);
      expect(await (await page.find(`a[href="/outbox/${of?.mail}/eml"]`)).getText()).toBe('.eml');
      const json = JSON.parse((await ask(app.web, `/editions/${of?.edition}/as/json`)).body) as { lines: object[] };
      expect(json.lines).toMatchObject([
        { what: 'alert', field: 'price', was: '24.00', now: '20.00', unit: 'GBP', difference: '-4.00' },
      ]);
      expect((await ask(app.web, `/editions/${of?.edition}/as/csv`)).body).toContain(
        ',alert,price,24.00,GBP,20.00,GBP,-4.00,-16.7,1,',
      );
      expect((await ask(app.web, `/editions/${of?.edition}/as/xlsx`)).status).toBe(200);
    },
  );
});

describe('a report that tells at once', () => {
  it('can gather for a while first', async () => {
    const { page } = app;
    const [report] = await rows<{ id: number }>(`SELECT id FROM report WHERE name = 'Ravi Oduya, at once'`);
    await page.go(`${app.web}/reports/${report?.id}`);
    await page.choose('Its mails go', 'gathered for 10 min');
    await page.reads('At once, gathered for 10 minutes, tell Ravi Oduya when its rule is met.');
    await reprice(0, '24.00');
    await reprice(0, '19.00');
    await page.go(`${app.web}/reports/${report?.id}`);
    await page.reads('It gathers now');
    for (const minutes of ['-5', '999999', 'NaN'])
      expect(
        (
          await ask(app.web, `/reports/${report?.id}.data`, {
            form: { intent: 'gather', minutes, version: '2' },
            headers: fromOwnPage(app.web),
          })
        ).status,
      ).toBeLessThan(500);
    await page.go(`${app.web}/reports/${report?.id}`);
    await page.choose('Its mails go', 'as soon as it is known');
    await page.reads('At once, tell Ravi Oduya when its rule is met.');
    // What has begun to gather ends as it began, or where it is sent by hand.
    await page.reads('It gathers now');
    await page.press('Send it now');
    await until(
      async () =>
        (await rows(`SELECT FROM delivery WHERE report_id = $1 AND channel = 'mail'`, [report?.id])).length === 3,
    );
  });
});

describe('the mail server', () => {
  it('is tried from its page, with what both sides say', async () => {
    const { page } = app;
    await page.go(`${app.web}/mail`);
    await page.press('Send me a mail through it');
    await page.reads('Taken: 250');
    await page.reads('> MAIL FROM', '[data-dialogue]');
    expect(await serious(page.driver)).toEqual([]);
    await page.go(app.site('mailroom'));
    await page.reads('A trial of the mail server');
  });
});
