import fc from 'fast-check';
import { groupKey, type Figure, type Limits, type JudgedWindow } from '#core/judge/asked';
import type { Clause, Condition } from '#core/judge/clause';
import type { Rule } from '#core/judge/engine';
import { ABSENT, type Value } from '#core/value/value';
import { HOUR, MINUTE } from '#core/when/interval';
import { amount, graded, inState, MONDAY, pounds, SCALE, type Look } from './rule-play';

/** The name of the group of all records by their value. */
const AMONG_VALUES = groupKey({ among: 'records', asked: { field: 'value' } });

/**
 * The grid on which random looks fall, and the length of what is called an hour: six steps of it. The calendar needs
 * real hours.
 */
export interface Scale {
  grid: number;
  hour: number;
  calendar: boolean;
}

export const COARSE: Scale = { grid: 10 * MINUTE, hour: HOUR, calendar: true };
export const FINE: Scale = { grid: 1, hour: 6, calendar: false };

/** Random rules of many kinds, and looks at a record with gaps, absences, other units, late points and failures. */
export function randomRules(scale: Scale) {
  const FIELD = fc.constantFrom('value', 'other');
  const whole = fc.integer({ min: -3, max: 12 });
  const figure: fc.Arbitrary<Figure> = fc.oneof(
    whole.map((each): Figure => ({ by: 'amount', amount: amount(String(Math.abs(each))) })),
    fc.constantFrom('10', '50', '100').map((percent): Figure => ({ by: 'percent', percent: amount(percent).amount })),
  );
  const limits: fc.Arbitrary<Limits> = fc.oneof(
    fc.record({
      is: fc.constantFrom('below' as const, 'above' as const),
      limit: whole.map((each) => amount(String(each))),
      inclusive: fc.boolean(),
    }),
    fc
      .record({
        is: fc.constantFrom('between' as const, 'outside' as const),
        low: whole.map((each) => amount(String(each))),
        inclusive: fc.boolean(),
      })
      .chain((each) =>
        fc
          .integer({ min: 1, max: 5 })
          .map((apart) => ({ ...each, high: amount(String(Number(each.low.amount) + apart)) })),
      ),
  );
  const margin = fc.option(
    fc.integer({ min: 0, max: 3 }).map((each): Figure => ({ by: 'amount', amount: amount(String(each)) })),
    { nil: undefined },
  );
  const stretch: fc.Arbitrary<JudgedWindow> = fc
    .record({
      make: fc.constantFrom<JudgedWindow['make'][]>(
        'minimum',
        'maximum',
        'mean',
        'median',
        'range',
        'first to last',
        'sum',
        'readings',
        'moves',
        'increase',
      ),
      of: fc.oneof(
        fc.integer({ min: 1, max: 4 }).map((hours) => ({ last: 'time' as const, ms: hours * scale.hour })),
        fc.integer({ min: 1, max: 4 }).map((count) => ({ last: 'readings' as const, count })),
        ...(scale.calendar
          ? [fc.constantFrom({ this: 'hour' as const, zone: 'UTC' }, { this: 'day' as const, zone: 'UTC' })]
          : []),
      ),
      stepwise: fc.boolean(),
      grows: fc.boolean(),
    })
    // The mean of a stepwise field moves all the time: on a coarse grid nobody could say when it passed a limit.
    .map((each): JudgedWindow => (scale.calendar && each.make === 'mean' ? { ...each, stepwise: false } : each));
  /** With limits beyond the first one, one and three further. */
  const furthered = (each: Limits): Limits =>
    'limit' in each
      ? {
          ...each,
          further: [1, 3].map((apart) =>
            amount(String(Number(each.limit.amount) + (each.is === 'below' ? -apart : apart))),
          ),
        }
      : each;
  const withMargin = <C extends object>(clause: C, by: Figure | undefined) =>
    by === undefined ? clause : { ...clause, margin: by };
  const sides = fc.tuple(fc.option(figure), fc.option(figure)).filter(([rise, fall]) => rise !== null || fall !== null);
  const STATES = ['in', 'out', 'soon'].map(inState);
  const stateOf = fc.constantFrom(...STATES);
  const clause: fc.Arbitrary<Clause> = fc.oneof(
    {
      weight: 3,
      arbitrary: fc
        .tuple(
          fc.constantFrom('level' as const, 'crossing' as const),
          FIELD,
          fc.oneof(limits, limits.map(furthered)),
          margin,
        )
        .map(([kind, field, each, by]): Clause => withMargin({ kind, of: { asked: { field } }, limits: each }, by)),
    },
    {
      weight: 3,
      arbitrary: fc
        .tuple(FIELD, limits, stretch)
        .map(([field, each, over]): Clause => ({ kind: 'level', of: { asked: { field }, over }, limits: each })),
    },
    {
      weight: 2,
      arbitrary: fc
        .tuple(FIELD, sides, fc.constantFrom('last' as const, 'told' as const, 'extreme' as const))
        .map(([field, [rise, fall], base]): Clause => ({
          kind: 'move',
          asked: { field },
          against: { base },
          rise,
          fall,
        })),
    },
    {
      weight: 1,
      arbitrary: fc.tuple(FIELD, sides, whole).map(([field, [rise, fall], at]): Clause => ({
        kind: 'move',
        asked: { field },
        against: { base: 'pinned', value: amount(String(at)) },
        rise,
        fall,
      })),
    },
    {
      weight: 1,
      arbitrary: fc.tuple(FIELD, sides, fc.integer({ min: 1, max: 4 })).map(([field, [rise, fall], k]): Clause => ({
        kind: 'move',
        asked: { field },
        against: { base: 'median', of: k },
        rise,
        fall,
      })),
    },
    { weight: 1, arbitrary: FIELD.map((field): Clause => ({ kind: 'change', asked: { field } })) },
    {
      weight: 2,
      arbitrary: fc
        .oneof(
          fc.constant('any move' as const),
          stateOf.map((is) => ({ is })),
          stateOf.map((becomes) => ({ becomes })),
          stateOf.map((leaves) => ({ leaves })),
          fc
            .tuple(stateOf, stateOf)
            .filter(([from, to]) => from !== to)
            .map(([from, to]) => ({ from, to })),
        )
        .map((how): Clause => ({ kind: 'state', asked: { field: 'state' }, how })),
    },
    {
      weight: 2,
      arbitrary: fc
        .oneof(
          fc.record({
            moves: fc.constantFrom('better' as const, 'worse' as const),
            steps: fc.integer({ min: 1, max: 3 }),
          }),
          fc.record({
            is: fc.constantFrom('at or below' as const, 'at or above' as const),
            grade: fc.constantFrom('B', 'C', 'E'),
          }),
        )
        .map((how): Clause => ({ kind: 'grade', asked: { field: 'grade' }, how })),
    },
    {
      weight: 2,
      arbitrary: fc
        .constantFrom('there' as const, 'not there' as const, 'appears' as const, 'disappears' as const)
        .map((is): Clause => ({ kind: 'text', asked: { field: 'text' }, how: { phrase: 'foulbrood', is } })),
    },
    {
      weight: 1,
      arbitrary: fc
        .tuple(FIELD, fc.constantFrom('is absent' as const, 'comes back' as const))
        .map(([field, how]): Clause => ({ kind: 'absence', asked: { field }, how })),
    },
    {
      weight: 2,
      arbitrary: fc
        .tuple(
          fc.constantFrom('takes' as const, 'loses' as const, 'has' as const, 'has not' as const),
          fc.constantFrom('lowest' as const, 'highest' as const),
        )
        .map(([how, end]): Clause => ({ kind: 'place', asked: { field: 'value' }, among: 'records', end, how })),
    },
    {
      weight: 1,
      arbitrary: fc
        .integer({ min: 1, max: 2 })
        .map((by): Clause => ({ kind: 'rank', asked: { field: 'value' }, among: 'records', end: 'lowest', by })),
    },
    {
      weight: 1,
      arbitrary: fc
        .constantFrom('foul.*again$', '^Nothing', 'brood')
        .map((matches): Clause => ({ kind: 'text', asked: { field: 'text' }, how: { matches } })),
    },
    {
      weight: 2,
      arbitrary: fc
        .tuple(fc.constantFrom('below' as const, 'above' as const), figure, fc.boolean())
        .map(([is, by, inclusive]): Clause => ({
          kind: 'against',
          asked: { field: 'value' },
          other: { field: 'other' },
          is,
          by,
          inclusive,
        })),
    },
    {
      weight: 2,
      arbitrary: fc
        .tuple(
          FIELD,
          fc.oneof(
            fc.integer({ min: 1, max: 5 }).map((hours) => ({ of: 'readings' as const, ms: hours * scale.hour })),
            fc.integer({ min: 1, max: 3 }).map((count) => ({ of: 'runs' as const, count })),
            fc.integer({ min: 1, max: 5 }).map((hours) => ({ of: 'moves' as const, ms: hours * scale.hour })),
          ),
        )
        .map(([field, how]): Clause => ({ kind: 'silence', asked: { field }, how })),
    },
  );
  const isEventKind = (each: Clause) =>
    each.kind === 'change' ||
    each.kind === 'rank' ||
    (each.kind === 'place' && (each.how === 'takes' || each.how === 'loses')) ||
    (each.kind === 'move' && ['last', 'told', 'extreme'].includes(each.against.base)) ||
    (each.kind === 'state' && each.how === 'any move') ||
    (each.kind === 'grade' && 'moves' in each.how) ||
    (each.kind === 'absence' && each.how === 'comes back');
  const levels = clause.filter((each) => !isEventKind(each));
  const inner: fc.Arbitrary<Condition> = fc.oneof(
    { weight: 3, arbitrary: clause },
    { weight: 1, arbitrary: fc.array(clause, { minLength: 1, maxLength: 2 }).map((all) => ({ all })) },
    { weight: 1, arbitrary: fc.array(levels, { minLength: 1, maxLength: 2 }).map((none) => ({ none })) },
  );
  const condition: fc.Arbitrary<Condition> = fc.oneof(
    { weight: 3, arbitrary: clause },
    { weight: 2, arbitrary: fc.array(inner, { minLength: 1, maxLength: 3 }).map((any) => ({ any })) },
    { weight: 2, arbitrary: fc.array(inner, { minLength: 1, maxLength: 3 }).map((all) => ({ all })) },
    { weight: 1, arbitrary: fc.array(levels, { minLength: 1, maxLength: 2 }).map((none) => ({ none })) },
  );
  const clausesIn = (each: Condition): Clause[] =>
    'kind' in each ? [each] : Object.values(each).flatMap((parts) => (parts as Condition[]).flatMap(clausesIn));
  const rule: fc.Arbitrary<Rule> = fc
    .record({
      when: condition,
      whenAlreadyMet: fc.constantFrom('raise' as const, 'wait' as const),
      told: fc.constantFrom('episode' as const, 'reading' as const, 'move' as const),
      hold: fc.option(
        fc.oneof(
          fc.integer({ min: 1, max: 4 }).map((count) => ({ for: 'readings' as const, count })),
          fc.integer({ min: 1, max: 4 }).map((hours) => ({ for: 'time' as const, ms: hours * scale.hour })),
        ),
        { nil: undefined },
      ),
    })
    // An event and a silence take no hold: saying so is refused.
    .map(({ hold, ...each }): Rule =>
      hold === undefined || clausesIn(each.when).some((part) => isEventKind(part) || part.kind === 'silence')
        ? each
        : { ...each, hold },
    );

  const reading: fc.Arbitrary<Value | null> = fc.oneof(
    { weight: 12, arbitrary: whole.map((each) => amount(String(each))) },
    { weight: 1, arbitrary: fc.constant(ABSENT) },
    { weight: 1, arbitrary: fc.constant(pounds('5')) },
    { weight: 2, arbitrary: fc.constant(null) },
  );
  const look = fc.record({
    gap: fc.constantFrom(1, 3, 6, 6, 6, 6, 6, 12),
    failed: fc.integer({ min: 0, max: 7 }).map((each) => each === 0),
    value: reading,
    other: reading,
    grade: fc.option(
      fc.oneof(
        { weight: 6, arbitrary: fc.constantFrom(...SCALE.map(graded)) as fc.Arbitrary<Value> },
        { weight: 1, arbitrary: fc.constant<Value>(ABSENT) },
      ),
    ),
    text: fc.option(
      fc.oneof(
        {
          weight: 6,
          arbitrary: fc
            .constantFrom('', 'Nothing new.', 'There is foulbrood.', 'foulbrood again')
            .map((text): Value => ({ kind: 'text', text })),
        },
        { weight: 1, arbitrary: fc.constant<Value>(ABSENT) },
      ),
    ),
    state: fc.option(
      fc.oneof(
        { weight: 6, arbitrary: stateOf as fc.Arbitrary<Value> },
        { weight: 1, arbitrary: fc.constant<Value>(ABSENT) },
      ),
    ),
    late: fc.option(fc.tuple(fc.integer({ min: 1, max: 12 }), whole), { nil: undefined, freq: 6 }),
    others: fc.option(
      fc.array(
        fc.tuple(
          fc.oneof(
            { weight: 9, arbitrary: whole.map((each) => amount(String(each))) },
            { weight: 1, arbitrary: fc.constantFrom<Value>(ABSENT, pounds('5')) },
          ),
          fc.constantFrom(0, 0, 0, 4, 30),
        ),
        { maxLength: 3 },
      ),
      { nil: undefined, freq: 3 },
    ),
  });

  /** Looks one after another, with late points at times that the series does not have yet. */
  const looks = (most: number) =>
    fc.array(look, { minLength: 1, maxLength: most }).map((each): Look[] => {
      const taken = new Set<number>();
      let at = MONDAY;
      return each.map(({ gap, failed, value, other, state, grade, text, late, others }): Look => {
        at += gap * scale.grid;
        const read = Object.fromEntries(
          Object.entries({ value, other, state, grade, text }).flatMap(([key, said]) =>
            said === null ? [] : [[key, said]],
          ),
        );
        if (!failed && value !== null) taken.add(at);
        const before = late === undefined ? 0 : at - late[0] * scale.grid;
        if (failed) return { at, failed };
        // What the others of its group were, and so many steps ago.
        const members = others?.map(([said, ago]) => ({ value: said, at: at - ago * scale.grid }));
        const beside = members === undefined ? {} : { groups: { [AMONG_VALUES]: members } };
        if (
          late === undefined ||
          before <= MONDAY ||
          taken.has(before) ||
          ![...taken].some((known) => known > before && known < at)
        )
          return { at, read, ...beside };
        taken.add(before);
        return { at, read, ...beside, late: { value: [{ at: before, value: amount(String(late[1])) }] } };
      });
    });

  return { rule, looks };
}
