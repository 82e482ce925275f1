import type { RuleId } from '#core/id';
import { describe, expect, it } from 'vitest';
import { pageDefinition, type Field } from '#core/read/definition';
import { freeKey } from '#core/read/keys';
import { money } from '#core/value/parse';
import {
  completePlan,
  draftOf,
  emptyPlan,
  presentDistance,
  toCondition,
  storedPlan,
  type ConditionDraft,
  type PlanDraft,
  type RuleDraft,
} from '#core/plan/plan';
import { readPlan } from './shape.server';

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
const falls = (limit: string, change: Partial<ConditionDraft> = {}): ConditionDraft => ({
  kind: 'crossing',
  field: 'price',
  direction: 'below',
  inclusive: false,
  limit,
  ...change,
});
const ruled = (change: Partial<RuleDraft> = {}): RuleDraft => ({
  id: null,
  condition: falls('22.50'),
  audiences: ['list:1'],
  whenAlreadyMet: null,
  ...change,
});
const whole = (change: Partial<PlanDraft> = {}): PlanDraft => ({
  ...emptyPlan('Copper smoker'),
  fields: [field],
  rules: [ruled()],
  ...change,
});
const problems = (draft: PlanDraft) => {
  const plan = completePlan(draft, present, 'en-GB');
  return plan.ok ? {} : plan.error;
};

