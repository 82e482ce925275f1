import type Joi from 'joi';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { ok } from '../../result';
import { money } from '../../value/parse';
import { isMeasure } from '../../value/value';
import { HOUR } from '../../when/interval';
import type { Asked } from '../asked';
import type { DraftBase } from '../draft/base';
import { clauseDraft, condition } from './schemas';
import { ofOneSeries, type ConditionKind } from './kind';

// What is known of a kind of condition stands in its folder, and one line lists it. A kind that there is none of is
// added by that line alone, and everything that conditions go through takes it.

interface RoundClause {
  kind: 'round';
  asked: Asked;
}

interface RoundDraft extends DraftBase {
  verb: 'is a round sum';
}

/** A value without pennies. */
const round: ConditionKind<RoundClause, RoundDraft, Record<string, never>> = {
  works: {
    fresh: () => ({}),
    hear: ({ asked }, memory, heard) => {
      const value = heard.of === 'run' ? heard.read.get(asked.field)?.value : undefined;
      if (value === undefined) return null;
      const met = isMeasure(value) && /^\d+(\.0+)?$/.test(value.amount);
      return { memory, finding: { is: met ? 'met' : 'unmet', value, why: { code: 'stands at', value } } };
    },
  },
  ...ofOneSeries,
  words: ({ asked }, names) => `${names.field(asked.field)} is a round sum`,
  refuse: ({ asked }) => (asked.field === 'weight' ? { code: 'units differ' } : null),
  sayings: {
    verbs: ['is a round sum'],
    blank: {},
    toClause: ({ field }) => ok({ kind: 'round', asked: { field } }),
  },
  draftOf: () => ({ verb: 'is a round sum' }),
  never: ({ asked }, seen) =>
    seen.says(asked.field, money('20.00', 'GBP'))
      ? []
      : [{ code: 'never said', field: asked.field, words: 'a round sum' }],
};

/** The modules as they are with one kind more. */
async function withRound() {
  vi.resetModules();
  const { KINDS } = await import('./table');
  Object.assign(KINDS, { round });
  const [draft, describing, refusing, never, trial, rules] = await Promise.all([
    import('../draft/clause'),
    import('../describe'),
    import('../refuse'),
    import('../never'),
    import('../trial'),
    import('../rule'),
  ]);
  return { ...draft, ...describing, ...refusing, ...never, ...trial, ...rules };
}

let known: Awaited<ReturnType<typeof withRound>>;
beforeAll(async () => (known = await withRound()));
afterAll(() => vi.resetModules());

const SAID = { present: {}, fields: [], locale: 'en-GB', zone: 'Europe/London' };
const rule = { when: { kind: 'round', asked: { field: 'price' } } as never, whenAlreadyMet: 'wait' as const };
const names = { field: (key: string) => key, locale: 'en-GB' };
const past = (...amounts: string[]) => [
  {
    identity: 'a',
    name: 'Copper smoker',
    fields: {
      price: {
        stepwise: true,
        readings: amounts.map((amount, n) => ({
          at: n * HOUR,
          until: n * HOUR,
          runs: 1,
          value: money(amount, 'GBP'),
        })),
      },
    },
  },
];

describe('a kind of condition that one line more lists', () => {
  it('is said by its verb, and comes back as it was said', () => {
    const draft = known.blankClause('price', 'is a round sum' as never);
    expect(known.VERBS).toContain('is a round sum');
    expect(known.toClause(draft, SAID)).toEqual({ ok: true, value: rule.when });
    expect(known.clauseDraftOf(rule.when)).toEqual(draft);
    expect(known.describeCondition({ all: [rule.when, rule.when] }, names)).toBe(
      'price is a round sum and price is a round sum',
    );
  });

  it('is refused by what it says, and told what it could never have met', () => {
    expect(known.refuse(rule, HOUR)).toBeNull();
    expect(known.refuse({ ...rule, when: { kind: 'round', asked: { field: 'weight' } } as never }, HOUR)).toEqual({
      code: 'units differ',
    });
    expect(known.neverMet(rule, past('19.99'), HOUR)).toMatchObject([{ code: 'never said' }]);
    expect(known.neverMet(rule, past('20.00'), HOUR)).toEqual([]);
  });

  it('is judged over a history, and counts as what is asked of its record', () => {
    const situation = { intervalMs: HOUR, savedAt: 0 };
    const tested = new known.Trial(past('19.99', '20.00', '20.50', '21.00')).run(rule, situation, 4 * HOUR);
    expect(tested.alerts.map(({ at }) => at)).toEqual([HOUR, 3 * HOUR]);
    expect(known.ownFields(rule)).toEqual(['price']);
    expect(known.countsRuns(rule)).toBe(false);
  });
});

describe('what conditions are sent as', () => {
  const isShape = (schema: Joi.Schema, value: unknown) => schema.validate(value).error === undefined;

  it('has the shape of a clause that is said by each verb, and of nothing else', () => {
    for (const verb of known.VERBS.filter((each) => each !== ('is a round sum' as never))) {
      const draft = known.blankClause('price', verb);
      expect([verb, isShape(clauseDraft, draft)]).toEqual([verb, true]);
      expect(isShape(clauseDraft, { ...draft, strange: 'x' })).toBe(false);
      expect(isShape(clauseDraft, { ...draft, verb: `${verb}!` })).toBe(false);
    }
  });

  it('is refused of a kind that there is none of', () => {
    expect(isShape(condition, { kind: 'change', asked: { field: 'price' } })).toBe(true);
    expect(isShape(condition, { kind: 'changed', asked: { field: 'price' } })).toBe(false);
    expect(isShape(condition, rule.when)).toBe(false);
    expect(isShape(condition, { kind: 'crossing', asked: { field: 'price' } })).toBe(false);
  });
});

describe('a clause said by another verb', () => {
  it('keeps what means the same there, and nothing else', () => {
    const clause = { ...known.blankClause('price', 'falls below'), limit: '22', margin: '1', tied: 'any' as const };
    expect(known.withVerb(clause, 'is between')).toEqual({ ...clause, verb: 'is between' });
    expect(known.withVerb(clause, 'is unusual')).toEqual({
      ...known.blankClause('price', 'is unusual'),
      tied: 'any',
    });
    const held = { ...known.blankClause('price', 'is below another'), against: 'watch' as const, limit: '2' };
    expect(known.withVerb(held, 'is above another')).toEqual({
      ...known.blankClause('price', 'is above another'),
      limit: '2',
    });
    // A limit is no distance, and so many words are no readings.
    expect(known.withVerb(clause, 'is below another')).toEqual({
      ...known.blankClause('price', 'is below another'),
      tied: 'any',
    });
    const words = { ...known.blankClause('price', 'changes'), count: '20' };
    expect(known.withVerb(words, 'is unusual')).toEqual(known.blankClause('price', 'is unusual'));
  });

  it('is read without the figures of other verbs that older ones bore', () => {
    const old = { ...known.blankClause('price', 'changes'), limit: '5', high: '', base: 'last', side: 'either' };
    expect(known.asSaidBy(old)).toEqual(known.blankClause('price', 'changes'));
  });
});
