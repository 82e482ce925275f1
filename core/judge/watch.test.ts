import { describe, expect, it } from 'vitest';
import type { RecordId, RuleId, SeriesId } from '../id';
import { pageDefinition, type Field } from '../read/definition';
import type { FieldReading, ReadRecord } from '../read/reading';
import { fail, ok } from '../result';
import { decimal, type Decimal } from '../value/decimal';
import { money } from '../value/parse';
import { ABSENT, type Value } from '../value/value';
import { HOUR } from '../when/interval';
import { keyOf } from './asked';
import type { Condition } from './clause';
import type { KnownRecord, KnownRule, KnownWatch } from './known';
import type { RuleDefinition } from './rule';
import { freshSubject, hearSubject } from './subject';
import { alwaysRead, hasMoved, isTaken, judgeWatch, outcomeOf } from './watch';

const NOW = Date.UTC(2026, 5, 1, 9);

const TEMPERATURE: Field = {
  key: 'value',
  label: 'temperature',
  type: { kind: 'number' },
  mode: 'measured',
  polarity: 'neither',
  locale: null,
  locators: [],
};
const PRICE: Field = {
  key: 'price',
  label: 'price',
  type: { kind: 'money', currency: null },
  mode: 'stepwise',
  polarity: 'up is good',
  locale: null,
  locators: [],
};

const pounds = (amount: string) => ({
  kind: 'money' as const,
  amount: decimal(amount) ?? ('0' as Decimal),
  currency: 'GBP',
});

const celsius = (amount: string): Value => ({
  kind: 'number',
  amount: decimal(amount) ?? ('0' as Decimal),
  unit: 'Cel',
});

const ruleOf = (id: number, when: Condition, whenAlreadyMet: RuleDefinition['whenAlreadyMet']): KnownRule => ({
  id: id as RuleId,
  version: 1,
  judgedVersion: 1,
  savedAt: NOW - 2 * HOUR,
  baselineAt: NOW - 2 * HOUR,
  definition: { when, whenAlreadyMet },
  memories: new Map(),
});

/** A rule that judged its baseline an hour ago. */
function begun(rule: KnownRule, identity: string, field: string, value: Value): KnownRule {
  const situation = { intervalMs: HOUR, savedAt: rule.savedAt };
  const heard = {
    of: 'run' as const,
    at: NOW - HOUR,
    moment: NOW - HOUR,
    own: true,
    read: new Map([[field, { value, at: NOW - HOUR }]]),
  };
  const memory = hearSubject(rule.definition, freshSubject(rule.definition, situation), heard, situation).at(
    -1,
  )?.memory;
  return memory === undefined ? rule : { ...rule, memories: new Map([[identity, memory]]) };
}

const hotter = ruleOf(
  1,
  {
    kind: 'level',
    of: { asked: { field: 'value' } },
    limits: { is: 'above', limit: { kind: 'number', amount: '38' as Decimal, unit: 'Cel' }, inclusive: false },
  },
  'raise',
);

const sensors = (change: Partial<KnownWatch> = {}): KnownWatch => ({
  definition: { ...pageDefinition('Hives', [TEMPERATURE]), records: { from: 'senml' } },
  intervalMs: HOUR,
  version: 1,
  readVersion: 1,
  lastGoodAt: NOW - HOUR,
  records: new Map(),
  missing: [],
  rules: [hotter],
  ...change,
});

const point = (
  identity: string,
  amount: string,
  at: number | null,
  quality: 'good' | 'bad' | null = null,
): ReadRecord => ({
  identity,
  name: identity,
  variant: null,
  labels: {},
  marks: { at, quality },
  fields: [reading('value', celsius(amount))],
});

const reading = (field: string, value: Value): FieldReading =>
  ({ field, outcome: ok({ value, lost: [], text: '', byLocale: false }) }) as unknown as FieldReading;

const read = (...records: ReadRecord[]) => ({ reading: ok({ records, problems: [], offered: [] }), seems: null });

