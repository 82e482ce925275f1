import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MONDAY } from '#tests/support/rule-play';
import { HOUR } from '../when/interval';
import type { Decimal } from '../value/decimal';
import type { History } from './past';
import type { Condition } from './clause';
import { throughRateLimit } from './rate-limit';
import { Trial } from './trial';
import type { Throttle } from './throttle';

type Telt = { identity: string; at: number; told: string };

const alerts = (said: string): Telt[] =>
  said
    .split(' ')
    .map((each) => ({ identity: each.slice(0, 1), at: MONDAY + Number(each.slice(1)) * HOUR, told: 'alert' }));
const shown = (all: Telt[]) =>
  all.map(({ identity, at, told }) => `${identity}${(at - MONDAY) / HOUR}${told === 'alert' ? '' : ` ${told}`}`);
const play = (said: string, telling: Throttle = { atMostEvery: 3 * HOUR, together: true }, until = 99) =>
  shown(throughRateLimit(telling, alerts(said), MONDAY + until * HOUR));

describe('a rule told at most once in a time as a whole', () => {
  it('tells the first of any record, and what comes of all within the time as one when it is up', () => {
    expect(play('a1 b1 c2')).toEqual(['a1', 'c4 several']);
    expect(play('a1 b2')).toEqual(['a1', 'b4']);
  });

  it('begins the time anew with what it tells, and ends it where nothing is held', () => {
    expect(play('a1 b2 c5')).toEqual(['a1', 'b4', 'c7']);
    expect(play('a1 b4')).toEqual(['a1', 'b4']);
    // What comes at the very end of the time comes before that ends.
    expect(play('a1 b2 c4 d4')).toEqual(['a1', 'd4 several']);
    expect(play('a1 b2 c7')).toEqual(['a1', 'b4', 'c7']);
    expect(play('a1 b9')).toEqual(['a1', 'b9']);
  });

  it('holds what is due outside the hours until they begin', () => {
    const hours = { days: [1, 2, 3, 4, 5, 6, 7], from: 9 * 60, to: 17 * 60, zone: 'UTC' };
    expect(play('a15 b16 c16.5', { atMostEvery: 3 * HOUR, together: true, hours })).toEqual(['a15', 'c33 several']);
  });

  it('tells of what is held only once its time is up, and lets reminders and ends pass', () => {
    expect(play('a1 b2', undefined, 3)).toEqual(['a1']);
    const over = { identity: 'a', at: MONDAY + 2 * HOUR, told: 'over' };
    expect(
      shown(throughRateLimit({ atMostEvery: 3 * HOUR, together: true }, [...alerts('a1'), over], MONDAY + 9 * HOUR)),
    ).toEqual(['a1', 'a2 over']);
  });

  it('keeps nothing of a rule that says so for each record', () => {
    expect(play('a1 b1 c2', { atMostEvery: 3 * HOUR })).toEqual(['a1', 'b1', 'c2']);
  });

  it('is tried on the past as if it were not put off', () => {
    const reading = (at: number, amount: string) => ({
      at: at * HOUR,
      until: at * HOUR,
      runs: 1,
      value: { kind: 'number' as const, amount: amount as Decimal, unit: null },
    });
    const past: History = {
      identity: 'a',
      name: 'A',
      fields: {
        v: { stepwise: true, readings: [reading(0, '5'), reading(1, '12'), reading(2, '5'), reading(3, '12')] },
      },
    };
    const when: Condition = {
      kind: 'level',
      of: { asked: { field: 'v' } },
      limits: { is: 'above', limit: { kind: 'number', amount: '10' as Decimal, unit: null }, inclusive: false },
    };
    const tried = (telling?: Throttle) =>
      new Trial([past]).run(
        { when, whenAlreadyMet: 'wait', ...(telling === undefined ? {} : { telling }) },
        { intervalMs: HOUR, savedAt: 0 },
        9 * HOUR,
      ).alertCount;
    expect([
      tried(),
      tried({ putOff: { until: 999 * HOUR, zone: 'UTC' } }),
      tried({ atMostEvery: 9 * HOUR, together: true }),
    ]).toEqual([2, 2, 1]);
  });

  it('never tells twice within the time, and nothing is left behind', () => {
    const times = fc.array(fc.tuple(fc.constantFrom('a', 'b', 'c'), fc.integer({ min: 0, max: 60 })), {
      maxLength: 30,
    });
    fc.assert(
      fc.property(times, fc.integer({ min: 1, max: 9 }), (given, hours) => {
        const all = given
          .map(([identity, at]) => ({ identity, at: MONDAY + at * HOUR, told: 'alert' }))
          .sort((one, other) => one.at - other.at);
        const told = throughRateLimit({ atMostEvery: hours * HOUR, together: true }, all, MONDAY + 999 * HOUR);
        for (const [n, each] of told.entries())
          if (n > 0) expect(each.at - (told[n - 1]?.at ?? 0)).toBeGreaterThanOrEqual(hours * HOUR);
        // Whatever came is told by the next that is told, no later than the time after it came.
        for (const each of all) expect(told.some(({ at }) => at >= each.at && at <= each.at + hours * HOUR)).toBe(true);
      }),
    );
  });
});
