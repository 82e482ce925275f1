import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Decimal } from '../value/decimal';
import { ABSENT, isMeasure, type Value } from '../value/value';
import { DAY, HOUR } from '../when/interval';
import { backtest, type Backtest } from './backtest';
import type { History, StoredReading } from './past';
import type { Limits } from './asked';
import type { Clause, Condition } from './clause';
import { columnsOf } from './columns';
import { compile } from './compiled';
import { countsRuns, type RuleDefinition } from './rule';
import { Trial } from './trial';
import { tries } from '#tests/support/search';

// The compiled form is held to the engine: over random rules and histories both come to the same, alert by alert and
// episode by episode.

const TRIED = tries(2_000);
const END = 12 * DAY;

const amount = (text: string, unit: string | null = null): Extract<Value, { kind: 'number' }> => ({
  kind: 'number',
  amount: text as Decimal,
  unit,
});
const figures = fc.integer({ min: -40, max: 120 }).map((each) => (each / 10).toFixed(1));

const limits: fc.Arbitrary<Limits> = fc.oneof(
  fc.record({
    is: fc.constantFrom('below' as const, 'above' as const),
    limit: figures.map((each) => amount(each)),
    inclusive: fc.boolean(),
  }),
  fc
    .record({
      is: fc.constantFrom('between' as const, 'outside' as const),
      low: figures,
      apart: fc.integer({ min: 1, max: 60 }),
      inclusive: fc.boolean(),
    })
    .map(({ low, apart, ...rest }) => ({
      ...rest,
      low: amount(low),
      high: amount((Number(low) + apart / 10).toFixed(1)),
    })),
);

const clause: fc.Arbitrary<Clause> = fc
  .record({
    kind: fc.constantFrom('level' as const, 'crossing' as const),
    field: fc.constantFrom('one', 'other', 'never'),
    limits,
    margin: fc.option(fc.constantFrom('0', '0.3', '1.5'), { nil: undefined }),
  })
  .map(({ kind, field, margin, limits: said }) => ({
    kind,
    of: { asked: { field } },
    limits: said,
    ...(margin === undefined ? {} : { margin: { by: 'amount' as const, amount: amount(margin) } }),
  }));

const condition: fc.Arbitrary<Condition> = fc.oneof(
  clause,
  fc.array(clause, { minLength: 1, maxLength: 3 }).map((all) => ({ all })),
  fc.array(clause, { minLength: 1, maxLength: 3 }).map((any) => ({ any })),
);

const optional = <T>(of: fc.Arbitrary<T>) => fc.option(of, { nil: undefined });
const rule: fc.Arbitrary<RuleDefinition> = fc
  .record({
    when: condition,
    whenAlreadyMet: fc.constantFrom('raise' as const, 'wait' as const),
    hold: optional(
      fc.oneof(
        fc.integer({ min: 1, max: 4 }).map((count) => ({ for: 'readings' as const, count })),
        fc.integer({ min: 1, max: 9 }).map((half) => ({ for: 'time' as const, ms: (half * HOUR) / 2 })),
      ),
    ),
    telling: optional(
      fc.constantFrom(
        { atMostEvery: 7 * HOUR },
        { remindEvery: 5 * HOUR },
        { once: true },
        { hours: { days: [1, 3, 5], from: 480, to: 1080, zone: 'UTC' } },
      ),
    ),
    tellsEnd: optional(fc.boolean()),
    only: optional(
      fc.constantFrom([{ by: 'identity' as const, in: ['a'] }], [{ by: 'label' as const, label: 'hive', is: 'north' }]),
    ),
  })
  .map(({ when, whenAlreadyMet, ...more }) => ({
    when,
    whenAlreadyMet,
    ...(JSON.parse(JSON.stringify(more)) as Partial<RuleDefinition>),
  }));

const value: fc.Arbitrary<Value> = fc.oneof(
  { weight: 12, arbitrary: figures.map((each) => amount(each)) },
  {
    weight: 1,
    arbitrary: fc.constantFrom<Value>(ABSENT, amount('5.0', 'kg'), { kind: 'text', text: 'odd' }, amount('3.25')),
  },
);

