import { describe, expect, it } from 'vitest';
import { namesOf } from '../judge/words';
import { describeCondition } from '../judge/describe';
import type { Limits } from '../judge/asked';
import type { Condition } from '../judge/clause';
import type { RuleDefinition } from '../judge/rule';
import type { Field } from '../read/definition';
import type { Decimal } from '../value/decimal';
import { money } from '../value/parse';
import type { Value } from '../value/value';
import { HOUR } from '../when/interval';
import { markOf, percentIn, press, unfit, type Stencil, type Target } from './stencil';

const field = (key: string, label: string, kind: 'money' | 'text' | 'number', role?: Field['role']): Field => ({
  key,
  label,
  type: kind === 'money' ? { kind, currency: null } : { kind },
  mode: 'stepwise',
  polarity: 'neither',
  locale: null,
  locators: [],
  ...(role === undefined ? {} : { role }),
});

const PRICE = field('price', 'price', 'money', 'price');
const below = (limit: Limits): Condition => ({ kind: 'crossing', of: { asked: { field: 'price' } }, limits: limit });
const FALLS = below({ is: 'below', limit: money('24.00', 'GBP'), inclusive: false });

const stencil = (change: Partial<Stencil> = {}, rule: Partial<RuleDefinition> = {}): Stencil => ({
  name: 'Eight below',
  rule: { when: FALLS, whenAlreadyMet: 'wait', ...rule },
  fields: [PRICE, field('stock', 'stock', 'text')],
  present: {},
  limits: { as: 'present', percent: '-8' as Decimal },
  readers: { are: 'named', audiences: ['list:1'] },
  ...change,
});

const target = (fields: Field[], present: Record<string, Value>, audiences: string[] = []): Target => ({
  fields,
  present,
  intervalMs: HOUR,
  audiences,
});

function says(made: ReturnType<typeof press>, fields: Field[]): string {
  if (!made.ok) return made.error;
  return describeCondition(
    made.value.definition.when,
    namesOf((key) => fields.find((each) => each.key === key)?.label ?? key, 'en-GB'),
  );
}

describe('a stencil', () => {
  const preis = field('preis', 'Preis', 'money', 'price');

  it.each<[string, Stencil, Target, string]>([
    [
      'counts its limit from the present value',
      stencil(),
      target([PRICE], { price: money('50.00', 'GBP') }),
      'price falls below £46.00',
    ],
    [
      'rounds to what its currency has',
      stencil(),
      target([PRICE], { price: money('19.99', 'GBP') }),
      'price falls below £18.39',
    ],
    [
      'counts in what the watch reads',
      stencil(),
      target([preis], { preis: money('208.19', 'EUR') }),
      'Preis falls below €191.53',
    ],
    [
      'counts a currency without parts',
      stencil(),
      target([PRICE], { price: money('1250', 'JPY') }),
      'price falls below ¥1,150',
    ],
    [
      'can lie above',
      stencil(
        { limits: { as: 'present', percent: '12.5' as Decimal } },
        { when: below({ is: 'above', limit: money('1', 'GBP'), inclusive: true }) },
      ),
      target([PRICE], { price: money('80', 'GBP') }),
      'price rises to or above £90.00',
    ],
    [
      'keeps a limit that is said',
      stencil({ limits: { as: 'said' } }),
      target([PRICE], { price: money('50.00', 'GBP') }),
      'price falls below £24.00',
    ],
    [
      'leaves two limits around the value',
      stencil(
        {},
        {
          when: {
            kind: 'level',
            of: { asked: { field: 'price' } },
            limits: { is: 'outside', low: money('1', 'GBP'), high: money('2', 'GBP'), inclusive: false },
          },
        },
      ),
      target([PRICE], { price: money('100', 'GBP') }),
      'price is outside £92.00 to £108.00',
    ],
    [
      'goes by the label where no role is known',
      stencil({ fields: [{ ...PRICE, role: undefined }] }),
      target([field('x', 'Price', 'money')], { x: money('10', 'GBP') }),
      'Price falls below £9.20',
    ],
  ])('%s', (_what, one, on, sentence) => {
    expect(says(press(one, on), on.fields)).toBe(sentence);
  });

  it.each<[string, Stencil, Target, RegExp]>([
    ['a field that is not read', stencil(), target([field('stock', 'stock', 'text')], {}), /reads no price/],
    ['a value that was never read', stencil(), target([PRICE], {}), /no present value/],
    ['a value that is sold out', stencil(), target([PRICE], { price: { kind: 'absent' } }), /no present value/],
    [
      'another currency than that of a limit that is said',
      stencil({ limits: { as: 'said' } }),
      target([PRICE], { price: money('50', 'EUR') }),
      /counted in EUR, and the limit in GBP/,
    ],
    [
      'nobody to tell',
      stencil({ readers: { are: 'those of the watch' } }),
      target([PRICE], { price: money('50', 'GBP') }),
      /Nobody hears/,
    ],
  ])('makes nothing of %s', (_what, one, on, because) => {
    expect(says(press(one, on), on.fields)).toMatch(because);
  });

  it('tells those of the watch, and leaves records that are named behind', () => {
    const one = stencil(
      { readers: { are: 'those of the watch' } },
      {
        only: [
          { by: 'identity', in: ['a'] },
          { by: 'name', holds: 'x' },
        ],
        carry: ['stock', 'price'],
      },
    );
    const made = press(one, target([PRICE], { price: money('50', 'GBP') }, ['person:3']));
    expect(made.ok && made.value).toMatchObject({
      audiences: ['person:3'],
      definition: { only: [{ by: 'name', holds: 'x' }], carry: ['price'] },
    });
  });

  it('cannot name what other watches do not have', () => {
    const other = (asked: object): RuleDefinition => ({
      when: {
        kind: 'against',
        asked: { field: 'price' },
        other: { field: 'price', ...asked },
        is: 'below',
        by: { by: 'percent', percent: '1' as Decimal },
        inclusive: false,
      },
      whenAlreadyMet: 'wait',
    });
    expect(unfit(other({ record: 'a' }))).not.toBeNull();
    expect(unfit(other({ watch: 3 }))).not.toBeNull();
    expect(unfit(other({ item: 'ours' }))).toBeNull();
  });
});

describe('a mark', () => {
  it('is the same for the same rule, however it is said, and another for another', () => {
    const rule: RuleDefinition = { when: FALLS, whenAlreadyMet: 'wait', tags: ['a'] };
    expect(markOf({ tags: ['a'], whenAlreadyMet: 'wait', when: FALLS, note: undefined })).toBe(markOf(rule));
    expect(markOf({ ...rule, from: { kind: 'rule', id: 1, name: 'x' } })).toBe(markOf(rule));
    expect(markOf({ ...rule, weight: 'high' })).not.toBe(markOf(rule));
  });
});

it.each([
  ['-8', '-8'],
  ['8 %', '8'],
  ['+2,5', '2.5'],
  ['−8%', '-8'],
  ['eight', null],
  ['', null],
  ['1e3', null],
])('the percentage %s is %s', (typed, read) => {
  expect(percentIn(typed)).toBe(read);
});
