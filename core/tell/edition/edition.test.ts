import fc from 'fast-check';
import Papa from 'papaparse';
import { utf8Length } from '../mail-size';
import { describe, expect, it } from 'vitest';
import { compareReadings, recordChange } from '../../compare/compare';
import type { AlertId, ChangeId, ItemId, RuleId, SeriesId, SiteId, WatchId } from '../../id';
import { decimal, type Decimal } from '../../value/decimal';
import { money } from '../../value/parse';
import { ABSENT, type Money, type Value } from '../../value/value';
import { DAY, HOUR, MINUTE } from '../../when/interval';
import { renderedImageNames, withRenderedImages, withoutRenderedImages } from '../rendered-image';
import { blankDefinition, orderFault, type ReportDefinition } from '../definition';
import { leftOutBy } from './choose';
import { digestMail } from './digest-mail';
import { composeEdition, tellsSomething, type EditionDocument } from './document';
import type { News } from '../news';
import type { Gathered, EditionAlert } from './gathered';
import { everyLine, linesOf } from './lines';
import type { Move, EditionField, EditionItem, EditionRecord } from './move';
import type { OfferNow } from './offers';
import { takesWords } from '../definition-words';
import { sheetCsv, undefused } from '../../items/sheet';
import { editionRows, presentSheet, rowsAtOnce, rowsSheet } from './sheet';
import { describeKinds, movedWords, wayWords } from './words';

const pounds = (amount: number): Money => money(amount.toFixed(2), 'GBP');
const PRICE: EditionField = { key: 'price', label: 'price', role: 'price', polarity: 'up is good' };
const STOCK: EditionField = { key: 'stock', label: 'stock', role: 'availability', polarity: 'neither' };
const NOTE: EditionField = { key: 'note', label: 'note', role: null, polarity: 'neither' };
const text = (words: string): Value => ({ kind: 'text', text: words });
const CUT = Date.UTC(2026, 10, 26, 7, 30);
const place = { locale: 'en-GB', zone: 'Europe/London' };

/** Numbers by name, so that no two share one. */
const named: string[] = [];
const numberOf = (name: string) => (named.includes(name) ? named.indexOf(name) : named.push(name) - 1) + 1;
const site = (name: string, kind: EditionRecord['site']['kind'] = 'rival') => ({
  id: numberOf(name) as SiteId,
  name,
  kind,
});
const record = (change: Partial<EditionRecord> = {}): EditionRecord => ({
  watch: 1 as WatchId,
  id: null,
  name: 'Copper smoker',
  subject: 'Copper smoker',
  site: site('Skepwright'),
  tags: [],
  item: null,
  page: 'https://skepwright.example/p',
  ...change,
});

let numbers = 0;
/** Moves of a field one after another, an hour apart: from the first value to the last. */
function moving(field: EditionField, values: Value[], of: EditionRecord = record(), from = CUT): Move[] {
  return values.slice(1).flatMap((to, n) => {
    const before = values[n];
    const change = before === undefined ? null : compareReadings(before, to, field.polarity);
    if (change === null) return [];
    const at = from + (n + 1) * HOUR;
    return [
      {
        id: (numbers += 1) as ChangeId,
        at,
        seq: numbers,
        lookedBefore: at - HOUR,
        record: of,
        field,
        change,
        alerts: [],
      },
    ];
  });
}

const order = (change: Partial<ReportDefinition> = {}): ReportDefinition => ({
  ...blankDefinition('Europe/London', ['list:1']),
  ...change,
});
const COVERAGE = {
  looks: 1104,
  failed: 12,
  stale: [],
  staleCount: 0,
  watches: 200,
  leftOut: 0,
  tooMany: false,
  quietCuts: 0,
};
const stretch = { from: CUT, until: CUT + DAY, missed: null };
const NONE = { brand: '', category: '', supplier: '' };
const sized = (size: Partial<ReportDefinition['size']>) => ({ ...order().size, ...size });
const found = (moves: Move[], more: Partial<Gathered> = {}): Gathered => ({
  moves,
  stood: new Map(),
  offers: new Map(),
  priced: new Map(),
  since: new Map(),
  alerts: [],
  broken: [],
  coverage: COVERAGE,
  ...more,
});
const edition = (asked: ReportDefinition, moves: Move[], more: Partial<Gathered> = {}) =>
  composeEdition(asked, stretch, found(moves, more));
const rowsOf = (document: EditionDocument) => document.groups.flatMap(({ rows }) => rows);
const mail = (document: EditionDocument) =>
  digestMail({
    document,
    report: 'Pricing, daily',
    edition: 212,
    readerName: 'Ravi',
    readerNumber: 87,
    made: stretch.until,
    reportLink: 'https://shrike.example/editions/9',
    home: 'https://shrike.example',
    place,
    told: new Map(),
    next: stretch.until + DAY,
  });

const percent = (least: string) => ({ is: 'percent', least: decimal(least) ?? fail() }) as const;
const fail = (): never => {
  throw new Error('no decimal');
};