describe('several points of one new series in one body', () => {
  const outcome = judgeWatch(sensors(), read(point('hive', '41', NOW - 1000), point('hive', '40', NOW - 2000)), NOW);

  it('are judged one after another in their own time, open one episode and are told once', () => {
    expect(outcome.verdicts.map(({ turn }) => turn.effects.map((effect) => effect.do))).toEqual([
      ['open', 'alert'],
      ['peak'],
    ]);
    expect(outcome.verdicts.map(({ reason }) => reason.code)).toEqual(['met at the baseline', 'still raised']);
    expect(outcome.verdicts.filter(isTaken)).toHaveLength(1);
  });

  it('belong to a series whose number is not known yet', () => {
    expect(outcome.good.map(({ known }) => known?.id ?? null)).toEqual([null, null]);
    expect(outcome.good.map(({ known }) => known === null)).toEqual([true, false]);
    expect(outcome.records).toMatchObject([{ identity: 'hive', known: null }]);
  });
});

/** A record whose field stands at a value since a moment of its source's own. */
const standing = (field: string, value: Value, sourceAt: number): KnownRecord => ({
  id: 7 as RecordId,
  identity: 'hive',
  name: 'hive',
  labels: {},
  firstSeen: 0,
  goneSince: null,
  counters: {},
  series: new Map([[field, { id: 9 as SeriesId, value, openSince: sourceAt, lastGoodAt: NOW - HOUR, sourceAt }]]),
});

describe('what moves only in steps', () => {
  const dear = ruleOf(
    2,
    {
      kind: 'level',
      of: { asked: { field: 'price' } },
      limits: { is: 'above', limit: pounds('100'), inclusive: false },
    },
    'raise',
  );
  const known = standing('price', pounds('99'), NOW - 60_000);
  const read101 = (from: 'senml' | 'page', at: number) =>
    judgeWatch(
      sensors({
        definition: { ...pageDefinition('Hives', [PRICE]), records: { from } },
        records: new Map([['hive', known]]),
        rules: [dear],
      }),
      read({ ...point('hive', '0', at), fields: [reading('price', pounds('101'))] }),
      NOW,
    );

  it('is placed by the time that comes with its point: a late one raises nothing', () => {
    const { good, verdicts } = read101('senml', NOW - 120_000);
    expect([good.map(({ late, at }) => [late, at]), verdicts.flatMap(({ turn }) => turn.told)]).toEqual([
      [[true, NOW - 120_000]],
      [],
    ]);
    expect(read101('senml', NOW - 30_000).verdicts.filter(isTaken)).toHaveLength(1);
  });

  it('is read on a page whatever date that bears', () => {
    const { good, verdicts } = read101('page', NOW - 120_000);
    expect([good.map(({ late, at }) => [late, at]), verdicts.filter(isTaken).length]).toEqual([[[false, NOW]], 1]);
  });
});

describe('points of a series', () => {
  const known = (amount: string, sourceAt: number) => standing('value', celsius(amount), sourceAt);
  const after = (...records: ReadRecord[]) =>
    judgeWatch(sensors({ records: new Map([['hive', known('20', NOW - 60_000)]]) }), read(...records), NOW);

  it('of a time that it has already are taken once, and late ones raise nothing', () => {
    expect(after(point('hive', '45', NOW - 60_000)).good).toEqual([]);
    const late = after(point('hive', '45', NOW - 120_000));
    expect([late.good[0]?.late, late.verdicts.map(({ turn }) => [turn.effects, turn.told])]).toEqual([
      true,
      [[[], []]],
    ]);
  });

  it('of bad quality take their place and are not judged', () => {
    const bad = after(point('hive', '45', NOW - 1000, 'bad'), point('hive', '39', NOW - 500));
    expect(bad.good).toHaveLength(2);
    expect(bad.verdicts.map(({ about }) => about?.value)).toEqual([celsius('39')]);
  });

  it('of a moment long ahead are no readings', () => {
    const ahead = after(point('hive', '45', NOW + 48 * HOUR));
    expect([ahead.good.length, ahead.bad.length, ahead.verdicts.length]).toEqual([0, 1, 0]);
  });
});

