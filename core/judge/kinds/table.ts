import type { Sayings } from '../draft/base';
import type { ConditionKind } from './kind';
import { absence } from './absence/kind';
import { against } from './against/kind';
import { before } from './before/kind';
import { change } from './change/kind';
import { grade } from './grade/kind';
import { crossing, level } from './level/kind';
import { move } from './move/kind';
import { place, rank } from './place/kind';
import { record } from './record/kind';
import { silence } from './silence/kind';
import { state } from './state/kind';
import { text } from './text/kind';
import { unusual } from './unusual/kind';

/** Every kind of condition that there is; numbers are those of the meaning of rules (`docs/rules.md`). */
export const KINDS = {
  level,
  crossing,
  move,
  before,
  change,
  state,
  grade,
  text,
  against,
  place,
  rank,
  unusual,
  absence,
  record,
  silence,
};

type Kinds = typeof KINDS;

/** One condition on one thing that is judged. */
export type Clause = { [Kind in keyof Kinds]: Parameters<Kinds[Kind]['words']>[0] }[keyof Kinds];

/** A clause while it is being said: figures and words as typed. */
export type ClauseDraft = {
  [Kind in keyof Kinds]: NonNullable<Kinds[Kind]['sayings']> extends Sayings<infer Draft, unknown> ? Draft : never;
}[keyof Kinds];

/** What is known of the kind of a clause. */
export function kindOf(clause: Clause): ConditionKind<Clause, ClauseDraft, unknown> {
  return KINDS[clause.kind] as unknown as ConditionKind<Clause, ClauseDraft, unknown>;
}
