import { describe, expect, it } from 'vitest';
import { compareReadings } from '../../compare/compare';
import type { AlertId, ChangeId, ItemId, RecordId, RuleId, SiteId, WatchId } from '../../id';
import { money } from '../../value/parse';
import { ABSENT, type Money, type Value } from '../../value/value';
import { DAY, HOUR } from '../../when/interval';
import type { News } from '../news';
import { blankDefinition, orderFault, storedOrder, type Split, type ReportDefinition } from '../definition';
import { alertLeftOutBy, leftOutBy } from './choose';
import { digestMail } from './digest-mail';
import { composeEdition, storedDocument } from './document';
import type { Gathered, EditionAlert } from './gathered';
import { linesOf } from './lines';
import type { Move, EditionField, EditionItem, EditionRecord } from './move';
import type { OfferNow } from './offers';
import { shareOf, sharesOf, valuesBorne, valueWords, type Share } from './share';
import { brokenKey, onlyAlerts, withoutNotified } from './not-notified';
import { beyondWords, fallbackWords, wayWords } from './words';

const CUT = Date.UTC(2026, 10, 26, 7, 30);
const PRICE: EditionField = { key: 'price', label: 'price', role: 'price', polarity: 'up is good' };
const SHIPPING: EditionField = { key: 'shipping', label: 'shipping', role: 'shipping cost', polarity: 'neither' };
const STOCK: EditionField = { key: 'stock', label: 'stock', role: 'availability', polarity: 'neither' };
const pounds = (amount: number): Money => money(amount.toFixed(2), 'GBP');
const ITEM: EditionItem = {
  id: 7 as ItemId,
  reference: 'HA-1',
  name: 'Smoker',
  minimum: pounds(20),
  properties: { brand: 'Larkmead', category: 'smokers', supplier: 'Oxney' },
};
const OURS = { id: 1 as SiteId, name: 'Heatherlow', kind: 'own' as const };
const RIVAL = { id: 2 as SiteId, name: 'Skepwright', kind: 'rival' as const };
const record = (id: number, change: Partial<EditionRecord> = {}): EditionRecord => ({
  watch: id as WatchId,
  id: id as RecordId,
  name: `Offer ${id}`,
  subject: `Offer ${id}`,
  site: RIVAL,
  tags: [],
  item: ITEM,
  page: 'https://shop.example/',
  ...change,
});
const move = (seq: number, of: EditionRecord, field: EditionField, from: Value, to: Value): Move => {
  const change = compareReadings(from, to, field.polarity);
  if (change === null) throw new Error('nothing moved');
  return { id: seq as ChangeId, seq, at: CUT + seq * HOUR, lookedBefore: CUT, record: of, field, change, alerts: [] };
};
const offer = (of: EditionRecord, price: Value | null, shipping: Value | null = null): OfferNow => ({
  record: of,
  site: of.site,
  price,
  shipping,
  stock: null,
  movedAt: null,
});
const order = (change: Partial<ReportDefinition> = {}): ReportDefinition => ({
  ...blankDefinition('Europe/London', ['list:1']),
  ...change,
});
const found = (moves: Move[], more: Partial<Gathered> = {}): Gathered => ({
  moves,
  stood: new Map(),
  offers: new Map(),
  priced: new Map(),
  since: new Map(),
  alerts: [],
  broken: [],
  coverage: { looks: 1, failed: 0, stale: [], staleCount: 0, watches: 1, leftOut: 0, tooMany: false, quietCuts: 0 },
  ...more,
});

