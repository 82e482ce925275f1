import { minorDigits } from '../value/currency';
import { fractionDigits, type Decimal } from '../value/decimal';
import { alike, isMeasure, type Measure } from '../value/value';
import { DAY, HOUR, MINUTE } from '../when/interval';
import type { History } from './past';
import { isOwn } from './asked';
import { kindOf } from './kinds/table';
import { childrenOf, clausesOf, isEvent, isSilence, type Clause, type Condition } from './clause';
import type { RuleDefinition } from './rule';
import type { Counted } from './trial';
import type { VariantOf } from './variant';

/** A rule that asks for a little more or less than another. */
export interface Variant {
  rule: RuleDefinition;
  of: VariantOf;
}

type Limited = Extract<Clause, { kind: 'level' | 'crossing' }> & { limits: { limit: Measure } };

/** The first clause on one limit of a rule, with its number; null where there is none. */
export function limitedClause({ when }: Pick<RuleDefinition, 'when'>): { at: number; clause: Limited } | null {
  const clauses = clausesOf(when);
  const at = clauses.findIndex((clause) => 'limits' in clause && 'limit' in clause.limits && isOwn(clause.of.asked));
  return at < 0 ? null : { at, clause: clauses[at] as Limited };
}

/** A rule with one of its clauses changed, by the number of that. */
function withClause(rule: RuleDefinition, number: number, change: (clause: Clause) => Clause): RuleDefinition {
  let next = 0;
  const visit = (condition: Condition): Condition => {
    if ('kind' in condition) return next++ === number ? change(condition) : condition;
    const parts = childrenOf(condition).map(visit);
    return 'all' in condition ? { all: parts } : 'any' in condition ? { any: parts } : { none: parts };
  };
  return { ...rule, when: visit(rule.when) };
}

/** A rule with its first limit at another amount. */
export function withLimit(rule: RuleDefinition, amount: Decimal): RuleDefinition {
  const limited = limitedClause(rule);
  if (limited === null) return rule;
  const { at, clause } = limited;
  return withClause(rule, at, () => ({
    ...clause,
    limits: { ...clause.limits, limit: { ...clause.limits.limit, amount } },
  }));
}

/** The least and the most that a field was, of all records, in what a limit is counted in; null where it never was. */
export function extent(
  histories: readonly History[],
  field: string,
  like: Measure,
): [least: number, most: number] | null {
  let [least, most] = [Infinity, -Infinity];
  for (const { fields } of histories) {
    for (const { value } of fields[field]?.readings ?? []) {
      if (!isMeasure(value) || !alike(value, like)) continue;
      const amount = Number(value.amount);
      least = Math.min(least, amount);
      most = Math.max(most, amount);
    }
  }
  return least > most ? null : [least, most];
}

/**
 * The rule at limits from the least to the most that its field was, evenly apart, and one a step beyond on either side.
 */
export function limitVariants(rule: RuleDefinition, histories: readonly History[], steps: number): Variant[] {
  const limited = limitedClause(rule);
  if (limited === null || limited.clause.of.over !== undefined) return [];
  const { limit } = limited.clause.limits;
  const found = extent(histories, limited.clause.of.asked.field, limit);
  if (found === null || found[0] === found[1]) return [];
  const [least, most] = found;
  const step = (most - least) / steps;
  const places = placesFor(limit, histories, limited.clause.of.asked.field, step);
  // What was never below zero is offered no limit there.
  const from = least < 0 ? -Infinity : 0;
  const amounts = Array.from({ length: steps + 3 }, (_, at) => Math.max(from, least + (at - 1) * step).toFixed(places));
  return [...new Set(amounts)].map((amount) => ({
    rule: withLimit(rule, amount as Decimal),
    of: { what: 'limit', limit: { ...limit, amount: amount as Decimal } },
  }));
}

/** More places than these no limit is offered with. */
const MOST_PLACES = 8;

/**
 * With how many decimal places limits on a field are offered: as many as tell steps apart, and no more than it was ever
 * read with, or than its currency has; as many as the limit was said with in any case.
 */
export function placesFor(limit: Measure, histories: readonly History[], field: string, step: number): number {
  const read = limit.kind === 'money' ? minorDigits(limit.currency) : placesRead(histories, field, limit);
  const apart = Math.max(0, Math.ceil(-Math.log10(step)) + 1);
  return Math.min(MOST_PLACES, Math.max(fractionDigits(limit.amount), Math.min(read, apart)));
}

function placesRead(histories: readonly History[], field: string, like: Measure): number {
  let most = 0;
  for (const { fields } of histories)
    for (const { value } of fields[field]?.readings ?? [])
      if (isMeasure(value) && alike(value, like)) most = Math.max(most, fractionDigits(value.amount));
  return most;
}

/** The rule with the first of its values that are held against another one further from that, or nearer to it. */
export const figureVariants = (rule: RuleDefinition): Variant[] => clauseVariants(rule, 'figure');

/** The rule with the first of its clauses that has variants of this kind as each of those. */
function clauseVariants(rule: RuleDefinition, what: VariantOf['what']): Variant[] {
  for (const [number, clause] of clausesOf(rule.when).entries()) {
    const variants = (kindOf(clause).variants?.(clause) ?? []).filter(({ of }) => of.what === what);
    if (variants.length > 0)
      return variants.map((each) => ({ rule: withClause(rule, number, () => each.clause), of: each.of }));
  }
  return [];
}

const TIMES = [15 * MINUTE, HOUR, 2 * HOUR, 4 * HOUR, 8 * HOUR, DAY, 2 * DAY];
const COUNTS = [1, 2, 3, 5, 10];

/** The rule held for other times, where it can hold, and of other strictness, where it asks for one. */
export function otherVariants(rule: RuleDefinition, intervalMs: number): Variant[] {
  const clauses = clausesOf(rule.when);
  const strict = clauseVariants(rule, 'strictness');
  if (clauses.some((clause) => isEvent(clause) || isSilence(clause))) return strict;
  const holds: NonNullable<RuleDefinition['hold']>[] = [
    ...TIMES.filter((ms) => ms >= intervalMs).map((ms) => ({ for: 'time' as const, ms })),
    ...COUNTS.map((count) => ({ for: 'readings' as const, count })),
  ];
  return [...strict, ...holds.map((hold): Variant => ({ rule: { ...rule, hold }, of: { what: 'hold', hold } }))];
}

/**
 * Of variants, of each kind, the one that comes nearest to so many alerts; of equals the one that asks for least. What
 * is met for most of the time tells seldom, and is no limit.
 */
export function nearestTo(
  variants: readonly Variant[],
  counted: readonly Counted[],
  wanted: number,
): { variant: Variant; count: number }[] {
  const best = new Map<string, { variant: Variant; count: number }>();
  variants.forEach((variant, at) => {
    const { alerts: count, mostlyMet } = counted[at] ?? {};
    if (count === undefined || mostlyMet === true) return;
    const { of } = variant;
    const kind = of.what === 'hold' ? `hold ${of.hold.for}` : of.what;
    const known = best.get(kind);
    if (known === undefined || Math.abs(count - wanted) < Math.abs(known.count - wanted))
      best.set(kind, { variant, count });
  });
  return [...best.values()];
}
