import type { RuleId } from '../id';
import { distanceTo, type Distance } from '../judge/distance';
import type { Condition, Direction, Hold, RuleDefinition } from '../judge/rule';
import { definitionOf, pageDefinition, type Field, type WatchDefinition } from '../read/definition';
import { parseFormula } from '../read/formula';
import { fail, ok, type Result } from '../result';
import { parseLimit } from '../value/parse';
import { describeRefusal } from '../value/refusals';
import { isMeasure, unitOf, type Measure, type Value } from '../value/value';
import { storedAs } from '../versioned';
import { intervalLength, LONGEST_INTERVAL, type Interval } from '../when/interval';

/** A condition while it is being said: the limit as typed. */
export interface ConditionDraft {
  kind: Condition['kind'];
  field: string;
  direction: Direction;
  inclusive: boolean;
  limit: string;
  /** What the limit is counted in, where records of several units are read; else as the present value is. */
  unit?: string;
}

/** A rule while it is being said. */
export interface RuleDraft {
  /** Of a rule that is kept already; null of a new one. */
  id: RuleId | null;
  /** Null: not said yet. */
  condition: ConditionDraft | null;
  audiences: string[];
  whenAlreadyMet: 'raise' | 'wait' | null;
  /** How long it must hold; carried along. */
  hold?: Hold;
}

/** A watch while it is being said. */
export interface PlanDraft extends WatchDefinition {
  /** Null: not said yet. */
  frequency: Interval | null;
  /** None: it is only recorded, and nobody is told. */
  rules: RuleDraft[];
}

/** A rule about which nothing is said yet. */
export const BLANK_RULE: RuleDraft = { id: null, condition: null, audiences: [], whenAlreadyMet: null };

/** How many rules a watch may have. */
export const MOST_RULES = 50;

/** The present good value of each field, by key. */
export type PresentValues = Record<string, Value | undefined>;

/** A rule that has everything. */
export interface CompleteRule {
  id: RuleId | null;
  definition: RuleDefinition;
  audiences: string[];
}

/** A plan that has everything. */
export interface CompletePlan {
  definition: WatchDefinition;
  frequency: Interval;
  rules: CompleteRule[];
}

/** How a draft is stored. Before a watch could have many rules, a plan said the one it had. */
export const storedPlan = storedAs<PlanDraft>('a draft', (unnumbered) => {
  const { condition, onlyRecord, audiences, whenAlreadyMet, ...rest } = unnumbered as PlanOfOneRule;
  return { ...rest, rules: onlyRecord ? [] : [{ id: null, condition, audiences, whenAlreadyMet }] };
});

interface PlanOfOneRule extends Omit<PlanDraft, 'rules'>, Omit<RuleDraft, 'id'> {
  onlyRecord: boolean;
}

/** What is still missing or wrong, by the link of the chain it belongs to. */
export type PlanProblems = Partial<Record<'source' | 'value' | 'rule' | 'report', string>>;

/** A draft about which nothing is said yet but what it follows. */
export function emptyPlan(subject: string): PlanDraft {
  return {
    ...pageDefinition(subject, []),
    frequency: { count: 2, unit: 'hour' },
    rules: [BLANK_RULE],
  };
}