describe('only prices that end below ours', () => {
  const asked = (shows: ReportDefinition['shows']) => order({ shows, size: { ...order().size, prices: 'below ours' } });
  const ours = record(1, { site: OURS });
  const rival = record(2);
  /** Ours moves from 23 to 21 at 5; the rival stands at what it came to. */
  const told = (shows: ReportDefinition['shows'], moves: Move[], now: Value | null, shipping: Value | null = null) => {
    const offers = new Map([[ITEM.id, [offer(ours, pounds(21)), offer(rival, now, shipping)]]]);
    const priced = new Map([[ours.id as RecordId, [{ part: 'price' as const, seq: 5, was: pounds(23) }]]]);
    return linesOf(asked(shows), found(moves, { offers, priced })).length;
  };
  it.each<[string, number, () => number]>([
    [
      '22.50, when ours was 23, each move',
      1,
      () => told('each', [move(3, rival, PRICE, pounds(24), pounds(22.5))], pounds(22.5)),
    ],
    [
      '22.50, when ours had become 21, each move',
      0,
      () => told('each', [move(6, rival, PRICE, pounds(24), pounds(22.5))], pounds(22.5)),
    ],
    ['20.90 at the cut, net', 1, () => told('net', [move(6, rival, PRICE, pounds(24), pounds(20.9))], pounds(20.9))],
    [
      '21.00, which is ours: not below',
      0,
      () => told('net', [move(6, rival, PRICE, pounds(24), pounds(21))], pounds(21)),
    ],
    [
      '20.90 with shipping of 3: landed above ours',
      0,
      () => told('net', [move(6, rival, PRICE, pounds(24), pounds(20.9))], pounds(20.9), pounds(3)),
    ],
    ['a price withdrawn', 0, () => told('net', [move(6, rival, PRICE, pounds(24), ABSENT)], ABSENT)],
    [
      'a price in euros',
      0,
      () => told('net', [move(6, rival, PRICE, money('24', 'EUR'), money('10', 'EUR'))], money('10', 'EUR')),
    ],
    ['a move of ours alone', 0, () => told('net', [move(5, ours, PRICE, pounds(23), pounds(21))], pounds(20))],
    [
      'shipping that fell so far that it lands below',
      1,
      () => told('net', [move(6, rival, SHIPPING, pounds(4), pounds(0.5))], pounds(20), pounds(0.5)),
    ],
    [
      'sold out: it has no price to hold back',
      1,
      () =>
        told(
          'net',
          [move(6, rival, STOCK, { kind: 'text', text: 'In stock' }, { kind: 'text', text: 'Sold out' })],
          pounds(24),
        ),
    ],
    [
      'what is no item of ours',
      0,
      () => told('net', [move(6, record(9, { item: null }), PRICE, pounds(24), pounds(2))], pounds(24)),
    ],
  ])('%s', (_what, lines, play) => expect(play()).toBe(lines));

  it('or only those under the agreed minimum', () => {
    const under = order({ size: { ...order().size, prices: 'under the minimum' } });
    const lines = (to: Value, of = rival) => linesOf(under, found([move(6, of, PRICE, pounds(24), to)])).length;
    expect([
      lines(pounds(19.99)),
      lines(pounds(20)),
      lines(ABSENT),
      lines(pounds(1), record(3, { item: { ...ITEM, minimum: null } })),
    ]).toEqual([1, 0, 0, 0]);
  });
});

describe('what is counted from before the stretch', () => {
  it('says since when', () => {
    const moves = [
      move(1, record(2), PRICE, pounds(24), pounds(23)),
      move(2, record(2), PRICE, pounds(23), pounds(22.5)),
    ];
    const since = new Map([[1 as ChangeId, CUT - 2 * DAY]]);
    const document = composeEdition(
      order({ by: 'site' }),
      { from: CUT, until: CUT + DAY, missed: null },
      found(moves, { since }),
    );
    const [row] = document.groups[0]?.rows ?? [];
    expect(row === undefined ? '' : wayWords(row, document, { locale: 'en-GB', zone: 'Europe/London' })).toBe(
      '2 moves, counted since Tue 07:30',
    );
  });
});

