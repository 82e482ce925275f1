import type { Asked } from '../asked';
import type { CompiledTest, WholeSteps } from '../whole-steps';
import type { DraftBase, Sayings } from '../draft/base';
import type { KnownOfField } from '../draft/subject';
import type { Works } from '../observation';
import type { Pretended } from '../pretended';
import type { Refusal } from '../refusal';
import type { Never, Seen } from '../seen';
import type { VariantOf } from '../variant';
import type { Names } from '../words';

/** All that there is to know of one kind of condition. What is left out is not so, or cannot be done, with it. */
export interface ConditionKind<Clause, Draft extends DraftBase & { verb: string }, Memory> {
  works: Works<Clause, Memory>;
  /** The series that it reads: first the one that it judges, then what that is held against. */
  asks: (clause: Clause) => Asked[];
  /** The same clause with each of those series said otherwise. */
  withAsked: (clause: Clause, asked: (said: Asked) => Asked) => Clause;
  words: (clause: Clause, names: Names) => string;
  /** What of it cannot be said, or can never come to anything, on a watch that looks so often. */
  refuse: (clause: Clause, intervalMs: number) => Refusal | null;

  /** The verbs by which it is said; of several kinds with the same verbs, one has them. */
  sayings?: Sayings<Draft, unknown>;
  /** A kept one as it would be said; null where it says more than can be. */
  draftOf: (clause: Clause) => Omit<Draft, keyof DraftBase> | null;
  /** What it tells itself of the field of another watch that it asks. */
  knows?: (clause: Clause) => Partial<KnownOfField>;

  /** It is of a moment, and not for as long as it is so. */
  isEvent?: (clause: Clause) => boolean;
  /** It is met by what does not come. */
  isSilence?: true;
  /** What by itself is news is called a change. */
  isChange?: true;
  /** The clock moves it, too. */
  isClocked?: (clause: Clause) => boolean;
  /** Every run counts for it, and not only those that bring something new. */
  countsRuns?: (clause: Clause) => boolean;
  /** It sees more of what was before than the last value. */
  seesHistory?: (clause: Clause) => boolean;
  /** A run that fails is something that it has to hear of. */
  hearsFailures?: (clause: Clause) => boolean;
  /** The group among which it is about a place. */
  group?: (clause: Clause) => { asked: Asked; among: string };
  /** The series that its value is held against. */
  other?: (clause: Clause) => Asked | null;

  /** It as numbers, to be run over columns; null where it says more than that. */
  compile?: (clause: Clause, steps: WholeSteps) => CompiledTest | null;
  /** What of it nothing that was read so far could have met. */
  never?: (clause: Clause, seen: Seen) => Never[];
  /** Values that bring it about; null where no single value can. */
  pretend?: (clause: Clause) => Pretended | null;
  /** It asking for a little more, or less. */
  variants?: (clause: Clause) => { clause: Clause; of: VariantOf }[];
}

/** Of a kind that reads one series and holds it against no other. */
export const ofOneSeries = {
  asks: ({ asked }: { asked: Asked }): Asked[] => [asked],
  withAsked: <Clause extends { asked: Asked }>(clause: Clause, asked: (said: Asked) => Asked): Clause => ({
    ...clause,
    asked: asked(clause.asked),
  }),
};
