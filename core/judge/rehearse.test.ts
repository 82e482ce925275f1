import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareDecimals, type Decimal } from '../value/decimal';
import { money } from '../value/parse';
import { ABSENT, type Value } from '../value/value';
import { HOUR } from '../when/interval';
import { rehearse, rehearseCourse } from './rehearse';
import { keyOf, type Limits } from './asked';
import type { Clause, Condition } from './clause';
import type { RuleDefinition } from './rule';

interface Limit {
  kind: 'level' | 'crossing';
  is: 'below' | 'above';
  limit: Extract<Limits, { limit: unknown }>['limit'];
  inclusive: boolean;
}

const limit = (change: Partial<Limit> = {}): Clause => {
  const { kind, ...limits } = {
    kind: 'crossing' as const,
    is: 'below' as const,
    limit: money('24.00', 'GBP'),
    inclusive: false,
    ...change,
  };
  return { kind, of: { asked: { field: 'v' } }, limits };
};
const rule = (when: Condition, more: Partial<RuleDefinition> = {}): RuleDefinition => ({
  when,
  whenAlreadyMet: 'wait',
  ...more,
});
const amounts = (definition: RuleDefinition, present: Value) =>
  rehearse(definition, { v: present }, HOUR).map(
    ({ value, told }) =>
      `${value.kind === 'money' || value.kind === 'number' ? value.amount : value.kind}${told ? ' told' : ''}`,
  );

describe('a rehearsal', () => {
  it('passes the limit by the least there is in its own unit', () => {
    expect(amounts(rule(limit()), money('26.00', 'GBP'))).toEqual(['26.00', '23.99 told']);
    expect(amounts(rule(limit({ limit: money('2400', 'JPY') })), money('2600', 'JPY'))).toEqual(['2600', '2399 told']);
    expect(amounts(rule(limit({ limit: money('24.00', 'GBP'), inclusive: true })), money('26.00', 'GBP'))).toEqual([
      '26.00',
      '24.00 told',
    ]);
    expect(
      amounts(rule(limit({ is: 'above', limit: { kind: 'number', amount: '0.125' as never, unit: 'kg' } })), {
        kind: 'number',
        amount: '0.1' as never,
        unit: 'kg',
      }),
    ).toEqual(['0.1', '0.126 told']);
  });

  it('first leaves a limit that is met already, unless she wants to hear of that', () => {
    expect(amounts(rule(limit()), money('23.00', 'GBP'))).toEqual(['23.00', '24.00', '23.99 told']);
    expect(amounts(rule(limit(), { whenAlreadyMet: 'raise' }), money('23.00', 'GBP'))).toEqual(['23.00 told']);
  });

  it('holds as long as the rule asks', () => {
    expect(amounts(rule(limit(), { hold: { for: 'readings', count: 3 } }), money('26.00', 'GBP'))).toEqual([
      '26.00',
      '23.99',
      '23.99',
      '23.99 told',
    ]);
    expect(amounts(rule(limit(), { hold: { for: 'time', ms: 2 * HOUR } }), money('26.00', 'GBP')).at(-1)).toBe(
      '23.99 told',
    );
  });

  it('of any change changes what is there, whatever it is', () => {
    const values: Value[] = [
      money('1.00', 'GBP'),
      { kind: 'text', text: 'a' },
      { kind: 'state', state: 'sold out' },
      { kind: 'flag', is: true },
      { kind: 'grade', grade: 'A', scale: ['A', 'B'] },
    ];
    for (const value of values)
      expect(
        rehearse(rule({ kind: 'change', asked: { field: 'v' } }), { v: value }, HOUR).map(({ told }) => told),
      ).toEqual([false, true]);
  });

  it('tells nothing of what the rule cannot tell, and says why', () => {
    for (const value of [money('20.00', 'EUR'), ABSENT]) {
      const done = rehearse(rule(limit()), { v: value }, HOUR);
      expect(done.map(({ told, reason }) => [told, reason.code])).toEqual([
        [false, value.kind === 'absent' ? 'undecided' : 'unlike'],
      ]);
    }
  });

  it('ends with somebody told, for every limit and every value alike', () => {
    const pence = fc.integer({ min: 0, max: 99_999 }).map((each) => (each / 100).toFixed(2));
    const condition = fc.record({
      kind: fc.constantFrom<'level' | 'crossing'>('level', 'crossing'),
      is: fc.constantFrom<'below' | 'above'>('below', 'above'),
      inclusive: fc.boolean(),
      amount: pence,
    });
    fc.assert(
      fc.property(
        condition,
        pence,
        fc.constantFrom<'raise' | 'wait'>('raise', 'wait'),
        ({ amount, ...said }, present, whenAlreadyMet) => {
          const done = rehearse(
            rule(limit({ ...said, limit: money(amount, 'GBP') }), { whenAlreadyMet }),
            { v: money(present, 'GBP') },
            HOUR,
          );
          const last = done.at(-1);
          expect([done.length <= 3, last?.told]).toEqual([true, true]);
          if (last?.value.kind === 'money')
            expect(
              compareDecimals(last.value.amount, amount as never) * (said.is === 'below' ? -1 : 1),
            ).toBeGreaterThanOrEqual(last === done[0] && !said.inclusive ? 1 : 0);
        },
      ),
    );
  });
});