describe('what is told of a record over a stretch', () => {
  const presence = (kind: 'appeared' | 'vanished', hours: number): Move => ({
    id: (numbers += 1) as ChangeId,
    at: CUT + hours * HOUR,
    seq: numbers,
    lookedBefore: CUT + (hours - 1) * HOUR,
    record: record(),
    field: null,
    change: recordChange(kind, 'Copper smoker'),
    alerts: [],
  });
  const net = (moves: Move[], size: Partial<ReportDefinition['size']> = {}) =>
    mail(edition(order({ shows: 'net', size: sized(size) }), moves));
  const sizes = { falls: percent('5'), rises: percent('5') } as const;

  it('says that it vanished, or was gone and is back, though its price moved before', () => {
    const fell = moving(PRICE, [pounds(24), pounds(20)]);
    const vanished = net([...fell, presence('vanished', 3)]);
    expect(vanished.text).toMatch(/£20\.00[^]*then vanished/);
    expect(vanished.html).toContain('then vanished');
    expect(vanished.subject).toContain('£20.00, down 16.7%, then vanished');
    const back = net([presence('vanished', 0.5), presence('appeared', 0.7), ...fell]);
    expect(back.text).toContain('gone and back');
    expect(net(fell).text).not.toMatch(/vanished|gone and back/);
  });

  it('says that a price was withdrawn, whatever sizes are asked and where it was before', () => {
    const withdrawn = moving(PRICE, [pounds(24), pounds(25.2), pounds(24), ABSENT]);
    expect(net(withdrawn, sizes).text).toContain('withdrawn');
    expect(net(moving(PRICE, [pounds(24), pounds(25.2), pounds(24)]), sizes).text).toContain('Nothing moved');
  });

  it('says that something was sold out and is back, whatever sizes are asked', () => {
    const [has, out] = [text('In stock'), text('Sold out')];
    for (const size of [sizes, {}]) {
      expect(net(moving(STOCK, [has, out, has]), size).text).toMatch(/sold out and back/);
      expect(net(moving(STOCK, [out, has, out]), size).text).toMatch(/back in stock and sold out again/);
    }
  });
});

describe('falls of at least 5 %', () => {
  const falls = { falls: percent('5'), rises: { is: 'any' } } as const;
  it.each<[string, 'net' | 'each', number[], number]>([
    ['in three steps, net: 6.25 % in all', 'net', [24, 23.5, 23, 22.5], 1],
    ['in three steps, each: none of them is', 'each', [24, 23.5, 23, 22.5], 0],
    ['there and nearly back, net', 'net', [24, 20, 23.9], 0],
    ['there and nearly back, each', 'each', [24, 20, 23.9], 2],
    ['of just 5 %', 'net', [24, 22.8], 1],
    ['of a hair less', 'net', [24, 22.81], 0],
  ])('%s', (_what, shows, prices, told) =>
    expect(linesOf(order({ shows, size: sized(falls) }), found(moving(PRICE, prices.map(pounds))))).toHaveLength(told),
  );

  it('shows the percent half up: 6.25 as 6.3', () => {
    const document = edition(order({ size: sized(falls) }), moving(PRICE, [24, 23.5, 23, 22.5].map(pounds)));
    const [row] = rowsOf(document);
    expect(row === undefined ? [] : [movedWords(row, 'en-GB'), wayWords(row, document, place)]).toEqual([
      '▼ 1.50  6.3%',
      '3 moves',
    ]);
  });

  it('hold back neither a text, nor a rise from nought, nor a unit that changed', () => {
    const all = [
      ...moving(NOTE, [text('a'), text('b')]),
      ...moving(PRICE, [pounds(0), pounds(1)], record({ watch: 2 as WatchId })),
    ];
    expect(linesOf(order({ size: sized({ falls: percent('50'), rises: percent('50') }) }), found(all))).toHaveLength(2);
    const euros = moving(PRICE, [pounds(24), money('20.00', 'EUR')]);
    expect(linesOf(order({ size: sized({ falls: percent('50'), rises: percent('50') }) }), found(euros))).toHaveLength(
      1,
    );
  });

  it('are not told at all where they are off', () => {
    const off = { falls: { is: 'off' }, rises: { is: 'any' } } as const;
    expect(linesOf(order({ size: sized(off) }), found(moving(PRICE, [24, 12].map(pounds))))).toEqual([]);
  });
});

const AGREED: EditionItem = {
  id: 7 as ItemId,
  reference: 'HA-2207',
  name: 'Copper smoker',
  minimum: pounds(22),
  properties: NONE,
};

