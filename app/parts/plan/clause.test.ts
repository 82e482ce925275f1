import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { keyOf } from '#core/judge/asked';
import type { Clause, Condition } from '#core/judge/clause';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import { hearSubject, freshSubject, wakeSubject } from '#core/judge/subject';
import {
  blankClause,
  clauseDraftOf,
  toClause,
  VERBS,
  withSaid,
  type ClauseChange,
  type Verb,
} from '#core/judge/draft/clause';
import type { WindowDraft } from '#core/judge/draft/figures';
import type { ClauseDraft } from '#core/judge/kinds/table';
import type { SaidIn } from '#core/judge/draft/said-in';
import type { SubjectDraft } from '#core/judge/draft/subject';
import { asksOfRule, storedRule } from '#core/judge/rule';
import { Trial } from '#core/judge/trial';
import { BLANK_RULE, ruleDraftOf, toCondition, toRule, type RuleDraft } from '#core/plan/rule-draft';
import { ALL_RECORDS, NUMBER_OF_RECORDS } from '#core/read/all-records';
import type { Field } from '#core/read/definition';
import { money } from '#core/value/parse';
import { wordsOf, type Value } from '#core/value/value';
import { HOUR } from '#core/when/interval';
import { readRule } from '#server/shapes/plan';
import { tries } from '#tests/support/search';

const field = (key: string, type: Field['type']) => ({ key, mode: 'stepwise' as const, type });
const SAID: SaidIn = {
  present: {
    price: money('24.00', 'GBP'),
    stock: { kind: 'state', state: 'in stock' },
    open: { kind: 'flag', is: false },
    grade: { kind: 'grade', grade: 'B', scale: ['A', 'B', 'C', 'D'] },
    text: { kind: 'text', text: 'Nothing new.' },
  },
  fields: [
    field('price', { kind: 'money', currency: 'GBP' }),
    field('stock', { kind: 'state', states: [] }),
    field('open', { kind: 'flag', yes: [], no: [] } as never),
    field('grade', { kind: 'grade', scale: ['A', 'B', 'C', 'D'] }),
    field('text', { kind: 'text' }),
    field(NUMBER_OF_RECORDS, { kind: 'count' }),
  ],
  locale: 'en-GB',
  zone: 'Europe/London',
};
const say = (key: string, verb: Verb, change: ClauseChange = {}): ClauseDraft =>
  withSaid(blankClause(key, verb), change);
const words = (draft: ClauseDraft): string => {
  const clause = toClause(draft, SAID);
  return clause.ok
    ? describeCondition(
        clause.value,
        namesOf((key) => key, 'en-GB'),
      )
    : `refused: ${clause.error}`;
};
const over = (make: WindowDraft['make'], count: string, unit: WindowDraft['unit']) => ({
  make,
  count,
  unit,
});

const SHARED: SubjectDraft = { of: 'sharing', label: 'hive', where: '', is: '' };
const THERE = {
  of: 'watch',
  watch: 7,
  called: 'Smoker at ours',
  within: { count: '', unit: 'hour' },
  mode: 'stepwise',
  kind: 'money',
  like: money('4.00', 'EUR'),
} satisfies SubjectDraft;

