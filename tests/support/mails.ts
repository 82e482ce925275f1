import type { AlertId, ChangeId, ItemId, RecordId, RuleId, SiteId, WatchId } from '#core/id';
import { compareReadings } from '#core/compare/compare';
import { digestMail } from '#core/tell/edition/digest-mail';
import { composeEdition } from '#core/tell/edition/document';
import type { Gathered } from '#core/tell/edition/gathered';
import type { Move, EditionField, EditionRecord } from '#core/tell/edition/move';
import type { OfferNow } from '#core/tell/edition/offers';
import type { Message } from '#core/tell/mail-frame';
import { confirmMail } from '#core/tell/confirm-mail';
import { inviteMail } from '#core/tell/invite-mail';
import { deferredMail } from '#core/tell/deferred-mail';
import { alertMail, alertParts } from '#core/tell/mail';
import { noticeMail } from '#core/tell/notice-mail';
import type { News } from '#core/tell/news';
import { blankDefinition, USUAL_SORTS, type ReportDefinition } from '#core/tell/definition';
import { money } from '#core/value/parse';
import type { Decimal } from '#core/value/decimal';
import { ABSENT, type Measure, type Value } from '#core/value/value';
import { DAY, HOUR, MINUTE } from '#core/when/interval';

// The kinds of mails that Shrike sends, each of made-up news.

const CUT = Date.UTC(2026, 10, 26, 7, 30);
const place = { locale: 'en-GB', zone: 'Europe/London' };
const PRICE: EditionField = { key: 'price', label: 'price', role: 'price', polarity: 'up is good' };
const STOCK: EditionField = { key: 'stock', label: 'stock', role: 'availability', polarity: 'neither' };
const TEXT: EditionField = { key: 'text', label: 'text', role: null, polarity: 'neither' };
const pounds = (amount: number) => money(amount.toFixed(2), 'GBP');
const text = (words: string): Value => ({ kind: 'text', text: words });
const SITES = [
  ['Heatherlow', 'own'],
  ['Skepwright', 'rival'],
  ['Combe & Larder', 'rival'],
  ['Imkerhaus Astrel', 'rival'],
  ['Nectarine Row', 'rival'],
] as const;
const ITEM = {
  id: 7 as ItemId,
  reference: 'HA-2207',
  name: 'Copper smoker with a heat guard and bellows, large',
  minimum: pounds(22),
  properties: { brand: '', category: '', supplier: '' },
};

const record = (at: number, change: Partial<EditionRecord> = {}): EditionRecord => {
  const [name, kind] = SITES[at % SITES.length] ?? SITES[1];
  return {
    watch: (at + 1) as WatchId,
    id: (at + 1) as RecordId,
    name: `Copper smoker ${at}`,
    subject: `Copper smoker ${at}`,
    tags: [],
    item: null,
    site: { id: ((at % SITES.length) + 1) as SiteId, name, kind },
    page: `https://shop.example/p/${at}`,
    ...change,
  };
};

let changes = 0;
function move(of: EditionRecord, field: EditionField, from: Value, to: Value, alerts: AlertId[] = []): Move {
  const change = compareReadings(from, to, field.polarity);
  if (change === null) throw new Error('a move that moves nothing');
  return {
    id: (changes += 1) as ChangeId,
    seq: changes,
    at: CUT + 4 * HOUR,
    lookedBefore: CUT + 2 * HOUR,
    record: of,
    field,
    change,
    alerts,
  };
}

/** News of an alert: a price below its limit. */
const NEWS: News = {
  subject: 'Copper smoker',
  site: 'Skepwright',
  page: 'https://shop.example/p/1',
  field: { key: 'price', label: 'price', role: 'price' },
  value: pounds(21.5),
  previous: pounds(24),
  change: compareReadings(pounds(24), pounds(21.5), 'up is good'),
  asked: {
    kind: 'crossing',
    of: { asked: { field: 'price' } },
    limits: { is: 'below', limit: pounds(22), inclusive: false },
  },
  seenAt: CUT + 4 * HOUR,
  lookedBefore: CUT + 2 * HOUR,
};

function digest(change: Partial<ReportDefinition>, found: Partial<Gathered>): Message {
  const order = { ...blankDefinition(place.zone, ['list:1']), ...change };
  const coverage = {
    looks: 1104,
    failed: 12,
    stale: [],
    staleCount: 0,
    watches: 200,
    leftOut: 3,
    tooMany: false,
    quietCuts: 1,
  };
  const gathered = {
    moves: [],
    stood: new Map(),
    offers: new Map(),
    priced: new Map(),
    since: new Map(),
    alerts: [],
    broken: [],
    coverage,
    ...found,
  };
  return digestMail({
    document: composeEdition(order, { from: CUT, until: CUT + DAY, missed: null }, gathered),
    report: 'Pricing, daily',
    edition: 212,
    readerName: 'Ravi',
    readerNumber: 87,
    made: CUT + DAY,
    reportLink: 'https://shrike.example/editions/9',
    home: 'https://shrike.example',
    place,
    told: new Map([[5, CUT + 4 * HOUR]]),
    next: CUT + 2 * DAY,
  });
}