describe('a line', () => {
  const kind = (moves: Move[], shows: 'net' | 'each' = 'net') =>
    linesOf(order({ shows }), found(moves)).map((line) => line.kind);
  const minimum = AGREED;
  it.each<[string, Move[], string[]]>([
    ['a fall', moving(PRICE, [24, 22].map(pounds)), ['fall']],
    ['a rise', moving(PRICE, [22, 24].map(pounds)), ['rise']],
    ['back where it was', moving(PRICE, [24, 22, 23, 24].map(pounds)), ['returned']],
    ['sold out', moving(STOCK, [text('In stock'), text('Sold out')]), ['sold out']],
    ['back in stock', moving(STOCK, [text('Sold out'), text('In stock')]), ['back in stock']],
    ['another state', moving(STOCK, [text('In stock'), text('in two weeks')]), ['changed']],
    [
      'sold out and the price withdrawn, one line',
      [...moving(PRICE, [pounds(24), ABSENT]), ...moving(STOCK, [text('In stock'), text('Sold out')])],
      ['sold out and the price withdrawn'],
    ],
    ['only the price withdrawn', moving(PRICE, [pounds(24), ABSENT]), ['price withdrawn']],
    [
      'under the agreed minimum',
      moving(PRICE, [24, 21].map(pounds), record({ item: minimum })),
      ['under the agreed minimum'],
    ],
    ['still under it', moving(PRICE, [21, 20].map(pounds), record({ item: minimum })), ['fall']],
    [
      'back above it',
      moving(PRICE, [21, 22].map(pounds), record({ item: minimum })),
      ['back above the agreed minimum'],
    ],
    ['at it: not under', moving(PRICE, [24, 22].map(pounds), record({ item: minimum })), ['fall']],
    ['a note', moving(NOTE, [text('a'), text('b')]), ['changed']],
    ['nothing', [], []],
  ])('is told apart: %s', (_what, moves, kinds) => expect(kind(moves)).toEqual(kinds));

  it('is of records that come and go, too', () => {
    const came = (what: 'appeared' | 'vanished', at: number): Move => ({
      id: at as ChangeId,
      seq: at,
      at: CUT + at,
      lookedBefore: CUT,
      record: record(),
      field: null,
      change: recordChange(what, 'Lot 7'),
      alerts: [],
    });
    expect(kind([came('appeared', 1)])).toEqual(['appeared']);
    expect(kind([came('vanished', 1)])).toEqual(['vanished']);
    expect(kind([came('appeared', 1), came('vanished', 2)])).toEqual(['came and went']);
    expect(kind([came('vanished', 1), came('appeared', 2)])).toEqual(['gone and back']);
  });

  it('holds a price that was away against the one before', () => {
    const [line] = linesOf(order(), found(moving(PRICE, [pounds(24), ABSENT, ABSENT, pounds(23)])));
    expect(line).toMatchObject({
      kind: 'fall',
      fields: [{ was: pounds(24), now: pounds(23), net: { awayMs: 2 * HOUR } }],
    });
    const away = moving(PRICE, [ABSENT, pounds(18)]);
    const before = new Map([[away[0]?.id ?? (0 as ChangeId), { value: pounds(24), absentSince: CUT - 2 * HOUR }]]);
    expect(linesOf(order(), found(away, { stood: before }))[0]).toMatchObject({
      kind: 'fall',
      fields: [{ was: pounds(24), change: { percent: '-25.0' } }],
    });
    expect(linesOf(order({ shows: 'each' }), found(away, { stood: before }))[0]).toMatchObject({ kind: 'fall' });
  });

  it('that went through several units has no size, even where the first came back, and says its parts', () => {
    const euros = (amount: string) => money(amount, 'EUR');
    for (const by of ['none', 'item'] as const) {
      const of = record({
        item: { id: 7 as ItemId, reference: 'HA-1', name: 'Smoker', minimum: null, properties: NONE },
      });
      const there = edition(order({ by }), moving(PRICE, [pounds(24), euros('28.00'), euros('27.00')], of));
      expect(rowsOf(there)[0]?.change).toMatchObject({ kind: 'unit', difference: null, percent: null });
      expect(mail(there).text).toContain('£24.00, then €28.00 → €27.00, ▼1.00 3.6%');
      const back = edition(order({ by }), moving(PRICE, [pounds(24), euros('28.00'), pounds(22)], of));
      expect(rowsOf(back)[0]?.change?.difference).toBeNull();
      expect(mail(back).text).toContain('£24.00, then €28.00, then £22.00');
    }
    expect(
      linesOf(
        order({ size: sized({ falls: percent('1'), rises: percent('1') }) }),
        found(moving(PRICE, [pounds(24), euros('28.00'), pounds(24)])),
      ),
    ).toHaveLength(1);
  });

  it('says of a field that it returned, also below one that did not', () => {
    const both = edition(order({ by: 'none' }), [
      ...moving(PRICE, [24, 20].map(pounds)),
      ...moving(NOTE, [text('a'), text('b'), text('a')]),
    ]);
    expect(mail(both).text).toContain('note: a -> a, ◇ returned after 2 moves'.replace('a -> a', '“a” -> “a”'));
  });

  it('is one record’s news: whatever moved of it, and moves are counted once', () => {
    const moves = [...moving(PRICE, [24, 23, 22].map(pounds)), ...moving(NOTE, [text('a'), text('b')])];
    const lines = linesOf(order(), found(moves));
    expect(lines).toHaveLength(1);
    expect(lines[0]?.moves).toHaveLength(3);
    // Price and note move at the same first hour, the price once more.
    expect(linesOf(order({ shows: 'each' }), found(moves))).toHaveLength(2);
  });
});

describe('what a report takes', () => {
  const move = { record: record({ tags: ['smokers'] }), field: PRICE };
  const takes = (change: Partial<ReportDefinition['takes']>) =>
    leftOutBy({ takes: { ...order().takes, ...change } }, move);
  const { only } = order().takes;
  const not = { watches: [], sites: [], ours: false };
  it('within one list any entry counts, between lists all must', () => {
    expect(takes({})).toBeNull();
    expect(takes({ only: { ...only, watches: [9 as WatchId, 1 as WatchId] } })).toBeNull();
    expect(takes({ only: { ...only, watches: [1 as WatchId], tags: ['hives'] } })).toEqual({ by: 'tag', chosen: true });
    expect(takes({ only: { ...only, tags: ['hives', 'smokers'] } })).toBeNull();
    expect(takes({ only: { ...only, kinds: ['rival'] } })).toBeNull();
    expect(takes({ only: { ...only, kinds: ['own', 'channel'] } })).toEqual({ by: 'kind of site', chosen: true });
    expect(takes({ only: { ...only, sites: [99 as SiteId] } })).toEqual({ by: 'site', chosen: true });
  });
  it('leaves out what is to be left out, and says which line does', () => {
    expect(takes({ not: { ...not, sites: [move.record.site.id] } })).toEqual({ by: 'site', chosen: false });
    expect(takes({ not: { ...not, watches: [1 as WatchId] } })).toEqual({ by: 'watch', chosen: false });
    expect(takes({ sorts: ['stock'] })).toEqual({ by: 'sort', sort: 'prices' });
    const ours = { record: record({ site: site('Heatherlow', 'own') }), field: PRICE };
    expect(leftOutBy({ takes: { ...order().takes, not: { ...not, ours: true } } }, ours)).toEqual({ by: 'ours' });
  });
});

