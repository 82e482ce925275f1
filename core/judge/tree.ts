import { onceFor } from '../once-for';
import { childrenOf, type Clause, type Condition } from './clause';
import type { Verdict } from './observation';

/** A verdict, and whether it is undecided through a value that is counted in something else. */
export interface Judgement {
  is: Verdict;
  unlike: boolean;
}

/**
 * A condition with the numbers of its parts: those of all parts in the order in which they are said, and those of its
 * clauses.
 */
export interface Part {
  part: number;
  /** The number of the clause; null of what joins others. */
  clause: number | null;
  said: Condition;
  parts: Part[];
}

/** Numbers the parts of a condition. */
export const numbered = onceFor((condition: Condition): Part => {
  const next = { part: 0, clause: 0 };
  const visit = (said: Condition): Part => {
    const part = next.part++;
    if ('kind' in said) return { part, clause: next.clause++, said, parts: [] };
    return { part, clause: null, said, parts: childrenOf(said).map(visit) };
  };
  return visit(condition);
});

/**
 * The verdict of a condition by those of its clauses, in Kleene's three values (S. C. Kleene, Introduction to
 * Metamathematics, 1952, § 64): all with one not met is not met, any with one met is met. Parts that are held back
 * count as not met.
 */
export function judge(
  part: Part,
  of: (clause: number, said: Clause) => Judgement,
  heldBack: readonly number[] = [],
): Judgement {
  if (heldBack.includes(part.part)) return { is: 'unmet', unlike: false };
  if ('kind' in part.said) return of(part.clause ?? 0, part.said);
  const parts = part.parts.map((each) => judge(each, of, heldBack));
  if ('all' in part.said) return joined(parts, 'unmet', 'met');
  const any = joined(parts, 'met', 'unmet');
  return 'any' in part.said ? any : { is: opposite(any.is), unlike: any.unlike };
}

/** What one of them decides by itself, else whether any is open, else what they say together. */
function joined(parts: Judgement[], deciding: Verdict, otherwise: Verdict): Judgement {
  if (parts.some(({ is }) => is === deciding)) return { is: deciding, unlike: false };
  const open = parts.filter(({ is }) => is === 'undecided');
  return open.length > 0
    ? { is: 'undecided', unlike: open.some(({ unlike }) => unlike) }
    : { is: otherwise, unlike: false };
}

const opposite = (is: Verdict): Verdict => (is === 'met' ? 'unmet' : is === 'unmet' ? 'met' : is);

/** What a condition is met by: clauses, and what says that none is. */
export function metParts(part: Part, of: (clause: number, said: Clause) => Judgement): number[] {
  if (judge(part, of).is !== 'met') return [];
  return 'kind' in part.said || 'none' in part.said ? [part.part] : part.parts.flatMap((each) => metParts(each, of));
}

/**
 * Of the parts that are held back those that still are: what is found not met, or counted in something else, lets go of
 * itself and of all in it.
 */
export function stillHeld(
  part: Part,
  of: (clause: number, said: Clause) => Judgement,
  heldBack: readonly number[],
): number[] {
  const { is, unlike } = judge(part, of);
  if (heldBack.length === 0 || is === 'unmet' || unlike) return [];
  return [
    ...heldBack.filter((each) => each === part.part),
    ...part.parts.flatMap((each) =>
      stillHeld(
        each,
        of,
        heldBack.filter((held) => isIn(each, held)),
      ),
    ),
  ];
}

const isIn = (part: Part, number: number): boolean =>
  part.part === number || part.parts.some((each) => isIn(each, number));