describe('what is said of a field', () => {
  const SENTENCES: [ClauseDraft, string][] = [
    [say('price', 'falls below', { limit: '22.50' }), 'price falls below £22.50'],
    [say('price', 'rises above', { limit: '1,249', inclusive: true }), 'price rises to or above £1,249.00'],
    [say('price', 'is below', { limit: '20', margin: '0.50' }), 'price is below £20.00, until it is back by £0.50'],
    [
      say('price', 'falls below', { limit: '24', further: '22; 20.50' }),
      'price falls below £24.00, told again at £22.00 and £20.50',
    ],
    [say('price', 'is between', { limit: '20', high: '30', inclusive: true }), 'price is between £20.00 and £30.00'],
    [say('price', 'is outside', { limit: '20', high: '30' }), 'price is outside £20.00 to £30.00'],
    [say('price', 'moves by', { rise: '5', fall: '5', percent: true }), 'price rises or falls by at least 5%'],
    [say('price', 'moves by', { fall: '2.00', base: 'told' }), 'price falls by at least £2.00 since it was last told'],
    [
      say('price', 'moves by', { rise: '10', percent: true, base: 'week' }),
      'price is at least 10% above what it was a week before',
    ],
    [
      say('price', 'moves by', { fall: '8', percent: true, base: 'pinned', limit: '24.00' }),
      'price is at least 8% below £24.00',
    ],
    [
      say('price', 'moves by', { rise: '5', percent: true, base: 'median', count: '7' }),
      'price is at least 5% above the median of its last 7 readings',
    ],
    [
      say('price', 'is above', { limit: '20', over: over('mean', '2', 'hour') }),
      'the mean price over the last 2 h is above £20.00',
    ],
    [
      say('price', 'is above', { limit: '5', over: over('moves', '', 'this day') }),
      'the number of moves of price today is above 5',
    ],
    [
      say('price', 'is unusual', { count: '200', side: 'low' }),
      'price is unusually low (about one false alarm in 200)',
    ],
    [
      say('price', 'is below another', { record: 'ours', limit: '2', percent: true }),
      'price is more than 2% below price of ours',
    ],
    [
      say('price', 'is above another', {
        against: 'sharing',
        sharing: { label: 'region', where: 'device', is: 'phone' },
        limit: '2',
      }),
      'price is more than £2.00 above price of what shares its region (device is phone)',
    ],
    [
      say('price', 'is below another', {
        against: 'watch',
        called: 'Smoker at ours',
        elsewhere: { watch: 7, field: 'cost', within: { count: '', unit: 'hour' } },
      }),
      'price is below cost at Smoker at ours',
    ],
    [
      say('price', 'is above another', {
        against: 'watch',
        called: 'Ours',
        elsewhere: { watch: 7, field: 'cost', within: { count: '2', unit: 'day' } },
      }),
      'price is above cost at Ours (no older than 2 d)',
    ],
    [
      say('price', 'is above', { limit: '30', subject: { of: 'record', record: 'ours' } }),
      'price of ours is above £30.00',
    ],
    [say('price', 'falls below', { limit: '20', subject: SHARED }), 'price of what shares its hive falls below £20.00'],
    [
      say('stock', 'becomes', { words: 'sold out', subject: { ...SHARED, where: 'sensor', is: 'door' } }),
      'stock of what shares its hive (sensor is door) becomes “sold out”',
    ],
    [say('stock', 'is', { words: 'in stock', subject: { of: 'item', side: 'ours' } }), 'stock of ours is “in stock”'],
    [
      say('price', 'rises above', {
        limit: '20',
        subject: { of: 'item', side: 'ours', channel: 4, called: 'Wholesale' },
      }),
      'price of ours at Wholesale rises above £20.00',
    ],
    [
      say('price', 'falls below', { limit: '20', subject: { of: 'item', side: 'cheapest' } }),
      'price of the cheapest of the other offers falls below £20.00',
    ],
    [say('price', 'changes', { subject: { of: 'item', side: 'minimum' } }), 'the agreed minimum changes'],
    [say('cost', 'is above', { limit: '5', subject: THERE }), 'cost at Smoker at ours is above €5.00'],
    [
      say('cost', 'moves by', { rise: '5', percent: true, subject: { ...THERE, within: { count: '2', unit: 'day' } } }),
      'cost at Smoker at ours (no older than 2 d) rises by at least 5%',
    ],
    [
      say('lot', 'is as bad as', { words: 'b', subject: { ...THERE, kind: 'grade', scale: ['A', 'B'], like: null } }),
      'lot at Smoker at ours is B or worse',
    ],
    [say('price', 'takes the lowest place'), 'price takes the lowest place among all records'],
    [say('price', 'loses the highest place'), 'price loses the highest place among all records'],
    [
      say('price', 'has not the highest place', { among: 'offers' }),
      'price has not the highest place among the offers of the item',
    ],
    [say(NUMBER_OF_RECORDS, 'falls below', { limit: '20' }), '-records falls below 20'],
    [say(NUMBER_OF_RECORDS, 'moves by', { fall: '10', percent: true }), '-records falls by at least 10%'],
    [say('stock', 'becomes', { words: 'sold out' }), 'stock becomes “sold out”'],
    [say('stock', 'goes from', { words: 'sold out', to: 'in stock' }), 'stock goes from “sold out” to “in stock”'],
    [say('open', 'is', { words: 'yes' }), 'open is yes'],
    [say('grade', 'gets worse', { count: '2' }), 'grade gets worse by at least 2 grades'],
    [say('grade', 'is as bad as', { words: 'c' }), 'grade is C or worse'],
    [say('text', 'gains the phrase', { words: 'foulbrood' }), '“foulbrood” appears in text'],
    [say('text', 'changes', { count: '20' }), 'text changes by at least 20 words'],
    [say('price', 'has no value'), 'price has no value'],
    [say('price', 'is silent', { span: { count: '3', unit: 'hour' } }), 'nothing is heard of price for 3 h'],
    [say('price', 'does not move', { span: { count: '2', unit: 'day' } }), 'price does not move for 2 d'],
    [say('price', 'fails to be read', { count: '3' }), '3 runs in a row fail'],
  ];
  it.each(SENTENCES)('is a sentence: $verb', (draft, sentence) => expect(words(draft)).toBe(sentence));

  it.each(SENTENCES)('comes back from what was kept as it was said: $verb', (draft) => {
    const clause = toClause(draft, SAID);
    const again = clause.ok ? clauseDraftOf(clause.value) : null;
    expect(again === null ? null : toClause(again, { ...SAID, zone: 'UTC' })).toEqual(clause);
  });

  const REFUSED: [ClauseDraft, string][] = [
    [say('price', 'falls below'), 'Say the limit.'],
    [say('price', 'falls below', { limit: 'cheap' }), 'cannot be a limit'],
    [say('price', 'is between', { limit: '5' }), 'Say the upper limit.'],
    [say('price', 'falls below', { limit: '24', further: '22; cheap' }), 'cannot be a limit'],
    [say('stock', 'falls below', { limit: '5' }), 'A limit needs a number'],
    [say('unknown', 'is above', { limit: '5' }), 'A limit needs a number'],
    [say('price', 'moves by', { rise: 'much' }), 'cannot be a limit'],
    [say('price', 'moves by', { rise: '5', base: 'median' }), 'Say how many readings'],
    [say('price', 'moves by', { rise: '5', base: 'record' }), 'Say which record'],
    [say('price', 'is unusual', { count: '0' }), 'as a whole number'],
    [say('price', 'is unusual', { count: '1.5' }), 'as a whole number'],
    [say('price', 'is above', { limit: '5', over: over('mean', '', 'hour') }), 'Say how long.'],
    [
      say('price', 'is above', { limit: '5', over: over('pace', '5', 'hour') }),
      'A pace needs a stretch of the calendar',
    ],
    [say('stock', 'becomes'), 'Say which state.'],
    [say('open', 'is', { words: 'perhaps' }), 'Say yes or no.'],
    [say('grade', 'is as bad as', { words: 'Z' }), 'Say one of its grades'],
    [say('text', 'gains the phrase', { words: ' ' }), 'Say which phrase.'],
    [say('price', 'is silent', { span: { count: '-3', unit: 'hour' } }), 'Say how long.'],
    [say('price', 'is above', { limit: '30', subject: { of: 'record', record: '' } }), 'Say whose price it is'],
    [say('price', 'is above', { limit: '30', subject: { ...SHARED, label: '' } }), 'Say which label they share'],
    [say('cost', 'is above', { limit: '30', subject: { ...THERE, watch: 0 } }), 'Say which watch'],
    [
      say('cost', 'is above', { limit: '30', subject: { ...THERE, within: { count: 'old', unit: 'day' } } }),
      'Say how long.',
    ],
    [say('price', 'is above', { limit: '30', subject: { ...THERE, like: null } }), 'A limit needs a number'],
    [say('price', 'takes the lowest place', { subject: SHARED }), 'Only of its own record'],
    [say('price', 'has the highest place', { subject: SHARED }), 'Only of its own record'],
    [
      say('price', 'is below another', { against: 'ours', subject: { of: 'item', side: 'ours' } }),
      'Only of its own record',
    ],
    [say('stock', 'changes', { subject: { of: 'item', side: 'cheapest' } }), 'only a price or a number'],
    [say('text', 'changes', { subject: { of: 'item', side: 'ours' } }), 'no text, link or date'],
    [say(NUMBER_OF_RECORDS, 'falls below', { limit: 'few' }), 'cannot be a limit'],
    [say('price', 'is below another', { record: 'ours', subject: SHARED }), 'Only of its own record'],
    [say('price', 'fails to be read', { count: '3', subject: THERE }), 'Only of its own record'],
    [say('price', 'is below another'), 'Say which record'],
    [say('price', 'is below another', { against: 'watch' }), 'Say which watch'],
    [say('price', 'is below another', { against: 'sharing' }), 'Say which label they share'],
    [
      say('price', 'is below another', {
        against: 'watch',
        elsewhere: { watch: 7, field: 'cost', within: { count: 'long', unit: 'day' } },
      }),
      'Say how long',
    ],
  ];

  it.each(REFUSED)('says what is wrong: $verb', (draft, sentence) => expect(words(draft)).toContain(sentence));
});

