import type { Result } from '../../result';
import type { SaidIn } from './said-in';
import type { SubjectDraft } from './subject';

/** What every clause has while it is being said; figures and words are kept as they are typed. */
export interface DraftBase {
  field: string;
  /** Whose field it is, where it is not its own record's. */
  subject?: SubjectDraft;
  /** It goes with the condition above it: one of the two is enough, or both are needed together. */
  tied?: 'any' | 'all';
  /** It must not be so. */
  not?: boolean;
}

export type Said<T> = Result<T, string>;

/** How clauses of a kind are said. */
export interface Sayings<Draft extends DraftBase & { verb: string }, Clause> {
  verbs: readonly Draft['verb'][];
  /** Its figures and words, of which none is said yet. */
  blank: Omit<Draft, 'verb' | keyof DraftBase>;
  /** What may be said besides. */
  besides?: readonly (keyof Draft & string)[];
  /** The clause that a draft means; or what is wrong with it, as a sentence. */
  toClause: (draft: Draft, said: SaidIn) => Said<Clause>;
  /** The verbs of it that can be said of a record's own fields alone. */
  ofItsOwn?: readonly Draft['verb'][];
}