describe('a page', () => {
  const below: Condition = {
    kind: 'crossing',
    of: { asked: { field: 'price' } },
    limits: { is: 'below', limit: money('22.00', 'GBP') as never, inclusive: false },
  };
  const falls = begun(ruleOf(2, below, 'wait'), '', 'price', money('24.00', 'GBP'));
  const changes = begun(
    ruleOf(3, { kind: 'change', asked: { field: 'price' } }, 'wait'),
    '',
    'price',
    money('24.00', 'GBP'),
  );
  const known: KnownRecord = {
    id: 1 as RecordId,
    identity: '',
    name: null,
    labels: {},
    firstSeen: 0,
    goneSince: null,
    counters: {},
    series: new Map([
      [
        'price',
        { id: 1 as SeriesId, value: money('24.00', 'GBP'), openSince: 0, lastGoodAt: NOW - HOUR, sourceAt: null },
      ],
    ]),
  };
  const watch: KnownWatch = {
    ...sensors(),
    definition: pageDefinition('Smoker', [PRICE]),
    records: new Map([['', known]]),
    rules: [falls, changes],
  };
  const page = (value: string): ReadRecord => ({
    ...point('', '0', null),
    fields: [reading('price', money(value, 'GBP'))],
  });

  it('is judged by every rule of its watch', () => {
    const outcome = judgeWatch(watch, read(page('21.50')), NOW);
    expect(outcome.verdicts.map(({ rule, reason }) => [rule.id, reason.code])).toEqual([
      [2, 'met'],
      [3, 'changed'],
    ]);
    expect(outcome.good[0]?.change).toMatchObject({ difference: '-2.50' });
    expect(outcomeOf(watch, outcome)).toBe('changed');
  });

  it('that brings the same moves no memory', () => {
    const outcome = judgeWatch(watch, read(page('24.0')), NOW);
    expect(outcome.verdicts.filter(({ rule }) => rule.id === 2).map(hasMoved)).toEqual([false]);
    expect([outcome.good[0]?.opens, outcomeOf(watch, outcome)]).toEqual([false, 'same']);
  });

  it('that cannot be read is a failure, and no verdict', () => {
    const outcome = judgeWatch(watch, { reading: fail({ reason: 'not workable', said: 'no' }), seems: null }, NOW);
    expect([outcome.failure?.reason, outcome.verdicts, outcomeOf(watch, outcome)]).toEqual([
      'not workable',
      [],
      'failed',
    ]);
  });

  it('is judged again though it is the same, where a rule holds', () => {
    expect(alwaysRead(watch)).toBe(false);
    const holding = { ...falls, definition: { ...falls.definition, hold: { for: 'time' as const, ms: HOUR } } };
    expect(alwaysRead({ ...watch, rules: [holding] })).toBe(true);
  });
});

describe('a list', () => {
  const list = (change: Partial<KnownWatch>): KnownWatch =>
    sensors({ definition: { ...pageDefinition('Lots', [PRICE]), records: { from: 'csv' } }, rules: [], ...change });
  const lot = (identity: string): ReadRecord => ({
    ...point(identity, '0', null),
    fields: [reading('price', money('5.00', 'GBP'))],
  });
  const missing: KnownRecord = {
    id: 4 as RecordId,
    identity: 'b',
    name: 'Lot B',
    labels: {},
    firstSeen: 0,
    goneSince: null,
    counters: {},
    series: new Map(),
  };

  it('says what came and what went, once it was read in this version', () => {
    const moves = judgeWatch(list({ missing: [missing] }), read(lot('a')), NOW).moves;
    expect(moves.map(({ identity, change }) => [identity, change.to.kind])).toEqual([
      ['a', 'text'],
      ['b', 'absent'],
    ]);
    expect(judgeWatch(list({ missing: [missing], readVersion: null }), read(lot('a')), NOW).moves).toEqual([]);
  });
});

