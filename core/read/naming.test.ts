import { describe, expect, it } from 'vitest';
import { namingParts, proposeNaming, spokenName, type Naming } from './naming';

const POINTS = [
  'apiary/store/temperature',
  'apiary/store/humidity',
  'apiary/hive-1/weight',
  'apiary/hive-1/brood-temperature',
];
const points = (names: string[]) => names.map((identity) => ({ identity, labels: {} }));
const sample = (family: string, labels: Record<string, string>) => ({
  identity: `${family}{${Object.entries(labels)
    .map(([key, value]) => `${key}=${JSON.stringify(value)}`)
    .join(',')}}`,
  labels,
});
const ORDERS = [
  sample('orders_total', { region: 'north', device: 'desktop', shop: 'web' }),
  sample('orders_total', { region: 'south', device: 'phone', shop: 'web' }),
];

const proposed = (records: { identity: string; labels: Record<string, string> }[]) => {
  const naming = proposeNaming(records);
  return naming === null ? null : records.map((record) => spokenName(naming, { ...record, textOf: () => null }));
};

describe('the names that are proposed', () => {
  it.each<[string, { identity: string; labels: Record<string, string> }[], string[] | null]>([
    [
      'say of points what is not common to all',
      points(POINTS),
      ['Store temperature', 'Store humidity', 'Hive 1 weight', 'Hive 1 brood temperature'],
    ],
    ['say of samples by what labels they differ', ORDERS, ['North, desktop', 'South, phone']],
    [
      'say of several metrics which each is',
      [sample('orders_total', { region: 'north' }), sample('refunds_total', { region: 'north' })],
      ['Orders: north', 'Refunds: north'],
    ],
    ['say of one point all that is known', points(['apiary/store/temperature']), ['Apiary store temperature']],
    [
      'are of URNs what comes after what they share',
      points(['urn:dev:ow:10e2:temp', 'urn:dev:ow:10e2:door']),
      ['Temp', 'Door'],
    ],
    ['are none where names are said as they are', points(['Copper smoker', 'Stainless smoker']), null],
    ['are none of nothing', [], null],
  ])('%s', (_, records, names) => expect(proposed(records)).toEqual(names));
});

describe('a spoken name', () => {
  const of = (
    naming: Naming,
    identity = 'apiary/hive-1/weight',
    labels: Record<string, string> = {},
    texts: Record<string, string> = {},
  ) =>
    spokenName(naming, {
      identity,
      labels,
      textOf: (label) => (Object.hasOwn(texts, label) ? (texts[label] ?? null) : null),
    });

  it.each<[string, string | null, string | null]>([
    ['of a part with its number', of({ pattern: '{2}' }, 'apiary/hive12/co2'), 'Hive 12'],
    ['with parts of the path', of({ pattern: '{3} of {2}' }), 'Weight of hive 1'],
    ['with a label', of({ pattern: 'Orders, {region}' }, 'x', { region: 'north' }), 'Orders, north'],
    [
      'with a field',
      of({ pattern: '{article} ({ref.})' }, 'CL-1', {}, { article: 'Copper smoker', 'ref.': 'CL-1' }),
      'Copper smoker (CL-1)',
    ],
    [
      'without what is missing, and what joined it',
      of({ pattern: '{article} ({ref.}), {grade}' }, 'x', {}, { article: 'Smoker' }),
      'Smoker',
    ],
    [
      'by hand before any pattern',
      of({ pattern: '{2}', own: { 'apiary/hive-1/weight': 'The old hive' } }),
      'The old hive',
    ],
    ['by hand for another alone is none', of({ own: { other: 'X' } }), null],
    ['of a pattern of which nothing is there is none', of({ pattern: '{nothing}' }), null],
    ['of an open brace is as it is written', of({ pattern: 'Hive {2' }), 'Hive {2'],
    ['by a name of the language is none', of({ pattern: '{constructor}{__proto__}' }), null],
    ['by hand under such a name', of({ own: {} }, 'constructor'), null],
    [
      'of what is nothing but marks between parts',
      of({ pattern: '{a}: {b}' }, 'x', { a: `${', '.repeat(5000)}x`, b: 'north' }),
      'North',
    ],
    ['is bounded', of({ pattern: '{a}' }, 'x', { a: 'b'.repeat(5000) })?.length.toString() ?? '', '120'],
  ])('%s', (_, name, expected) => expect(name).toBe(expected));

  it('is made of parts that are named to whoever writes a pattern', () => {
    const said = (records: typeof ORDERS) => namingParts(records).map(({ part, as }) => `${part} ${as}`);
    expect(namingParts(points(POINTS)).map(({ part, as }) => `${part} ${as}`)).toEqual([
      '{1} apiary',
      '{2} store',
      '{3} temperature',
    ]);
    expect(said(ORDERS)).toEqual(['{name} orders', '{region} north', '{device} desktop', '{shop} web']);
    expect(namingParts([])).toEqual([]);
  });
});
