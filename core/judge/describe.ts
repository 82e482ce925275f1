import { formatValue } from '../value/format';
import type { Condition } from './rule';

/** The verb of a condition: `falls below`, `is above`, `changes`. */
export function conditionVerb(condition: Condition): string {
  if (condition.kind === 'change') return 'changes';
  const { kind, direction, inclusive } = condition;
  if (kind === 'level') return inclusive ? `is at or ${direction}` : `is ${direction}`;
  if (inclusive) return direction === 'below' ? 'falls to or below' : 'rises to or above';
  return direction === 'below' ? 'falls below' : 'rises above';
}

/** A condition in words: `price falls below £24.00`. The field is named as the analyst calls it. */
export function describeCondition(condition: Condition, fieldLabel: string, locale: string): string {
  const verb = conditionVerb(condition);
  return condition.kind === 'change' ? `${fieldLabel} ${verb}` : `${fieldLabel} ${verb} ${formatValue(condition.limit, locale)}`;
}
