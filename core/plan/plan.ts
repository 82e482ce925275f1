import { NUMBER, withNumber } from '../read/all-records';
import { definitionOf, haveOwnNames, pageDefinition, type Field, type WatchDefinition } from '../read/definition';
import { parseFormula } from '../read/formula';
import { fail, ok, type Result } from '../result';
import { isMeasure, unitOf, type Value } from '../value/value';
import { storedAs } from '../versioned';
import type { Place } from '../when/format';
import type { SaidIn } from '../judge/draft/said-in';
import { HOUR, intervalLength, LONGEST_INTERVAL, type Interval } from '../when/interval';
import {
  BLANK_RULE,
  ruleDraftOf,
  ruleDraftOfOld,
  toRule,
  type CompleteRule,
  type PresentValues,
  type RuleDraft,
  ruleDraftOfBags,
} from './rule-draft';

/** A watch while it is being said. */
export interface PlanDraft extends WatchDefinition {
  /** Null: not said yet. */
  frequency: Interval | null;
  /** None: it is only recorded, and nobody is told. */
  rules: RuleDraft[];
}

/** How many rules a watch may have. */
export const MOST_RULES = 50;

/** A plan that has everything. */
export interface CompletePlan {
  definition: WatchDefinition;
  frequency: Interval;
  rules: CompleteRule[];
}

/** How a draft is stored. Before a watch could have many rules, a plan said the one it had. */
export const storedPlan = storedAs<PlanDraft>(
  'a draft',
  (unnumbered) => {
    const { condition, onlyRecord, audiences, whenAlreadyMet, ...rest } = unnumbered as PlanOfOneRule;
    return { ...rest, rules: onlyRecord ? [] : [{ id: null, condition, audiences, whenAlreadyMet }] };
  },
  withClauses,
  withOwnWords,
  withFiguresOfVerbs,
);

interface PlanOfOneRule extends Omit<PlanDraft, 'rules'>, Omit<RuleOfOld, 'id'> {
  onlyRecord: boolean;
}

type RuleOfOld = Parameters<typeof ruleDraftOfOld>[0];

/** A rule was one condition on one field. */
function withClauses(older: unknown): unknown {
  const plan = older as { rules: RuleOfOld[] };
  return { ...plan, rules: plan.rules.map(ruleDraftOfOld) };
}

/** A rule had neither tags nor words of its own. */
function withOwnWords(older: unknown): unknown {
  const plan = older as PlanDraft;
  return { ...plan, rules: plan.rules.map((rule) => ({ ...BLANK_RULE, ...rule })) };
}

/** A clause bore the figures of every verb there is. */
function withFiguresOfVerbs(older: unknown): unknown {
  const plan = older as PlanDraft;
  return { ...plan, rules: plan.rules.map(ruleDraftOfBags) };
}

/** What is still missing or wrong, by the link of the chain it belongs to. */
export type PlanProblems = Partial<Record<'source' | 'value' | 'rule' | 'report', string>>;

/**
 * A draft about which nothing is said yet but what it follows, and the last day of its first rule, where the house has
 * one for new rules.
 */
export function emptyPlan(subject: string, ends = ''): PlanDraft {
  return {
    ...pageDefinition(subject, []),
    frequency: { count: 2, unit: 'hour' },
    rules: [{ ...BLANK_RULE, ends }],
  };
}

/** Makes a whole plan of a draft, or says for each link what it lacks. */
export function completePlan(
  draft: PlanDraft,
  present: PresentValues,
  place: Place,
): Result<CompletePlan, PlanProblems> {
  const problems: PlanProblems = {};
  const frequency = checkFrequency(draft.frequency);
  if (!frequency.ok) problems.source = frequency.error;
  problems.value = readingFault(draft) ?? undefined;
  const said = { present, fields: withNumber(draft), ...place };
  const intervalMs = frequency.ok ? intervalLength(frequency.value) : HOUR;
  const rules = draft.rules.map((rule) => checkRule(rule, said, intervalMs));
  const ofRule = (at: number) => (rules.length > 1 ? `Rule ${at + 1}: ` : '');
  const wrong = rules.findIndex((rule) => !rule.ok);
  problems.rule = whatIsWrong(rules[wrong], ofRule(wrong));
  const untold = draft.rules.findIndex(({ audiences }) => audiences.length === 0);
  if (untold >= 0) problems.report = `${ofRule(untold)}Say who should hear.`;
  if (!frequency.ok || Object.values(problems).some(Boolean)) return fail(problems);
  const definition = { ...definitionOf(draft), subject: draft.subject.trim() };
  return ok({ definition, frequency: frequency.value, rules: rules.flatMap((rule) => (rule.ok ? [rule.value] : [])) });
}

function whatIsWrong(rule: Result<CompleteRule, string> | undefined, said: string): string | undefined {
  return rule === undefined || rule.ok ? undefined : `${said}${rule.error}`;
}

/** What is wrong with what is read, or missing from it: a sentence; null where nothing is. */
export function readingFault({ subject, records, identity, fields }: WatchDefinition): string | null {
  if (fields.length === 0) return 'Say what to read.';
  if (subject.trim() === '') return 'Say what it is called.';
  if (fields.some((field) => field.label.trim() === '')) return 'Give each value a name.';
  if (!haveOwnNames(records) && identity.length === 0) return 'Say what tells the records apart.';
  for (const { label, type } of fields) {
    if (type.kind === 'computed' && !parseFormula(type.formula).ok) return `Say how ${label} is computed.`;
    if (type.kind === 'phrase' && type.phrase.trim() === '') return `Say which phrase ${label} looks for.`;
    if (type.kind === 'grade' && type.scale.length < 2) return `Say the grades of ${label}, the best first.`;
  }
  return null;
}

/** How often a watch looks, if that can be; else why not. */
export function checkFrequency(frequency: Interval | null): Result<Interval, string> {
  if (frequency === null || !Number.isInteger(frequency.count) || frequency.count < 1)
    return fail('Say how often to look: a whole number of minutes, hours or days.');
  return intervalLength(frequency) > LONGEST_INTERVAL
    ? fail('A run a year is the least often that can be asked.')
    : ok(frequency);
}

function checkRule(draft: RuleDraft, said: SaidIn, intervalMs: number): Result<CompleteRule, string> {
  const definition = toRule(draft, said, intervalMs);
  return definition.ok ? ok({ id: draft.id, definition: definition.value, audiences: draft.audiences }) : definition;
}

/** A kept watch, as far as its plan goes. */
interface StoredPlan {
  definition: WatchDefinition;
  frequency: Interval;
  rules: CompleteRule[];
}

/** The plan that a kept watch says, to be changed. */
export function draftOf({ definition, frequency, rules }: StoredPlan): PlanDraft {
  return { ...definition, frequency, rules: rules.map(ruleDraftOf) };
}

/** The units that the values of each field are counted in, for a limit to be counted in one of them. */
export function unitsByField(values: { field: string; value: Value | null }[]): Record<string, string[]> {
  const units: Record<string, string[]> = {};
  for (const { field, value } of values) {
    if (value !== null && isMeasure(value)) units[field] = [...new Set([...(units[field] ?? []), unitOf(value) ?? ''])];
  }
  return units;
}

/**
 * What a field that a condition names is called; how many records a list has can be asked whether it is read already or
 * not.
 */
export function labelOf(fields: Field[], key: string): string {
  return [...fields, NUMBER].find((field) => field.key === key)?.label ?? key;
}