describe('an edition for each value', () => {
  const valueOf = (by: Split['by'], value: string | null): Share => ({ of: 'value', by, value, because: null });
  const channel = { id: 3 as SiteId, name: 'Wholesale', kind: 'channel' as const };
  const moves = [
    move(1, record(2, { tags: ['hives', 'oak'] }), PRICE, pounds(24), pounds(23)),
    move(
      2,
      record(3, { item: { ...ITEM, properties: { ...ITEM.properties, brand: 'Astrel' } }, site: channel }),
      PRICE,
      pounds(24),
      pounds(23),
    ),
    move(3, record(4, { item: null }), PRICE, pounds(24), pounds(23)),
  ];
  it.each<[Split['by'], (string | null)[]]>([
    ['brand', ['Astrel', 'Larkmead', null]],
    ['supplier', ['Oxney', null]],
    ['tag', ['hives', 'oak', null]],
    ['site', ['Skepwright', 'Wholesale']],
    ['channel', ['Wholesale', null]],
  ])('of %s: what bears none is one of its own', (by, values) =>
    expect([...sharesOf({ by }, found(moves)).keys()]).toEqual(values),
  );

  it(
    'of each kind of news: a price, what is in stock, and what broke apart; an alert goes with the move that ' +
      'raised it',
    () => {
      const own = record(2);
      const news = { field: { key: 'price', label: 'price', role: 'price' } } as News;
      const alert = (id: number, by: ChangeId | null): EditionAlert => ({
        id: id as AlertId,
        watch: own.watch,
        move: by,
        rule: 1 as RuleId,
        record: own,
        news,
      });
      const all = found(
        [move(1, own, PRICE, pounds(24), pounds(23)), move(2, own, STOCK, { kind: 'text', text: 'In stock' }, ABSENT)],
        {
          alerts: [alert(5, 1 as ChangeId), alert(6, null)],
        },
      );
      const shares = sharesOf({ by: 'news' }, all);
      expect([...shares.keys()]).toEqual(['alerts', 'prices', 'stock']);
      expect(
        [...shares.values()].map((share) => [share.moves.map(({ id }) => id), share.alerts.map(({ id }) => id)]),
      ).toEqual([
        [[], [6]],
        [[1], [5]],
        [[2], []],
      ]);
    },
  );

  it('is called by what people say of it', () => {
    expect(valueWords('news', 'stock')).toBe('stock out and back');
    expect(valueWords('brand', 'stock')).toBe('stock');
    expect(valueWords('brand', null)).toBe('without a brand');
    expect(valueWords('news', 'what a newer Shrike calls it')).toBe('what a newer Shrike calls it');
  });

  it('has the news that bears it, and no other', () => {
    expect(shareOf(valueOf('tag', 'oak'), found(moves)).moves.map(({ id }) => id)).toEqual([1]);
    expect(shareOf(valueOf('tag', null), found(moves)).moves.map(({ id }) => id)).toEqual([2, 3]);
    expect(shareOf(valueOf('brand', 'Nobody'), found(moves)).moves).toEqual([]);
  });

  it('has alerts, and what broke, by the same', () => {
    const alert: EditionAlert = {
      id: 1 as AlertId,
      watch: 2 as WatchId,
      move: null,
      rule: 1 as RuleId,
      record: record(2),
      news: {} as News,
    };
    const broken = [
      { of: { tags: [], site: RIVAL, items: [ITEM.properties, { ...ITEM.properties, brand: 'Astrel' }] } },
    ] as unknown as Gathered['broken'];
    const share = shareOf(valueOf('brand', 'Larkmead'), found([], { alerts: [alert], broken }));
    expect([share.alerts.length, share.broken.length]).toEqual([1, 1]);
    expect(shareOf(valueOf('brand', 'Astrel'), found([], { alerts: [alert], broken })).alerts).toEqual([]);
  });

  it('is together of those that are said together, each piece of news once', () => {
    const share: Share = { of: 'others', by: 'tag', values: ['hives', 'oak'] };
    expect(shareOf(share, found(moves)).moves.map(({ id }) => id)).toEqual([1]);
    expect(shareOf({ ...share, values: ['hives', null] }, found(moves)).moves.map(({ id }) => id)).toEqual([1, 2, 3]);
    expect(fallbackWords(share)).toBe('Nobody is named for these 2, so they come to you, together.');
  });

  it('takes a property that is empty for none', () =>
    expect(valuesBorne('brand', { tags: [], site: RIVAL, items: [{ brand: '', category: '', supplier: '' }] })).toEqual(
      [null],
    ));

  const mailOf = (share: Share | null) =>
    digestMail({
      document: composeEdition(
        order({ by: 'site' }),
        { from: CUT, until: CUT + DAY, missed: null },
        found(moves),
        share,
      ),
      report: 'Brands',
      edition: 3,
      readerName: 'Ravi',
      readerNumber: 2,
      made: CUT + DAY,
      reportLink: 'https://shrike.example/editions/9',
      home: 'https://shrike.example',
      told: new Map(),
      next: null,
      place: { locale: 'en-GB', zone: 'Europe/London' },
    });

  it('says in its subject which, and why it comes to somebody who reads the rest', () => {
    const mail = mailOf({ of: 'value', by: 'brand', value: 'Astrel', because: 'nobody named' });
    expect(mail.subject).toMatch(/^Brands: Astrel: /);
    expect(mail.text).toContain('Nobody is named for Astrel, so this comes to you.');
    expect(mail.html).toContain('Nobody is named for Astrel');
    expect(mailOf(null).text).not.toContain('comes to you');
    expect(fallbackWords({ of: 'value', by: 'tag', value: null, because: 'nobody named' })).toBe(
      'Nobody is named for what is without a tag, so this comes to you.',
    );
  });

  it('of what broke has a subject of its own, and says nothing of what moved', () => {
    const mail = mailOf({ of: 'broken' });
    expect(mail.subject).toMatch(/^Brands: what broke: /);
    expect(mail.text).not.toContain('Nothing moved');
  });
});