describe('a value of another watch', () => {
  const ours = (value: Value, at: number, goodFor?: number) =>
    new Map([[keyOf({ field: 'value', watch: 5 }), { value, at, ...(goodFor === undefined ? {} : { goodFor }) }]]);
  const against = (within?: number): Condition => ({
    kind: 'against',
    asked: { field: 'value' },
    other: { field: 'value', watch: 5, ...(within === undefined ? {} : { within }) },
    is: 'above',
    by: { by: 'percent', percent: '0' as Decimal },
    inclusive: false,
  });
  const level: Condition = {
    kind: 'level',
    of: { asked: { field: 'value', watch: 5 } },
    limits: { is: 'below', limit: { kind: 'number', amount: '30' as Decimal, unit: 'Cel' }, inclusive: false },
  };
  const verdict = (when: Condition, elsewhere: KnownWatch['elsewhere']) =>
    judgeWatch(
      sensors({
        rules: [ruleOf(1, { all: [hotter.definition.when, when] }, 'raise')],
        ...(elsewhere === undefined ? {} : { elsewhere }),
      }),
      read(point('hive', '41', NOW)),
      NOW,
    ).verdicts[0]?.turn.verdict;

  it.each<[string, Condition, number, number | undefined, string]>([
    ['is leant on for two of its looks, however often we look', against(), NOW - 20 * HOUR, 48 * HOUR, 'met'],
    ['is not leant on beyond those', against(), NOW - 49 * HOUR, 48 * HOUR, 'undecided'],
    ['is leant on for as long as she says', against(72 * HOUR), NOW - 49 * HOUR, 48 * HOUR, 'met'],
    ['is not leant on for longer than she says', against(HOUR), NOW - 2 * HOUR, 48 * HOUR, 'undecided'],
    ['that a limit is held against is leant on, too', level, NOW - 20 * HOUR, 48 * HOUR, 'met'],
    ['that a limit is held against is too old at its time', level, NOW - 49 * HOUR, 48 * HOUR, 'undecided'],
  ])('%s', (_what, when, at, goodFor, is) => {
    expect(verdict(when, ours(celsius('25'), at, goodFor))).toBe(is);
  });

  it('that has none says nothing', () => {
    expect([verdict(against(), ours(ABSENT, NOW)), verdict(against(), undefined)]).toEqual(['undecided', 'undecided']);
  });
});

describe('another record', () => {
  const warmer: Condition = {
    kind: 'against',
    asked: { field: 'value' },
    other: { field: 'value', record: 'store' },
    is: 'above',
    by: { by: 'percent', percent: '0' as Decimal },
    inclusive: false,
  };
  const store = (goneSince: number | null): KnownRecord => ({
    id: 8 as RecordId,
    identity: 'store',
    name: 'store',
    labels: {},
    firstSeen: 0,
    goneSince,
    counters: {},
    series: new Map([
      ['value', { id: 9 as SeriesId, value: celsius('20'), openSince: 0, lastGoodAt: NOW - HOUR, sourceAt: null }],
    ]),
  });
  const remembers = (() => {
    const rule = ruleOf(1, warmer, 'raise');
    const situation = { intervalMs: HOUR, savedAt: rule.savedAt };
    const heard = {
      of: 'run' as const,
      at: NOW - HOUR,
      moment: NOW - HOUR,
      own: true,
      read: new Map([
        ['value', { value: celsius('10'), at: NOW - HOUR }],
        [keyOf({ field: 'value', record: 'store' }), { value: celsius('20'), at: NOW - HOUR }],
      ]),
    };
    const memory = hearSubject(rule.definition, freshSubject(rule.definition, situation), heard, situation).at(
      -1,
    )?.memory;
    return { ...rule, memories: new Map(memory === undefined ? [] : [['hive', memory]]) };
  })();
  const verdict = (change: Partial<KnownWatch>) =>
    judgeWatch(sensors({ rules: [remembers], ...change }), read(point('hive', '41', NOW)), NOW).verdicts.find(
      ({ identity }) => identity === 'hive',
    )?.turn.verdict;

  it('is held against while it is there, and not once it is gone', () => {
    expect(verdict({ records: new Map([['store', store(null)]]) })).toBe('met');
    expect(verdict({ records: new Map([['store', store(NOW - HOUR / 2)]]) })).toBe('undecided');
    expect(verdict({ missing: [store(null)] })).toBe('undecided');
  });
});