describe('a standing order is refused', () => {
  it.each<[string, Partial<ReportDefinition>, RegExp]>([
    ['without a reader', { readers: [] }, /Nobody would hear/],
    ['that takes nothing', { takes: { ...order().takes, sorts: [] } }, /tell of nothing/],
    ['that shows the net move at once', { cadence: { cut: 'at once' } }, /net move/],
    ['with no line', { most: 0 }, /how many lines/],
    ['with a value that has no name', { present: [{ series: 1 as SeriesId, name: ' ' }] }, /a name/],
    ['with a value twice', { present: [1, 1].map((series) => ({ series: series as SeriesId, name: 'A' })) }, /twice/],
    [
      'with more values than a mail can show',
      { present: Array.from({ length: 201 }, (_, n) => ({ series: n as SeriesId, name: 'A' })) },
      /200 values/,
    ],
    [
      'with values that stand, at once',
      { present: [{ series: 1 as SeriesId, name: 'A' }], shows: 'each', cadence: { cut: 'at once', of: 'its order' } },
      /by the clock/,
    ],
    [
      'with values that stand, for each brand',
      { present: [{ series: 1 as SeriesId, name: 'A' }], split: { by: 'brand', parts: [] } },
      /one edition for all/,
    ],
    ['with a part of a line', { most: 2.5 }, /how many lines/],
    [
      'with a least move that is no number',
      { size: sized({ falls: { is: 'percent', least: '5 %' as Decimal }, rises: { is: 'any' } }) },
      /as a number/,
    ],
    ['with a least move of nought', { size: sized({ falls: percent('0') }) }, /more than nought/],
    ['with a least move below it', { size: sized({ rises: { is: 'amount', least: pounds(-1) } }) }, /more than nought/],
    [
      'of prices whose rises and falls are off',
      { takes: { ...order().takes, sorts: ['prices'] }, size: sized({ falls: { is: 'off' }, rises: { is: 'off' } }) },
      /Neither/,
    ],
    ['on no day', { cadence: { cut: 'weekly', days: [], at: 450, zone: 'Europe/London' } }, /days of the week/],
  ])('%s', (_what, change, said) => expect(orderFault(order(change))).toMatch(said));

  it('and not as it is begun', () => expect(orderFault(order())).toBeNull());
});

describe('a move below the agreed minimum', () => {
  it('is said on its line, with the sum that was agreed', () => {
    const said = (values: number[]) => {
      const document = edition(order(), moving(PRICE, values.map(pounds), record({ item: AGREED })));
      return [mail(document).text, mail(document).html, mail(document).subject].map(
        (each) => /(under|back above) the agreed minimum of £22\.00/.exec(each)?.[1],
      );
    };
    expect(said([24, 21])).toEqual(['under', 'under', 'under']);
    expect(said([21, 23])).toEqual(['back above', 'back above', 'back above']);
    expect(said([24, 23])).toEqual([undefined, undefined, undefined]);
  });
});

describe('a mail of very many lines', () => {
  it.each(['item', 'none'] as const)(
    'by %s is not cut off by programs: it shows what has room, and says how much has not',
    (by) => {
      const many = Array.from({ length: 264 }, (_, n) =>
        moving(PRICE, [24, 20].map(pounds), record({ watch: (100 + n) as WatchId, name: `養蜂用燻煙器 ${n}` })),
      ).flat();
      const { html, text } = mail(edition(order({ by, most: 264 }), many));
      expect(utf8Length(html)).toBeLessThan(90_000);
      expect(html).toMatch(/\d+ more lines have no room in a mail of this form/);
      const shown = html.match(/養蜂用燻煙器 \d+/g) ?? [];
      expect(shown.length).toBeGreaterThan(5);
      expect(new Set(text.match(/養蜂用燻煙器 \d+/g)).size).toBe(264);
    },
  );
});