describe('what a report chooses by', () => {
  const { takes } = order();
  const only = (change: Partial<ReportDefinition['takes']['only']>) => ({
    takes: { ...takes, only: { ...takes.only, ...change } },
  });
  const priced = move(1, record(2), PRICE, pounds(24), pounds(23));
  it.each<[string, Parameters<typeof only>[0], unknown]>([
    ['its item', { items: [7 as ItemId] }, null],
    ['another item', { items: [8 as ItemId] }, { by: 'item', chosen: true }],
    ['its brand, among two', { brand: ['Astrel', 'Larkmead'] }, null],
    ['its brand, and another supplier', { brand: ['Larkmead'], supplier: ['Else'] }, { by: 'supplier', chosen: true }],
    ['its field, in other letters', { fields: [' Price '] }, null],
    ['a field by its role', { fields: ['price'] }, null],
    ['another field', { fields: ['stock'] }, { by: 'field', chosen: true }],
    ['a rule: a move is of none', { rules: [1 as RuleId] }, { by: 'rule', chosen: true }],
    ['a weight: a move has none', { weights: ['usual'] }, { by: 'weight', chosen: true }],
  ])('of a move: %s', (_what, change, out) => expect(leftOutBy(only(change), priced)).toEqual(out));

  it('leaves out a record that came where fields are chosen', () =>
    expect(leftOutBy(only({ fields: ['price'] }), { record: record(2), field: null })).toEqual({
      by: 'field',
      chosen: true,
    }));

  const alert = { record: record(2), rule: 1 as RuleId, weight: 'high' as const, fields: [PRICE] };
  it.each<[string, Parameters<typeof only>[0], unknown]>([
    ['its rule', { rules: [1 as RuleId, 3 as RuleId] }, null],
    ['another rule', { rules: [3 as RuleId] }, { by: 'rule', chosen: true }],
    ['its weight', { weights: ['high'] }, null],
    ['another weight', { weights: ['low', 'usual'] }, { by: 'weight', chosen: true }],
    ['its rule, but another brand', { rules: [1 as RuleId], brand: ['Astrel'] }, { by: 'brand', chosen: true }],
    ['another field', { fields: ['stock'] }, { by: 'field', chosen: true }],
  ])('of an alert: %s', (_what, change, out) => expect(alertLeftOutBy(only(change), alert)).toEqual(out));
  it('leaves alerts out where none are taken', () =>
    expect(alertLeftOutBy({ takes: { ...takes, sorts: ['prices'] } }, alert)).toEqual({ by: 'sort', sort: 'alerts' }));
});

