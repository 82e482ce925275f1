import type { EditionId, ItemId, RecordId, ReportId, WatchId } from '#core/id';
import ExcelJS from 'exceljs';
import { simpleParser } from 'mailparser';
import Papa from 'papaparse';
import { beforeEach, describe, expect, it } from 'vitest';
import { blankItem } from '#core/items/item';
import { pageDefinition, type Field } from '#core/read/definition';
import { storedDocument, type EditionDocument } from '#core/tell/edition/document';
import { blankDefinition, type ReportDefinition } from '#core/tell/definition';
import type { Decimal } from '#core/value/decimal';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { money } from '#core/value/parse';
import { findFile } from '#server/db/report/editions';
import { workbookOf } from '#server/files/workbook';
import { editItems, itemsCalled, joinRecords } from '#server/db/item/items';
import { leaveReport } from '#server/db/person/readers';
import { inTransaction } from '#server/db/base/pool';
import { ensureSite, setSite } from '#server/db/source/sites';
import { askForRun, createWatch } from '#server/actions/edit-watch';
import { cutByHand } from '#server/pipeline/report/cut';
import { linesIn } from '#server/pipeline/report/gather';
import { makeReport, saveReport } from '#server/pipeline/report/store';
import { previewOf } from '#server/pipeline/report/preview';
import { page, type Answer, type Site } from '../support/site';
import { besideSite } from '../support/site-world';
import { PRICE, fallsBelow, ruleOf, type TestWorld } from '../support/world';

// What a report takes of items of several brands, read at several sites: one edition for each of them, what prices are
// held against, and what adds up from what was shown last.

let site: Site;
let world: TestWorld;
const answers: Record<string, Answer> = {};
besideSite(answers, (...opened) => ([site, world] = opened));
beforeEach(async () => {
  await world.clear();
  for (const [name, kind] of [
    ['Ours', 'own'],
    ['Rival', 'rival'],
  ] as const)
    await setSite(world.pool, await ensureSite(world.pool, name), { name, kind });
});

const FIELD: Field = { ...PRICE, locators: [{ way: 'css', selector: '.price' }] };
const show = (path: string, pounds: string) =>
  (answers[path] = page(`<html lang="en-GB"><body><h1>Smoker</h1><p class="price">£${pounds}</p></body></html>`));

interface Offer {
  watch: WatchId;
  path: string;
}
let paths = 0;

/** An offer at a site, of an item of a brand of which it is made where it is not there yet. */
async function offerAt(
  where: string,
  brand: string,
  pounds: string,
  { limit = null as string | null } = {},
): Promise<Offer> {
  const path = `/p${(paths += 1)}`;
  show(path, pounds);
  const plan = {
    definition: pageDefinition(`${brand} smoker`, [FIELD]),
    frequency: { count: 12, unit: 'hour' as const },
    rules: limit === null ? [] : [ruleOf(fallsBelow(limit), [`person:${world.people.ines}`])],
  };
  const source = { address: site.base + path, host: site.host, site: where, mostAtOnce: 8 };
  const watch = await inTransaction(world.pool, (db) =>
    createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
  );
  const item = await itemOf(brand);
  await world.pass(0);
  const [record] = await world.rows<{ id: RecordId }>('SELECT id FROM record WHERE watch_id = $1', [watch]);
  if (record === undefined) throw new Error('the offer was not read');
  const editing = { person: world.people.ines, at: world.now };
  await inTransaction(world.pool, (db) => joinRecords(db, [{ record: record.id, item }], editing));
  return { watch, path };
}

async function itemOf(brand: string): Promise<ItemId> {
  const [known] = await itemsCalled(world.pool, [brand]);
  if (known !== undefined) return known.id;
  const item = {
    ...blankItem(brand),
    name: `${brand} smoker`,
    brand,
    minimums: [{ price: money('18.00', 'GBP'), from: null, until: null }],
  };
  const editing = { person: world.people.ines, at: world.now };
  await inTransaction(world.pool, (db) =>
    editItems(db, [{ id: null, before: null, after: item }], 'Europe/London', editing),
  );
  return itemOf(brand);
}

