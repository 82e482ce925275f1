import { isMeasure, type Measure } from '../value/value';
import type { Instant } from '../when/interval';
import { Related } from './related';
import { isOwn, keyOf, type Asked } from './asked';
import { asksIn, clausesOf } from './clause';
import { kindOf } from './kinds/table';
import { minimumMoves } from './offers';
import type { History, PastAround } from './past';
import type { RuleDefinition } from './rule';

/** What a value was held against from a moment on; null where there was nothing, or it was too old. */
export interface OtherSide {
  at: Instant;
  value: Measure | null;
}

/** The series that a rule holds a field of its record against, in the first clause that does; null where none does. */
export function heldAgainst({ when }: Pick<RuleDefinition, 'when'>, field: string): Asked | null {
  for (const clause of clausesOf(when)) {
    const other = kindOf(clause).other?.(clause) ?? null;
    const [judged] = asksIn(clause);
    if (other !== null && !isOwn(other) && judged !== undefined && isOwn(judged) && judged.field === field)
      return other;
  }
  return null;
}

/** How a series that a rule asks beside a record stood over time, each move of it once, the oldest first. */
export function otherSide(
  rule: RuleDefinition,
  other: Asked,
  { identity, fields }: History,
  around: PastAround,
  to: Instant,
): OtherSide[] {
  const own = (fields[other.field]?.readings ?? []).map(({ at }) => at);
  const days = other.item === 'minimum' ? minimumMoves(around.at(0).item(identity)) : [];
  const moments = [...new Set([...around.moves(rule, identity), ...own, ...days])]
    .filter((at) => at <= to)
    .sort((one, next) => one - next);
  const side: OtherSide[] = [];
  for (const at of moments) {
    const value = new Related(rule, around.at(at)).readOf(identity).get(keyOf(other))?.value;
    const measure = value !== undefined && isMeasure(value) ? value : null;
    const last = side.at(-1)?.value ?? null;
    if (side.length === 0 || last?.amount !== measure?.amount) side.push({ at, value: measure });
  }
  return side;
}
