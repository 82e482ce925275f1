import { simpleParser, type Attachment } from 'mailparser';
import sharp from 'sharp';
import { beforeEach, describe, expect, it } from 'vitest';
import type { DeliveryId, WatchId } from '#core/id';
import { pageDefinition, type Field } from '#core/read/definition';
import { blankDefinition } from '#core/tell/definition';
import { HOUR, MINUTE } from '#core/when/interval';
import { findSentMail } from '#server/db/delivery/deliveries';
import { illustrated } from '#server/deliver/channels';
import { mailFile } from '#server/deliver/mail';
import { inTransaction } from '#server/db/base/pool';
import { askForRun, createWatch } from '#server/actions/edit-watch';
import { cutByHand } from '#server/pipeline/report/cut';
import { makeReport } from '#server/pipeline/report/store';
import { page, type Answer, type Site } from '../support/site';
import { besideSite } from '../support/site-world';
import { PRICE, fallsBelow, ruleOf, type TestWorld } from '../support/world';

// What mails show: the course of a series, and a page before and after. Each picture is borne by its mail, and where
// there is none nothing is said of it.

let site: Site;
let world: TestWorld;
const answers: Record<string, Answer> = {};
besideSite(answers, (...opened) => ([site, world] = opened));
beforeEach(() => world.clear());

const FIELD: Field = { ...PRICE, locators: [{ way: 'css', selector: '.price' }] };
const { role: _, ...NO_ROLE } = PRICE;
const STOCK: Field = {
  ...NO_ROLE,
  key: 'stock',
  label: 'stock',
  type: { kind: 'text' },
  locators: [{ way: 'css', selector: '.stock' }],
};

const show = (pounds: string, stock = 'In stock') =>
  (answers['/p'] = page(
    `<html lang="en-GB"><body><h1>Smoker</h1><p class="price">£${pounds}</p><p ` +
      `class="stock">${stock}</p></body></html>`,
  ));

function follow(way: 'plain' | 'rendered', fields = [FIELD]): Promise<WatchId> {
  const plan = {
    definition: pageDefinition('Smoker', fields),
    frequency: { count: 1, unit: 'hour' as const },
    rules: [ruleOf(fallsBelow('22.00'), [`person:${world.people.ines}`])],
  };
  const source = { address: `${site.base}/p`, host: site.host, site: 'Rival', mostAtOnce: 8, way };
  return inTransaction(world.pool, (db) => createWatch(db, source, plan, { person: world.people.ines, at: world.now }));
}

/** Has its present state seen a while later. */
async function see(watch: WatchId, pounds: string, stock?: string): Promise<void> {
  await world.pass(HOUR / 2);
  show(pounds, stock);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
}

/** The latest mail, as it came. */
async function received() {
  await world.sendMail();
  const [first] = world.standins.room.list();
  const opened = first === undefined ? null : await world.standins.room.read(first.id);
  if (opened === null) throw new Error('no mail came');
  const mail = await simpleParser(opened.source, { keepCidLinks: true });
  return { source: opened.source, html: typeof mail.html === 'string' ? mail.html : '', files: mail.attachments };
}

const shownBy = (html: string) => [...html.matchAll(/<img src="cid:([^"]+)"/g)].flatMap(([, cid]) => cid ?? []);
const sizeOf = async ({ content }: Attachment) => {
  const { width, height, format } = await sharp(content).metadata();
  return { width, height, format };
};

