import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Decimal } from '../value/decimal';
import type { Measure } from '../value/value';
import { DAY, HOUR } from '../when/interval';
import { backtest } from './backtest';
import { runsOf } from './past-moments';
import type { History, StoredReading } from './past';
import type { Condition } from './clause';
import type { RuleDefinition } from './rule';
import { freshSubject, hearSubject, isNotifying, nextOfSubject, wakeSubject } from './subject';
import { Trial } from './trial';
import { limitVariants, nearestTo, otherVariants, withLimit } from './tune';

const number = (amount: number): Measure => ({ kind: 'number', amount: String(amount) as Decimal, unit: null });
const above = (limit: number, field = 'v'): Condition => ({
  kind: 'level',
  of: { asked: { field } },
  limits: { is: 'above', limit: number(limit), inclusive: false },
});
const rule = (when: Condition, more: Partial<RuleDefinition> = {}): RuleDefinition => ({
  when,
  whenAlreadyMet: 'wait',
  ...more,
});
const hourly = (amounts: number[]): StoredReading[] =>
  amounts.map((amount, at) => ({ at: at * HOUR, until: at * HOUR, runs: 1, value: number(amount) }));
const past = (fields: Record<string, number[]>, stepwise = false): History => ({
  identity: 'a',
  name: 'A',
  fields: Object.fromEntries(
    Object.entries(fields).map(([field, amounts]) => [field, { stepwise, readings: hourly(amounts) }]),
  ),
});
const SITUATION = { intervalMs: HOUR, savedAt: 0 };
const tried = (definition: RuleDefinition, history: History) => backtest(definition, [history], SITUATION, 10 * DAY);