it('asks how many records there are of a list alone', () => {
  const draft = say(NUMBER_OF_RECORDS, 'falls below', { limit: '5' });
  expect(toClause(draft, { ...SAID, fields: SAID.fields.filter(({ type }) => type.kind !== 'count') })).toMatchObject({
    ok: false,
  });
});

describe('a rule', () => {
  const rule = (change: Partial<RuleDraft>) =>
    toRule({ ...BLANK_RULE, clauses: [say('price', 'is below', { limit: '20' })], ...change }, SAID, HOUR);
  const problem = (change: Partial<RuleDraft>) => {
    const made = rule(change);
    return made.ok ? null : made.error;
  };

  it('takes what it asks beside its condition', () => {
    const made = rule({
      hold: { count: '2', unit: 'hour' },
      remindEvery: { count: '6', unit: 'hour' },
      hours: { days: [5, 1], from: '8:00', to: '18:30' },
      told: 'move',
      weight: 'high',
    });
    expect(made).toMatchObject({
      ok: true,
      value: {
        hold: { for: 'time', ms: 2 * HOUR },
        told: 'move',
        weight: 'high',
        telling: { remindEvery: 6 * HOUR, hours: { days: [1, 5], from: 480, to: 1110 } },
      },
    });
  });

  const low = say('price', 'is below', { limit: '20' });
  const out = (words: string, more: ClauseChange = {}) => say('stock', 'is', { words, ...more });
  it.each<[Partial<RuleDraft>, string]>([
    [{ clauses: [low, out('sold out'), out('low', { tied: 'any' })] }, 'all: below, (any: sold out, low)'],
    [
      { clauses: [low, say('price', 'is above', { limit: '5', tied: 'all' }), out('low')], join: 'any' },
      'any: (all: below, above), low',
    ],
    [{ clauses: [low, out('sold out', { not: true })] }, 'all: below, (none: sold out)'],
    [
      { clauses: [out('sold out', { not: true }), out('low', { tied: 'any' }), low] },
      'all: (none: sold out, low), below',
    ],
    [{ clauses: [low, out('low', { tied: 'any' })] }, 'any: below, low'],
    [{ clauses: [low, out('sold out')], join: 'none' }, 'none: below, sold out'],
  ])('joins conditions, one level in another, and opens again as it was said: %#', (change, shape) => {
    const shapeOf = (when: Condition): string =>
      'kind' in when
        ? 'limits' in when
          ? when.limits.is
          : 'how' in when && typeof when.how === 'object' && 'is' in when.how
            ? String(wordsOf(when.how.is as Value))
            : '?'
        : Object.entries(when)
            .map(
              ([join, parts]) =>
                `${join}: ` +
                `${(parts as Condition[]).map((part) => ('kind' in part ? shapeOf(part) : `(${shapeOf(part)})`)).join(', ')}`,
            )
            .join();
    const made = rule({ ...change, whenAlreadyMet: 'wait' });
    if (!made.ok) throw new Error(made.error);
    expect(shapeOf(made.value.when)).toBe(shape);
    const again = ruleDraftOf({ id: null, definition: made.value, audiences: [] });
    expect(again.kept).toBeUndefined();
    expect(toCondition(again, SAID)).toEqual({ ok: true, value: made.value.when });
  });

  it.each<[string, ClauseDraft[], (string | undefined)[]]>([
    ['of all records where nothing else is asked', [say(NUMBER_OF_RECORDS, 'is below', { limit: '5' })], [undefined]],
    ['beside each record', [low, say(NUMBER_OF_RECORDS, 'is below', { limit: '5' })], [undefined, ALL_RECORDS]],
    [
      'beside each record, whichever is said first',
      [say(NUMBER_OF_RECORDS, 'is above', { limit: '5' }), low],
      [ALL_RECORDS, undefined],
    ],
    [
      'beside each record that comes',
      [say('price', 'appears'), say(NUMBER_OF_RECORDS, 'is above', { limit: '5' })],
      [ALL_RECORDS],
    ],
    [
      'twice of all',
      [say(NUMBER_OF_RECORDS, 'is above', { limit: '5' }), say(NUMBER_OF_RECORDS, 'moves by', { fall: '1' })],
      [undefined, undefined],
    ],
  ])('asks how many records there are %s', (_how, clauses, records) => {
    const made = rule({ clauses, whenAlreadyMet: 'wait' });
    if (!made.ok) throw new Error(made.error);
    expect(asksOfRule(made.value).map((asked) => asked.record)).toEqual([...new Set(records)]);
    const again = ruleDraftOf({ id: null, definition: made.value, audiences: [] });
    expect(again.clauses.map(({ field, subject }) => [field, subject])).toEqual(
      clauses.map(({ field, verb }) => [verb === 'appears' ? '' : field, undefined]),
    );
    expect(toCondition(again, SAID)).toEqual({ ok: true, value: made.value.when });
  });

  it('keeps as it is what is joined deeper, and what is joined with nothing', () => {
    const [one, two] = [low, out('low')]
      .map((each) => toClause(each, SAID))
      .flatMap((made) => (made.ok ? [made.value] : [])) as [Clause, Clause];
    for (const when of [
      { all: [one, { any: [two, { none: [two] }] }] },
      { all: [one] },
      { all: [one, { any: [two] }] },
      { any: [one, { none: [{ all: [two, one] }] }] },
    ] as Condition[])
      expect(ruleDraftOf({ id: null, definition: { when, whenAlreadyMet: 'wait' }, audiences: [] }).kept).toEqual(when);
  });

  it('refuses that conditions which go together are not so', () => {
    expect(problem({ clauses: [low, out('low', { not: true }), out('sold out', { tied: 'all' })] })).toContain(
      'neither is',
    );
    expect(problem({ clauses: [low, say('price', 'changes', { not: true })] })).toContain('under “none”');
  });

  it('is refused where it could never be judged', () => {
    expect(problem({ clauses: [] })).toBe('Say when it matters.');
    expect(problem({ hold: { count: 'long', unit: 'hour' } })).toBe('Say how long.');
    expect(problem({ hours: { days: [], from: '08:00', to: '18:00' } })).toContain('on which days');
    expect(problem({ hours: { days: [1], from: '25:00', to: '18:00' } })).toContain('times of day');
    expect(problem({ remindEvery: { count: '0.5', unit: 'minute' } })).toContain('after a minute at the least');
    expect(problem({ atMostEvery: { count: '0,01', unit: 'minute' } })).toContain('after a minute at the least');
    expect(problem({ clauses: [say('price', 'changes')], hold: { count: '2', unit: 'reading' } })).toContain(
      'cannot hold',
    );
    expect(problem({ clauses: [say('price', 'changes')], join: 'none' })).toContain('under “none”');
    expect(problem({ clauses: [say('price', 'moves by')] })).toContain('how far it has to rise or to fall');
    expect(problem({ clauses: [say('price', 'is between', { limit: '30', high: '20' })] })).toContain(
      'has to be below',
    );
    expect(
      problem({ clauses: [say('price', 'is above', { limit: '20', over: over('median', '300', 'day') })] }),
    ).toContain('take a shorter one');
    expect(problem({ clauses: [say('text', 'matches', { words: '(' })] })).toContain('pattern cannot be read');
  });
});

