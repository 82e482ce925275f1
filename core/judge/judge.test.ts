import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { money } from '../value/parse';
import type { Value } from '../value/value';
import { HOUR, MINUTE } from '../when/interval';
import { conditionVerb, describeCondition } from './describe';
import { distanceTo } from './distance';
import { storedMemory, UNJUDGED, type RuleMemory } from './memory';
import { describeReason, readReason } from './reason';
import type { Hold, LimitCondition, RuleDefinition } from './rule';
import { nextAt, stepRule, wakeRule, type Step } from './step';

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
const above100 = (hold?: Hold): RuleDefinition => ({
  ...rule({ direction: 'above', limit: money('100', 'GBP') }),
  ...(hold === undefined ? {} : { hold }),
});

/** A reading an hour; null is a failed run, which is none. */
type Given = string | Value | null;

/** Judges a series of prices by one rule, from the first look on; what a rule remembers goes through its stored form each time. */
function judge(definition: RuleDefinition, values: Given[]): (Step | null)[] {
  let memory: RuleMemory = UNJUDGED;
  let previous: Value | null = null;
  return values.map((given, at) => {
    if (given === null) return null;
    const value = typeof given === 'string' ? money(given, 'GBP') : given;
    const step = stepRule(definition, memory, { at: at * HOUR, fields: new Map([['price', { value, previous }]]) });
    if (step === null) throw new Error('the rule looks at the price');
    memory = storedMemory.read(JSON.parse(JSON.stringify(storedMemory.write(step.memory))));
    previous = value;
    return step;
  });
}

const tells = (step: Step | null) => step?.effects.some((effect) => effect.do === 'alert') ?? false;
const alerts = (definition: RuleDefinition, values: Given[]) => judge(definition, values).map(tells);
/** The numbers of the readings that alert, from 1, failed ones included. */
const alertsAt = (definition: RuleDefinition, values: string) =>
  alerts(
    definition,
    values.split(' ').map((each) => (each === '-' ? null : each.startsWith('EUR') ? money(each.slice(3), 'EUR') : each)),
  ).flatMap((alert, at) => (alert ? [at + 1] : []));
const reasons = (definition: RuleDefinition, values: Given[]) => judge(definition, values).map((step) => step?.reason.code);

describe('worked cases', () => {
  const falls = rule();
  const raise = rule({}, 'raise');
  it.each<[string, RuleDefinition, string, number[]]>([
    ['1', falls, '25 23.99 22 24 25 23', [2, 6]],
    ['2', falls, '23 22 25 23', [4]],
    ['3', raise, '23 22 25 23', [1, 4]],
    ['4', rule({ kind: 'level', inclusive: true }), '25 24.00 24.01 24', [2, 4]],
    ['5', falls, '25 - - 23 - 22', [4]],
    ['7', falls, '25 23 EUR20 23 25 23', [2, 6]],
    ['8', above100(), '99 100 101 100 101', [3, 5]],
    ['10', above100({ for: 'readings', count: 3 }), '99 101 102 99 101 - 102 103 104', [8]],
  ])('%s', (_number, definition, readings, expected) => {
    expect(alertsAt(definition, readings)).toEqual(expected);
  });

  it('10: the episode opened with the first reading that met', () => {
    const [, , , , , , , step] = judge(above100({ for: 'readings', count: 3 }), ['99', '101', '102', '99', '101', null, '102', '103', '104']);
    expect(step?.effects).toContainEqual({
      do: 'open',
      at: 4 * HOUR,
      value: money('101', 'GBP'),
      peak: { value: money('103', 'GBP'), at: 7 * HOUR },
    });
    expect(step?.reason).toEqual({ code: 'held', readings: 3 });
  });

  it('11: a hold for a time is up by the clock, where something was heard of it lately', () => {
    const definition = above100({ for: 'time', ms: 2 * HOUR });
    const at = (memory: RuleMemory, when: number, amount: string) =>
      stepRule(definition, memory, { at: when, fields: new Map([['price', { value: money(amount, 'GBP'), previous: null }]]) })?.memory ?? memory;
    const calm = at(UNJUDGED, 0, '99');
    const held = at(at(calm, HOUR, '101'), HOUR + 30 * MINUTE, '102');
    expect([nextAt(calm), nextAt(held)]).toEqual([null, 3 * HOUR]);
    const heard = at(held, HOUR + 90 * MINUTE, '103');
    expect(wakeRule(definition, heard, 3 * HOUR - 1, HOUR)).toBeNull();
    const raised = wakeRule(definition, heard, 3 * HOUR, HOUR);
    expect(raised?.memory.state).toMatchObject({ is: 'raised', opened: HOUR, raised: 3 * HOUR });
    expect(tells(raised)).toBe(true);
    const silent = wakeRule(definition, held, 3 * HOUR, HOUR);
    expect([tells(silent), silent?.reason.code, silent && nextAt(silent.memory)]).toEqual([false, 'held, and not heard of', null]);
    expect(at(silent?.memory ?? held, 4 * HOUR, '104').state).toMatchObject({ is: 'raised', opened: HOUR, raised: 4 * HOUR });
    expect(at(silent?.memory ?? held, 4 * HOUR, '99').state).toEqual({ is: 'calm' });
  });
});