describe('a rule tried on the past', () => {
  it('tells when, for how long and how far it would have been met', () => {
    const { alertCount, alerts, episodes } = tried(rule(above(10)), past({ v: [5, 12, 15, 8, 11, 11] }));
    expect([alertCount, alerts.map(({ at }) => at / HOUR)]).toEqual([2, [1, 4]]);
    expect(
      episodes.map(({ opened, closed, peak }) => [
        opened / HOUR,
        closed === null ? null : closed / HOUR,
        (peak as Measure).amount,
      ]),
    ).toEqual([
      [1, 3, '15'],
      [4, null, '11'],
    ]);
  });

  it('shows what passed before it had held for long enough', () => {
    const { alertCount, episodes } = tried(
      rule(above(10), { hold: { for: 'readings', count: 2 } }),
      past({ v: [5, 12, 8, 12, 13, 8] }),
    );
    expect([alertCount, episodes.map(({ raised }) => (raised === null ? 'short' : raised / HOUR))]).toEqual([
      1,
      ['short', 4],
    ]);
  });

  it('says of several conditions which of them contribute', () => {
    const either = rule({ any: [above(10), above(100, 'w')] });
    expect(tried(either, past({ v: [5, 12, 5, 12], w: [1, 1, 1, 1] })).byClause).toEqual([2, 0]);
  });

  it('takes a value that stood for many runs as as many runs, where each counts', () => {
    const stood: History = {
      identity: 'a',
      name: 'A',
      fields: {
        v: {
          stepwise: true,
          readings: [
            { at: 0, until: 2 * HOUR, runs: 3, value: number(5) },
            { at: 3 * HOUR, until: 9 * HOUR, runs: 7, value: number(12) },
          ],
        },
      },
    };
    expect(
      tried(rule(above(10), { hold: { for: 'readings', count: 4 } }), stood).alerts.map(({ at }) => at / HOUR),
    ).toEqual([6]);
    expect(tried(rule(above(10), { hold: { for: 'readings', count: 8 } }), stood).alertCount).toBe(0);
  });

  it('judges a field that moves in steps as it stood when another one moved', () => {
    const history: History = {
      identity: 'a',
      name: 'A',
      fields: { v: { stepwise: true, readings: hourly([12]) }, w: { stepwise: true, readings: hourly([1, 1, 200]) } },
    };
    expect(tried(rule({ all: [above(10), above(100, 'w')] }), history).alerts.map(({ at }) => at / HOUR)).toEqual([2]);
  });

  it('is tried on the records alone that it runs for', () => {
    const two = [
      past({ v: [5, 12] }),
      { ...past({ v: [5, 12] }), identity: 'b', name: 'B', labels: { hive: 'north' } },
    ];
    const found = (only: RuleDefinition['only']) =>
      backtest(rule(above(10), { only: only ?? [] }), two, SITUATION, DAY).alerts.map(({ identity }) => identity);
    expect([
      found([{ by: 'identity', in: ['b'] }]),
      found([{ by: 'name', holds: 'a' }]),
      found([{ by: 'label', label: 'hive', is: 'north' }]),
      found([]),
    ]).toEqual([['b'], ['a'], ['b'], ['a', 'b']]);
  });

  it('knows no past where there is none', () => {
    expect(tried(rule(above(10)), past({ v: [] }))).toMatchObject({ alertCount: 0, readings: 0, episodes: [] });
    expect(tried(rule(above(10)), { identity: 'a', name: 'A', fields: {} })).toMatchObject({
      alertCount: 0,
      readings: 0,
    });
  });

  it('tells what the pipeline would have told, step by step', () => {
    const values = fc.array(fc.integer({ min: 0, max: 20 }), { minLength: 1, maxLength: 60 });
    const more = fc.record({
      hold: fc.option(
        fc.constantFrom({ for: 'readings' as const, count: 2 }, { for: 'time' as const, ms: 90 * 60_000 }),
        { nil: undefined },
      ),
      telling: fc.option(fc.constantFrom({ atMostEvery: 5 * HOUR }, { remindEvery: 3 * HOUR }), { nil: undefined }),
    });
    fc.assert(
      fc.property(values, fc.integer({ min: 1, max: 19 }), more, (amounts, limit, { hold, telling }) => {
        const definition = rule(above(limit), {
          ...(hold === undefined ? {} : { hold }),
          ...(telling === undefined ? {} : { telling }),
        });
        expect(tried(definition, past({ v: amounts })).alerts.map(({ at, told }) => [at, told])).toEqual(
          plainly(definition, amounts),
        );
      }),
    );
  });
});

/** The same by hand: each reading heard when it came, the clock woken at each moment that it asks for. */
function plainly(definition: RuleDefinition, amounts: number[]): [number, string][] {
  let memory = freshSubject(definition, SITUATION);
  const told: [number, string][] = [];
  const take = (turns: ReturnType<typeof hearSubject>) => {
    for (const turn of turns)
      told.push(...turn.told.filter(isNotifying).map((each): [number, string] => [each.at, each.what]));
    memory = turns.at(-1)?.memory ?? memory;
  };
  const wakeUntil = (to: number) => {
    for (
      let due = nextOfSubject(definition, memory, SITUATION);
      due !== null && due <= to;
      due = nextOfSubject(definition, memory, SITUATION)
    )
      take(wakeSubject(definition, memory, due, SITUATION));
  };
  for (const { at, value } of hourly(amounts)) {
    wakeUntil(at - 1);
    take(
      hearSubject(
        definition,
        memory,
        { of: 'run', at, moment: at, own: true, read: new Map([['v', { value, at }]]) },
        SITUATION,
      ),
    );
  }
  wakeUntil(10 * DAY);
  return told.sort(([one], [other]) => one - other);
}