/** Sets a price a minute later, and has it seen. */
async function see({ watch, path }: Offer, pounds: string): Promise<void> {
  await world.pass(MINUTE);
  show(path, pounds);
  await askForRun(world.pool, watch, world.now);
  await world.pass(0);
}

const ines = () => `person:${world.people.ines}`;
const ravi = () => `person:${world.people.ravi}`;
const order = (change: Partial<ReportDefinition> = {}): ReportDefinition => ({
  ...blankDefinition('Europe/London', [ines()]),
  cadence: { cut: 'never' },
  ...change,
});
const make = (asked: ReportDefinition) =>
  inTransaction(world.pool, (db) =>
    makeReport(db, world.services.pipeline.ids, { name: 'Brands', order: asked }, world.people.ines, world.now),
  );
const save = (id: ReportId, over: number, asked: ReportDefinition) =>
  inTransaction(world.pool, (db) =>
    saveReport(
      db,
      world.services.pipeline.ids,
      { id, over, plan: { name: 'Brands', order: asked }, passOver: false },
      world.people.ines,
      world.now,
    ),
  );

/** Cuts a report by hand, and makes its editions. */
async function cut(id: ReportId): Promise<void> {
  await world.pass(HOUR);
  await inTransaction(world.pool, (db) => cutByHand(world.services.pipeline, db, id, world.now));
  await world.pass(1);
}

interface Told {
  number: number;
  document: EditionDocument;
  /** Its readers by name, with the state of what goes to each. */
  to: string[];
}
const told = async (id: ReportId): Promise<Told[]> =>
  (
    await world.rows<{ number: number; document: unknown; to: string[] }>(
      `SELECT e.number, e.document, ARRAY(SELECT p.name || ', ' || d.state FROM delivery_edition x
        JOIN delivery d ON d.id = x.delivery_id
         JOIN person p ON p.id = d.person_id WHERE x.edition_id = e.id ORDER BY p.name) AS to FROM edition e
         WHERE e.report_id = $1 ORDER BY e.number`,
      [id],
    )
  ).map(({ document, ...rest }) => ({ ...rest, document: storedDocument.read(document) }));
const who = (editions: Told[]) =>
  editions.map(({ document: { share }, to }) => [
    share?.of === 'value' ? share.value : (share?.of ?? 'all'),
    share?.of === 'value' ? share.because : null,
    ...to,
  ]);
const moves = (editions: Told[]) =>
  editions.map(({ document }) =>
    document.groups.flatMap(({ rows }) =>
      rows.filter(({ moved }) => moved).map(({ change }) => change?.difference ?? null),
    ),
  );

