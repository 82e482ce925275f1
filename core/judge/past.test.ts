import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { amount, beyond, level, pounds } from '../../tests/support/rule-play';
import { Reference } from '../../tests/support/reference/reference';
import type { SiteId, WatchId } from '../id';
import type { Decimal } from '../value/decimal';
import type { Value } from '../value/value';
import { DAY, HOUR } from '../when/interval';
import { backtest, replayedAt } from './backtest';
import { keyOf, type Asked, type Figure } from './asked';
import type { Clause } from './clause';
import {
  NOTHING_RELATED,
  PastAround,
  type History,
  type PastRelated,
  type PastItem,
  type PastOffer,
  type StoredReading,
} from './past';
import type { RuleDefinition } from './rule';
import { figureVariants, nearestTo } from './tune';

// What a rule that asks more than its own record would have done.

const SITUATION = { intervalMs: HOUR, savedAt: 0 };
const NOTHING: Figure = { by: 'percent', percent: '0' as Decimal };

/** Readings by the hour: each from its hour on until the next, or for as long as is said. */
const stood = (steps: Record<number, Value>, until = 48): StoredReading[] => {
  const hours = Object.keys(steps).map(Number);
  return hours.map((hour, n) => {
    const last = (hours[n + 1] ?? until + 1) - 1;
    return { at: hour * HOUR, until: last * HOUR, runs: last - hour + 1, value: steps[hour] as Value };
  });
};
const priced = (identity: string, steps: Record<number, Value>, until?: number): History => ({
  identity,
  name: identity,
  fields: { price: { stepwise: true, readings: stood(steps, until) } },
});
const rule = (when: RuleDefinition['when'], more: Partial<RuleDefinition> = {}): RuleDefinition => ({
  when,
  whenAlreadyMet: 'wait',
  ...more,
});
const against = (
  other: Asked,
  is: 'below' | 'above' = 'below',
  more: Partial<Extract<Clause, { kind: 'against' }>> = {},
): Clause => ({ kind: 'against', asked: { field: 'price' }, other, is, by: NOTHING, inclusive: false, ...more });
const ours = against({ field: 'price', item: 'ours' });

const hours = (at: number | null) => (at === null ? null : at / HOUR);
/** Which record was told of at which hour, and from when to when each was raised. */
function tried(definition: RuleDefinition, histories: History[], beside: PastRelated = NOTHING_RELATED) {
  const { alerts, episodes } = backtest(definition, histories, SITUATION, 48 * HOUR, beside);
  return {
    told: alerts.map(({ identity, at }) => [identity, hours(at)]),
    raised: episodes.map(({ identity, opened, closed }) => [identity, hours(opened), hours(closed)]),
  };
}

const offer = (whose: PastOffer['whose'], steps: Record<number, Value>, more: Partial<PastOffer> = {}): PastOffer => ({
  watch: (whose === 'other' ? 1 : 2) as WatchId,
  identity: 'page',
  site: 1 as SiteId,
  whose,
  intervalMs: HOUR,
  readings: { price: stood(steps) },
  ...more,
});
const item = (offers: PastOffer[], more: Partial<PastItem['item']> = {}): PastItem => ({
  item: { reference: 'SM-1', name: 'Smoker', brand: '', category: '', supplier: '', gtin: '', minimums: [], ...more },
  zone: 'UTC',
  offers,
});
const besideOf = (known: PastItem, identity = 'page'): PastRelated => ({
  ...NOTHING_RELATED,
  watch: 1 as WatchId,
  items: { [identity]: known },
});