describe('a course of pretended looks', () => {
  const pounds = (amount: string, stock = 'in stock') => ({
    v: money(amount, 'GBP'),
    stock: { kind: 'state', state: stock } as Value,
  });
  const looks = (...values: ReturnType<typeof pounds>[]) => values.map((each, at) => ({ at: at * HOUR, values: each }));
  const both: Condition = {
    all: [limit(), { kind: 'state', asked: { field: 'stock' }, how: { is: { kind: 'state', state: 'sold out' } } }],
  };
  const said = (definition: RuleDefinition, ...values: ReturnType<typeof pounds>[]) =>
    rehearseCourse(definition, looks(...values), HOUR).map(
      ({ by, at, told, reason }) => `${by} ${at / HOUR} ${told ? 'told' : reason.code}`,
    );

  it('of several fields is judged run by run', () => {
    expect(
      said(rule(both), pounds('26.00'), pounds('22.00'), pounds('22.00', 'sold out'), pounds('21.00', 'sold out')),
    ).toEqual(['look 0 not met', 'look 1 not met', 'look 2 told', 'look 3 still raised']);
  });

  it('goes by the clock between runs', () => {
    const held = rule(limit(), { hold: { for: 'time', ms: 1.5 * HOUR } });
    expect(said(held, pounds('26.00'), pounds('22.00'), pounds('22.00'), pounds('22.00'))).toEqual([
      'look 0 not met',
      'look 1 holds for a time',
      'look 2 holds for a time',
      'clock 2.5 told',
      'look 3 still raised',
    ]);
  });

  it('begins where the rule is saved: what the first run is beyond waits to be crossed, or is raised as she chose', () => {
    expect(said(rule(limit()), pounds('22.00'), pounds('21.00'))).toEqual([
      'look 0 not seen to cross',
      'look 1 not seen to cross',
    ]);
    expect(said(rule(limit(), { whenAlreadyMet: 'raise' }), pounds('22.00'))).toEqual(['look 0 told']);
  });

  it('ends where the clock would have to move it for ever', () => {
    const reminds = rule(limit(), { telling: { remindEvery: 60_000 } });
    const course = [0, 1, 2, 1_000_000].map((at) => ({ at: at * HOUR, values: pounds(at === 0 ? '26.00' : '22.00') }));
    const done = rehearseCourse(reminds, course, HOUR);
    expect([done.length < 300, done.filter(({ by }) => by === 'look').length]).toEqual([true, 3]);
  });

  it('holds it against what stands beside the record, and against nothing that is too old', () => {
    const other = { field: 'v', watch: 7 };
    const below: Clause = {
      kind: 'against',
      asked: { field: 'v' },
      other,
      is: 'below',
      by: { by: 'percent', percent: '0' as Decimal },
      inclusive: false,
    };
    const course = ['26.00', '22.00'].map((amount, at) => ({ at: at * HOUR, values: pounds(amount) }));
    const seen = (ago: number) => ({
      at: 10 * HOUR,
      read: new Map([[keyOf(other), { value: money('24.00', 'GBP'), at: (10 - ago) * HOUR, goodFor: 2 * HOUR }]]),
      groups: new Map(),
    });
    const codes = (ago: number) =>
      rehearseCourse(rule(below), course, HOUR, seen(ago)).map(({ told, reason }) => (told ? 'told' : reason.code));
    expect([codes(1), codes(3), rehearseCourse(rule(below), course, HOUR).some(({ told }) => told)]).toEqual([
      ['not met', 'told'],
      ['undecided', 'undecided'],
      false,
    ]);
  });

  it('of none is none', () => {
    expect(rehearseCourse(rule(limit()), [], HOUR)).toEqual([]);
  });
});