describe('a limit', () => {
  it('is told once an episode, and again in the next', () => {
    expect(alerts(rule(), ['25', '23', '22', '24', '25', '23.99'])).toEqual([false, true, false, false, false, true]);
  });

  it('does not include itself unless it says so', () => {
    expect(alerts(rule(), ['25', '24.00'])).toEqual([false, false]);
    expect(alerts(rule({ inclusive: true }), ['25', '24.00'])).toEqual([false, true]);
  });

  it('met at the first look raises or waits, as she chose', () => {
    expect(reasons(rule({}, 'raise'), ['23', '22'])).toEqual(['met at the baseline', 'still raised']);
    expect(reasons(rule({}, 'wait'), ['23', '22', '25', '23'])).toEqual(['waits to be left', 'still waits', 'not met', 'met']);
  });

  it('that waits at the baseline is calm, and raised by nothing but being left and met again', () => {
    const states = judge(rule({}, 'wait'), ['23', '22', '25', '23']).map((step) => step?.memory.state.is);
    expect(states).toEqual(['calm', 'calm', 'calm', 'raised']);
  });

  it('opens an episode with an alert, keeps its furthest value, and closes it when it is left', () => {
    const effects = judge(rule(), ['25', '23', '23', '22', '23', '25']).map((step) => step?.effects.map((effect) => effect.do));
    expect(effects).toEqual([[], ['open', 'alert'], [], ['peak'], [], ['close']]);
  });

  it('is not held against another currency, and judged afresh after it', () => {
    const values = ['25', '23', money('20', 'EUR'), '23'];
    expect(reasons(rule(), values)).toEqual(['not met', 'met', 'unlike', 'not seen to cross']);
    expect(judge(rule(), values)[2]?.effects).toEqual([{ do: 'close', at: 2 * HOUR, because: 'unlike' }]);
    expect(alerts(rule({ kind: 'level' }), values)).toEqual([false, true, false, true]);
  });

  it('looks at no other field, and a memory that nothing moved is the very same', () => {
    const other = new Map([['stock', { value: money('1', 'GBP'), previous: null }]]);
    expect(stepRule(rule(), UNJUDGED, { at: 0, fields: other })).toBeNull();
    const [, calm] = judge(rule(), ['25', '26']);
    const again = stepRule(rule(), calm!.memory, { at: 0, fields: new Map([['price', { value: money('27', 'GBP'), previous: null }]]) });
    expect(again?.memory).toBe(calm!.memory);
  });

  it('never alerts twice without having been left in between, and its memory stays small', () => {
    const prices = fc.array(fc.integer({ min: 2300, max: 2500 }), { minLength: 1, maxLength: 60 });
    fc.assert(
      fc.property(prices, fc.constantFrom<'raise' | 'wait'>('raise', 'wait'), (pence, whenAlreadyMet) => {
        const values = pence.map((each) => (each / 100).toFixed(2));
        const steps = judge(rule({}, whenAlreadyMet), values);
        const told = steps.map(tells);
        told.forEach((alert, at) => {
          if (!alert || at === 0) return;
          const last = told.lastIndexOf(true, at - 1);
          const between = pence.slice(last + 1, at);
          expect(between.some((each) => each >= 2400)).toBe(true);
        });
        for (const step of steps) expect(JSON.stringify(step?.memory).length).toBeLessThan(300);
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

describe('what was stored before', () => {
  it('is read: reasons as words, memories without a number; what a newer Shrike wrote is refused', () => {
    expect(readReason('met already, waiting')).toEqual({ code: 'waits to be left' });
    expect(readReason('not met')).toEqual({ code: 'not met' });
    expect(storedMemory.read({ state: { is: 'calm' }, clause: 'clear' })).toEqual({ state: { is: 'calm' }, clause: 'clear' });
    expect(() => storedMemory.read({ v: 99 })).toThrow('newer');
  });

  it('is worded in one place, with its numbers', () => {
    expect(describeReason({ code: 'holds', readings: 2, of: 3 })).toContain('2 of 3 readings');
    expect(describeReason({ code: 'holds for a time', passed: HOUR, of: 2 * HOUR })).toContain('1 h of 2 h');
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