/** A fall of one pound that raised an alert of a weight. */
const raised = (seq: number, of: EditionRecord, weight: 'high' | 'usual' | 'low') => ({
  move: { ...move(seq, of, PRICE, pounds(24), pounds(23)), alerts: [(100 + seq) as AlertId] },
  alert: {
    id: (100 + seq) as AlertId,
    watch: of.watch,
    move: seq as ChangeId,
    rule: 1 as RuleId,
    record: of,
    news: { weight } as News,
  },
});
const STRETCH = { from: CUT, until: CUT + DAY, missed: null };

describe('groups of an edition', () => {
  const titles = (by: ReportDefinition['by'], records: EditionRecord[], more: Partial<ReportDefinition> = {}) => {
    const sort = { ...order().sort, groups: { by: 'name' as const, down: false } };
    const moves = records.map((of, n) => move(n + 1, of, PRICE, pounds(24), pounds(23)));
    return composeEdition(order({ by, sort, ...more }), STRETCH, found(moves)).groups.map(({ title, rows }) => [
      title,
      rows.length,
    ]);
  };
  const bare = record(3, { item: null });
  it.each<[ReportDefinition['by'], [string, number][]]>([
    [
      'brand',
      [
        ['Larkmead', 2],
        ['Without a brand', 1],
      ],
    ],
    [
      'category',
      [
        ['smokers', 2],
        ['Without a category', 1],
      ],
    ],
    [
      'channel',
      [
        ['At none of our channels', 2],
        ['Heatherlow', 1],
      ],
    ],
  ])('stand by %s, with what bears none under its own head', (by, wanted) =>
    expect(titles(by, [record(1, { site: OURS }), record(2), bare])).toEqual(wanted),
  );
  it('have a line of two tags once: under the first by name, or the first that is asked for', () => {
    const both = record(1, { tags: ['smokers', 'copper'] });
    expect(titles('tag', [both, bare])).toEqual([
      ['copper', 1],
      ['Without a tag', 1],
    ]);
    expect(
      titles('tag', [both], { takes: { ...order().takes, only: { ...order().takes.only, tags: ['smokers'] } } }),
    ).toEqual([['smokers', 1]]);
  });
});

describe('lines sorted by weight', () => {
  const [high, low, none] = [
    raised(1, record(1), 'high'),
    raised(2, record(2), 'low'),
    move(3, record(3), PRICE, pounds(24), pounds(9)),
  ];
  const names = (down: boolean) => {
    const sort = { groups: { by: 'weight' as const, down }, lines: { by: 'weight' as const, down } };
    const of = found([low.move, none, high.move], { alerts: [low.alert, high.alert] });
    return composeEdition(order({ by: 'none', sort }), STRETCH, of).groups.flatMap(({ rows }) =>
      rows.map((row) => row.record?.name),
    );
  };
  it('have the weightiest first, or last; what raised nothing comes last either way', () => {
    expect(names(true)).toEqual(['Offer 1', 'Offer 2', 'Offer 3']);
    expect(names(false)).toEqual(['Offer 2', 'Offer 1', 'Offer 3']);
  });
});