describe('one edition for each brand', () => {
  const split = (...parts: [string, string[]][]): ReportDefinition['split'] => ({
    by: 'brand',
    parts: parts.map(([value, readers]) => ({ value, readers })),
  });

  it('goes to those who are named for it; what has nobody goes to those who read the rest, and says so', async () => {
    const [a, b, c] = [
      await offerAt('Rival', 'Astrel', '24.00'),
      await offerAt('Rival', 'Bowick', '24.00'),
      await offerAt('Rival', 'Calder', '24.00'),
    ];
    const id = await make(order({ split: split(['Astrel', [ravi()]], ['Bowick', [ravi()]]) }));
    for (const offer of [a, b, c]) await see(offer, '22.00');
    await cut(id);
    expect(who(await told(id))).toEqual([
      ['Astrel', null, 'Ravi Oduya, queued'],
      ['Bowick', null, 'Ravi Oduya, queued'],
      ['Calder', 'nobody named', 'Inés Calloway, queued'],
    ]);
    expect((await told(id)).map(({ document }) => document.counts.lines)).toEqual([1, 1, 1]);
    const mails = await world.rows<{ subject: string; number: number }>(
      'SELECT subject, number FROM delivery WHERE report_id = $1 ORDER BY id',
      [id],
    );
    expect(mails.map(({ number, subject }) => [number, subject.split(': ').slice(0, 2).join(': ')])).toEqual([
      [1, 'Brands: Astrel'],
      [2, 'Brands: Bowick'],
      [1, 'Brands: Calder'],
    ]);
    const plain = await world.rows<{ plain: string }>('SELECT plain FROM delivery WHERE report_id = $1', [id]);
    for (const each of plain)
      expect(each.plain).toContain('No reader is named for Calder: what is so goes to those who read the rest.');
    // A brand that nobody knew of turns up.
    const d = await offerAt('Rival', 'Dunmore', '24.00');
    await see(d, '20.00');
    await cut(id);
    expect(who((await told(id)).slice(3))).toEqual([['Dunmore', 'nobody named', 'Inés Calloway, queued']]);
  });

  it('goes to those who read the rest where all who were named have left, and to the owner where those have, too', async () => {
    const a = await offerAt('Rival', 'Astrel', '24.00');
    const id = await make(order({ readers: ['list:1'], split: split(['Astrel', [ravi()]]) }));
    await leaveReport(world.pool, id, world.people.ravi, 'shrike.example', world.now);
    await see(a, '22.00');
    await cut(id);
    expect(who(await told(id))).toEqual([['Astrel', 'all left', 'Inés Calloway, queued']]);
    const other = await make(order({ readers: [ravi()], split: split() }));
    await leaveReport(world.pool, other, world.people.ravi, 'shrike.example', world.now);
    await see(a, '21.00');
    await cut(other);
    expect(who(await told(other))).toEqual([['Astrel', 'nobody named', 'Inés Calloway, queued']]);
    // Whoever answers for it has left it herself: it is kept in the app alone.
    await leaveReport(world.pool, other, world.people.ines, 'shrike.example', world.now);
    await see(a, '20.00');
    await cut(other);
    expect(who((await told(other)).slice(1))).toEqual([['Astrel', 'nobody named']]);
  });

  it('is kept back for those whose addresses refuse mail, and goes to those who read the rest meanwhile', async () => {
    const a = await offerAt('Rival', 'Astrel', '24.00');
    const id = await make(order({ split: split(['Astrel', [ravi()]]) }));
    await world.rows(`UPDATE person SET paused_at = now(), paused_because = '550' WHERE id = $1`, [world.people.ravi]);
    await see(a, '22.00');
    await cut(id);
    expect(who(await told(id))).toEqual([['Astrel', 'all paused', 'Inés Calloway, queued', 'Ravi Oduya, kept back']]);
    // One who has not confirmed yet is still a reader: nobody else gets what is hers.
    const other = await make(order({ split: split(['Astrel', [`person:${world.people.tom}`]]) }));
    await see(a, '21.00');
    await cut(other);
    expect(who(await told(other))).toEqual([['Astrel', null, 'Tom Aske, kept back']]);
  });

  it('tells one who reads two of them of an alert in each, and keeps that she heard once', async () => {
    const a = await offerAt('Rival', 'Astrel', '24.00', { limit: '23.00' });
    await world.rows(`UPDATE watch SET tags = '{oak,pine}' WHERE id = $1`, [a.watch]);
    const id = await make(order({ split: { by: 'tag', parts: [] } }));
    await see(a, '22.00');
    await cut(id);
    expect((await told(id)).map(({ document: { share }, to }) => [share, to.length])).toMatchObject([
      [{ value: 'oak' }, 1],
      [{ value: 'pine' }, 1],
    ]);
    expect(await world.rows('SELECT decision FROM notification WHERE report_id = $1', [id])).toHaveLength(1);
  });

  it('is no flood: beyond fifty values that nobody is named for, the others come together', async () => {
    const a = await offerAt('Rival', 'Astrel', '24.00');
    const tags = Array.from({ length: 60 }, (_, n) => `t${String(n).padStart(2, '0')}`);
    await world.rows(`UPDATE watch SET tags = $2 WHERE id = $1`, [a.watch, tags]);
    const id = await make(order({ split: { by: 'tag', parts: [{ value: 't59', readers: [ravi()] }] } }));
    await see(a, '22.00');
    await cut(id);
    const editions = await told(id);
    expect([editions.length, new Set(editions.map(({ document }) => document.counts.lines))]).toEqual([
      52,
      new Set([1]),
    ]);
    expect(editions.at(-1)?.document.share).toMatchObject({ of: 'others', values: tags.slice(50, 59) });
    expect(editions.at(-1)?.to).toEqual(['Inés Calloway, queued']);
    expect(who(editions.slice(-2, -1))).toEqual([['t59', null, 'Ravi Oduya, queued']]);
    const [made] = await world.rows<{ fromSeq: number; toSeq: number }>(
      'SELECT from_seq AS "fromSeq", to_seq AS "toSeq" FROM edition WHERE report_id = $1',
      [id],
    );
    const span = { fromSeq: made?.fromSeq ?? 0, toSeq: made?.toSeq ?? 0, from: world.now - DAY, until: world.now };
    expect(await linesIn(world.pool, id, order(), span, editions.at(-1)?.document.share ?? null)).toHaveLength(1);
  });

  it('is shown before it is saved, with what last week would have gone to whom', async () => {
    const a = await offerAt('Rival', 'Astrel', '24.00');
    await see(a, '22.00');
    await world.pass(HOUR);
    const asked = order({
      cadence: { cut: 'every', hours: 1, from: 0, zone: 'Europe/London' },
      split: split(['Bowick', [ravi()]]),
      whenNothing: 'skip',
    });
    const { documents, week } = await previewOf(world.pool, asked, null, world.now);
    expect(week.parts).toEqual([{ value: 'Astrel', editions: 1 }]);
    expect(documents).toHaveLength(1);
  });

  it('whose files hold its own lines, and no others', async () => {
    const [a, b] = [await offerAt('Rival', 'Astrel', '24.00'), await offerAt('Rival', 'Bowick', '24.00')];
    const asked = order({ split: split() });
    const id = await make(asked);
    for (const offer of [a, b]) await see(offer, '22.00');
    await cut(id);
    const [made] = await world.rows<{ fromSeq: number; toSeq: number }>(
      'SELECT from_seq AS "fromSeq", to_seq AS "toSeq" FROM edition WHERE report_id = $1',
      [id],
    );
    const span = { fromSeq: made?.fromSeq ?? 0, toSeq: made?.toSeq ?? 0, from: world.now - DAY, until: world.now };
    const lines = await linesIn(world.pool, id, asked, span, {
      of: 'value',
      by: 'brand',
      value: 'Bowick',
      because: null,
    });
    expect(lines.map(({ record }) => record.item?.properties.brand)).toEqual(['Bowick']);
  });
});

