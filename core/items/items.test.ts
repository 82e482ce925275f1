import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { blankItem, cellText, isGtin, minimumOn, withCell, type Cell, type Item } from './item';
import { proposerOf } from './proposals';
import { defused, differences, readSheet, undefused, writeSheet } from './sheet';

const LOCALE = 'en-GB';
const CHANNELS = ['Web shop', 'Wholesale'];

function item(reference: string, cells: [Cell, string][] = []): Item {
  return cells.reduce((known, [cell, text]) => {
    const next = withCell(known, cell, text, LOCALE);
    if (!next.ok) throw new Error(next.error);
    return next.value;
  }, blankItem(reference));
}

const refusal = (cell: Cell, text: string): string | null => {
  const next = withCell(blankItem('HL-1'), cell, text, LOCALE);
  return next.ok ? null : next.error;
};

describe('a cell of an item', () => {
  it.each<[Cell, string, string]>([
    [{ of: 'name' }, '  Copper smoker, large ', 'Copper smoker, large'],
    [{ of: 'gtin' }, '5012345678900', '5012345678900'],
    [{ of: 'gtin' }, '', ''],
    [{ of: 'minimum' }, '£24.00', '24.00 GBP'],
    [{ of: 'minimum' }, '22 GBP 2026-11-20/2026-11-30; 24.50 GBP', '24.50 GBP; 22 GBP 2026-11-20/2026-11-30'],
    [{ of: 'minimum' }, '24 GBP ../2026-12-31', '24 GBP ../2026-12-31'],
    [{ of: 'price', channel: 'Web shop' }, '1,249.00 GBP', '1249.00 GBP'],
    [{ of: 'listing', channel: 'Wholesale' }, 'W-77', 'W-77'],
  ])('takes %j as %s', (cell, typed, kept) => {
    expect(cellText(item('HL-1', [[cell, typed]]), cell)).toBe(kept);
  });

  it.each<[Cell, string, RegExp]>([
    [{ of: 'reference' }, ' ', /needs a reference/],
    [{ of: 'gtin' }, '5012345678901', /last digit would be 0/],
    [{ of: 'gtin' }, '12345', /8, 12, 13 or 14/],
    [{ of: 'gtin' }, '50123456789OO', /digits alone/],
    [{ of: 'minimum' }, '24', /no currency/],
    [{ of: 'minimum' }, 'from £24', /starting price/],
    [{ of: 'minimum' }, '£24 2026-11-31/..', /none/],
    [{ of: 'minimum' }, '£24 2026-12-01/2026-11-01', /ends before/],
    [{ of: 'minimum' }, '£24; £25', /same day/],
    [{ of: 'price', channel: 'Web shop' }, '-£3.00', /less than nought/],
    [{ of: 'name' }, 'x'.repeat(201), /at most 200/],
  ])('refuses %j as %s', (cell, typed, because) => {
    expect(refusal(cell, typed)).toMatch(because);
  });

  it('knows GTINs of every length by their check digit', () => {
    expect(['96385074', '036000291452', '4006381333931', '10614141000415'].every(isGtin)).toBe(true);
    expect(['96385075', '036000291453', '4006381333930', '0000'].some(isGtin)).toBe(false);
  });
});

describe('the agreed minimum', () => {
  const seasonal = item('HL-1', [[{ of: 'minimum' }, '24 GBP; 22 GBP 2026-11-20/2026-11-30; 26 GBP 2027-01-01/..']]);

  it.each([
    ['2026-11-19', '24'],
    ['2026-11-20', '22'],
    ['2026-11-30', '22'],
    ['2026-12-01', '24'],
    ['2027-06-01', '26'],
  ])('of %s is %s', (day, amount) => {
    expect(minimumOn(seasonal, day)?.amount).toBe(amount);
  });

  it('is none outside of the days on which it holds', () => {
    const once = item('HL-1', [[{ of: 'minimum' }, '22 GBP 2026-11-20/2026-11-30']]);
    expect(minimumOn(once, '2026-11-19')).toBeNull();
    expect(minimumOn(once, '2026-12-01')).toBeNull();
  });
});