describe('what a reader was told before', () => {
  const [one, other] = [raised(1, record(1), 'usual'), raised(2, record(2), 'usual')];
  const apart = { ...raised(3, record(3), 'usual').alert, move: null };
  const all = found([one.move, other.move], { alerts: [one.alert, other.alert, apart] });
  const of = (change: Partial<ReportDefinition>) => composeEdition(order({ by: 'none', ...change }), STRETCH, all);
  const left = (told: number[], change: Partial<ReportDefinition> = {}) => {
    const { document, leftOut } = withoutNotified(of(change), new Set(told));
    return {
      leftOut,
      lines: document.counts.lines,
      rows: document.groups.reduce((sum, { rows }) => sum + rows.length, 0),
      kinds: document.kinds,
    };
  };
  it.each<[string, number[], object]>([
    ['nothing', [], { leftOut: 0, lines: 3, rows: 2 }],
    ['another alert', [900], { leftOut: 0, lines: 3, rows: 2 }],
    ['an alert on a line: that line goes', [101], { leftOut: 1, lines: 2, rows: 1, kinds: { alert: 1, fall: 1 } }],
    ['an alert apart', [103], { leftOut: 1, lines: 2, rows: 2, kinds: { alert: 0, fall: 2 } }],
    ['all: nothing is left to tell', [101, 102, 103], { leftOut: 3, lines: 0, rows: 0 }],
  ])('of %s', (_, told, wanted) => expect(left(told)).toMatchObject(wanted));
  it('is not told again by what stands in for a mail that never came: it tells of the alerts it owes alone', () => {
    const owing = (...owed: number[]) => {
      const { alerts, groups, counts } = onlyAlerts(of({}), new Set(owed));
      return [
        alerts.map(({ id }) => id),
        groups.flatMap(({ rows }) => rows.flatMap((row) => row.alerts)),
        counts.lines,
      ];
    };
    expect(owing(101)).toEqual([[], [expect.objectContaining({ id: 101 })], 1]);
    expect(owing(103)).toEqual([[103], [], 1]);
    expect(owing()).toEqual([[], [], 0]);
    expect(onlyAlerts(of({}), new Set([101])).kinds).toMatchObject({ alert: 0, fall: 1 });
  });
  it('and says nothing of what had no room, nor of an item without any of them', () => {
    const short = onlyAlerts(of({ most: 2 }), new Set([101, 103]));
    expect([short.beyond, short.counts.lines, short.kinds]).toEqual([{}, 2, { alert: 1, fall: 1 }]);
    const entry = composeEdition(order({ most: 1 }), STRETCH, found([one.move, other.move], { alerts: [one.alert] }));
    expect(entry.groups.map(({ beyond }) => beyond)).toEqual([1]);
    expect(onlyAlerts(entry, new Set([102])).groups).toEqual([]);
  });
  it('and what broke, by watch, word and moment', () => {
    const failing = {
      watch: 3 as WatchId,
      subject: 'Extractor',
      site: 'Nectarine Row',
      page: '',
      kind: 'failing' as const,
      cause: 'something in the way' as const,
      sentence: '',
      since: 5,
      lastGood: null,
      elsewhere: [],
    };
    const document = {
      ...of({}),
      broken: [failing, { ...failing, kind: 'recovered' as const }, { ...failing, since: 6 }],
    };
    const { document: left, leftOut } = withoutNotified(
      document,
      new Set([103]),
      new Set([brokenKey(failing), '3 failing 7']),
    );
    expect([leftOut, left.broken.map(({ kind, since }) => [kind, since]), left.counts.lines]).toEqual([
      2,
      [
        ['recovered', 5],
        ['failing', 6],
      ],
      2,
    ]);
  });
  it('goes with the other fields of its line', () => {
    const stock = move(1, record(1), STOCK, { kind: 'state', state: 'in stock' }, { kind: 'state', state: 'sold out' });
    const both = found([{ ...one.move }, { ...stock, id: 9 as ChangeId }], { alerts: [one.alert] });
    const document = composeEdition(order({ by: 'none' }), STRETCH, both);
    expect(document.groups.flatMap(({ rows }) => rows)).toHaveLength(2);
    expect(withoutNotified(document, new Set([101])).document.groups).toEqual([]);
  });
  it('stays in an item’s entry that has other news, and goes with the whole entry', () => {
    const offers = new Map([
      [
        ITEM.id,
        [offer(record(1), pounds(23)), offer(record(2), pounds(23)), offer(record(4, { site: OURS }), pounds(25))],
      ],
    ]);
    const entry = composeEdition(order(), STRETCH, { ...all, offers });
    expect(withoutNotified(entry, new Set([101])).leftOut).toBe(0);
    const { document, leftOut } = withoutNotified(entry, new Set([101, 102]));
    expect([leftOut, document.groups, document.counts]).toEqual([
      2,
      [],
      { lines: 1, moves: 0, items: 0, nowBelowOurs: 0 },
    ]);
  });
});

