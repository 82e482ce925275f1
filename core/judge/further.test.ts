import { describe, expect, it } from 'vitest';
import { amount, hourly, level, play, pounds } from '../../tests/support/rule-play';
import type { Measure } from '../value/value';
import { HOUR } from '../when/interval';
import type { Rule } from './engine';
import { refuse } from './refuse';

describe('limits beyond the first one', () => {
  const above80 = (further: Measure[]) => ({ is: 'above' as const, limit: amount('80'), inclusive: false, further });
  const stepped = level('value', above80([amount('100'), amount('120')]));
  const told = (said: string, more: Partial<Rule> = {}) =>
    play({ when: stepped, whenAlreadyMet: 'wait', ...more }, hourly(said, 'value')).alerts;

  it('are told each once in an episode, one that is passed over with the next', () => {
    expect(told('70 85 90 101 99 105 121 130')).toEqual([2, 4, 7]);
    expect(told('70 125 130')).toEqual([2]);
    expect(told('70 85 125 110 125')).toEqual([2, 3]);
  });

  it('are told anew in the next episode, and not by what is met within the margin', () => {
    expect(told('70 101 70 85 101')).toEqual([2, 4, 5]);
    expect(
      told('70 101 78 99', {
        when: level('value', above80([amount('100')]), { margin: { by: 'amount', amount: amount('5') } }),
      }),
    ).toEqual([2]);
  });

  it('wait for the hold with the first, and are told once where each reading is', () => {
    expect(told('70 85 101 90 101', { hold: { for: 'readings', count: 3 } })).toEqual([4, 5]);
    expect(told('70 85 101 90', { told: 'reading' })).toEqual([2, 3, 4]);
  });

  it('are refused where they do not lie further, or are counted in something else', () => {
    const refused = (...further: Measure[]) =>
      refuse({ when: level('value', above80(further)), whenAlreadyMet: 'wait' }, HOUR)?.code;
    expect([
      refused(amount('80')),
      refused(amount('100'), amount('90')),
      refused(pounds('100')),
      refused(amount('81')),
    ]).toEqual(['limits not further', 'limits not further', 'units differ', undefined]);
  });
});