const readings = fc
  .array(
    fc.record({
      gap: fc.constantFrom(1, 1, 1, 2, 5, 30),
      runs: fc.integer({ min: 1, max: 4 }),
      value,
      // What comes late comes after later ones, too.
      late: fc.constantFrom(undefined, undefined, undefined, undefined, HOUR / 2, 2 * HOUR, 9 * HOUR),
    }),
    { maxLength: 30 },
  )
  .map((steps) => {
    let at = 0;
    return steps.map(({ gap, runs, value: each, late }): StoredReading => {
      at += gap * HOUR;
      const until = at + (runs - 1) * HOUR;
      const reading = { at, until, runs, value: each, ...(late === undefined ? {} : { came: at + late }) };
      at += (runs - 1) * HOUR;
      return reading;
    });
  });

const asItCame = ({ came: _came, ...reading }: StoredReading): StoredReading => reading;

const history: fc.Arbitrary<History> = fc
  .record({
    identity: fc.constantFrom('a', 'b'),
    hive: fc.constantFrom('north', 'south'),
    stepwise: fc.boolean(),
    one: readings,
    other: readings,
  })
  // What moves only in steps has no times of its own.
  .map((each) => ({ ...each, [each.stepwise ? 'one' : 'other']: each[each.stepwise ? 'one' : 'other'].map(asItCame) }))
  .map(({ identity, hive, stepwise, one, other }) => ({
    identity,
    name: 'A',
    labels: { hive },
    fields: { one: { stepwise, readings: one }, other: { stepwise: !stepwise, readings: other } },
  }));

/** Amounts are the same, whatever zeros they are written with. */
const plain = ({ episodes, ...tested }: Backtest) => ({
  ...tested,
  episodes: episodes.map(({ peak, ...episode }) => ({
    ...episode,
    peak: peak !== null && isMeasure(peak) ? Number(peak.amount) : null,
  })),
});

describe('a compiled rule', () => {
  it('comes to the same as the engine', () => {
    let compiledOnes = 0;
    fc.assert(
      fc.property(
        rule,
        fc.array(history, { minLength: 1, maxLength: 2 }),
        fc.constantFrom(0, 10 * HOUR, 90 * HOUR),
        (definition, histories, savedAt) => {
          const columns = columnsOf(histories, countsRuns(definition));
          if (columns !== null && compile(definition, columns) !== null) compiledOnes += 1;
          const situation = { intervalMs: HOUR, savedAt };
          expect(plain(new Trial(histories).run(definition, situation, END))).toEqual(
            plain(backtest(definition, histories, situation, END)),
          );
        },
      ),
      { numRuns: TRIED },
    );
    expect(compiledOnes).toBeGreaterThan(TRIED * 0.6);
  });

  it('is none where it could not be exact, or says more than that', () => {
    const columns = (amounts: string[]) =>
      columnsOf(
        [
          {
            identity: 'a',
            name: 'A',
            fields: {
              v: {
                stepwise: false,
                readings: amounts.map((each, at) => ({ at, until: at, runs: 1, value: amount(each) })),
              },
            },
          },
        ],
        false,
      );
    expect(columns(['9007199254740993'])).toBeNull();
    expect(columns(['0.0000000001'])).toBeNull();
    const made = columns(['9007199254740991', '1']);
    expect(made).not.toBeNull();
    const above = (limit: string): Condition => ({
      kind: 'level',
      of: { asked: { field: 'v' } },
      limits: { is: 'above', limit: amount(limit), inclusive: false },
    });
    const compiles = (when: Condition, more: Partial<RuleDefinition> = {}) =>
      made !== null && compile({ when, whenAlreadyMet: 'wait', ...more }, made) !== null;
    expect(compiles(above('1'))).toBe(true);
    expect(compiles(above('0.5'))).toBe(false);
    expect(compiles({ none: [above('1')] })).toBe(false);
    expect(compiles({ all: [{ any: [above('1')] }] })).toBe(false);
    expect(compiles({ kind: 'change', asked: { field: 'v' } })).toBe(false);
    expect(compiles(above('1'), { told: 'reading' })).toBe(false);
  });
});