describe('a standing order in parts is refused', () => {
  const split = (parts: Split['parts'], more: Partial<ReportDefinition> = {}) =>
    orderFault(order({ split: { by: 'brand', parts }, ...more }));
  it('without somebody who reads the rest', () =>
    expect(split([{ value: 'A', readers: ['person:1'] }], { readers: [] })).toMatch(/Nobody would hear/));
  it('with a value that has nobody', () => expect(split([{ value: 'A', readers: [] }])).toMatch(/Say who reads A/));
  it('with a value twice', () =>
    expect(
      split([
        { value: null, readers: ['list:1'] },
        { value: null, readers: ['list:2'] },
      ]),
    ).toMatch(/twice/));
  it('with too many', () =>
    expect(split(Array.from({ length: 201 }, (_, n) => ({ value: `${n}`, readers: ['list:1'] })))).toMatch(
      /200 values at most/,
    ));
  it('of what its rules raise', () =>
    expect(split([], { cadence: { cut: 'at once' }, shows: 'each' })).toMatch(/split one that is made by the clock/));
  it('and not where its order says what it takes', () =>
    expect(split([], { cadence: { cut: 'at once', of: 'its order' }, shows: 'each' })).toBeNull());
  it('that counts from what was shown and shows each move', () =>
    expect(orderFault(order({ shows: 'each', size: { ...order().size, base: 'told' } }))).toMatch(
      /add up where the net move is shown/,
    ));
  it('and not otherwise', () => expect(split([{ value: 'A', readers: ['person:1'] }])).toBeNull());
});

describe('what an older Shrike wrote', () => {
  it('is an order of one edition for all, held against no price', () => {
    const { split: _, broken: __, attach: ___, words: ____, toldBefore: _____, size, takes, ...rest } = order();
    const { watches, sites, kinds, tags } = takes.only;
    const old = {
      ...rest,
      size: { falls: size.falls, rises: size.rises },
      takes: { ...takes, only: { watches, sites, kinds, tags } },
    };
    expect(storedOrder.read({ v: 0, ...old })).toEqual(order());
  });
  it('is an edition of all', () =>
    expect(storedDocument.read({ v: 0, by: 'item' })).toMatchObject({ share: null, by: 'item' }));
  it('of one that named all groups that were cut off, counts them, too', () => {
    const cutOff = Array.from({ length: 14 }, (_, n) => ({ of: 'site', title: `Shop ${n}`, count: 20 - n }));
    const before = storedDocument.read({ v: 1, beyond: { fall: 7 }, beyondGroups: cutOff });
    expect(beyondWords(before)).toMatch(/^7 falls \(Shop 0 20, .*, Shop 11 9, 2 more groups\)$/);
    expect(storedDocument.read(storedDocument.write(before))).toEqual(before);
    expect(storedDocument.read({ v: 1, by: 'item' })).toEqual({ by: 'item' });
  });
});
