import { describe, expect, it } from 'vitest';
import { blankItem } from '../items/item';
import type { Decimal } from '../value/decimal';
import { money } from '../value/parse';
import { ABSENT, type Value } from '../value/value';
import { DAY, HOUR } from '../when/interval';
import { choiceOf, lets, type Filtered } from './records';
import type { RecordTest } from './rule';

const NOW = Date.UTC(2026, 10, 27, 12);

const record = (identity: string, price: Value | undefined, more: Partial<Filtered> = {}): Filtered => ({
  identity,
  name: identity,
  labels: {},
  fieldOf: (field) => (field === 'price' ? price : undefined),
  ...more,
});

const ranked = (change: Partial<Extract<RecordTest, { by: 'highest' | 'lowest' }>> = {}): RecordTest => ({
  by: 'highest',
  field: 'price',
  count: 2,
  anew: 'week',
  zone: 'Europe/London',
  ...change,
});

const chosen = (only: RecordTest[], records: Filtered[]) => choiceOf(only, () => records, null, NOW)?.in ?? null;
const pounds = (amount: string) => money(amount, 'GBP');

describe('a test of records', () => {
  const item = { ...blankItem('HL-1'), brand: 'Ling & Bell' };

  it.each<[RecordTest, Partial<Filtered>, boolean]>([
    [{ by: 'identity', in: ['a'] }, {}, true],
    [{ by: 'identity', in: ['b'] }, {}, false],
    [{ by: 'name', holds: 'SMOKER' }, { name: 'Copper smoker' }, true],
    [{ by: 'name', holds: 'hive' }, { name: 'Copper smoker' }, false],
    [{ by: 'label', label: 'region', is: 'north' }, { labels: { region: 'north' } }, true],
    [{ by: 'label', label: 'region', is: 'north' }, {}, false],
    [{ by: 'item', property: 'brand', is: 'ling & bell' }, { item }, true],
    [{ by: 'item', property: 'brand', is: 'Ling' }, { item }, false],
    [{ by: 'item', property: 'brand', is: '' }, {}, false],
    [{ by: 'field', field: 'price', is: '5.0' }, {}, true],
    [{ by: 'field', field: 'price', is: 'five' }, {}, false],
    [{ by: 'field', field: 'stock', is: 'in stock' }, {}, false],
  ])('%j of %j is %s', (test, known, passes) => {
    expect(lets([test], record('a', pounds('5.00'), known))).toBe(passes);
  });

  it('lets through what every one of them does', () => {
    expect(
      lets(
        [
          { by: 'name', holds: 'a' },
          { by: 'identity', in: ['b'] },
        ],
        record('a', undefined),
      ),
    ).toBe(false);
    expect(lets([], record('a', undefined))).toBe(true);
    expect(lets(undefined, record('a', undefined))).toBe(true);
  });
});

describe('the highest of records', () => {
  const four = [record('a', pounds('5')), record('b', pounds('9')), record('c', pounds('7')), record('d', ABSENT)];

  it.each<[string, RecordTest[], Filtered[], string[] | null]>([
    ['are as many as asked', [ranked()], four, ['b', 'c']],
    ['are the lowest where those are asked', [ranked({ by: 'lowest' })], four, ['a', 'c']],
    ['are all where there are fewer', [ranked({ count: 9 })], four, ['b', 'c', 'a']],
    [
      'are of those alone that other tests let through',
      [ranked(), { by: 'identity', in: ['a', 'c'] }],
      four,
      ['c', 'a'],
    ],
    ['leave out what is counted otherwise', [ranked()], [...four, record('e', money('99', 'EUR'))], ['b', 'c']],
    [
      'are of equals the first by name',
      [ranked({ count: 1 })],
      [record('z', pounds('5')), record('y', pounds('5'))],
      ['y'],
    ],
    ['are none where no value is known', [ranked()], [record('a', ABSENT), record('b', undefined)], null],
    ['are none where none are asked', [{ by: 'name', holds: 'a' }], four, null],
  ])('%s', (_what, only, records, expected) => {
    expect(chosen(only, records)).toEqual(expected);
  });

  it.each<['never' | 'day' | 'week' | 'month', number, boolean]>([
    // The 27th of November 2026 is a Friday.
    ['never', 400 * DAY, true],
    ['day', 11 * HOUR, true],
    ['day', 13 * HOUR, false],
    ['week', 2 * DAY, true],
    ['week', 3 * DAY, false],
    ['month', 3 * DAY, true],
    ['month', 4 * DAY, false],
  ])('chosen anew %s, they stand %d ms later: %s', (anew, later, stands) => {
    const before = { at: NOW, in: ['x'] };
    expect(choiceOf([ranked({ anew })], () => four, before, NOW + later)?.in).toEqual(stands ? ['x'] : ['b', 'c']);
  });

  it('lets through those that were chosen, and nobody before they are', () => {
    expect(lets([ranked()], record('b', pounds('9')), { at: NOW, in: ['b'] })).toBe(true);
    expect(lets([ranked()], record('a', pounds('5')), { at: NOW, in: ['b'] })).toBe(false);
    expect(lets([ranked()], record('b', pounds('9')))).toBe(false);
  });
});

it('a number is the same however it is written', () => {
  const exact: Value = { kind: 'number', amount: '12.50' as Decimal, unit: 'kg' };
  expect(lets([{ by: 'field', field: 'price', is: '12.5' }], record('a', exact))).toBe(true);
});