describe('a rule on another record', () => {
  const follows = rule(against({ field: 'price', record: 'b' }), { only: [{ by: 'identity', in: ['a'] }] });

  it('is tried whichever of the two is read', () => {
    const histories = [
      priced('a', { 0: pounds('25.00'), 20: pounds('22.00') }),
      priced('b', { 0: pounds('24.00'), 10: pounds('26.00'), 14: pounds('23.00') }),
    ];
    expect(tried(follows, histories)).toEqual({
      told: [
        ['a', 10],
        ['a', 20],
      ],
      raised: [
        ['a', 10, 14],
        ['a', 20, null],
      ],
    });
  });

  it('says nothing where there is none, or it is counted in something else', () => {
    expect(tried(follows, [priced('a', { 0: pounds('25.00'), 5: pounds('1.00') })]).told).toEqual([]);
    expect(
      tried(follows, [
        priced('a', { 0: pounds('25.00') }),
        priced('b', { 0: pounds('20.00'), 3: pounds('99.00', 'EUR') }),
      ]).raised,
    ).toEqual([]);
  });

  it('comes to what a plain judge comes to', () => {
    const step = fc.record({
      at: fc.integer({ min: 0, max: 47 }),
      who: fc.constantFrom('a', 'b'),
      amount: fc.integer({ min: 0, max: 6 }),
    });
    const by = fc.integer({ min: 0, max: 2 }).map((each): Figure => ({ by: 'amount', amount: amount(String(each)) }));
    fc.assert(
      fc.property(
        fc.uniqueArray(step, { minLength: 2, maxLength: 20, selector: ({ at, who }) => `${at} ${who}` }),
        by,
        fc.boolean(),
        (steps, figure, inclusive) => {
          const clause = against({ field: 'price', record: 'b' }, 'below', { by: figure, inclusive });
          const ordered = [...steps].sort((one, other) => one.at - other.at);
          const of = (who: string): History => ({
            identity: who,
            name: who,
            fields: {
              price: {
                stepwise: false,
                readings: ordered
                  .filter((each) => each.who === who)
                  .map(({ at, amount: said }) => ({
                    at: at * HOUR,
                    until: at * HOUR,
                    runs: 1,
                    value: amount(String(said)),
                  })),
              },
            },
          });
          const looks = [...new Set(ordered.map(({ at }) => at))].map((at) => ({
            at: at * HOUR,
            other: !ordered.some((each) => each.at === at && each.who === 'a'),
            read: Object.fromEntries(
              ordered
                .filter((each) => each.at === at)
                .map(({ who, amount: said }) => [
                  who === 'a' ? 'price' : keyOf({ field: 'price', record: 'b' }),
                  amount(String(said)),
                ]),
            ),
          }));
          const marks = new Reference({ when: clause, whenAlreadyMet: 'wait' }, SITUATION, HOUR).play(
            looks,
            48 * HOUR,
            [],
          );
          const plain = marks.filter(([, what]) => what.startsWith('alert')).map(([at]) => ['a', hours(at)]);
          expect(tried(rule(clause, { only: [{ by: 'identity', in: ['a'] }] }), [of('a'), of('b')]).told).toEqual(
            plain,
          );
        },
      ),
    );
  });
});

describe('a rule on another watch', () => {
  const other = { field: 'price', watch: 9 };
  const elsewhere = (until: number): PastRelated => ({
    ...NOTHING_RELATED,
    elsewhere: {
      [keyOf(other)]: { readings: stood({ 0: pounds('20.00'), 6: pounds('30.00') }, until), goodFor: 2 * HOUR },
    },
  });
  const own = [priced('page', { 0: pounds('25.00'), 12: pounds('26.00'), 20: pounds('27.00') })];

  it('is tried on what that watch read', () => {
    expect(tried(rule(against(other)), own, elsewhere(48)).raised).toEqual([['page', 6, null]]);
  });

  it('leans on no value that had not been seen for longer than she said', () => {
    const both = rule({ all: [against(other), level('price', beyond('above', pounds('26.50')))] });
    expect(tried(both, own, elsewhere(48)).told).toEqual([['page', 20]]);
    // From hour 10 on the other was not looked at any more.
    expect(tried(both, own, elsewhere(10)).told).toEqual([]);
    const patient = rule({
      all: [against({ ...other, within: 12 * HOUR }), level('price', beyond('above', pounds('26.50')))],
    });
    // From the 23rd hour on nothing can be said, and that is said once after a day of it.
    expect(tried(patient, own, elsewhere(10)).told).toEqual([
      ['page', 20],
      ['page', 47],
    ]);
  });
});

