import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { money } from '../value/parse';
import type { Value } from '../value/value';
import { conditionVerb, describeCondition } from './describe';
import { distanceTo } from './distance';
import { UNDECIDED, type LimitCondition, type RuleDefinition, type RuleState } from './rule';
import { stepRule, type Step } from './step';

const below = (limit: string, change: Partial<LimitCondition> = {}): LimitCondition => ({
  kind: 'crossing',
  field: 'price',
  direction: 'below',
  limit: money(limit, 'GBP'),
  inclusive: false,
  ...change,
});
const rule = (change: Partial<LimitCondition> = {}, whenAlreadyMet: RuleDefinition['whenAlreadyMet'] = 'wait'): RuleDefinition => ({
  condition: below('24.00', change),
  whenAlreadyMet,
});

/** Judges a series of prices by one rule, from the first look on. */
function judge(definition: RuleDefinition, values: (string | Value)[]): Step[] {
  let state: RuleState = UNDECIDED;
  let previous: Value | null = null;
  return values.map((given, at) => {
    const value = typeof given === 'string' ? money(given, 'GBP') : given;
    const step = stepRule(definition, state, { value, previous, judgedBefore: at > 0 });
    state = step.state;
    previous = value;
    return step;
  });
}

const alerts = (definition: RuleDefinition, values: (string | Value)[]) => judge(definition, values).map((step) => step.alert);
const reasons = (definition: RuleDefinition, values: (string | Value)[]) => judge(definition, values).map((step) => step.reason);

describe('a limit', () => {
  it('is told once an episode, and again in the next', () => {
    expect(alerts(rule(), ['25', '23', '22', '24', '25', '23.99'])).toEqual([false, true, false, false, false, true]);
  });

  it('does not include itself unless it says so', () => {
    expect(alerts(rule(), ['25', '24.00'])).toEqual([false, false]);
    expect(alerts(rule({ inclusive: true }), ['25', '24.00'])).toEqual([false, true]);
  });

  it('looks upwards too', () => {
    expect(alerts(rule({ direction: 'above' }), ['23', '24', '24.01', '30'])).toEqual([false, false, true, false]);
  });

  it('met at the first look raises or waits, as she chose', () => {
    expect(reasons(rule({}, 'raise'), ['23', '22'])).toEqual(['met at the first look', 'still raised']);
    expect(reasons(rule({}, 'wait'), ['23', '22', '25', '23'])).toEqual(['met already, waiting', 'still waiting', 'no longer met', 'met']);
  });

  it('opens an episode with an alert and closes it when it is left', () => {
    expect(judge(rule(), ['25', '23', '22', '25']).map((step) => step.episode)).toEqual([null, 'open', 'keep', 'close']);
  });

  it('is not held against another currency', () => {
    const values = ['25', '23', money('20', 'EUR'), '23'];
    expect(reasons(rule(), values)).toEqual(['not met', 'met', 'unlike the limit', 'not seen to cross']);
    expect(alerts(rule({ kind: 'level' }), values)).toEqual([false, true, false, true]);
  });

  it('never alerts twice without having been left in between', () => {
    const prices = fc.array(fc.integer({ min: 2300, max: 2500 }), { minLength: 1, maxLength: 60 });
    fc.assert(
      fc.property(prices, fc.constantFrom<'raise' | 'wait'>('raise', 'wait'), (pence, whenAlreadyMet) => {
        const values = pence.map((each) => (each / 100).toFixed(2));
        const told = alerts(rule({}, whenAlreadyMet), values);
        told.forEach((alert, at) => {
          if (!alert || at === 0) return;
          const last = told.lastIndexOf(true, at - 1);
          const between = pence.slice(last + 1, at);
          expect(between.some((each) => each >= 2400)).toBe(true);
        });
      }),
    );
  });
});

describe('any change', () => {
  const changes: RuleDefinition = { condition: { kind: 'change', field: 'price' }, whenAlreadyMet: 'wait' };

  it('tells each change, and nothing at the baseline', () => {
    expect(alerts(changes, ['25', '25.00', '23', '25'])).toEqual([false, false, true, true]);
  });
});

describe('words for a rule', () => {
  it('say which way, and whether the limit is included', () => {
    expect(describeCondition(below('24.00'), 'price', 'en-GB')).toBe('price falls below £24.00');
    expect(conditionVerb(below('24', { inclusive: true, direction: 'above' }))).toBe('rises to or above');
    expect(conditionVerb(below('24', { kind: 'level' }))).toBe('is below');
    expect(conditionVerb({ kind: 'change', field: 'price' })).toBe('changes');
  });
});

describe('the distance to a limit', () => {
  it('tells how far, whether met, and whether it looks like a slip', () => {
    const near = distanceTo(below('24.00'), money('26.00', 'GBP'));
    expect(near).toMatchObject({ ok: true, value: { met: false, farAway: false, move: { difference: '2.00', percent: '8.3' } } });
    expect(distanceTo(below('2400'), money('24.00', 'GBP'))).toMatchObject({ ok: true, value: { met: true, farAway: true } });
    expect(distanceTo(below('24'), money('24', 'EUR'))).toEqual({ ok: false, error: 'unlike' });
  });
});
