import type { RuleId } from '#core/id';
import { describe, expect, it } from 'vitest';
import type { Condition } from '#core/judge/clause';
import { pageDefinition, type Field } from '#core/read/definition';
import { freeKey } from '#core/read/keys';
import { money } from '#core/value/parse';
import { blankClause, withSaid, type ClauseChange } from '#core/judge/draft/clause';
import type { ClauseDraft } from '#core/judge/kinds/table';
import { completePlan, draftOf, emptyPlan, storedPlan, type PlanDraft } from '#core/plan/plan';
import { BLANK_RULE, presentDistance, toCondition, type RuleDraft } from '#core/plan/rule-draft';
import { readPlan, readRule } from './plan';

const field: Field = {
  key: 'price',
  label: 'price',
  type: { kind: 'money', currency: 'GBP' },
  mode: 'stepwise',
  polarity: 'up is good',
  locale: null,
  locators: [{ way: 'css', selector: '#price' }],
};
const present = { price: money('24.00', 'GBP'), stock: { kind: 'text' as const, text: 'In stock' } };
const HERE = { locale: 'en-GB', zone: 'Europe/London' };
const falls = (limit: string, change: ClauseChange = {}): ClauseDraft[] => [
  withSaid(blankClause('price', 'falls below'), { limit, ...change }),
];
const ruled = (change: Partial<RuleDraft> = {}): RuleDraft => ({
  ...BLANK_RULE,
  clauses: falls('22.50'),
  audiences: ['list:1'],
  ...change,
});
/** A condition so many levels deep. */
const deep = (levels: number): Condition => {
  let made: Condition = { kind: 'record', how: 'appears' };
  for (let level = 0; level < levels; level += 1) made = { all: [made] };
  return made;
};
/** The condition that clauses say, each by itself and all of them. */
const said = (clauses: ClauseDraft[], locale = 'en-GB') =>
  toCondition({ clauses, join: 'all' }, { present, fields: [field], ...HERE, locale });
const whole = (change: Partial<PlanDraft> = {}): PlanDraft => ({
  ...emptyPlan('Copper smoker'),
  fields: [field],
  rules: [ruled()],
  ...change,
});
const problems = (draft: PlanDraft) => {
  const plan = completePlan(draft, present, HERE);
  return plan.ok ? {} : plan.error;
};

describe('a plan', () => {
  it('that has everything is whole, its limit in the unit of the present value', () => {
    const plan = completePlan(whole(), present, HERE);
    expect(plan).toMatchObject({
      ok: true,
      value: {
        rules: [
          {
            definition: {
              when: { limits: { limit: { kind: 'money', amount: '22.50', currency: 'GBP' } } },
              whenAlreadyMet: 'wait',
            },
            audiences: ['list:1'],
          },
        ],
      },
    });
  });

  it('says for each link what it lacks', () => {
    const empty = problems({ ...emptyPlan(''), frequency: null });
    expect(Object.keys(empty).sort()).toEqual(['report', 'rule', 'source', 'value']);
    expect(problems(whole({ subject: ' ' })).value).toBe('Say what it is called.');
    expect(problems(whole({ fields: [{ ...field, label: '' }] })).value).toBe('Give each value a name.');
    expect(problems(whole({ frequency: { count: 0, unit: 'hour' } })).source).toContain('a whole number');
    expect(problems(whole({ frequency: { count: 400, unit: 'day' } })).source).toContain('A run a year');
    expect(problems(whole({ rules: [ruled({ audiences: [] })] })).report).toBe('Say who should hear.');
  });

  it('asks what to do about a rule that is met already, and takes the answer', () => {
    const met = whole({ rules: [ruled({ clauses: falls('25') })] });
    expect(problems(met).rule).toContain('It is met already');
    expect(
      completePlan(whole({ rules: [ruled({ clauses: falls('25'), whenAlreadyMet: 'raise' })] }), present, HERE),
    ).toMatchObject({
      ok: true,
      value: { rules: [{ definition: { whenAlreadyMet: 'raise' } }] },
    });
  });

  it('that only records needs no rule and nobody to tell', () => {
    const plan = completePlan(whole({ rules: [] }), present, HERE);
    expect(plan).toMatchObject({ ok: true, value: { rules: [] } });
  });
});

describe('several rules', () => {
  it('are each made whole, and each says what it lacks', () => {
    const two = whole({ rules: [ruled(), ruled({ clauses: [blankClause('price', 'changes')] })] });
    expect(completePlan(two, present, HERE)).toMatchObject({
      ok: true,
      value: { rules: [{}, { definition: { when: { kind: 'change' } } }] },
    });
    expect(problems(whole({ rules: [ruled(), ruled({ clauses: falls('cheap') })] })).rule).toMatch(
      /^Rule 2: “cheap” cannot be a limit/,
    );
    expect(problems(whole({ rules: [ruled(), ruled({ clauses: [], audiences: [] })] }))).toMatchObject({
      rule: 'Rule 2: Say when it matters.',
      report: 'Rule 2: Say who should hear.',
    });
  });

  it('are read from drafts of before, which said one', () => {
    const { rules: _, ...rest } = whole();
    const OLD = { kind: 'crossing', field: 'price', direction: 'below', inclusive: false, limit: '22.50' };
    const former = (change: object) =>
      storedPlan.read({
        ...rest,
        condition: OLD,
        onlyRecord: false,
        audiences: ['list:1'],
        whenAlreadyMet: 'raise',
        ...change,
      });
    expect(former({}).rules).toEqual([ruled({ whenAlreadyMet: 'raise' })]);
    expect(former({ onlyRecord: true, condition: null }).rules).toEqual([]);
    expect(storedPlan.read(JSON.parse(JSON.stringify(storedPlan.write(whole()))))).toEqual(whole());
  });
});