/** Makes a whole plan of a draft, or says for each link what it lacks. */
export function completePlan(draft: PlanDraft, present: PresentValues, locale: string): Result<CompletePlan, PlanProblems> {
  const problems: PlanProblems = {};
  const frequency = checkFrequency(draft.frequency);
  if (!frequency.ok) problems.source = frequency.error;
  if (draft.fields.length === 0) problems.value = 'Say what to read.';
  if (draft.subject.trim() === '') problems.value ??= 'Say what it is called.';
  if (draft.fields.some((field) => field.label.trim() === '')) problems.value ??= 'Give each value a name.';
  problems.value ??= checkReading(draft);
  const rules = draft.rules.map((rule) => checkRule(rule, present, locale));
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

/** What the reading of records and of computed values still lacks. */
function checkReading({ records, identity, fields }: PlanDraft): string | undefined {
  const named = ['page', 'feed', 'metrics', 'senml'].includes(records.from) || ('path' in records && records.path.trim() === '$');
  if (!named && identity.length === 0 && fields.length > 0) return 'Say what tells the records apart.';
  for (const { label, type } of fields) {
    if (type.kind === 'computed' && !parseFormula(type.formula).ok) return `Say how ${label} is computed.`;
    if (type.kind === 'phrase' && type.phrase.trim() === '') return `Say which phrase ${label} looks for.`;
    if (type.kind === 'grade' && type.scale.length < 2) return `Say the grades of ${label}, the best first.`;
  }
  return undefined;
}

function checkFrequency(frequency: Interval | null): Result<Interval, string> {
  if (frequency === null || !Number.isInteger(frequency.count) || frequency.count < 1)
    return fail('Say how often to look: a whole number of minutes, hours or days.');
  return intervalLength(frequency) > LONGEST_INTERVAL ? fail('A look a year is the least often that can be asked.') : ok(frequency);
}

function checkRule(
  { id, condition: said, audiences, whenAlreadyMet, hold }: RuleDraft,
  present: PresentValues,
  locale: string,
): Result<CompleteRule, string> {
  if (said === null) return fail('Say when it matters.');
  const condition = toCondition(said, present, locale);
  if (!condition.ok) return condition;
  if (needsChoice(condition.value, present) && whenAlreadyMet === null) {
    return fail('It is met already: say whether to raise it now, or to wait until it is left and met again.');
  }
  const definition = { condition: condition.value, whenAlreadyMet: whenAlreadyMet ?? ('wait' as const), ...(hold === undefined ? {} : { hold }) };
  return ok({ id, definition, audiences });
}

/** The condition a draft means, its limit in the unit of the present value; or what is wrong with it. */
export function toCondition(draft: ConditionDraft, present: PresentValues, locale: string): Result<Condition, string> {
  if (draft.kind === 'change') return ok({ kind: 'change', field: draft.field });
  const value = present[draft.field];
  if (value === undefined || !isMeasure(value)) return fail('A limit needs a number to stand against, and there is none here.');
  const amount = parseLimit(draft.limit, locale);
  if (!amount.ok) return fail(draft.limit.trim() === '' ? 'Say the limit.' : `“${draft.limit}” cannot be a limit: ${describeRefusal(amount.error)}.`);
  const { kind, field, direction, inclusive } = draft;
  return ok({ kind, field, direction, inclusive, limit: { ...inUnit(value, draft.unit), amount: amount.value } });
}

function inUnit(value: Measure, unit: string | undefined): Measure {
  if (unit === undefined) return value;
  return value.kind === 'money' ? { ...value, currency: unit } : { ...value, unit: unit === '' ? null : unit };
}

/** How the present value stands to the limit of a condition; null where there is none to stand to. */
export function presentDistance(condition: Condition, present: PresentValues): Distance | null {
  const value = present[condition.field];
  if (condition.kind === 'change' || value === undefined) return null;
  const distance = distanceTo(condition, value);
  return distance.ok ? distance.value : null;
}

/** True when the present value meets the condition, so that she has to choose what to make of that. */
function needsChoice(condition: Condition, present: PresentValues): boolean {
  return presentDistance(condition, present)?.met ?? false;
}

/** A kept watch, as far as its plan goes. */
interface KeptPlan {
  definition: WatchDefinition;
  frequency: Interval;
  rules: CompleteRule[];
}

/** The plan that a kept watch says, to be changed. */
export function draftOf({ definition, frequency, rules }: KeptPlan): PlanDraft {
  const said = rules.map(({ id, definition: { condition, whenAlreadyMet, hold }, audiences }) => ({
    id,
    ...(hold === undefined ? {} : { hold }),
    condition: conditionDraftOf(condition),
    audiences,
    whenAlreadyMet,
  }));
  return { ...definition, frequency, rules: said };
}

/** The units that the values of each field are counted in, for a limit to be counted in one of them. */
export function unitsByField(values: { field: string; value: Value | null }[]): Record<string, string[]> {
  const units: Record<string, string[]> = {};
  for (const { field, value } of values) {
    if (value !== null && isMeasure(value)) units[field] = [...new Set([...(units[field] ?? []), unitOf(value) ?? ''])];
  }
  return units;
}

/** The draft that stands for a kept condition, its limit as a reader would type it. */
function conditionDraftOf(condition: Condition): ConditionDraft {
  const usual = { direction: 'below' as const, inclusive: false, limit: '' };
  if (condition.kind === 'change') return { kind: 'change', field: condition.field, ...usual };
  const { kind, field, direction, inclusive, limit } = condition;
  return { kind, field, direction, inclusive, limit: limit.amount, unit: unitOf(limit) ?? '' };
}

/** The field whose label a condition names. */
export function labelOf(fields: Field[], key: string): string {
  return fields.find((field) => field.key === key)?.label ?? key;
}