describe('what broke', () => {
  it('is an edition of its own for those who are named for it, of the same cut', async () => {
    const [a, b] = [await offerAt('Rival', 'Astrel', '24.00'), await offerAt('Rival', 'Bowick', '24.00')];
    const id = await make(order({ broken: [ravi()] }));
    await see(a, '22.00');
    answers[b.path] = page('<html lang="en-GB"><body><h1>Gone</h1></body></html>');
    for (let look = 0; look < 6; look += 1) {
      await askForRun(world.pool, b.watch, world.now);
      await world.pass(HOUR);
    }
    await cut(id);
    expect(who(await told(id))).toEqual([
      ['all', null, 'Inés Calloway, queued'],
      ['broken', null, 'Ravi Oduya, queued'],
    ]);
    const [whole, broken] = await told(id);
    expect([whole?.document.broken.length, broken?.document.broken.length, broken?.document.counts.lines]).toEqual([
      0, 1, 0,
    ]);
    const subjects = (
      await world.rows<{ subject: string }>('SELECT subject FROM delivery WHERE report_id = $1 ORDER BY id', [id])
    ).map(({ subject }) => subject);
    expect(subjects[1]).toBe('Brands: what broke: one watch not read');
    expect(await world.rows('SELECT DISTINCT cut_id FROM edition WHERE report_id = $1', [id])).toHaveLength(1);
  });
});