describe('the mail of an alert', () => {
  it('bears the course of its series within it, and no picture of a page that none was taken of', async () => {
    show('24.00');
    const watch = await follow('plain');
    await world.pass(0);
    await see(watch, '21.50');
    const { html, files, source } = await received();
    expect(shownBy(html)).toEqual(files.flatMap(({ cid }) => cid ?? []));
    expect(await Promise.all(files.map(sizeOf))).toEqual([{ width: 1264, height: 144, format: 'png' }]);
    expect(files[0]).toMatchObject({ contentDisposition: 'inline', related: true });
    expect(html).toMatch(/Its course until then, of 30 days at most; the dashed rule is £22\.00\./);
    expect(html).not.toMatch(/Before<|<!--|src="http/);
    expect(source).toMatch(/multipart\/related/);
  });

  it('shows a page that was rendered before and after, around what moved', async () => {
    show('24.00');
    const watch = await follow('rendered');
    await world.pass(0);
    await see(watch, '21.50');
    const { html, files } = await received();
    expect(shownBy(html)).toEqual(files.flatMap(({ cid }) => cid ?? []));
    const pages = files.filter(({ contentType }) => contentType === 'image/jpeg');
    expect(await Promise.all(pages.map(sizeOf))).toEqual([
      { width: 616, height: 384, format: 'jpeg' },
      { width: 616, height: 384, format: 'jpeg' },
    ]);
    expect(pages[0]?.content.equals(pages[1]?.content ?? Buffer.alloc(0))).toBe(false);
  });

  it('bears them as a file, too, and shows them on a page of its own without asking anybody', async () => {
    show('24.00');
    const watch = await follow('plain');
    await world.pass(0);
    await see(watch, '21.50');
    const { files } = await received();
    const [row] = await world.rows<{ id: DeliveryId; html: string }>(
      "SELECT id, html FROM delivery WHERE state = 'sent'",
    );
    const sent = row === undefined ? null : await findSentMail(world.pool, row.id);
    if (row === undefined || sent === null) throw new Error('no mail went out');
    const { pictures } = world.services.post;
    const file = await simpleParser(
      await mailFile(world.config.mailFrom, await illustrated(pictures, sent.mail), sent.sentAt),
      {
        keepCidLinks: true,
      },
    );
    expect(
      file.attachments.map(({ cid, content }) => [cid, content.equals(files[0]?.content ?? Buffer.alloc(0))]),
    ).toEqual([[files[0]?.cid, true]]);
    expect(shownBy(typeof file.html === 'string' ? file.html : '')).toEqual([files[0]?.cid]);
    const page = await pictures.pageOf(row.html);
    expect(page).toContain(`<img src="data:image/png;base64,${files[0]?.content.toString('base64')}"`);
    expect(page).not.toMatch(/<!--|src="(http|cid)/);
  });

  it('that cannot be drawn costs the others nothing', async () => {
    show('24.00');
    const watch = await follow('rendered');
    await world.pass(0);
    await world.pass(HOUR / 2);
    show('21.50');
    await askForRun(world.pool, watch, world.now);
    await world.pass(0);
    await world.pool.query("UPDATE picture SET image = 'no picture'");
    const { html, files } = await received();
    expect(files.map(({ contentType }) => contentType)).toEqual(['image/png']);
    expect(html).not.toMatch(/Before<|<!--/);
  });

  it('is kept as it was drawn, and the same for every reader', async () => {
    show('24.00');
    const watch = await follow('plain');
    await world.pass(0);
    await see(watch, '21.50');
    const { files } = await received();
    await world.pool.query('DELETE FROM reading');
    const [kept] = await world.rows<{ html: string }>("SELECT html FROM delivery WHERE state = 'sent'");
    const again = await world.services.post.pictures.borneBy(kept?.html ?? '');
    expect(again.pictures.map(({ body }) => body.equals(files[0]?.content ?? Buffer.alloc(0)))).toEqual([true]);
  });
});

describe('the mail of an edition', () => {
  const cut = async () => {
    const order = {
      ...blankDefinition('Europe/London', [`person:${world.people.ines}`]),
      cadence: { cut: 'never' as const },
      by: 'none' as const,
    };
    const { ids } = world.services.pipeline;
    const id = await inTransaction(world.pool, (db) =>
      makeReport(db, ids, { name: 'All', order }, world.people.ines, world.now),
    );
    return async () => {
      await inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, id, world.now));
      await world.pass(MINUTE);
    };
  };

  it('draws what is counted beside how it moved, and no words', async () => {
    show('30.00');
    const watch = await follow('plain', [FIELD, STOCK]);
    await world.pass(0);
    const made = await cut();
    await see(watch, '29.00', 'Sold out');
    await made();
    const { html, files } = await received();
    expect(html).toContain('29.00');
    expect(html).toContain('Sold out');
    expect(shownBy(html)).toEqual(files.flatMap(({ cid }) => cid ?? []));
    expect(await Promise.all(files.map(sizeOf))).toEqual([{ width: 192, height: 40, format: 'png' }]);
  });

  it('shows the page of what is not counted before its first move and after its last, where it was rendered', async () => {
    show('30.00');
    const watch = await follow('rendered', [STOCK]);
    await world.pass(0);
    const made = await cut();
    await see(watch, '30.00', 'Few left');
    await see(watch, '30.00', 'Sold out');
    await made();
    const { html, files } = await received();
    expect(html).toMatch(/Smoker at Rival, stock: its page/);
    const changes = await world.rows<{ id: number }>('SELECT id FROM change ORDER BY id');
    expect(shownBy(html)).toEqual([`moved-before-${changes[0]?.id}@shrike`, `moved-after-${changes[1]?.id}@shrike`]);
    expect(shownBy(html)).toEqual(files.flatMap(({ cid }) => cid ?? []));
    expect(await Promise.all(files.map(sizeOf))).toEqual(
      [0, 1].map(() => ({ width: 616, height: 384, format: 'jpeg' })),
    );
  });

  it('shows no page where none was rendered, nor more than three', async () => {
    show('30.00');
    const watch = await follow('plain', [STOCK]);
    await world.pass(0);
    const made = await cut();
    await see(watch, '30.00', 'Sold out');
    await made();
    const { html, files } = await received();
    expect(html).toContain('Sold out');
    expect([html.includes('its page'), files]).toEqual([false, []]);
    const { pictures } = world.services.post;
    const pair = (move: number) =>
      `<!--drawn--><img src="cid:moved-before-${move}@shrike"><img src="cid:moved-after-${move}@shrike"><!--/drawn-->`;
    const rendered = await follow('rendered', [STOCK]);
    await world.pass(0);
    for (const stock of ['In stock', 'Few left', 'Sold out', 'In stock']) await see(rendered, '30.00', stock);
    const moves = await world.rows<{ id: number }>('SELECT id FROM change WHERE watch_id = $1 ORDER BY id', [rendered]);
    expect(moves).toHaveLength(4);
    const mail = moves.map(({ id }) => pair(id)).join('');
    for (let times = 0; times < 2; times += 1) expect((await pictures.borneBy(mail)).pictures).toHaveLength(6);
    const last = await pictures.borneBy(pair(moves[3]?.id ?? 0));
    expect(last.pictures).toHaveLength(2);
  });

  it('goes without what cannot be drawn', async () => {
    show('30.00');
    const watch = await follow('plain');
    await world.pass(0);
    const made = await cut();
    await see(watch, '29.00');
    await world.pool.query('DELETE FROM reading');
    await made();
    const { html, files } = await received();
    expect(html).toContain('29.00');
    expect(files).toEqual([]);
    expect(html).not.toMatch(/<img|<!--/);
  });
});