describe('a rule on the item of its records', () => {
  it('is tried against ours as it was then', () => {
    const steps = { 0: pounds('24.00'), 8: pounds('19.00') };
    const beside = besideOf(item([offer('other', steps), offer('own', { 0: pounds('20.00'), 15: pounds('18.00') })]));
    expect(tried(rule(ours), [priced('page', steps)], beside)).toEqual({
      told: [['page', 8]],
      raised: [['page', 8, 15]],
    });
  });

  it('is not met by an item that is not ours, nor against a price of ours that was not looked at any more', () => {
    const steps = { 0: pounds('24.00'), 8: pounds('19.00') };
    expect(tried(rule(ours), [priced('page', steps)]).told).toEqual([]);
    const stale = offer('own', {}, { readings: { price: stood({ 0: pounds('20.00') }, 4) } });
    expect(tried(rule(ours), [priced('page', steps)], besideOf(item([offer('other', steps), stale]))).told).toEqual([]);
  });

  it('knows from which day on a minimum was agreed', () => {
    const minimum = {
      price: { ...pounds('23.00'), kind: 'money', currency: 'GBP' } as const,
      from: '1970-01-02',
      until: null,
    };
    const steps = { 0: pounds('22.00') };
    const under = rule(against({ field: 'price', item: 'minimum' }));
    expect(
      tried(under, [priced('page', steps)], besideOf(item([offer('other', steps)], { minimums: [minimum] }))).raised,
    ).toEqual([['page', 24, null]]);
  });

  it('knows who was the cheapest of its offers, and when that was lost', () => {
    const steps = { 0: pounds('20.00') };
    const beside = besideOf(
      item([
        offer('other', steps),
        offer('other', { 0: pounds('22.00'), 9: pounds('19.00'), 12: pounds('21.00') }, { watch: 3 as WatchId }),
      ]),
    );
    const place = (how: 'takes' | 'loses'): Clause => ({
      kind: 'place',
      asked: { field: 'price' },
      among: 'offers',
      end: 'lowest',
      how,
    });
    expect([
      tried(rule(place('loses')), [priced('page', steps)], beside).told,
      tried(rule(place('takes')), [priced('page', steps)], beside).told,
    ]).toEqual([[['page', 9]], [['page', 12]]]);
  });
});

describe('a rule that is held against another value', () => {
  it('is offered further from it and nearer to it, by what would be told then', () => {
    const steps = { 0: pounds('24.00'), 8: pounds('19.00'), 10: pounds('24.00'), 20: pounds('17.00') };
    const beside = besideOf(item([offer('other', steps), offer('own', { 0: pounds('20.00') })]));
    const variants = figureVariants(rule(ours));
    const counts = variants.map((variant) => tried(variant.rule, [priced('page', steps)], beside).told.length);
    expect(
      Object.fromEntries(
        variants.map(({ of }, n) => [
          of.what === 'figure' && of.figure.by === 'percent' ? of.figure.percent : '',
          counts[n],
        ]),
      ),
    ).toMatchObject({ '0': 2, '4': 2, '5': 1, '10': 1, '15': 0, '50': 0 });
    const counted = counts.map((alerts) => ({ alerts, mostlyMet: false }));
    expect(nearestTo(variants, counted, 1)).toMatchObject([
      { count: 1, variant: { of: { figure: { percent: '5' } } } },
    ]);
    expect(figureVariants(rule(level('price', beyond('above', pounds('5')))))).toEqual([]);
  });
});

describe('a rule on a place among the records of its watch', () => {
  const histories = [
    priced('a', { 0: pounds('20.00'), 30: pounds('25.00') }),
    priced('b', { 0: pounds('22.00'), 5: pounds('18.00'), 9: pounds('23.00') }),
  ];
  const place = (how: 'takes' | 'loses' | 'has'): Clause => ({
    kind: 'place',
    asked: { field: 'price' },
    among: 'records',
    end: 'lowest',
    how,
  });

  it('is tried at each move of any of them', () => {
    expect(tried(rule(place('takes')), histories).told).toEqual([
      ['b', 5],
      ['a', 9],
      ['b', 30],
    ]);
    expect(tried(rule(place('has'), { only: [{ by: 'identity', in: ['a'] }] }), histories).raised).toEqual([
      ['a', 9, 30],
    ]);
  });

  it('is nobody’s where there is but one', () => {
    expect(tried(rule(place('has'), { whenAlreadyMet: 'raise' }), histories.slice(0, 1)).raised).toEqual([]);
  });
});

it('works out anew what a rule made of a reading by what stood beside it then', () => {
  const steps = { 0: pounds('24.00'), 8: pounds('19.00') };
  const [history] = [priced('page', steps)];
  const around = new PastAround(
    [history as History],
    besideOf(item([offer('other', steps), offer('own', { 0: pounds('20.00'), 15: pounds('18.00') })])),
  );
  const at = (hour: number) => replayedAt(rule(ours), history as History, SITUATION, hour * HOUR, { around })?.state;
  expect([at(5), at(8), at(14), at(20)]).toEqual(['calm', 'raised', 'raised', 'calm']);
  expect(replayedAt(rule(ours), history as History, SITUATION, DAY)?.state).toBe('undecided');
});

