import { describe, expect, it } from 'vitest';
import { money } from '../value/parse';
import type { Value } from '../value/value';
import { courseOf, MOST_RUNS, stopsOf } from './pretended';

const PLACE = { locale: 'en-GB', zone: 'Europe/London' };
const present: Record<string, Value> = {
  price: money('26.00', 'GBP'),
  stock: { kind: 'state', state: 'in stock' },
  grade: { kind: 'grade', grade: 'B', scale: ['A', 'B', 'C'] },
  open: { kind: 'flag', is: false },
  ends: { kind: 'moment', at: 0, day: true },
};
const look = (at: string, values: Record<string, string> = {}) => ({ at, values });
const values = (typed: Record<string, string>) => {
  const course = courseOf([look('2026-07-01T14:00', typed)], present, PLACE);
  return course.ok ? course.value[0]?.values : course.error.said;
};

describe('pretended looks', () => {
  it('stand at the time of her clock, each with what stood before', () => {
    const course = courseOf(
      [
        look('2026-07-01T14:00'),
        look('2026-07-01T16:30', { price: '19.99' }),
        look('2026-07-02T08:00', { stock: 'sold out' }),
      ],
      present,
      PLACE,
    );
    if (!course.ok) throw new Error(course.error.said);
    expect(course.value.map(({ at }) => new Date(at).toISOString())).toEqual([
      '2026-07-01T13:00:00.000Z',
      '2026-07-01T15:30:00.000Z',
      '2026-07-02T07:00:00.000Z',
    ]);
    expect(course.value.map(({ values: { price, stock } }) => [price, stock])).toEqual([
      [present.price, present.stock],
      [money('19.99', 'GBP'), present.stock],
      [money('19.99', 'GBP'), { kind: 'state', state: 'sold out' }],
    ]);
  });

  it.each<[string, Record<string, string>, Record<string, Value>]>([
    ['an amount', { price: '1,249.50' }, { price: money('1249.50', 'GBP') }],
    ['a price in another currency', { price: '€20.00' }, { price: money('20.00', 'EUR') }],
    ['nothing', { price: 'Absent' }, { price: { kind: 'absent' } }],
    ['a grade', { grade: 'C' }, { grade: { kind: 'grade', grade: 'C', scale: ['A', 'B', 'C'] } }],
    ['yes or no', { open: 'Yes' }, { open: { kind: 'flag', is: true } }],
    ['a day', { ends: '1970-01-02' }, { ends: { kind: 'moment', at: 86_400_000, day: true } }],
  ])('take %s', (_what, typed, read) => {
    expect(values(typed)).toEqual({ ...present, ...read });
  });

  it.each<[string, Record<string, string>]>([
    ['no number', { price: 'a lot' }],
    ['a grade that the scale lacks', { grade: 'D' }],
    ['neither yes nor no', { open: 'perhaps' }],
    ['no day', { ends: 'tomorrow' }],
    ['a field that was never read', { colour: 'red' }],
  ])('refuse %s', (_what, typed) => {
    expect(values(typed)).toMatch(/is no value of this field/);
  });

  it('refuse what is no time, and what is not after the look before', () => {
    const said = (...at: string[]) => {
      const course = courseOf(
        at.map((each) => look(each)),
        present,
        PLACE,
      );
      return course.ok ? 'taken' : `${course.error.look} ${course.error.said}`;
    };
    expect(said('soon')).toBe('0 Say when, as 2026-11-27 14:00.');
    expect(said('2026-07-01T14:00', '2026-07-01T14:00')).toBe('1 Each run comes after the one before.');
    expect(said('2026-07-01T14:00', '2026-06-01T14:00')).toMatch(/^1 /);
    expect(said(...Array.from({ length: MOST_RUNS + 1 }, (_, at) => `2026-07-01T14:${10 + at}`))).toMatch(/At most/);
  });
});

describe('what stops an alert', () => {
  const record = { identity: 'a', name: 'Copper smoker', labels: {}, fieldOf: () => undefined };
  const rule = { when: { kind: 'change' as const, asked: { field: 'price' } }, whenAlreadyMet: 'wait' as const };
  const ravi = { name: 'Ravi', kept: null };
  const at = Date.UTC(2026, 10, 27);

  it('is nothing where all is well', () => {
    expect(
      stopsOf(
        { ...rule, only: [{ by: 'name', holds: 'smoker' }], ends: { date: '2026-11-27', zone: 'UTC' } },
        record,
        [ravi],
        at,
      ),
    ).toEqual([]);
  });

  it.each<[RegExp, Parameters<typeof stopsOf>[0], Parameters<typeof stopsOf>[2]]>([
    [/switched off/, { ...rule, off: true }, [ravi]],
    [/last day is over/, { ...rule, ends: { date: '2026-11-26', zone: 'UTC' } }, [ravi]],
    [/leaves this record out/, { ...rule, only: [{ by: 'name', holds: 'hive' }] }, [ravi]],
    [/Nobody is named/, rule, []],
    [/^Tom has not confirmed/, rule, [ravi, { name: 'Tom', kept: 'unconfirmed' as const }]],
  ])('says %s', (said, stopped, readers) => {
    expect(stopsOf(stopped, record, readers, at).join()).toMatch(said);
  });
});