describe('at most 50 lines of 264', () => {
  const many = [
    ...Array.from({ length: 140 }, (_, n) =>
      moving(PRICE, [24, 20].map(pounds), record({ watch: (100 + n) as WatchId })),
    ),
    ...Array.from({ length: 120 }, (_, n) =>
      moving(PRICE, [24, 25].map(pounds), record({ watch: (400 + n) as WatchId })),
    ),
    ...Array.from({ length: 4 }, (_, n) =>
      moving(STOCK, [text('In stock'), text('Sold out')], record({ watch: (700 + n) as WatchId })),
    ),
  ].flat();
  const document = edition(order({ by: 'none', most: 50 }), many);

  it('shows 50, and counts what is cut off by kind', () => {
    expect(rowsOf(document)).toHaveLength(50);
    expect(document.counts.lines).toBe(264);
    expect(describeKinds(document.beyond)).toBe('120 rises, 90 falls, 4 sold out');
    const { html, text: plain, subject } = mail(document);
    expect(html).toContain('And 214 more: 120 rises, 90 falls, 4 sold out.');
    expect(plain).toContain('And 214 more: 120 rises, 90 falls, 4 sold out.');
    expect(plain).toContain('50 of 264 lines shown.');
    expect(subject).toContain('and 263 more');
  });

  it('counts by group, too, where there are groups, and names those of which nothing is shown', () => {
    const sites = Array.from({ length: 20 }, (_, n) => site(`Seller ${String(n).padStart(2, '0')}`));
    const moves = sites.flatMap((of, n) =>
      Array.from({ length: n === 0 ? 3 : 1 }, (_, k) =>
        moving(PRICE, [24, 20].map(pounds), record({ watch: (900 + 10 * n + k) as WatchId, site: of })),
      ).flat(),
    );
    const { text: plain, html } = mail(edition(order({ by: 'site', most: 2 }), moves));
    for (const each of [plain, html]) expect(each).toMatch(/And 20 more: 20 falls \(Seller 00 1, Seller 01 1, /);
    for (const each of [plain, html]) expect(each).toContain('8 more groups)');
  });

  it('counts the groups that it does not name, however many they are', () => {
    const moves = Array.from({ length: 400 }, (_, n) =>
      moving(PRICE, [24, 20].map(pounds), record({ watch: (2_000 + n) as WatchId, site: site(`Shop ${n}`) })),
    ).flat();
    expect(mail(edition(order({ by: 'site', most: 5 }), moves)).text).toContain('383 more groups)');
  });

  it('holds no more than a mail can, where all are asked for', () => {
    const all = edition(
      order({ by: 'none', most: null }),
      Array.from({ length: 1_200 }, (_, n) =>
        moving(PRICE, [24, 20].map(pounds), record({ watch: (1_000 + n) as WatchId })),
      ).flat(),
    );
    expect(rowsOf(all)).toHaveLength(1_000);
    expect(all.beyond).toEqual({ fall: 200 });
  });

  it('calls groups of one kind by that, and counts what has no room in the one sentence, too', () => {
    const { text: plain } = mail(edition(order({ by: 'kind', most: 3 }), many));
    expect(plain).toContain('FALLS');
    expect(plain).toMatch(/140 prices fell and 120 rose, 4 sold out since/);
  });

  it('counts by group, too, and lets a group stand where its first line does', () => {
    const two = edition(
      order({
        by: 'site',
        most: 2,
        sort: { groups: { by: 'percent', down: true }, lines: { by: 'name', down: false } },
      }),
      [
        ...moving(PRICE, [24, 23].map(pounds), record({ watch: 1 as WatchId, name: 'A', site: site('Small') })),
        ...moving(PRICE, [24, 12].map(pounds), record({ watch: 2 as WatchId, name: 'Z', site: site('Larger') })),
        ...moving(PRICE, [24, 23].map(pounds), record({ watch: 3 as WatchId, name: 'A', site: site('Larger') })),
        ...moving(PRICE, [24, 23].map(pounds), record({ watch: 4 as WatchId, name: 'B', site: site('Larger') })),
      ],
    );
    expect(two.groups.map(({ title, beyond, rows }) => [title, beyond, rows.map((row) => row.record?.name)])).toEqual([
      ['Larger', 1, ['A', 'B']],
    ]);
    expect(two.beyond).toEqual({ fall: 2 });
  });
});

describe('an item’s entry', () => {
  const item: EditionItem = {
    id: 7 as ItemId,
    reference: 'HA-2207',
    name: 'Copper smoker',
    minimum: null,
    properties: NONE,
  };
  const offer = (name: string, price: number | null, change: Partial<OfferNow> = {}): OfferNow => {
    const where = site(name, change.site?.kind ?? 'rival');
    return {
      record: record({ watch: (50 + numberOf(name)) as WatchId, site: where, item }),
      site: where,
      price: price === null ? ABSENT : pounds(price),
      shipping: null,
      stock: text('In stock'),
      movedAt: CUT - DAY,
      ...change,
    };
  };
  const ours = offer('Heatherlow', 22.99, { site: site('Heatherlow', 'own') });
  const skep = offer('Skepwright', 21.5);
  const combe = offer('Combe & Larder', 22.8);
  const row = offer('Nectarine R', null, { stock: text('Sold out') });
  const far = offer('Imkerhaus Ast', 20, { shipping: pounds(4.5) });
  const moves = [
    ...moving(PRICE, [24, 21.5].map(pounds), skep.record ?? undefined),
    ...moving(PRICE, [pounds(23.1), ABSENT], row.record ?? undefined),
    ...moving(STOCK, [text('In stock'), text('Sold out')], row.record ?? undefined),
  ];
  const offers = new Map([[item.id, [combe, far, row, skep, ours]]]);
  const document = edition(order(), moves, { offers });
  const [group] = document.groups;

  it('has ours first, then every rival by its landed price, what moved marked', () => {
    expect(group).toMatchObject({ of: 'item', title: 'Copper smoker', note: 'HA-2207', unmoved: 0 });
    expect(group?.rows.map((each) => [each.site.name, each.moved, each.shipped])).toEqual([
      ['Heatherlow', false, false],
      ['Skepwright', true, false],
      ['Combe & Larder', false, false],
      ['Imkerhaus Ast', false, true],
      ['Nectarine R', true, false],
    ]);
    expect(group?.rows.map((each) => (each.toOurs as Money | null)?.amount ?? null)).toEqual([
      null,
      '-1.49',
      '-0.19',
      '1.51',
      null,
    ]);
    expect(group?.place).toEqual({ now: { place: 3, of: 4 }, was: { place: 2, of: 5 } });
    expect(document.counts).toMatchObject({ items: 1, lines: 2, nowBelowOurs: 1 });
  });

  it('counts an offer once that two watches read, also where both saw it move', () => {
    const placeWith = (page: string) => {
      const seen = record({ watch: 999 as WatchId, site: skep.site, item, page });
      const both = [...moves, ...moving(PRICE, [24, 21.5].map(pounds), seen)];
      const beside = new Map([[item.id, [combe, far, row, skep, ours, { ...skep, record: seen }]]]);
      return edition(order(), both, { offers: beside }).groups[0]?.place?.now;
    };
    expect(placeWith('https://skepwright.example/p')).toEqual({ place: 3, of: 4 });
    expect(placeWith('https://skepwright.example/other')).toEqual({ place: 4, of: 5 });
  });

  it('leaves out what did not move, and says how many, where only what moved is asked', () => {
    const [moved] = edition(order({ items: 'moved' }), moves, { offers }).groups;
    expect(moved?.rows.map((each) => each.site.name)).toEqual(['Heatherlow', 'Skepwright', 'Nectarine R']);
    expect(moved?.unmoved).toBe(2);
  });

  it('reads as words for whoever reads the plain text', () => {
    expect(mail(document).text).toContain('- Skepwright: £24.00 -> £21.50, ▼ 2.50 10.4%, −1.49 to ours, stock in, ');
    expect(mail(document).text).toMatch(/COPPER SMOKER HA-2207: third of four, was second/);
    expect(mail(document).subject).toBe('Pricing, daily: Copper smoker at Skepwright £21.50, down 10.4%, and 1 more');
    expect(mail(document).text).toContain(
      'One price fell, 1 sold out and the price withdrawn on one item since Thu 07:30, 1 d. One offer is now ' +
        'below ours.',
    );
  });

  it('makes no entry of a rival of a move of ours alone, nor calls it newly below', () => {
    const own = edition(order(), moving(PRICE, [20, 22.99].map(pounds), ours.record ?? undefined), { offers });
    expect(own.counts.lines).toBe(1);
    expect(own.groups[0]?.rows.filter(({ moved }) => moved).map((each) => each.site.name)).toEqual(['Heatherlow']);
  });
});

describe('an edition', () => {
  it('says what could not be read before it says anything else', () => {
    const stale = [{ subject: 'Extractor', site: 'Nectarine Row', since: CUT - DAY }];
    const { text: plain } = mail(
      edition(order(), moving(PRICE, [24, 22].map(pounds)), { coverage: { ...COVERAGE, stale, staleCount: 3 } }),
    );
    const parts = plain.split('----');
    expect(parts[1]).toMatch(
      /^\s*3 of 200 watches could not be read: Extractor at Nectarine Row since .* and 2 more\./,
    );
  });

  it('tells nothing where there is nothing, and says so with its stretch where that is asked', () => {
    const none = edition(order(), []);
    expect(tellsSomething(none)).toBe(false);
    expect(mail(none).text).toContain('Nothing moved since Thu 07:30, 1 d.');
    expect(mail(none).subject).toBe('Pricing, daily: nothing moved since Thu 07:30, 1 d');
    expect(tellsSomething(edition(order(), moving(PRICE, [24, 22, 24].map(pounds))))).toBe(true);
  });

  it('tells long texts by what differs between them, with a little of what stands around it', () => {
    const [around, was, is] = [
      'a line that stays as it was. '.repeat(20),
      'sent within two days',
      'sent within nine days',
    ];
    const texts = [text(`${around}${was}. ${around}`), text(`${around}${is}. ${around}`)];
    const { html, text: plain } = mail(edition(order({ by: 'none' }), moving(NOTE, texts)));
    expect(html).toMatch(/<del[^>]*>two<\/del>\s*<ins[^>]*>nine<\/ins>/);
    expect(plain).toContain('[gone: two][new: nine]');
    expect(html.match(/stays as it was/g)?.length).toBeLessThan(12);
  });

  it('draws the course of a series once, also where each of its moves is a line', () => {
    const moves = [
      ...moving(PRICE, [24, 22, 23, 21].map(pounds)),
      ...moving(PRICE, [9, 8, 7].map(pounds), record({ id: 77 as never })),
    ];
    const courses = (shows: 'each' | 'net') =>
      renderedImageNames(mail(edition(order({ by: 'none', shows }), moves)).html).filter((name) =>
        name.startsWith('move-'),
      );
    expect([courses('each').length, courses('net').length]).toEqual([2, 2]);
  });

  it('says that it is late, and for which cuts', () => {
    const late = composeEdition(order(), { ...stretch, missed: { count: 3, first: CUT + 90 * MINUTE } }, found([]));
    expect(mail(late).text).toMatch(/Late: it makes up for 3 cuts, the first due Thu 26 Nov 09:00\./);
  });

  it('lets nothing out of its place, whatever things are called', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), fc.string({ maxLength: 60 }), (name, said) => {
        const hostile = `${name}<script>alert(1)</script>"'\r\nBcc: x@y.example`;
        const of = record({
          name: hostile,
          site: { ...site('x'), name: `${said}<img src=x onerror=y>` },
          page: 'https://x.example/"><b>',
        });
        const { html, subject } = mail(
          edition(
            order({ by: 'none' }),
            moving({ ...NOTE, label: `<i>${said}` }, [text(hostile), text(`${said}&`)], of),
          ),
        );
        expect(withRenderedImages(html, () => 'x')).not.toMatch(/<script|<img src=x|<i>|<b>|"><b/);
        expect(withoutRenderedImages(html)).not.toMatch(/<img/);
        expect(subject).not.toMatch(/[\r\n]/);
      }),
      { numRuns: 300 },
    );
  });
});

