import type { ChangeId, RecordId, SiteId, WatchId } from '#core/id';
import { compareReadings } from '#core/compare/compare';
import { digestMail } from '#core/tell/edition/digest-mail';
import { composeEdition } from '#core/tell/edition/document';
import { linesOf } from '#core/tell/edition/lines';
import type { Move, EditionField, EditionRecord } from '#core/tell/edition/move';
import { sheetCsv } from '#core/items/sheet';
import { editionRows, rowsSheet } from '#core/tell/edition/sheet';
import { blankDefinition } from '#core/tell/definition';
import { money } from '#core/value/parse';
import { DAY, SECOND } from '#core/when/interval';
import { median, say, spread } from './figures';

// An edition of 100,000 changes, composed and rendered, with all its lines as a file; over sorting the same changes and
// printing a row for each.

const CHANGES = 100_000;
const RECORDS = 40_000;
const ROUNDS = 5;
const CUT = Date.UTC(2026, 10, 26, 7, 30);
const MB = 1024 * 1024;

const PRICE: EditionField = { key: 'price', label: 'price', role: 'price', polarity: 'up is good' };
const COVERAGE = {
  looks: CHANGES,
  failed: 0,
  stale: [],
  staleCount: 0,
  watches: RECORDS,
  leftOut: 0,
  tooMany: false,
  quietCuts: 0,
};

function records(): EditionRecord[] {
  return Array.from({ length: RECORDS }, (_, n) => {
    const site = { id: (n % 20) as SiteId, name: `Shop ${n % 20}`, kind: 'rival' as const };
    return {
      watch: n as WatchId,
      id: n as RecordId,
      name: `Offer ${n}`,
      subject: `Offer ${n}`,
      site,
      tags: [],
      item: null,
      page: `https://shop${n % 20}.example/${n}`,
    };
  });
}

function moves(): Move[] {
  const told = records();
  const pence = new Map<number, number>();
  return Array.from({ length: CHANGES }, (_, n) => {
    const at = (n * 7919) % RECORDS;
    const before = pence.get(at) ?? 2400;
    const after = before + (((n * 104_729) % 400) - 200 || 1);
    pence.set(at, after);
    const change = compareReadings(
      money((before / 100).toFixed(2), 'GBP'),
      money((after / 100).toFixed(2), 'GBP'),
      PRICE.polarity,
    );
    const record = told[at];
    if (change === null || record === undefined) throw new Error('a move that moves nothing');
    return {
      id: n as ChangeId,
      seq: n,
      at: CUT + n * SECOND,
      lookedBefore: CUT,
      record,
      field: PRICE,
      change,
      alerts: [],
    };
  });
}

/** Measures an edition of many changes, in time and in memory. */
export function benchEditions(): void {
  const given = moves();
  const figures = Array.from({ length: ROUNDS + 1 }, () => timed(given)).slice(1);
  const of = (figure: keyof (typeof figures)[number]) => median(figures.map((each) => each[figure]));
  say(
    `an edition of ${CHANGES.toLocaleString('en-GB')} changes of ${RECORDS.toLocaleString('en-GB')} offers: ` +
      `composed and rendered in ${of('edition').toFixed(0)} ms, ` +
      (`all lines as CSV in ${of('file').toFixed(0)} ms; both over sorting and printing the changes plainly ` +
        `${spread(figures.map(({ edition, file, plain }) => (edition + file) / plain))}; `) +
      `the heap grew by ${of('heap').toFixed(0)} MB, for ${of('plainHeap').toFixed(0)} MB`,
  );
}

function timed(given: Move[]): Record<'edition' | 'file' | 'plain' | 'heap' | 'plainHeap', number> {
  const order = { ...blankDefinition('Europe/London', ['list:1']), by: 'site' as const };
  const gathered = {
    moves: given,
    stood: new Map(),
    offers: new Map(),
    priced: new Map(),
    since: new Map(),
    alerts: [],
    broken: [],
    coverage: COVERAGE,
  };
  const [first, began] = [process.memoryUsage().heapUsed, performance.now()];
  const document = composeEdition(order, { from: CUT, until: CUT + DAY, missed: null }, gathered);
  const mail = digestMail({
    document,
    report: 'All',
    edition: 1,
    readerName: 'Inés',
    readerNumber: 1,
    made: CUT + DAY,
    reportLink: '',
    home: '',
    told: new Map(),
    next: null,
    place: { locale: 'en-GB', zone: 'Europe/London' },
  });
  const [second, composed] = [process.memoryUsage().heapUsed, performance.now()];
  const file = sheetCsv(rowsSheet(editionRows(linesOf(order, gathered))));
  const [third, filed] = [process.memoryUsage().heapUsed, performance.now()];
  const plain = [...given]
    .sort((one, other) => Math.abs(Number(other.change.percent)) - Math.abs(Number(one.change.percent)))
    .map(({ record, at, change }) =>
      [record.name, record.site.name, change.difference, change.percent, new Date(at).toISOString()].join(','),
    )
    .join('\n');
  const [last, ended] = [process.memoryUsage().heapUsed, performance.now()];
  if (mail.html === '' || file === '' || plain === '') throw new Error('nothing was printed');
  return {
    edition: composed - began,
    file: filed - composed,
    plain: ended - filed,
    heap: Math.max(0, third - first, second - first) / MB,
    plainHeap: Math.max(0, last - third) / MB,
  };
}
