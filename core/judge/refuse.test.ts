import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { COARSE, randomRules } from '../../tests/support/random-rules';
import { amount, beyond, crossing, inState, level, pounds } from '../../tests/support/rule-play';
import { HOUR, MINUTE } from '../when/interval';
import type { Figure } from './asked';
import type { Clause, Condition } from './clause';
import type { Rule } from './engine';
import type { Refusal } from './refusal';
import { describeRefusedRule, refuse } from './refuse';

const rule = (when: Condition, more: Partial<Rule> = {}): Rule => ({ when, whenAlreadyMet: 'wait', ...more });
const above = level('value', beyond('above', amount('100')));
const by = (text: string): Figure => ({ by: 'amount', amount: amount(text) });
const percent = (text: string): Figure => ({ by: 'percent', percent: amount(text).amount });
const changes: Clause = { kind: 'change', asked: { field: 'value' } };
const silent: Clause = { kind: 'silence', asked: { field: 'value' }, how: { of: 'readings', ms: HOUR } };
const falls = (fall: Figure | null): Clause => ({
  kind: 'move',
  asked: { field: 'value' },
  against: { base: 'last' },
  rise: null,
  fall,
});
const outside = (low: string, high: string, margin?: Figure): Clause =>
  level(
    'value',
    { is: 'outside', low: amount(low), high: amount(high), inclusive: false },
    margin === undefined ? {} : { margin },
  );
const over = (hours: number, intervalMs: number): [Rule, number] => [
  rule({
    kind: 'level',
    of: {
      asked: { field: 'value' },
      over: { make: 'median', of: { last: 'time', ms: hours * HOUR }, stepwise: false, grows: false },
    },
    limits: beyond('above', amount('1')),
  }),
  intervalMs,
];
const nested = (depth: number): Condition => (depth === 0 ? above : { all: [nested(depth - 1)] });

describe('a rule is refused', () => {
  it.each<[Refusal['code'], Rule, number?]>([
    ['nothing said', rule({ all: [] })],
    ['nothing said', rule({ any: [above, { none: [] }] })],
    ['nothing said', rule({ kind: 'text', asked: { field: 'text' }, how: { phrase: '  ', is: 'there' } })],
    ['too much said', rule({ all: Array.from({ length: 21 }, () => above) })],
    ['too much said', rule(nested(5))],
    ['an event takes no hold', rule({ any: [above, changes] }, { hold: { for: 'readings', count: 2 } })],
    ['silence takes no hold', rule(silent, { hold: { for: 'time', ms: HOUR } })],
    ['no event under none', rule({ all: [above, { none: [{ any: [changes] }] }] })],
    ['no margin under none', rule({ none: [outside('1', '9', by('1'))] })],
    ['no percent of nought', rule(crossing('value', beyond('above', amount('0')), { margin: percent('5') }))],
    ['margin leaves nothing', rule(outside('10', '20', by('6')))],
    ['limits crossed', rule(outside('20', '10'))],
    ['limits crossed', rule(outside('10', '10'))],
    ['units differ', rule(crossing('value', beyond('above', pounds('10')), { margin: by('1') }))],
    ['neither rise nor fall', rule(falls(null))],
    ['not more than nought', rule(falls(by('0')))],
    ['not more than nought', rule(falls(percent('-5')))],
    ['not more than nought', rule({ ...silent, how: { of: 'runs', count: 0 } } as Clause)],
    ['hold of nothing', rule(above, { hold: { for: 'readings', count: 0 } })],
    ['hold of nothing', rule(above, { hold: { for: 'time', ms: Number.NaN } })],
    ['too long a stretch', ...over(24 * 30, 10 * MINUTE)],
    [
      'too long a stretch',
      rule({ kind: 'before', asked: { field: 'value' }, by: 'month', zone: 'UTC', rise: by('1'), fall: null }),
      10 * MINUTE,
    ],
    [
      'neither rise nor fall',
      rule({ kind: 'before', asked: { field: 'value' }, by: 'day', zone: 'UTC', rise: null, fall: null }),
    ],
    ['bad pattern', rule({ kind: 'text', asked: { field: 'text' }, how: { matches: '(' } })],
  ])('%s', (code, said, intervalMs = HOUR) => {
    const refusal = refuse(said, intervalMs);
    expect(refusal?.code).toBe(code);
    expect(refusal && describeRefusedRule(refusal)).toMatch(/^[A-Z].*\.$/);
  });

  it.each<[string, Rule, number?]>([
    ['a margin that leaves one value', rule(outside('10', '20', by('5')))],
    ['a margin of nought', rule(crossing('value', beyond('above', amount('0')), { margin: by('0') }))],
    ['a state under none', rule({ none: [{ kind: 'state', asked: { field: 'stock' }, how: { is: inState('out') } }] })],
    ['an event beside a level', rule({ any: [above, changes] })],
    ['a month of runs an hour apart', ...over(24 * 31, HOUR)],
    ['four levels', rule(nested(4))],
  ])('but not for %s', (_said, said, intervalMs = HOUR) => expect(refuse(said, intervalMs)).toBeNull());

  it('or can be judged: random ones, too', () => {
    const { rule: random } = randomRules(COARSE);
    fc.assert(fc.property(random, (each) => ['undefined', 'string'].includes(typeof refuse(each, HOUR)?.code)));
  });
});