describe('what a line of a mail says beside its price', () => {
  it('is the variant, where the name does not say it, how much is shipping, our listing, and where to look now', () => {
    const item: EditionItem = {
      id: 7 as ItemId,
      reference: 'HA-9',
      name: 'Jars',
      minimum: null,
      properties: NONE,
      listings: ['88123'],
    };
    const of = record({ id: 5 as never, name: 'Jars', variant: 'case of 72', item });
    const named = record({
      id: 6 as never,
      name: 'Jars, case of 72',
      variant: 'case of 72',
      item,
      site: site('Astrel'),
    });
    const moves = [...moving(PRICE, [pounds(30), pounds(28)], of), ...moving(PRICE, [pounds(31), pounds(29)], named)];
    const offers = new Map<ItemId, OfferNow[]>([
      [
        item.id,
        [
          { record: of, site: of.site, price: pounds(28), shipping: pounds(3.95), stock: null, movedAt: CUT },
          { record: named, site: named.site, price: pounds(29), shipping: pounds(0), stock: null, movedAt: CUT },
        ],
      ],
    ]);
    const { html, text: plain } = mail(edition(order(), moves, { offers }));
    expect(html.match(/case of 72, landed, £3\.95 of it shipping/g)).toHaveLength(1);
    expect(html.match(/>see it now</g)).toHaveLength(2);
    expect(html.replaceAll(/<[^>]+>/g, '')).toContain('HA-9, listing 88123');
    expect(plain).toContain('HA-9, listing 88123');
    expect(html.match(/of it shipping/g)).toHaveLength(1);
  });
});