const SUBJECTS: unknown[] = [
  SHARED,
  THERE,
  { ...SHARED, where: 'sensor', is: 'x'.repeat(400) },
  { ...THERE, watch: 3_000_000_000 },
  { ...THERE, kind: 'grade', scale: [], like: null },
  { ...THERE, like: { kind: 'money', amount: 'NaN', currency: 'GBP' } },
  { of: 'record', record: 'a' },
  { of: 'item', side: 'ours', channel: 2 },
  { of: 'item', side: 'nobody' },
  { of: 'nothing' },
];

describe('rules as JSON from anywhere', () => {
  const SEARCH = tries(1_000);
  const draft = fc.record({
    ...Object.fromEntries(
      Object.entries(BLANK_RULE).map(([key, value]) => [
        key,
        fc.oneof({ weight: 6, arbitrary: fc.constant(value) }, { weight: 1, arbitrary: fc.jsonValue() }),
      ]),
    ),
    clauses: fc.array(
      fc.record({
        ...Object.fromEntries(
          Object.entries(blankClause('price', 'changes')).map(([key, value]) => [
            key,
            fc.oneof({ weight: 8, arbitrary: fc.constant(value) }, { weight: 1, arbitrary: fc.jsonValue() }),
          ]),
        ),
        verb: fc.constantFrom(...VERBS),
        field: fc.constantFrom('price', 'stock', 'open', 'grade', 'text', NUMBER_OF_RECORDS, 'nowhere'),
        limit: fc.oneof(
          fc.constantFrom('', '20', '-5', '1e400', '٣', '5%', 'x'.repeat(60)),
          fc.string({ maxLength: 80 }),
        ),
        count: fc.constantFrom('', '0', '3', '999999999', 'many'),
        words: fc.constantFrom('', 'sold out', '(a+)+$', '[', 'yes', 'C'),
        further: fc.constantFrom(undefined, '', '19; 18', '1e9;;', '30; x', ';'.repeat(300)),
        subject: fc.oneof(
          { weight: 4, arbitrary: fc.constant(undefined) },
          { weight: 3, arbitrary: fc.constantFrom(...SUBJECTS) },
          { weight: 1, arbitrary: fc.jsonValue() },
        ),
        against: fc.constantFrom(undefined, 'ours', 'watch', 'sharing', 'nobody'),
        sharing: fc.oneof(
          fc.constantFrom(
            undefined,
            { label: 'hive', where: '', is: '' },
            { label: '__proto__', where: 'constructor', is: '' },
          ),
          fc.jsonValue(),
        ),
        elsewhere: fc.constantFrom(
          undefined,
          { watch: 7, field: 'cost', within: { count: '', unit: 'hour' } },
          { watch: 3e9, field: '', within: {} },
        ),
      }),
      { maxLength: 5 },
    ),
  });

  it('end in a rule that can be judged, or in a stated reason', () => {
    fc.assert(
      fc.property(
        fc.oneof(draft, fc.jsonValue()),
        fc.array(fc.constantFrom(...Object.values(SAID.present)), { maxLength: 6 }),
        (json, values) => {
          const read = readRule(JSON.stringify(json));
          if (!read.ok) return read.error.length > 3;
          const made = toRule(read.value, SAID, HOUR);
          if (!made.ok) return made.error.length > 3;
          const situation = { intervalMs: HOUR, savedAt: 0 };
          let memory = freshSubject(made.value, situation);
          values.forEach((value, at) => {
            const keys = [...Object.keys(SAID.present), ...asksOfRule(made.value).map(keyOf)];
            const read = new Map(keys.map((key) => [key, { value: value as Value, at: at * HOUR }]));
            const heard = hearSubject(
              made.value,
              memory,
              { of: 'run', at: at * HOUR, moment: at * HOUR, own: true, read },
              situation,
            );
            memory = heard.at(-1)?.memory ?? memory;
          });
          wakeSubject(made.value, memory, 10 * HOUR, situation);
          describeCondition(
            made.value.when,
            namesOf((key) => key, 'en-GB'),
          );
          const readings = values.map((value, at) => ({
            at: at * HOUR,
            until: at * HOUR,
            runs: 1,
            value: value as Value,
          }));
          const histories = ['a', 'b'].map((identity) => ({
            identity,
            name: identity,
            labels: { hive: 'north', sensor: identity },
            fields: Object.fromEntries(Object.keys(SAID.present).map((key) => [key, { stepwise: true, readings }])),
          }));
          new Trial(histories).run(made.value, situation, 10 * HOUR);
          return JSON.stringify(storedRule.write(made.value)).length > 0;
        },
      ),
      { numRuns: SEARCH },
    );
  });

  it('that do not arrive whole are refused', () => {
    for (const text of ['', '{', 'null', '[]', '"rule"', '{"clauses":[{}]}']) expect(readRule(text).ok).toBe(false);
  });
});
