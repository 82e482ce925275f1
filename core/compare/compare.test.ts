import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decimal, type Decimal } from '../value/decimal';
import { money } from '../value/parse';
import { ABSENT, type Value } from '../value/value';
import { compareReadings, recordChange } from './compare';

const kg = (amount: string): Value => ({ kind: 'number', amount: decimal(amount) as Decimal, unit: 'kg' });
const grade = (at: string): Value => ({ kind: 'grade', grade: at, scale: ['A', 'B', 'C'] });
const state = (name: string): Value => ({ kind: 'state', state: name });
const flag = (is: boolean): Value => ({ kind: 'flag', is });
const text = (said: string): Value => ({ kind: 'text', text: said });

describe('a change', () => {
  it.each<[string, Value, Value, object | null]>([
    ['of the same amount written otherwise is none', money('24', 'GBP'), money('24.00', 'GBP'), null],
    [
      'of an amount has its difference and percent',
      money('24.00', 'GBP'),
      money('21.60', 'GBP'),
      { kind: 'amount', difference: '-2.40', percent: '-10.0' },
    ],
    ['from zero has no percent', kg('0'), kg('5'), { kind: 'amount', difference: '5', percent: null }],
    [
      'of currency subtracts nothing',
      money('24', 'GBP'),
      money('24', 'EUR'),
      { kind: 'unit', difference: null, percent: null },
    ],
    ['of a number into money subtracts nothing', kg('24'), money('24', 'GBP'), { kind: 'unit', difference: null }],
    [
      'to absent is one of presence',
      money('24', 'GBP'),
      ABSENT,
      { kind: 'presence', difference: null, sense: 'neither' },
    ],
    ['from absent is one of presence', ABSENT, money('24', 'GBP'), { kind: 'presence', difference: null }],
    [
      'down a scale counts its steps, and is worse',
      grade('A'),
      grade('C'),
      { kind: 'grade', difference: '-2', sense: 'worse' },
    ],
    ['up a scale is better', grade('C'), grade('B'), { kind: 'grade', difference: '1', sense: 'better' }],
    ['of state is one of state', state('in stock'), state('sold out'), { kind: 'state', difference: null }],
    ['of words is one of text', text('a'), text('b'), { kind: 'text', difference: null }],
  ])('%s', (_name, from, to, change) => {
    const found = compareReadings(from, to, 'up is good');
    if (change === null) expect(found).toBe(null);
    else expect(found).toMatchObject(change);
  });

  it.each<[Value, Value, 'up is good' | 'up is bad' | 'neither', string]>([
    [kg('1'), kg('2'), 'up is good', 'better'],
    [kg('2'), kg('1'), 'up is good', 'worse'],
    [kg('1'), kg('2'), 'up is bad', 'worse'],
    [kg('1'), kg('2'), 'neither', 'neither'],
    [flag(false), flag(true), 'up is good', 'better'],
    [flag(false), flag(true), 'up is bad', 'worse'],
    [state('a'), state('b'), 'up is good', 'neither'],
  ])('from %o to %o, where %s, is %s', (from, to, polarity, sense) => {
    expect(compareReadings(from, to, polarity)?.sense).toBe(sense);
  });

  it('there and back differs by the same amount, and is good once where it was bad', () => {
    const pence = fc.integer({ min: 1, max: 10_000_000 }).map((amount) => money((amount / 100).toFixed(2), 'GBP'));
    fc.assert(
      fc.property(pence, pence, (from, to) => {
        const [there, back] = [compareReadings(from, to, 'up is good'), compareReadings(to, from, 'up is good')];
        if (there === null || back === null) {
          expect([there, back, from.amount]).toEqual([null, null, to.amount]);
          return;
        }
        expect(Number(there.difference)).toBeCloseTo(-Number(back.difference), 2);
        expect([there.sense, back.sense].sort()).toEqual(['better', 'worse']);
      }),
    );
  });

  it('of a record that came or went is of the whole record', () => {
    expect(recordChange('appeared', 'L2681')).toMatchObject({ kind: 'record', from: ABSENT, to: { text: 'L2681' } });
    expect(recordChange('vanished', 'L2681')).toMatchObject({ kind: 'record', from: { text: 'L2681' }, to: ABSENT });
  });
});