describe('values as they stand', () => {
  const present = [
    { name: 'Our smoker', watch: 1 as WatchId, value: pounds(24), movedAt: CUT - DAY, staleSince: null },
    { name: 'Theirs', watch: 2 as WatchId, value: ABSENT, movedAt: null, staleSince: null },
    { name: 'Old hive', watch: null, value: ABSENT, movedAt: null, staleSince: null },
    { name: 'Hive 3 <b>', watch: 3 as WatchId, value: text('34 kg'), movedAt: null, staleSince: CUT + HOUR },
  ];
  const document = edition(order(), [], { present });
  it('are told under their names, in their order, whether they moved or not', () => {
    expect(tellsSomething(document)).toBe(true);
    const { subject, text: plain, html } = mail(document);
    expect(subject).toBe('Pricing, daily: Our smoker £24.00, and 3 more');
    expect(plain).toContain('4 values as they stand Fri 27 Nov 07:30, 1 of them not read now.');
    expect(plain).toContain(
      '- Our smoker: £24.00 (Wed 07:30)\n- Theirs: none\n- Old hive: none (its watch was deleted)\n- Hive 3 <b>: ' +
        '34 kg (not read since Thu 08:30)',
    );
    expect(html).toContain('Hive 3 &lt;b&gt;');
    expect(html).not.toContain('<b>');
  });
  it('are the rows of its files', () =>
    expect(presentSheet(present).rows.map((row) => row.slice(0, 3))).toEqual([
      ['Our smoker', '24.00', 'GBP'],
      ['Theirs', '', ''],
      ['Old hive', '', ''],
      ['Hive 3 <b>', '34 kg', ''],
    ]));
  it('are said in its sentence in place of what moved', () => {
    const asked = order({
      present: [1, 2, 3].map((series) => ({ series: series as SeriesId, name: `V${series}` })),
      takes: { ...order().takes, sorts: ['prices', 'alerts'] },
    });
    expect(takesWords(asked)).toBe('how V1, V2 and 1 more stand, with alerts');
  });
});

describe('whatever moves', () => {
  it('each move of a taken size is on one line at most, in either showing, and no line is empty', () => {
    const step = fc.record({
      who: fc.nat(3),
      price: fc.oneof(fc.integer({ min: 0, max: 9 }), fc.constant(null)),
      stock: fc.boolean(),
    });
    fc.assert(
      fc.property(
        fc.array(step, { maxLength: 30 }),
        fc.constantFrom('net' as const, 'each' as const),
        (steps, shows) => {
          const values = new Map<string, Value>();
          const moves = steps.flatMap(({ who, price, stock }, n) => {
            const of = record({ watch: who as WatchId });
            return (
              [
                [PRICE, price === null ? ABSENT : pounds(price)],
                [STOCK, text(stock ? 'In stock' : 'Sold out')],
              ] as const
            ).flatMap(([field, value]) => {
              const key = `${who} ${field.key}`;
              const before = values.get(key);
              values.set(key, value);
              return before === undefined ? [] : moving(field, [before, value], of, CUT + n * MINUTE);
            });
          });
          const lines = linesOf(order({ shows }), found(moves));
          const told = lines.flatMap((line) => line.moves);
          expect(new Set(told).size).toBe(told.length);
          if (shows === 'each')
            expect(told.length).toBeGreaterThanOrEqual(
              moves.filter(({ change }) => change.from.kind !== 'absent' && change.to.kind !== 'absent').length,
            );
          expect(lines.every((line) => line.fields.length > 0)).toBe(true);
        },
      ),
    );
  });
});

