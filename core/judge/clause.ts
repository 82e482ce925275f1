import { onceFor } from '../once-for';
import type { Asked } from './asked';
import { kindOf, type Clause } from './kinds/table';

export type { Clause };

/** A clause, or several joined: all of them, any of them, none of them (21). */
export type Condition = Clause | { all: Condition[] } | { any: Condition[] } | { none: Condition[] };

/** The clauses of a condition, in the order in which they are said. */
export const clausesOf: (condition: Condition) => readonly Clause[] = onceFor((condition) =>
  'kind' in condition ? [condition] : childrenOf(condition).flatMap((each) => clausesOf(each)),
);

/** What is joined by a condition that is no clause itself. */
export function childrenOf(joined: Exclude<Condition, Clause>): Condition[] {
  return 'all' in joined ? joined.all : 'any' in joined ? joined.any : joined.none;
}

/** Whether a clause is of a moment and not for as long as it is so. */
export const isEvent = (clause: Clause): boolean => kindOf(clause).isEvent?.(clause) ?? false;

/** Whether a clause is met by what does not come. */
export const isSilence = (clause: Clause): boolean => kindOf(clause).isSilence ?? false;

/** A clause with each of the series that it reads, its own and those it is held against, said otherwise. */
export const withAsked = (clause: Clause, asked: (said: Asked) => Asked): Clause =>
  kindOf(clause).withAsked(clause, asked);

/** The series that a clause asks: first the one that it judges, then what that is held against. */
export const asksIn = (clause: Clause): Asked[] => kindOf(clause).asks(clause);