describe('prices that end below ours', () => {
  const asked = (shows: ReportDefinition['shows']) =>
    order({ shows, by: 'none', size: { ...order().size, prices: 'below ours' } });

  it('are judged at the cut where the net is shown, and where each move ended where each is', async () => {
    const [ours, rival] = [await offerAt('Ours', 'Astrel', '20.00'), await offerAt('Rival', 'Astrel', '24.00')];
    const [net, each] = [await make(asked('net')), await make(asked('each'))];
    await see(rival, '19.00');
    await see(ours, '18.00');
    await see(rival, '18.50');
    for (const id of [net, each]) await cut(id);
    // 18.50 is above ours at the cut; 19.00 was below ours when it was set.
    expect([moves(await told(net)), moves(await told(each))]).toEqual([[], [['-5.00']]]);
  });

  it('are no reason to tell of a move of ours alone', async () => {
    const [ours] = [await offerAt('Ours', 'Astrel', '20.00'), await offerAt('Rival', 'Astrel', '19.00')];
    const id = await make(asked('net'));
    await see(ours, '21.00');
    await cut(id);
    expect(await told(id)).toEqual([]);
  });

  it('or under the agreed minimum', async () => {
    const rival = await offerAt('Rival', 'Astrel', '24.00');
    const id = await make(order({ size: { ...order().size, prices: 'under the minimum' } }));
    await see(rival, '18.00');
    await cut(id);
    expect(await told(id)).toEqual([]);
    await see(rival, '17.99');
    await cut(id);
    expect(moves(await told(id))).toEqual([['-0.01']]);
  });
});

describe('small moves that add up', () => {
  const falls = { is: 'percent', least: '5' as Decimal } as const;
  const adding = () => order({ by: 'none', size: { ...order().size, falls, base: 'told' } });

  it('are told when they come to the size, counted from what was shown last, and that is said', async () => {
    const rival = await offerAt('Rival', 'Astrel', '24.00');
    const id = await make(adding());
    const days = ['23.50', '23.00', '22.50', '22.00', '21.50', '21.25'];
    for (const pounds of days) {
      await see(rival, pounds);
      await cut(id);
    }
    // 24 to 22.50 is 6.25 %; from there to 21.25 it is 5.6 %.
    const editions = await told(id);
    expect(moves(editions)).toEqual([['-1.50'], ['-1.25']]);
    const rows = editions.flatMap(({ document }) => document.groups.flatMap((group) => group.rows));
    expect(rows.map(({ was }) => was)).toMatchObject([{ amount: '24.00' }, { amount: '22.50' }]);
    expect(rows.every(({ since }) => since !== undefined)).toBe(true);
  });

  it('and not without, nor where the same size is asked of the last cut', async () => {
    const rival = await offerAt('Rival', 'Astrel', '24.00');
    const id = await make({ ...adding(), size: { ...adding().size, base: 'cut' } });
    for (const pounds of ['23.50', '23.00', '22.50']) {
      await see(rival, pounds);
      await cut(id);
    }
    expect(await told(id)).toEqual([]);
    // It counts so from now on: what came before is not added.
    await save(id, 1, adding());
    await see(rival, '22.00');
    await cut(id);
    expect(await told(id)).toEqual([]);
    await see(rival, '21.30');
    await cut(id);
    expect(moves(await told(id))).toEqual([['-1.20']]);
  });

  it('whose files say later what they said then', async () => {
    const rival = await offerAt('Rival', 'Astrel', '24.00');
    const asked = adding();
    const id = await make(asked);
    for (const pounds of ['23.00', '22.00', '20.00']) {
      await see(rival, pounds);
      await cut(id);
    }
    const spans = await world.rows<{ fromSeq: number; toSeq: number }>(
      'SELECT from_seq AS "fromSeq", to_seq AS "toSeq" FROM edition WHERE report_id = $1 ORDER BY number',
      [id],
    );
    const files = [];
    for (const span of spans)
      files.push(await linesIn(world.pool, id, asked, { ...span, from: world.now - DAY, until: world.now }, null));
    expect(files.map((lines) => lines.map(({ fields }) => fields[0]?.was))).toMatchObject([
      [{ amount: '24.00' }],
      [{ amount: '22.00' }],
    ]);
  });
});

