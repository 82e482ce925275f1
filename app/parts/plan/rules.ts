import type { PlanDraft } from '#core/plan/plan';
import { BLANK_RULE, type RuleDraft } from '#core/plan/rule-draft';

// What is done to the rules of a plan that is being said.

/** The rules with one of them changed; where there was none yet, there is one now. */
export const changeRule = ({ rules }: PlanDraft, at: number, change: Partial<RuleDraft>): Pick<PlanDraft, 'rules'> => ({
  rules:
    rules.length === 0
      ? [{ ...BLANK_RULE, ...change }]
      : rules.map((rule, each) => (each === at ? { ...rule, ...change } : rule)),
});

/** The rules with another one, told to those who hear of the last, and until the same day. */
export const addRule = ({ rules }: PlanDraft): Pick<PlanDraft, 'rules'> => ({
  rules: [...rules, { ...BLANK_RULE, audiences: rules.at(-1)?.audiences ?? [], ends: rules.at(-1)?.ends ?? '' }],
});

/** The rules without one of them. */
export const removeRule = ({ rules }: PlanDraft, at: number): Pick<PlanDraft, 'rules'> => ({
  rules: rules.filter((_, each) => each !== at),
});