describe('a plan', () => {
  it('that has everything is whole, its limit in the unit of the present value', () => {
    const plan = completePlan(whole(), present, 'en-GB');
    expect(plan).toMatchObject({
      ok: true,
      value: {
        rules: [
          {
            definition: { condition: { limit: { kind: 'money', amount: '22.50', currency: 'GBP' } }, whenAlreadyMet: 'wait' },
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
    expect(problems(whole({ frequency: { count: 400, unit: 'day' } })).source).toContain('A look a year');
    expect(problems(whole({ rules: [ruled({ audiences: [] })] })).report).toBe('Say who should hear.');
  });

  it('asks what to do about a rule that is met already, and takes the answer', () => {
    const met = whole({ rules: [ruled({ condition: falls('25') })] });
    expect(problems(met).rule).toContain('It is met already');
    expect(completePlan(whole({ rules: [ruled({ condition: falls('25'), whenAlreadyMet: 'raise' })] }), present, 'en-GB')).toMatchObject({
      ok: true,
      value: { rules: [{ definition: { whenAlreadyMet: 'raise' } }] },
    });
  });

  it('that only records needs no rule and nobody to tell', () => {
    const plan = completePlan(whole({ rules: [] }), present, 'en-GB');
    expect(plan).toMatchObject({ ok: true, value: { rules: [] } });
  });
});

describe('several rules', () => {
  it('are each made whole, and each says what it lacks', () => {
    const two = whole({ rules: [ruled(), ruled({ condition: falls('', { kind: 'change' }) })] });
    expect(completePlan(two, present, 'en-GB')).toMatchObject({
      ok: true,
      value: { rules: [{}, { definition: { condition: { kind: 'change' } } }] },
    });
    expect(problems(whole({ rules: [ruled(), ruled({ condition: falls('cheap') })] })).rule).toMatch(/^Rule 2: “cheap” cannot be a limit/);
    expect(problems(whole({ rules: [ruled(), ruled({ condition: null, audiences: [] })] }))).toMatchObject({
      rule: 'Rule 2: Say when it matters.',
      report: 'Rule 2: Say who should hear.',
    });
  });

  it('are read from drafts of before, which said one', () => {
    const { rules: _, ...rest } = whole();
    const former = (change: object) =>
      storedPlan.read({ ...rest, condition: falls('22.50'), onlyRecord: false, audiences: ['list:1'], whenAlreadyMet: 'raise', ...change });
    expect(former({}).rules).toEqual([ruled({ whenAlreadyMet: 'raise' })]);
    expect(former({ onlyRecord: true, condition: null }).rules).toEqual([]);
    expect(storedPlan.read(JSON.parse(JSON.stringify(storedPlan.write(whole()))))).toEqual(whole());
  });
});

describe('a condition as it is said', () => {
  it('reads the limit as the analyst writes numbers', () => {
    expect(toCondition(falls('1,249'), present, 'en-GB')).toMatchObject({ ok: true, value: { limit: { amount: '1249' } } });
    expect(toCondition(falls('22,50'), present, 'de-DE')).toMatchObject({ ok: true, value: { limit: { amount: '22.50' } } });
    expect(toCondition(falls('cheap'), present, 'en-GB')).toMatchObject({
      ok: false,
      error: expect.stringContaining('“cheap” cannot be a limit') as string,
    });
    expect(toCondition(falls(''), present, 'en-GB')).toEqual({ ok: false, error: 'Say the limit.' });
  });

  it('needs a number to stand against', () => {
    expect(toCondition(falls('5', { field: 'stock' }), present, 'en-GB').ok).toBe(false);
    expect(toCondition(falls('5', { field: 'unknown' }), present, 'en-GB').ok).toBe(false);
    expect(toCondition(falls('', { kind: 'change', field: 'stock' }), present, 'en-GB')).toEqual({
      ok: true,
      value: { kind: 'change', field: 'stock' },
    });
  });

  it('comes back from what was kept as it was said', () => {
    for (const draft of [falls('22.50'), falls('22.50', { kind: 'level', direction: 'above', inclusive: true })]) {
      const kept = toCondition(draft, present, 'en-GB');
      const rules = kept.ok ? [{ id: 7 as RuleId, definition: { condition: kept.value, whenAlreadyMet: 'wait' as const }, audiences: [] }] : [];
      const [said] = draftOf({ definition: pageDefinition('Smoker', [field]), frequency: { count: 1, unit: 'hour' }, rules }).rules;
      expect(said).toMatchObject({ id: 7, condition: { ...draft, unit: 'GBP' } });
    }
  });

  it('knows its distance only where there is one', () => {
    const limit = toCondition(falls('22.50'), present, 'en-GB');
    expect(limit.ok && presentDistance(limit.value, present)).toMatchObject({ met: false, move: { difference: '1.50' } });
    expect(presentDistance({ kind: 'change', field: 'price' }, present)).toBeNull();
  });
});

describe('keys of fields', () => {
  it('come from their names and never meet', () => {
    expect(freeKey('Landed price, £', [])).toBe('landed-price');
    expect(freeKey('price', ['price', 'price-2'])).toBe('price-3');
    expect(freeKey('€', [])).toBe('value');
  });
});

describe('what a browser sends', () => {
  it('is taken when it has the shape of a plan', () => {
    expect(readPlan(JSON.stringify(whole()))).toEqual({ ok: true, value: whole() });
  });

  it.each([
    ['nothing', null],
    ['no JSON', '{'],
    ['another shape', '{"subject":"x"}'],
    ['a field without a place', JSON.stringify(whole({ fields: [{ ...field, locators: [] }] }))],
    ['two fields of one key', JSON.stringify(whole({ fields: [field, field] }))],
    ['an unknown way of finding', JSON.stringify(whole({ fields: [{ ...field, locators: [{ way: 'guess' } as never] }] }))],
    ['a selector too long', JSON.stringify(whole({ fields: [{ ...field, locators: [{ way: 'css', selector: 'p'.repeat(501) }] }] }))],
    ['an audience that is none', JSON.stringify(whole({ rules: [ruled({ audiences: ['everybody'] })] }))],
    ['more rules than a watch may have', JSON.stringify(whole({ rules: Array.from({ length: 51 }, () => ruled()) }))],
    ['properties that nobody knows', JSON.stringify({ ...whole(), owner: 1 })],
  ])('is refused with a sentence: %s', (_name, sent) => {
    const read = readPlan(sent);
    expect(!read.ok && read.error).toMatch(/^This watch cannot be kept: /);
  });
});