describe('names that every object has', () => {
  const steps = { 0: pounds('24.00'), 8: pounds('19.00') };

  it('are nobody’s items, and labels only where a record bears them', () => {
    for (const identity of ['constructor', '__proto__', 'toString']) {
      expect(
        tried(rule(ours), [priced(identity, steps)], besideOf(item([offer('own', { 0: pounds('20.00') })]))).told,
      ).toEqual([]);
      const sharing = rule(against({ field: 'price', sharing: { label: identity } }), { whenAlreadyMet: 'raise' });
      expect(tried(sharing, [priced('a', steps), priced('b', { 0: pounds('30.00') })]).told).toEqual([]);
    }
    const labelled = (name: string, labels: string): History => ({
      ...priced(name, name === 'a' ? steps : { 0: pounds('20.00') }),
      labels: JSON.parse(labels) as Record<string, string>,
    });
    const sharing = rule(against({ field: 'price', sharing: { label: '__proto__' } }), {
      only: [{ by: 'identity', in: ['a'] }],
    });
    expect(tried(sharing, [labelled('a', '{"__proto__":"x"}'), labelled('b', '{"__proto__":"x"}')]).told).toEqual([
      ['a', 8],
    ]);
  });
});

describe('a rule on what shares a label with its record', () => {
  const labelled = (identity: string, labels: Record<string, string>, steps: Record<number, number>): History => ({
    identity,
    name: identity,
    labels,
    fields: {
      value: {
        stepwise: true,
        readings: stood(Object.fromEntries(Object.entries(steps).map(([hour, said]) => [hour, amount(String(said))]))),
      },
    },
  });
  const asked = (where?: { label: string; is: string }): Asked => ({
    field: 'value',
    sharing: { label: 'hive', ...(where === undefined ? {} : { where }) },
  });
  const on = (of: Asked, is: 'below' | 'above', limit: string): Clause => ({
    kind: 'level',
    of: { asked: of },
    limits: beyond(is, amount(limit)),
  });
  const sensors = [
    labelled('n-weight', { hive: 'north', sensor: 'weight' }, { 0: 40, 10: 30 }),
    labelled('n-damp', { hive: 'north', sensor: 'humidity' }, { 0: 50, 12: 90 }),
    labelled('s-weight', { hive: 'south', sensor: 'weight' }, { 0: 30 }),
    labelled('s-damp', { hive: 'south', sensor: 'humidity' }, { 0: 50, 20: 90, 25: 60 }),
    labelled('w-weight', { hive: 'west', sensor: 'weight' }, { 0: 20 }),
    labelled('stray', { sensor: 'weight' }, { 0: 20 }),
  ];
  const damp = asked({ label: 'sensor', is: 'humidity' });
  const both = rule(
    { all: [on({ field: 'value' }, 'below', '35'), on(damp, 'above', '80')] },
    { only: [{ by: 'label', label: 'sensor', is: 'weight' }] },
  );

  it('joins the two of one hive, and never those of two', () => {
    expect(tried(both, sensors)).toEqual({
      told: [
        ['n-weight', 12],
        ['s-weight', 20],
      ],
      raised: [
        ['n-weight', 12, null],
        ['s-weight', 20, 25],
      ],
    });
  });

  it('is undecided where nothing shares it, and where the record bears no such label', () => {
    const none = rule(
      { none: [on(damp, 'above', '80')] },
      { only: [{ by: 'identity', in: ['w-weight', 'stray'] }], whenAlreadyMet: 'raise' },
    );
    expect(tried(none, sensors).raised).toEqual([]);
  });

  it('means another record than its own where no second label is said', () => {
    const other = rule(against(asked(), 'below', { asked: { field: 'value' } }), {
      only: [{ by: 'identity', in: ['n-weight', 'n-damp'] }],
    });
    expect(tried({ ...other, whenAlreadyMet: 'raise' }, sensors).raised).toEqual([['n-weight', 0, null]]);
  });
});

describe('a rule that asks nothing of its own record', () => {
  const other = { field: 'price', watch: 9 };
  const elsewhere: PastRelated = {
    ...NOTHING_RELATED,
    elsewhere: {
      [keyOf(other)]: {
        readings: stood({ 0: pounds('20.00'), 6: pounds('30.00'), 9: pounds('31.00') }),
        goodFor: 2 * HOUR,
      },
    },
  };
  const own = [priced('page', { 0: pounds('25.00') })];

  it('begins with the first look at that, and hears of what it asks', () => {
    const above = level('price', beyond('above', pounds('25.00')), { of: { asked: other } }) as Clause;
    expect(tried(rule(above), own, elsewhere).raised).toEqual([['page', 6, null]]);
    expect(tried(rule({ kind: 'change', asked: other }), own, elsewhere).told).toEqual([
      ['page', 6],
      ['page', 9],
    ]);
  });
});