function byItem(): Message {
  const offers = SITES.map((_, at) => record(at, { item: ITEM })).map((of, at): OfferNow => ({
    record: of,
    site: of.site,
    price: at === 4 ? ABSENT : pounds([22.99, 21.5, 22.8, 19.6, 0][at] ?? 0),
    shipping: at === 3 ? pounds(4) : null,
    stock: text(at === 4 ? 'Sold out' : 'In stock'),
    movedAt: CUT,
    ...(at === 2 ? { stale: { since: CUT + HOUR, cause: 'gone' as const } } : {}),
  }));
  const [, skep, , , row] = offers.map(({ record: of }) => of ?? record(0));
  if (skep === undefined || row === undefined) throw new Error('no offers');
  const moves = [
    move(skep, PRICE, pounds(24), pounds(21.5), [5 as AlertId]),
    move(row, PRICE, pounds(23.1), ABSENT),
    move(row, STOCK, text('In stock'), text('Sold out')),
  ];
  const alerts = [
    {
      id: 5 as AlertId,
      watch: 2 as WatchId,
      rule: 1 as RuleId,
      record: skep,
      move: (moves[0]?.id ?? null) as ChangeId | null,
      news: NEWS,
    },
    {
      id: 6 as AlertId,
      watch: 9 as WatchId,
      rule: 2 as RuleId,
      record: record(8),
      move: null,
      news: { ...NEWS, subject: 'Honey store', site: 'Sensor gateway', previous: null, change: null },
    },
  ];
  return digest({}, { moves, alerts, offers: new Map([[ITEM.id, offers]]) });
}

const BROOD = { key: 'temperature', label: 'brood temperature' };
const degrees = (amount: string): Value => ({ kind: 'number', amount: amount as Decimal, unit: '°C' });

/** A sensor that has stood above its limit. */
const SENSOR: News = {
  subject: 'Hive 3',
  site: 'Sensor gateway',
  page: 'https://gateway.example/senml',
  field: BROOD,
  value: degrees('37.4'),
  previous: degrees('36.1'),
  change: compareReadings(degrees('36.1'), degrees('37.4'), 'neither'),
  weight: 'high',
  seenAt: CUT + 4 * HOUR,
  lookedBefore: CUT + 4 * HOUR - MINUTE,
  asked: {
    kind: 'level',
    of: { asked: { field: 'temperature' } },
    limits: { is: 'above', limit: degrees('36') as Measure, inclusive: false },
  },
  carried: [{ label: 'humidity', value: { kind: 'number', amount: '58' as Decimal, unit: '%' } }],
};

const GRADE: EditionField = { key: 'grade', label: 'grade', role: null, polarity: 'neither' };
const grade = (of: string): Value => ({ kind: 'grade', grade: of, scale: ['A', 'B', 'C', 'D', 'E', 'F'] });

/** Lots of a supplier's list that were graded anew, and one that is read first. */
function graded(): Message {
  const lot = (at: number) =>
    record(1, { id: (90 + at) as RecordId, name: `Lot ${2200 + at}, yellow wax`, subject: 'Wax lots' });
  const first = { ...move(lot(3), GRADE, ABSENT, grade('A')), first: true as const };
  const takes = { ...blankDefinition(place.zone, []).takes, sorts: [...USUAL_SORTS, 'first readings' as const] };
  return digest(
    { by: 'watch', takes },
    { moves: [first, move(lot(1), GRADE, grade('B'), grade('D')), move(lot(2), GRADE, grade('C'), grade('A'))] },
  );
}

const BROKEN = {
  watch: 3 as WatchId,
  subject: 'Extractor',
  site: 'Nectarine Row',
  page: 'https://shop.example/e',
  kind: 'failing' as const,
  cause: 'something in the way' as const,
  sentence: 'A consent wall stands before the page.',
  since: CUT + HOUR,
  lastGood: { label: 'price', value: pounds(248) },
  elsewhere: ['Skepwright', 'Imkerhaus Astrel'],
};

const LINES = 'You are asked to report every sighting to the inspector within two days. '.repeat(8);