describe('a condition as it is said', () => {
  it('reads the limit as the analyst writes numbers', () => {
    expect(said(falls('1,249'))).toMatchObject({ ok: true, value: { limits: { limit: { amount: '1249' } } } });
    expect(said(falls('22,50'), 'de-DE')).toMatchObject({
      ok: true,
      value: { limits: { limit: { amount: '22.50' } } },
    });
    expect(said(falls('cheap'))).toMatchObject({
      ok: false,
      error: expect.stringContaining('“cheap” cannot be a limit') as string,
    });
    expect(said(falls(''))).toEqual({ ok: false, error: 'Say the limit.' });
  });

  it('needs a number to stand against', () => {
    expect(said(falls('5', { field: 'stock' })).ok).toBe(false);
    expect(said(falls('5', { field: 'unknown' })).ok).toBe(false);
    expect(said([blankClause('stock', 'changes')])).toEqual({
      ok: true,
      value: { kind: 'change', asked: { field: 'stock' } },
    });
  });

  it('comes back from what was kept as it was said', () => {
    for (const draft of [
      falls('22.50'),
      [withSaid(blankClause('price', 'is above'), { limit: '22.50', inclusive: true })],
    ]) {
      const kept = said(draft);
      const rules = kept.ok
        ? [{ id: 7 as RuleId, definition: { when: kept.value, whenAlreadyMet: 'wait' as const }, audiences: [] }]
        : [];
      const [again] = draftOf({
        definition: pageDefinition('Smoker', [field]),
        frequency: { count: 1, unit: 'hour' },
        rules,
      }).rules;
      expect(again).toMatchObject({ id: 7, clauses: draft.map((clause) => ({ ...clause, unit: 'GBP' })) });
    }
  });

  it('knows its distance only where there is one', () => {
    const limit = said(falls('22.50'));
    expect(limit.ok && presentDistance(limit.value, present)).toMatchObject({
      met: false,
      move: { difference: '1.50' },
    });
    expect(presentDistance({ kind: 'change', asked: { field: 'price' } }, present)).toBeNull();
  });
});

describe('keys of fields', () => {
  it('come from their names and never meet', () => {
    expect(freeKey('Landed price, £', [])).toBe('landed-price');
    expect(freeKey('price', ['price', 'price-2'])).toBe('price-3');
    expect(freeKey('€', [])).toBe('value');
    expect(freeKey('Constructor', [])).toBe('constructor-2');
  });
});

describe('what a browser sends', () => {
  it('is taken when it has the shape of a plan', () => {
    expect(readPlan(JSON.stringify(whole()))).toEqual({ ok: true, value: whole() });
  });

  it('may say a condition as deep as a rule may have it', () => {
    const kept = whole({ rules: [ruled({ clauses: [], kept: deep(4) })] });
    expect(readPlan(JSON.stringify(kept))).toEqual({ ok: true, value: kept });
  });

  it('is not looked through where it is nested beyond all measure: not even what is wrong with it', () => {
    expect(readRule(JSON.stringify(ruled({ kept: deep(1_500) })))).toEqual({
      ok: false,
      error: 'It did not arrive whole.',
    });
  });

  it.each([
    ['nothing', null],
    ['no JSON', '{'],
    ['another shape', '{"subject":"x"}'],
    ['a field without a place', JSON.stringify(whole({ fields: [{ ...field, locators: [] }] }))],
    ['two fields of one key', JSON.stringify(whole({ fields: [field, field] }))],
    [
      'an unknown way of finding',
      JSON.stringify(whole({ fields: [{ ...field, locators: [{ way: 'guess' } as never] }] })),
    ],
    [
      'a selector too long',
      JSON.stringify(whole({ fields: [{ ...field, locators: [{ way: 'css', selector: 'p'.repeat(501) }] }] })),
    ],
    ['an audience that is none', JSON.stringify(whole({ rules: [ruled({ audiences: ['everybody'] })] }))],
    ['more rules than a watch may have', JSON.stringify(whole({ rules: Array.from({ length: 51 }, () => ruled()) }))],
    ['a condition nested beyond all measure', JSON.stringify(whole({ rules: [ruled({ kept: deep(1_500) })] }))],
    ['properties that nobody knows', JSON.stringify({ ...whole(), owner: 1 })],
  ])('is refused with a sentence: %s', (_name, sent) => {
    const read = readPlan(sent);
    expect(!read.ok && read.error).toMatch(/^This watch cannot be kept: /);
  });
});