describe('less, or more', () => {
  const history = past({ v: [5, 12, 5, 14, 5, 16, 5, 18] });
  const count = (definition: RuleDefinition) => tried(definition, history).alertCount;

  it('is offered by limits between the least and the most that was read', () => {
    const variants = limitVariants(rule(above(10)), [history], 13);
    const counts = variants.map((variant) => count(variant.rule));
    expect([Math.max(...counts), Math.min(...counts)]).toEqual([4, 0]);
    const seldom = counts.map((alerts) => ({ alerts, mostlyMet: false }));
    expect(nearestTo(variants, seldom, 2)).toMatchObject([{ count: 2 }]);
  });

  it('offers no limit that is met for most of the time, however seldom that tells', () => {
    const history = past({ v: Array.from({ length: 200 }, (_, at) => (at % 40 === 39 ? 30 : 14 + (at % 3))) });
    const variants = limitVariants(rule(above(20)), [history], 12);
    const trial = new Trial([history]);
    const counted = variants.map((variant) => trial.count(variant.rule, SITUATION, 200 * HOUR));
    expect(counted.some(({ mostlyMet }) => mostlyMet)).toBe(true);
    const [offered] = nearestTo(variants, counted, 1);
    expect(Number(offered?.variant.of.what === 'limit' && offered.variant.of.limit.amount)).toBeGreaterThan(16);
  });

  it('offers no limit of money that is finer than money is', () => {
    const pounds = (amount: string) => ({ kind: 'money' as const, amount: amount as Decimal, currency: 'GBP' });
    const readings = ['13.85', '13.99', '14.20'].map((amount, at) => ({
      at: at * HOUR,
      until: at * HOUR,
      runs: 1,
      value: pounds(amount),
    }));
    const priced: History = { identity: 'a', name: 'A', fields: { v: { stepwise: true, readings } } };
    const below = (limit: string) =>
      rule({
        kind: 'level',
        of: { asked: { field: 'v' } },
        limits: { is: 'below', limit: pounds(limit), inclusive: false },
      });
    const limits = (limit: string) =>
      limitVariants(below(limit), [priced], 28).flatMap(({ of }) => (of.what === 'limit' ? [of.limit.amount] : []));
    expect(limits('14').every((amount) => /^\d+\.\d\d$/.test(amount))).toBe(true);
    expect(limits('13.995').every((amount) => /^\d+\.\d{3}$/.test(amount))).toBe(true);
  });

  it('takes of a value that stood for ever its latest looks alone', () => {
    const forever = {
      at: 0,
      until: 2_000_000 * HOUR,
      runs: 2_000_001,
      value: { kind: 'number' as const, amount: '1' as Decimal, unit: null },
    };
    expect(runsOf(forever, true, 3).map(({ at }) => at / HOUR)).toEqual([1_999_998, 1_999_999, 2_000_000]);
    expect(runsOf(forever, true)).toHaveLength(200_000);
    expect(runsOf(forever, false)).toHaveLength(1);
  });

  it('offers no limit that is finer than what was ever read', () => {
    const limits = (...of: number[]) =>
      limitVariants(rule(above(10)), [past({ v: of })], 28).flatMap(({ of: said }) =>
        said.what === 'limit' ? [said.limit.amount] : [],
      );
    expect(limits(8, 12, 9)).toEqual(['8', '9', '10', '11', '12']);
    expect(limits(8, 12.5, 9).every((amount) => /^\d+\.\d$/.test(amount))).toBe(true);
  });

  it('is offered by holds where a rule can hold, and by none where it cannot', () => {
    expect(otherVariants(rule(above(10)), HOUR).some(({ of }) => of.what === 'hold')).toBe(true);
    expect(otherVariants(rule({ kind: 'change', asked: { field: 'v' } }), HOUR)).toEqual([]);
  });

  it('moves the limit that is meant, and nothing else', () => {
    const two = rule({ all: [above(10), above(100, 'w')] });
    expect(withLimit(two, '11' as Decimal).when).toEqual({ all: [above(11), above(100, 'w')] });
    expect(limitVariants(rule({ kind: 'change', asked: { field: 'v' } }), [history], 10)).toEqual([]);
    expect(limitVariants(rule(above(10)), [past({ v: [7, 7, 7] })], 10)).toEqual([]);
  });
});
