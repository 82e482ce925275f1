import { describe, expect, it } from 'vitest';
import { ALL_RECORDS, NUMBER_OF_RECORDS, numberOf } from '../read/all-records';
import { money } from '../value/parse';
import type { Value } from '../value/value';
import { DAY } from '../when/interval';
import type { History } from './past';
import type { Clause } from './clause';
import { neverMet } from './never';
import type { RuleDefinition } from './rule';

const past = (...values: Value[]): History[] => [
  {
    identity: 'a',
    name: 'Copper smoker',
    fields: { v: { stepwise: true, readings: values.map((value, at) => ({ at, until: at, runs: 1, value })) } },
  },
];
const rule = (when: Clause, more: Partial<RuleDefinition> = {}): RuleDefinition => ({
  when,
  whenAlreadyMet: 'wait',
  ...more,
});
const below = (limit: string, inclusive = false): Clause => ({
  kind: 'level',
  of: { asked: { field: 'v' } },
  limits: { is: 'below', limit: money(limit, 'GBP'), inclusive },
});
const PRICES = past(money('24.00', 'GBP'), money('21.00', 'GBP'));
const codes = (definition: RuleDefinition, histories: History[], now = 0) =>
  neverMet(definition, histories, now).map(({ code }) => code);

describe('a rule that nothing so far could have met', () => {
  it('says how far its limit is from all that was read', () => {
    expect(neverMet(rule(below('20.00')), PRICES, 0)).toMatchObject([
      { code: 'limit never reached', side: 'lowest', amount: 21 },
    ]);
    expect(codes(rule(below('21.00')), PRICES)).toEqual(['limit never reached']);
    expect(codes(rule(below('21.00', true)), PRICES)).toEqual([]);
    expect(codes(rule(below('20.00')), past(money('24.00', 'EUR')))).toEqual(['never counted so']);
  });

  it('says which words were never read', () => {
    const becomes = (state: string): Clause => ({
      kind: 'state',
      asked: { field: 'v' },
      how: { becomes: { kind: 'state', state } },
    });
    const stock = past({ kind: 'state', state: 'in stock' }, { kind: 'state', state: 'sold out' });
    expect([codes(rule(becomes('sold out')), stock), codes(rule(becomes('sold')), stock)]).toEqual([
      [],
      ['never said'],
    ]);
    const phrase = (words: string, is: 'appears' | 'not there'): Clause => ({
      kind: 'text',
      asked: { field: 'v' },
      how: { phrase: words, is },
    });
    const text = past({ kind: 'text', text: 'No  FOULBROOD was found.' });
    expect([
      codes(rule(phrase('foulbrood was', 'appears')), text),
      codes(rule(phrase('mites', 'appears')), text),
      codes(rule(phrase('mites', 'not there')), text),
    ]).toEqual([[], ['never said'], []]);
  });

  it('says that no record is let through', () => {
    expect(codes(rule(below('30.00'), { only: [{ by: 'name', holds: 'steel' }] }), PRICES)).toEqual(['no records']);
    expect(codes(rule(below('30.00'), { only: [{ by: 'name', holds: 'copper' }] }), PRICES)).toEqual([]);
  });

  it('says nothing of how many records there are before that was read', () => {
    const few: Clause = {
      kind: 'level',
      of: { asked: { field: NUMBER_OF_RECORDS } },
      limits: { is: 'below', limit: numberOf(3), inclusive: false },
    };
    expect(codes(rule(few), PRICES)).toEqual([]);
    const counted = (...counts: number[]): History[] => [
      ...PRICES,
      {
        identity: ALL_RECORDS,
        name: 'Lots',
        fields: {
          [NUMBER_OF_RECORDS]: {
            stepwise: false,
            readings: counts.map((count, at) => ({ at, until: at, runs: 1, value: numberOf(count) })),
          },
        },
      },
    ];
    expect([codes(rule(few), counted(5, 2)), codes(rule(few), counted(5, 4))]).toEqual([[], ['limit never reached']]);
    expect(codes(rule(few, { only: [{ by: 'name', holds: 'steel' }] }), counted(5, 2))).toEqual(['no records']);
    expect(codes(rule(below('22.00')), counted(5))).toEqual([]);
  });

  it('says that what used to move rests for far longer than it was used to', () => {
    const daily = (...days: number[]): History[] => [
      {
        identity: 'a',
        name: 'A',
        fields: {
          v: {
            stepwise: true,
            readings: days.map((day) => ({
              at: day * DAY,
              until: day * DAY,
              runs: 1,
              value: money(String(20 + day), 'GBP'),
            })),
          },
        },
      },
    ];
    const met = rule(below('99.00'));
    expect(codes(met, daily(0, 1, 2, 3), 12 * DAY)).toEqual([]);
    expect(neverMet(met, daily(0, 1, 2, 3), 14 * DAY)).toMatchObject([
      { code: 'moves no more', since: 3 * DAY, usualMs: DAY },
    ]);
    // Of three moves no pace is known; what waits for silence is served by it; one of two records that goes on is
    // enough.
    expect(codes(met, daily(0, 1, 2), 99 * DAY)).toEqual([]);
    const silence: Clause = { kind: 'silence', asked: { field: 'v' }, how: { of: 'moves', ms: DAY } };
    expect(codes(rule(silence), daily(0, 1, 2, 3), 99 * DAY)).toEqual([]);
    const other = daily(10, 11, 12, 13).map((each) => ({ ...each, identity: 'b' }));
    expect(codes(met, [...daily(0, 1, 2, 3), ...other], 14 * DAY)).toEqual([]);
  });

  it('says nothing where nothing was read', () => {
    expect([codes(rule(below('1.00')), []), codes(rule(below('1.00')), past())]).toEqual([[], []]);
  });
});