/** Every kind of mail, by what it is. */
export function sampleMails(): Record<string, Message> {
  const many = Array.from({ length: 200 }, (_, at) =>
    move(record(at), PRICE, pounds(24), pounds(at % 3 === 0 ? 25 : 20 + at / 100)),
  );
  const frame = {
    report: 'Pricing, at once',
    edition: 41,
    readerName: 'Ravi',
    made: CUT,
    reportLink: 'https://shrike.example/outbox',
    place,
  };
  const links = { watch: 'https://shrike.example/watches/1', takeOn: 'https://shrike.example/take/abc' };
  const alerts = [{ news: NEWS, ...links }];
  const ways = { leave: 'https://shrike.example/leave/abc', ownPage: 'https://shrike.example/reader/abc' };
  const kept = [40, 41].map((edition) => ({
    edition,
    made: CUT,
    link: 'https://shrike.example/editions/9',
    parts: alertParts(alerts, place),
  }));
  return {
    'a question to confirm': confirmMail({
      readerName: 'Tom Aske',
      address: 'tom.aske@heatherlow.example',
      askedBy: 'Inés Calloway',
      reports: ['Jars, large falls', 'Tom Aske, at once'],
      link: 'https://shrike.example/confirm/abc',
      until: CUT + 14 * DAY,
      place,
    }),
    'an invitation': inviteMail({
      readerName: 'Tom Aske',
      address: 'tom.aske@heatherlow.example',
      invitedBy: 'Inés Calloway',
      reports: ['Jars, large falls', 'Tom Aske, at once'],
      link: 'https://shrike.example/invited/abc',
      until: CUT + 7 * DAY,
      place,
    }),
    'what was kept back': deferredMail({
      ...frame,
      ...ways,
      readerNumber: 88,
      kept,
      before: 3,
      tooOld: 2,
      heard: 1,
      missing: { gaps: [{ number: 87, reason: 'folded' }], held: [] },
    }),
    'an alert that passes': alertMail({
      ...frame,
      ...ways,
      readerNumber: 89,
      coverage: 'Edition 41 covers one run.',
      alerts,
      missing: { gaps: [{ number: 7, reason: 'left' }], held: [88] },
    }),
    'a digest by item': byItem(),
    'a digest of 200 changes': digest({ by: 'site' }, { moves: many }),
    'nothing changed': digest({ whenNothing: 'say' }, {}),
    'values as they stand': digest(
      {},
      {
        present: [
          ['Copper smoker, ours', pounds(22.99)],
          ['Copper smoker, the cheapest rival', pounds(19.6)],
          ['Cedar hive', ABSENT],
        ].map(([name, value], at) => ({
          name: name as string,
          value: value as Value,
          watch: at as WatchId,
          movedAt: CUT,
          staleSince: at === 2 ? CUT : null,
        })),
      },
    ),
    'a text changed': digest(
      { by: 'watch' },
      { moves: [move(record(1), TEXT, text(`${LINES}Week 47.`), text(`${LINES}Week 48, with care.`))] },
    ),
    'something broke': digest(
      {},
      {
        broken: [BROKEN, { ...BROKEN, kind: 'recovered' as const }].map((each) => ({
          ...each,
          of: { tags: [], site: { name: each.site, kind: 'rival' as const }, items: [] },
        })),
        coverage: {
          looks: 20,
          failed: 2,
          stale: [BROKEN],
          staleCount: 3,
          watches: 200,
          leftOut: 0,
          tooMany: false,
          quietCuts: 0,
        },
      },
    ),
    'an alert': alertMail({
      ...frame,
      readerNumber: 87,
      coverage: 'Edition 41 covers one run.',
      alerts: [{ news: NEWS, ...links }],
    }),
    'an alert with its pictures': alertMail({
      ...frame,
      readerNumber: 88,
      coverage: 'Edition 41 covers one run.',
      alerts: [{ news: NEWS, ...links, alert: 5 as AlertId }],
    }),
    'a first mail': alertMail({
      ...frame,
      ...ways,
      readerNumber: 1,
      begun: { owner: 'Inés Calloway', cadence: { cut: 'weekly', days: [1, 2, 3, 4, 5], at: 450, zone: place.zone } },
      coverage: 'Edition 41 covers one run.',
      alerts,
    }),
    'a sensor': alertMail({
      ...frame,
      readerNumber: 88,
      coverage: 'Edition 41 covers one run.',
      alerts: [{ news: SENSOR, ...links, alert: 6 as AlertId }],
    }),
    grades: graded(),
    'an episode goes on': alertMail({
      ...frame,
      readerNumber: 88,
      coverage: 'Edition 41 covers one run.',
      alerts: [
        {
          news: { ...SENSOR, told: { what: 'reminder' }, course: { opened: CUT, peak: degrees('37.9'), closed: null } },
          ...links,
        },
      ],
    }),
    'an episode is over': alertMail({
      ...frame,
      readerNumber: 88,
      coverage: 'Edition 41 covers one run.',
      alerts: [
        {
          news: { ...NEWS, told: { what: 'over' }, course: { opened: CUT, peak: pounds(20), closed: CUT + HOUR } },
          ...links,
        },
      ],
    }),
    'not read': noticeMail({
      ...frame,
      readerNumber: 89,
      notices: [{ ...BROKEN, lastGoodAt: CUT, watch: links.watch }],
    }),
  };
}
