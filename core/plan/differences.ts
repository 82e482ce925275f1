import { canonical } from '../canonical';
import { namesOf } from '../judge/words';
import { describeCondition, describeTerms } from '../judge/describe';
import type { RuleDefinition } from '../judge/rule';
import type { Field, WatchDefinition } from '../read/definition';
import { describeInterval, type Interval } from '../when/interval';
import { labelOf } from './plan';
import type { CompleteRule } from './rule-draft';

/** A watch as it was said at one time. */
export interface SaidWatch {
  definition: WatchDefinition;
  frequency: Interval;
  rules: readonly CompleteRule[];
}

/** How those are called that a rule tells. */
export interface Called {
  /** By their keys; one that is not among them goes by its key. */
  audiences: ReadonlyMap<string, string>;
  locale: string;
}

/** A rule as it is called: by its name, or its sentence. */
function ruleCalled({ name, when }: RuleDefinition, fields: Field[], locale: string): string {
  return (
    name ??
    describeCondition(
      when,
      namesOf((key) => labelOf(fields, key), locale),
    )
  );
}

/**
 * What sets a watch apart from what it was, in words, each a few: `looks: every 2 hours → every day`, `rule added:
 * price falls below £24.00`.
 */
export function watchDifferences(before: SaidWatch, after: SaidWatch, called: Called): string[] {
  const [was, is] = [before.definition, after.definition];
  return [
    ...moved('name', was.subject, is.subject),
    ...moved('runs', `every ${describeInterval(before.frequency)}`, `every ${describeInterval(after.frequency)}`),
    ...fieldDifferences(was.fields, is.fields),
    ...partDifferences(was, is),
    ...ruleDifferences(before, after, called),
  ];
}

const moved = (of: string, was: string, is: string): string[] =>
  was === is ? [] : [`${of}: ${was || 'nothing'} → ${is || 'nothing'}`];
const same = (one: unknown, other: unknown) => canonical(one) === canonical(other);

function fieldDifferences(was: Field[], is: Field[]): string[] {
  const before = new Map(was.map((field) => [field.key, field]));
  const after = new Set(is.map(({ key }) => key));
  return [
    ...is.flatMap((field) => {
      const known = before.get(field.key);
      if (known === undefined) return [`${field.label} is read, too`];
      if (same(known, field)) return [];
      return known.label === field.label
        ? [`${field.label} is read otherwise`]
        : moved('field', known.label, field.label);
    }),
    ...was.filter(({ key }) => !after.has(key)).map(({ label }) => `${label} is no longer read`),
  ];
}

const PARTS: [keyof WatchDefinition, string][] = [
  ['records', 'its records are found otherwise'],
  ['identity', 'its records are known by other fields'],
  ['variant', 'its variants are told by another field'],
  ['chosen', 'other records are followed'],
  ['leftOut', 'other records are left out'],
  ['guards', 'it is checked otherwise that the right thing was fetched'],
  ['names', 'its records are called otherwise'],
];

const partDifferences = (was: WatchDefinition, is: WatchDefinition): string[] =>
  PARTS.flatMap(([part, words]) => (same(was[part], is[part]) ? [] : [words]));

function ruleDifferences(before: SaidWatch, after: SaidWatch, called: Called): string[] {
  const calledIn = ({ definition }: SaidWatch, rule: CompleteRule) =>
    ruleCalled(rule.definition, definition.fields, called.locale);
  const known = new Map(before.rules.map((rule) => [rule.id, rule]));
  const kept = new Set(after.rules.map(({ id }) => id));
  return [
    ...after.rules.flatMap((rule) => {
      const was = rule.id === null ? undefined : known.get(rule.id);
      if (was === undefined) return [`rule added: ${calledIn(after, rule)}`];
      const said = oneRule(was, rule, before.definition.fields, after.definition.fields, called);
      return said.length === 0 ? [] : [`rule “${calledIn(before, was)}”: ${said.join(', ')}`];
    }),
    ...before.rules.filter(({ id }) => !kept.has(id)).map((rule) => `rule ended: ${calledIn(before, rule)}`),
  ];
}

function oneRule(
  was: CompleteRule,
  is: CompleteRule,
  fieldsBefore: Field[],
  fields: Field[],
  { audiences: names, locale }: Called,
): string[] {
  const condition = (rule: RuleDefinition, of: Field[]) =>
    describeCondition(
      rule.when,
      namesOf((key) => labelOf(of, key), locale),
    );
  const told = ({ audiences }: CompleteRule) =>
    [...audiences]
      .map((key) => names.get(key) ?? key)
      .sort()
      .join(', ');
  const [old, now] = [was.definition, is.definition];
  const words = [
    ...moved('when', condition(old, fieldsBefore), condition(now, fields)),
    ...moved('terms', describeTerms(old).join(', '), describeTerms(now).join(', ')),
    ...moved('name', old.name ?? '', now.name ?? ''),
    ...moved('note', old.note ?? '', now.note ?? ''),
    ...moved('weight', old.weight ?? 'usual', now.weight ?? 'usual'),
    ...moved('tags', (old.tags ?? []).join(', '), (now.tags ?? []).join(', ')),
    ...moved('told to', told(was), told(is)),
    ...(same(old.wording, now.wording) ? [] : ['worded otherwise']),
    ...(old.owner === now.owner ? [] : ['another answers for it']),
  ];
  return words.length > 0 || same(old, now) ? words : ['judged or told otherwise'];
}