describe('a sheet of items', () => {
  const smoker = item('HL-100', [
    [{ of: 'name' }, 'Copper smoker, "large"'],
    [{ of: 'brand' }, '=HYPERLINK("http://x")'],
    [{ of: 'minimum' }, '24 GBP; 22 GBP 2026-11-20/2026-11-30'],
    [{ of: 'price', channel: 'Wholesale' }, '18.72 GBP'],
  ]);

  it('says line by line what it would do', () => {
    const text =
      'reference;name;agreed minimum\nHL-100;Copper smoker, "large";25 GBP\nHL-200;Hive ' +
      'stand;\n;nameless;\nHL-200;again;\nHL-3;x;cheap\n';
    const lines = readSheet(text, [smoker], CHANNELS, LOCALE);
    expect(lines.ok && lines.value.map(({ line, does }) => [line, does])).toEqual([
      [2, 'changes'],
      [3, 'adds'],
      [4, 'refused'],
      [5, 'refused'],
      [6, 'refused'],
    ]);
    expect(lines.ok && lines.value[0]?.said).toEqual(['agreed minimum: 24 GBP; 22 GBP 2026-11-20/2026-11-30 → 25 GBP']);
    expect(lines.ok && lines.value[0]?.item?.brand).toBe(smoker.brand);
    expect(lines.ok && lines.value[4]?.said.join(' ')).toMatch(/“cheap” is no price/);
  });

  it.each([
    ['reference,prize\nHL-1,3', /“prize” is none of them/],
    ['name,brand\nSmoker,Heatherlow', /no column “reference”/],
    ['reference,name\nHL-1,"never ends', /does not end/],
    ['', /no rows/],
  ])('refuses %j whole', (text, because) => {
    const lines = readSheet(text, [], CHANNELS, LOCALE);
    expect(lines.ok ? '' : lines.error).toMatch(because);
  });

  it('runs no formula in a program that opens it', () => {
    const text = writeSheet([smoker], CHANNELS);
    expect(text).toContain(`"'=HYPERLINK(""http://x"")"`);
  });

  it('gives back what was defused, and defuses what was already', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(..."'=+-@＝;\t\r\n1.5a") }), (text) => {
        expect(undefused(defused(text))).toBe(text);
        const pieces = defused(text).split(/[;\t\r\n]/);
        expect(pieces.filter((piece) => /^[=+\-@＝]/.test(piece) && !/^-\d+(\.\d+)?$/.test(piece))).toEqual([]);
        expect(undefused(defused(defused(text)))).toBe(defused(text));
      }),
    );
  });

  const words = fc.string({ unit: 'grapheme', maxLength: 30 }).map((text) => text.trim());
  const any = fc
    .record({
      name: words,
      brand: words,
      category: words,
      listing: words,
      price: fc.nat(999_999),
      minimum: fc.nat(99_999),
    })
    .map(({ name, brand, category, listing, price, minimum }) =>
      item('HL-1', [
        [{ of: 'name' }, name],
        [{ of: 'brand' }, brand],
        [{ of: 'category' }, category],
        [{ of: 'listing', channel: 'Web shop' }, listing],
        [{ of: 'price', channel: 'Web shop' }, `${(price / 100).toFixed(2)} GBP`],
        [{ of: 'minimum' }, `${(minimum / 100).toFixed(2)} EUR 2026-01-01/..`],
      ]),
    );

  it('read back says the same of every item, whatever stands in it', () => {
    fc.assert(
      fc.property(any, (one) => {
        const lines = readSheet(writeSheet([one], CHANNELS), [one], CHANNELS, LOCALE);
        if (!lines.ok) throw new Error(lines.error);
        expect(lines.value.map(({ does, said }) => [does, said])).toEqual([['nothing', []]]);
        const fresh = readSheet(writeSheet([one], CHANNELS), [], CHANNELS, LOCALE);
        expect(
          fresh.ok && fresh.value[0]?.item !== null && differences(one, fresh.value[0]?.item ?? blankItem('')),
        ).toEqual([]);
      }),
      { numRuns: 500 },
    );
  });
});

describe('a record that says which item it is', () => {
  const items = [
    item('HL-100', [
      [{ of: 'gtin' }, '036000291452'],
      [{ of: 'listing', channel: 'Web shop' }, 'SM-1'],
    ]),
    item('HL-101', [[{ of: 'gtin' }, '4006381333931']]),
  ];
  const propose = proposerOf(items);

  it.each([
    [['hl-100'], 'x', 'HL-100', 'reference'],
    [['0036000291452'], 'x', 'HL-100', 'GTIN'],
    [[], 'SM-1', 'HL-100', 'listing'],
  ])('by %j or %s is %s', (identifiers, identity, reference, by) => {
    expect(propose({ identifiers, identity })).toMatchObject({ reference, by });
  });

  it('is proposed for none where it names none, or two', () => {
    expect(propose({ identifiers: ['SK-1', ''], identity: 'Copper smoker' })).toBeNull();
    expect(propose({ identifiers: ['HL-100', '4006381333931'], identity: 'x' })).toBeNull();
  });
});