describe('what a report chooses', () => {
  const only = (change: Partial<ReportDefinition['takes']['only']>) =>
    order({ by: 'none', takes: { ...order().takes, only: { ...order().takes.only, ...change } } });

  it('counts what it does not take of the watches that it could have it of, and of no others', async () => {
    const [a, b] = [await offerAt('Rival', 'Astrel', '24.00'), await offerAt('Rival', 'Bowick', '24.00')];
    const id = await make(only({ watches: [a.watch] }));
    const all = await make(only({ brand: ['Astrel'] }));
    for (const offer of [a, b]) await see(offer, '22.00');
    await cut(id);
    await cut(all);
    const leftOut = async (of: ReportId) => (await told(of)).map(({ document }) => document.coverage.leftOut);
    expect([await leftOut(id), await leftOut(all)]).toEqual([[0], [0]]);
  });

  it('by brand, item, field, weight and rule', async () => {
    const [a, b] = [
      await offerAt('Rival', 'Astrel', '24.00', { limit: '23.00' }),
      await offerAt('Rival', 'Bowick', '24.00'),
    ];
    const [rule] = await world.rows<{ id: number }>('SELECT id FROM rule ORDER BY id DESC LIMIT 1');
    const asked = {
      brand: only({ brand: ['Bowick'] }),
      item: only({ items: [await itemOf('Astrel')] }),
      field: only({ fields: ['PRICE'] }),
      'no such field': only({ fields: ['stock'] }),
      weight: only({ weights: ['usual'] }),
      'another weight': only({ weights: ['high'] }),
      rule: only({ rules: [(rule?.id ?? 0) as never] }),
      'another rule': only({ rules: [999 as never] }),
    };
    const made = new Map<string, ReportId>();
    for (const [name, each] of Object.entries(asked)) made.set(name, await make(each));
    for (const offer of [a, b]) await see(offer, '22.00');
    const came: Record<string, string[]> = {};
    for (const [name, id] of made) {
      await cut(id);
      came[name] = (await told(id))
        .flatMap(({ document }) => [
          ...document.groups.flatMap(({ rows }) => rows.map(({ record }) => record?.name ?? '')),
          ...document.alerts.map(({ news }) => `alert of ${news.subject}`),
        ])
        .sort();
    }
    expect(came).toEqual({
      brand: ['Bowick smoker'],
      item: ['Astrel smoker'],
      field: ['Astrel smoker', 'Bowick smoker'],
      'no such field': [],
      weight: ['alert of Astrel smoker'],
      'another weight': [],
      rule: ['alert of Astrel smoker'],
      'another rule': [],
    });
  });
});