describe('an offer that is not read at the cut', () => {
  const item: EditionItem = {
    id: 7 as ItemId,
    reference: 'HA-9',
    name: 'Jars',
    minimum: null,
    properties: NONE,
    listings: [],
  };
  const [moved, lost] = [record({ id: 5 as never, item }), record({ id: 6 as never, item, site: site('Astrel') })];
  const entry = (stale: OfferNow['stale'], of = lost) => {
    const offer = (each: EditionRecord, price: number): OfferNow => ({
      record: each,
      site: each.site,
      price: pounds(price),
      shipping: null,
      stock: null,
      movedAt: CUT,
      ...(each === of ? { stale } : {}),
    });
    const again = record({ id: 8 as never, watch: 9 as WatchId, item, site: lost.site });
    const offers = new Map([[item.id, [offer(moved, 28), offer(lost, 30), offer(again, 30)]]]);
    return mail(edition(order(), moving(PRICE, [pounds(30), pounds(28)], moved), { offers }));
  };

  it('says so on its line, since when and why, in both forms', () => {
    const { html, text: plain } = entry({ since: CUT + HOUR, cause: 'gone' }, moved);
    for (const form of [html, plain]) expect(form).toMatch(/not read since Thu 08:30: its page is gone/);
    expect(entry({ since: CUT + HOUR, cause: null }, moved).text).toContain('not read since Thu 08:30,');
    expect(entry(null).text).not.toContain('not read');
  });

  it('stands back where the same offer is read elsewhere', () => {
    expect(entry({ since: CUT + HOUR, cause: 'gone' }).text).not.toContain('not read');
  });
});

describe('the rows of an edition as a file', () => {
  const csv = (moves: Move[]) => sheetCsv(rowsSheet(editionRows(linesOf(order(), found(moves))))).split('\r\n');
  it('are bare and exact, with their unit beside them, and moments in UTC', () => {
    const [heads, row] = csv(moving(PRICE, [24, 23, 21].map(pounds), record({ tags: ['smokers', 'copper'] })));
    expect(heads).toMatch(
      /^item,reference,site,record,tags,what,field,was,was unit,now,unit,difference,percent,moves,away ms,seen,looked before,page,watch$/,
    );
    expect(row).toBe(
      ',,Skepwright,Copper smoker,"smokers, ' +
        'copper",fall,price,24.00,GBP,21.00,GBP,-3.00,-12.5,2,0,2026-11-26T09:30:00.000Z,2026-11-26T07:30:00.000Z,https://skepwright.example/p,1',
    );
  });

  it('hold an alert that stands on no line as a row of its own, and none twice', () => {
    const [move] = moving(PRICE, [24, 22].map(pounds));
    if (move === undefined) throw new Error('no move');
    const news = {
      field: PRICE,
      value: pounds(9),
      previous: pounds(10),
      change: compareReadings(pounds(10), pounds(9), 'neither'),
      seenAt: CUT,
      lookedBefore: null,
    } as unknown as News;
    const alert: EditionAlert = {
      id: 5 as AlertId,
      watch: 1 as WatchId,
      move: null,
      rule: 1 as RuleId,
      record: record(),
      news,
    };
    const rows = (moves: Move[]) =>
      rowsSheet(editionRows(everyLine(order(), found(moves, { alerts: [alert] })))).rows.map((row) => [
        row[5],
        row[7],
        row[9],
        row[11],
      ]);
    const fall = ['fall', '24.00', '22.00', '-2.00'];
    expect(rows([])).toEqual([['alert', '10.00', '9.00', '-1.00']]);
    expect(rows([move])).toEqual([['alert', '10.00', '9.00', '-1.00'], fall]);
    expect(rows([{ ...move, alerts: [alert.id] }])).toEqual([fall]);
  });

  it('hold what was told at once: alerts with their values, and word of watches', () => {
    const news = {
      subject: '=Copper smoker',
      site: 'Skepwright',
      page: 'https://skepwright.example/p',
      field: { key: 'price', label: 'price' },
      value: pounds(21.5),
      previous: pounds(24),
      change: compareReadings(pounds(24), pounds(21.5), 'neither'),
      asked: null,
      told: { what: 'reminder' },
      seenAt: CUT,
      lookedBefore: null,
    } as News;
    const notice = {
      watchId: 3 as WatchId,
      kind: 'failing',
      subject: 'Extractor',
      site: 'Nectarine Row',
      page: '',
      since: CUT,
      lastGoodAt: CUT,
    };
    const file = sheetCsv(rowsSheet(rowsAtOnce({ alerts: [{ watchId: 1 as WatchId, news }], notices: [notice] })));
    const at = new Date(CUT).toISOString();
    expect(file.trimEnd().split('\r\n').slice(1)).toEqual([
      `,,Skepwright,'=Copper ` +
        `smoker,,reminder,price,24.00,GBP,21.50,GBP,-2.50,-10.4,1,0,${at},,https://skepwright.example/p,1`,
      `,,Nectarine Row,Extractor,,failing,,,,,,,,0,0,${at},${at},,3`,
    ]);
  });

  it('run nothing where a program opens them, and are read back whole by another parser', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('=', '+', '-', '@', '\t', '\r', 'a;=', '＝'),
        fc.string({ maxLength: 30 }),
        (first, rest) => {
          const hostile = `${first}${rest}cmd`;
          const file = sheetCsv(
            rowsSheet(
              editionRows(
                linesOf(order(), found(moving(NOTE, [text(hostile), text(`${hostile}!`)], record({ name: hostile })))),
              ),
            ),
          );
          const cells = Papa.parse<string[]>(file.trimEnd()).data.flat();
          expect(cells.filter((cell) => /^[\t\r]/.test(cell))).toEqual([]);
          const pieces = cells.flatMap((cell) => cell.split(/[;\t\r\n]/)).filter((piece) => !/^-[\d.]+$/.test(piece));
          expect(pieces.filter((piece) => /^[=+\-@＝＋－＠]/.test(piece))).toEqual([]);
          expect(cells.map(undefused)).toContain(hostile);
        },
      ),
    );
  });
});
