import { simpleParser } from 'mailparser';
import { parseXmlDocument } from 'slimdom';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { WatchId } from '#core/id';
import { pageDefinition } from '#core/read/definition';
import { blankDefinition } from '#core/tell/definition';
import { inTransaction } from '#server/db/base/pool';
import { ensureAtOnceReport } from '#server/db/report/reports';
import { createWatch } from '#server/actions/edit-watch';
import { startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { numbered } from '../support/numbered';
import { ask, fromOwnPage } from '../support/requests';
import { onStage } from '../support/stage';
import { until } from '../support/until';
import { PRICE } from '../support/world';

// A report as the analyst makes it: said as a sentence, seen before it is cut, cut, read, changed and taken away.

let app: RunningApp;
let watch: WatchId;
beforeAll(async () => {
  app = await startApp();
  const host = `skepwright.localhost:${app.places.standinsPort}`;
  await onStage(app.places.standinsPort, 'price', '24.00', 'steel-smoker');
  const source = { address: `http://${host}/p/steel-smoker`, host, site: 'Skepwright', mostAtOnce: 4 };
  const plan = {
    definition: pageDefinition('Steel smoker', [PRICE]),
    frequency: { count: 1, unit: 'hour' as const },
    rules: [],
  };
  watch = await inTransaction(app.pool, (db) => createWatch(db, source, plan, { person: numbered(1), at: Date.now() }));
  await until(async () => (await rows('SELECT FROM series')).length === 1);
}, 120_000);
afterAll(() => app.stop());

const rows = async <Row extends object>(text: string, values: unknown[] = []) =>
  (await app.pool.query<Row>(text, values)).rows;

/** Has the price seen as something else. */
async function reprice(pence: string): Promise<void> {
  const before = (await rows('SELECT FROM change')).length;
  await onStage(app.places.standinsPort, 'price', pence, 'steel-smoker');
  await app.page.go(`${app.web}/watches/${watch}`);
  await app.page.press('Run now');
  await until(async () => (await rows('SELECT FROM change')).length > before);
}

const texts = (xml: string, name: string) =>
  parseXmlDocument(xml)
    .getElementsByTagName(name)
    .map(({ textContent }) => textContent);

const escape = () => app.page.driver.actions().sendKeys('\uE00C').perform();

describe('a report', () => {
  it('is said as a sentence, and refused with what was said kept where something is missing', async () => {
    const { page } = app;
    await page.go(`${app.web}/reports`);
    await page.reads('Nobody is told of anything yet');
    await page.press('Make the first report');
    await page.reads(
      'Each weekday at 07:30, tell Pricing what moved everywhere since the last edition, by item, with every rival.',
      '[data-order]',
    );
    await page.press('Each weekday at 07:30');
    await page.choose('It is made', 'every so many hours');
    await page.write('Every so many hours', '90');
    await page.reads('Say every how many hours, from 1 to 24.');
    await page.write('Every so many hours', '12');
    await escape();
    await page.reads('Every 12 hours from 07:30', '[data-order]');
    await page.press('Start it');
    await page.reads('Give the report a name');
    await page.reads('Every 12 hours from 07:30', '[data-order]');
    await page.write('Its mails begin with it', 'Smokers, twice a day');
    await page.press('Start it');
    await page.find('[data-editions]');
    expect(await page.driver.getCurrentUrl()).toMatch(/\/reports\/1$/);
    expect(await serious(app.page.driver)).toEqual([]);
  });

  it('can be begun from a watch’s sentence', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/${watch}`);
    await page.press('a report on it');
    await page.reads('what moved of Steel smoker since the last edition', '[data-order]');
  });

  it(
    'shows what it would tell now, follows what is said, and is sent to whoever asks as a trial that changes ' +
      'nothing',
    async () => {
      const { page } = app;
      await reprice('20.00');
      await page.go(`${app.web}/reports/1`);
      await page.press('plain');
      await page.reads(/Steel smoker: £24\.00 -> £20\.00, ▼ 4\.00 16\.7%/, '[data-next-edition]');
      await page.press('what moved');
      await page.press('prices');
      await escape();
      await page.reads('Nothing moved since', '[data-next-edition]');
      await page.press('stock out and back, other fields');
      await page.press('prices');
      await escape();
      await page.reads('£20.00', '[data-next-edition]');
      await page.press('Send me this one');
      await page.reads('Sent to ines@heatherlow.example.');
      expect(await rows('SELECT FROM edition')).toEqual([]);
      await page.go(app.site('mailroom'));
      await page.reads('Trial: Smokers, twice a day: Steel smoker at Skepwright £20.00, down 16.7%');
    },
  );

  it('is cut by hand; its edition is kept, sent to each reader once, and can be taken along', async () => {
    const { page } = app;
    await page.go(`${app.web}/reports/1`);
    await page.press('Make it now');
    await until(async () => (await rows(`SELECT FROM delivery WHERE state = 'sent'`)).length === 2);
    await page.press('edition 1');
    await page.reads(/Inés Calloway, mail 1 sent \.eml Ravi Oduya, mail 1 sent \.eml/, '[data-deliveries]');
    expect(await serious(app.page.driver)).toEqual([]);
    const address = new URL(await page.driver.getCurrentUrl()).pathname;
    const csv = (await ask(app.web, `${address}/as/csv`)).body;
    expect(csv.split('\r\n')[0]).toContain('item,reference,site,record');
    expect(csv).toContain(',fall,price,24.00,GBP,20.00,GBP,-4.00,-16.7,1,');
    const json = JSON.parse((await ask(app.web, `${address}/as/json`)).body) as { lines: object[] };
    expect(json.lines).toMatchObject([
      { record: 'Steel smoker', site: 'Skepwright', was: '24.00', now: '20.00', moves: 1 },
    ]);
    expect((await ask(app.web, `${address}/as/exe`)).status).toBe(404);
    // The report as a feed, whose address nobody can guess; the mail as a file.
    await page.go(`${app.web}/reports/1`);
    const feed = new URL((await (await page.find('a[href*="/feed/"]')).getAttribute('href')) ?? '').pathname;
    const atom = await ask(app.web, feed);
    expect(atom.headers['content-type']).toContain('application/atom+xml');
    expect(texts(atom.body, 'title')).toEqual([
      'Smokers, twice a day',
      expect.stringContaining('Steel smoker at Skepwright £20.00') as string,
    ]);
    expect((await ask(app.web, feed.replace('/feed/', '/feed/x'))).status).toBe(404);
    await page.press('end this address');
    await page.press('End it');
    await until(async () => (await ask(app.web, feed)).status === 404);
    const next = async () => (await (await page.find('a[href*="/feed/"]')).getAttribute('href')) ?? '';
    await until(async () => new URL(await next()).pathname !== feed);
    expect((await ask(app.web, new URL(await next()).pathname)).status).toBe(200);
    const [sent] = await rows<{ id: number; message: string; subject: string }>(
      `SELECT id::int, message_id AS message, subject FROM delivery WHERE state = 'sent' ORDER BY id`,
    );
    const file = await simpleParser((await ask(app.web, `/outbox/${sent?.id}/eml`)).body);
    expect([file.messageId, file.subject]).toEqual([sent?.message, sent?.subject]);
    expect(file.headers.get('list')).toMatchObject({
      unsubscribe: { url: expect.stringContaining('/leave/') as string },
    });
    expect((await ask(app.web, '/outbox/999999/eml')).status).toBe(404);
  });

  it(
    'stands line by line in the list of what was told to her: each leads to its trail, is looked at anew, and is ' +
      'done with',
    async () => {
      const { page } = app;
      await page.go(`${app.web}/outbox`);
      await page.press('told to me');
      await page.reads('Steel smoker at Skepwright £20.00, down 16.7% Smokers, twice a day', '[data-told]');
      expect(await serious(page.driver)).toEqual([]);
      await page.press('Run now');
      await page.reads('It runs now.', '[data-told]');
      await page.press('Dealt with');
      await page.reads('dealt with', '[data-told]');
      await until(async () => (await rows('SELECT FROM dealt')).length === 1);
      const [of] = await rows<{ delivery: number; news: string }>('SELECT delivery_id AS delivery, news FROM dealt');
      const form = { intent: 'dealt', delivery: String(of?.delivery), key: `${of?.news}0` };
      await ask(app.web, '/told', { form, headers: fromOwnPage(app.web) });
      expect(await rows('SELECT FROM dealt')).toHaveLength(1);
      await page.pressAt('[title="Take that back"]');
      await until(async () => (await rows('SELECT FROM dealt')).length === 0);
      await page.press('Steel smoker at Skepwright £20.00, down 16.7%');
      await page.reads('Trail of £24.00 → £20.00');
    },
  );

  it('is cut by hand alone, and asks what its next edition covers when it goes by the clock again', async () => {
    const { page } = app;
    await page.go(`${app.web}/reports/1`);
    await page.press('Every 12 hours from 07:30');
    await page.choose('It is made', 'never');
    await escape();
    await page.press('Save');
    await page.reads('version 2');
    await reprice('21.00');
    await page.go(`${app.web}/reports/1`);
    await page.reads('£21.00, up 5.0%', '[data-next-edition]');
    await page.press('By hand only');
    await page.choose('It is made', 'each day');
    await escape();
    await page.press('its next edition covers what comes from now on');
    await page.press('Save');
    await page.reads('version 3');
    await page.reads('nothing moved', '[data-next-edition]');
    expect(await rows(`SELECT FROM report r JOIN change c ON c.seq > r.cut_seq`)).toEqual([]);
  });

  it('is saved anew, and not over what somebody else saved meanwhile', async () => {
    const { page } = app;
    await page.go(`${app.web}/reports/1`);
    await page.press('no mail; the next one says so');
    await page.press('a mail that says so');
    await escape();
    await page.press('Save');
    await page.reads('version 4');
    await page.press('net moves');
    await page.press('each move on a line of its own');
    await escape();
    await app.pool.query(
      `INSERT INTO report_version SELECT report_id, 5, definition, made_by, made_at
        FROM report_version
        WHERE version = 4`,
    );
    await app.pool.query('UPDATE report SET version = 5');
    await page.press('Save');
    await page.reads('Somebody else saved or deleted this report meanwhile');
    await page.reads('each move');
    // What is not saved is not left behind unasked.
    await page.press('Outbox');
    await page.reads('What you changed of this report is not saved yet.');
    await page.press('Stay');
    await page.reads('each move', '[data-choices]');
    await page.press('Outbox');
    await page.press('Leave, lose the edits');
    await page.find('[data-outbox]');
  });

  it('is taken away once that was said twice', async () => {
    const { page } = app;
    await page.go(`${app.web}/reports/1`);
    await page.press('Delete this report');
    await page.reads(/No mail of it waits to go out\./);
    await page.press('Keep it');
    await page.press('Delete this report');
    await page.press('Delete it');
    await page.reads('Nobody is told of anything yet');
    await page.go(`${app.web}/reports/1`);
    await page.reads('It may have been deleted');
  });
});

describe('what is not to be', () => {
  const order = blankDefinition('Europe/London', ['list:1']);
  const asked = (path: string, fields: Record<string, string>) =>
    ask(app.web, path, { form: fields, headers: fromOwnPage(app.web) });
  it.each<[string, string]>([
    ['no JSON', '{'],
    ['JSON of something else', '[]'],
    ['a reader that nobody is', JSON.stringify({ ...order, readers: ['person:99999'] })],
    ['a reader that is none', JSON.stringify({ ...order, readers: [`list:1'; --`] })],
    ['an hour of no day', JSON.stringify({ ...order, cadence: { cut: 'daily', at: 5000, zone: 'Europe/London' } })],
    ['a zone of no place', JSON.stringify({ ...order, cadence: { cut: 'daily', at: 450, zone: 'Mars/Olympus' } })],
    ['at once', JSON.stringify({ ...order, cadence: { cut: 'at once' } })],
    ['what it does not know', JSON.stringify({ ...order, more: true })],
    ['too many lines', JSON.stringify({ ...order, most: 1e9 })],
    ['a number beyond all', JSON.stringify(order).replace('"most":50', '"most":1e999')],
    [
      'a site beyond all',
      JSON.stringify({ ...order, takes: { ...order.takes, only: { ...order.takes.only, sites: [2 ** 40] } } }),
    ],
  ])('is refused with a sentence, and makes nothing: %s', async (_what, said) => {
    const answer = await asked('/reports/new.data', { intent: 'save', name: 'Hostile', order: said });
    expect(answer.status).toBeLessThan(400);
    expect(answer.body).toMatch(/"problem"/);
    expect(await rows(`SELECT FROM report WHERE name = 'Hostile'`)).toEqual([]);
    expect((await asked('/reports/preview.data', { report: '1', name: 'x', order: said })).status).toBeLessThan(500);
  });

  it('a report that tells at once turned into another, cut or deleted: its watches’ sentences say what it is', async () => {
    const id = await ensureAtOnceReport(app.pool, ['list:1'], numbered(1), Date.now());
    for (const intent of ['save', 'cut', 'end']) {
      const answer = await asked(`/reports/${id}.data`, {
        intent,
        name: 'Turned',
        version: '1',
        order: JSON.stringify(order),
      });
      expect(answer.body, intent).toContain('is said in the sentences of its watches');
    }
    expect(await rows('SELECT ended_at AS ended, version, cuts FROM report WHERE id = $1', [id])).toEqual([
      { ended: null, version: 1, cuts: 0 },
    ]);
  });

  it('found where there is none', async () => {
    for (const path of ['/reports/999', '/reports/abc', '/editions/999', '/editions/9e9', '/editions/999/as/csv'])
      expect((await ask(app.web, path)).status, path).toBe(404);
    expect((await ask(app.web, '/reports/new?tag=%00&site=99999999999')).status).toBe(200);
  });
});