describe('the files that mails bear', () => {
  it('are of the edition’s own lines, are taken with it, and stay as they went out', async () => {
    const [a, b] = [await offerAt('Rival', 'Astrel', '24.00'), await offerAt('Rival', 'Bowick', '24.00')];
    const id = await make(order({ split: { by: 'brand', parts: [] }, attach: ['csv', 'xlsx', 'json'] }));
    for (const offer of [a, b]) await see(offer, '22.00');
    await cut(id);
    await world.sendMail();
    const [mail] = world.standins.room.list().filter(({ subject }) => subject.startsWith('Brands: Bowick'));
    const opened = await simpleParser((await world.standins.room.read(mail?.id ?? ''))?.source ?? '');
    const files = opened.attachments.filter(({ related }) => !related);
    expect(files.map(({ filename, contentType }) => [filename, contentType])).toEqual([
      ['brands-2.csv', 'text/csv'],
      ['brands-2.json', 'application/json'],
      ['brands-2.xlsx', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'],
    ]);
    expect(opened.text).toContain('Every line is attached as CSV, XLSX and JSON.');
    const of = (form: string) =>
      opened.attachments.find(({ filename }) => filename?.endsWith(form))?.content ?? Buffer.alloc(0);
    const rows = Papa.parse<Record<string, string>>(of('csv').toString('utf8'), { header: true }).data.filter(
      ({ record }) => record !== undefined && record !== '',
    );
    expect(rows.map(({ record, was, now }) => [record, was, now])).toEqual([['Bowick smoker', '24.00', '22.00']]);
    expect(JSON.parse(of('json').toString('utf8'))).toMatchObject({
      report: 'Brands',
      edition: 2,
      lines: [{ record: 'Bowick smoker', now: '22.00' }],
    });
    const sheet = await sheetOf(of('xlsx'));
    expect(sheet[1]?.slice(3, 4)).toEqual(['Bowick smoker']);
    expect(sheet[1]).toContain(22);
    const [edition] = await world.rows<{ id: EditionId }>(
      'SELECT id FROM edition WHERE report_id = $1 AND number = 2',
      [id],
    );
    expect(await findFile(world.pool, edition?.id as EditionId, 'csv')).toEqual(of('csv'));
    expect(await findFile(world.pool, edition?.id as EditionId, 'html' as never)).toBeNull();
  });

  it('hold no formula, whatever a page says', async () => {
    const hostile = ['=1+1', '+1', '-1', '@SUM(A1)', '\t=1', '=cmd|"/c calc"!A1', '\u0000=1'];
    const book = await workbookOf(
      { columns: [{ head: 'x', is: 'text' }], rows: hostile.map((text) => [text]) },
      '=[]:*?/\\'.repeat(9),
    );
    const read = new ExcelJS.Workbook();
    await read.xlsx.load(book as never);
    const cells = hostile.map((_, row) => read.worksheets[0]?.getCell(row + 2, 1));
    expect(cells.map((cell) => cell?.type)).toEqual(hostile.map(() => ExcelJS.ValueType.String));
    expect(cells.every((cell) => cell?.formula === undefined)).toBe(true);
  });

  it('hold amounts as numbers only where those are exact', async () => {
    const amounts = ['22.00', '-0.5', '0.1', '12345678901234567890.12', '0.1234567890123456789', '1e5', ''];
    const book = await workbookOf(
      { columns: [{ head: 'x', is: 'amount' }], rows: amounts.map((text) => [text]) },
      'Amounts',
    );
    expect((await sheetOf(book)).slice(1).map((row) => row[0])).toEqual([
      22,
      -0.5,
      0.1,
      '12345678901234567890.12',
      '0.1234567890123456789',
      '1e5',
    ]);
  });
});

/** The cells of a workbook’s first sheet, row by row. */
async function sheetOf(book: Buffer): Promise<unknown[][]> {
  const read = new ExcelJS.Workbook();
  await read.xlsx.load(book as never);
  const rows: unknown[][] = [];
  read.worksheets[0]?.eachRow((row) => rows.push((row.values as unknown[]).slice(1)));
  return rows;
}
