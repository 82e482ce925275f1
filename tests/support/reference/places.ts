import { groupKey } from '#core/judge/asked';
import type { Clause } from '#core/judge/clause';
import type { Latest } from '#core/judge/observation';
import { isMeasure, type Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { alike, num } from './arithmetic';

// A place among others, worked out from all looks so far by the words of the rules (13).

type PlaceClause = Extract<Clause, { kind: 'place' | 'rank' }>;

/** A look as this sees it: what was read of the record, and what the others of its groups were. */
export interface Looked {
  at: Instant;
  read: Record<string, Value>;
  groups: Record<string, Latest[]>;
  baseline: boolean;
}

interface Found {
  is: 'met' | 'unmet' | 'undecided';
  unlike?: boolean;
  happened?: boolean;
}

/** Whether a look has anything to say of a place. */
export const concernsPlace = (clause: PlaceClause, look: Looked | undefined): boolean =>
  look !== undefined && (look.read[clause.asked.field] !== undefined || look.groups[groupKey(clause)] !== undefined);

/** What the last look that concerns it makes of a place, with the rank of the one before that could be judged. */
export function ofPlace(clause: PlaceClause, looked: readonly Looked[], before: Value | null, goodFor: number): Found {
  let own = before;
  let rank: number | null = null;
  let found: Found = { is: 'undecided' };
  for (const look of looked.filter((each) => concernsPlace(clause, each))) {
    own = look.read[clause.asked.field] ?? own;
    const now = rankIn(clause, own, look, goodFor);
    found = typeof now === 'number' ? judged(clause, look.baseline ? null : rank, now) : now;
    if (typeof now === 'number') rank = now;
    else if (now.unlike === true) rank = null;
  }
  return found;
}

function rankIn(clause: PlaceClause, own: Value | null, { at, groups }: Looked, goodFor: number): number | Found {
  if (own === null || !isMeasure(own)) return { is: 'undecided' };
  const there = (groups[groupKey(clause)] ?? [])
    .filter((other) => isMeasure(other.value) && at - other.at <= goodFor)
    .map(({ value }) => value);
  if (there.length === 0) return { is: 'undecided' };
  const others = there.filter((other) => alike(other, own));
  if (others.length === 0) return { is: 'undecided', unlike: true };
  const better = others.filter(
    (other) => isMeasure(other) && (clause.end === 'lowest' ? num(other) < num(own) : num(other) > num(own)),
  );
  return 1 + better.length;
}

function judged(clause: PlaceClause, before: number | null, rank: number): Found {
  const met = (yes: boolean, happened: boolean): Found =>
    yes ? { is: 'met', ...(happened ? { happened } : {}) } : { is: 'unmet' };
  if (clause.kind === 'rank') return met(before !== null && Math.abs(rank - before) >= clause.by, true);
  if (clause.how === 'has') return met(rank === 1, false);
  if (clause.how === 'has not') return met(rank !== 1, false);
  return met(before !== null && (clause.how === 'takes' ? before > 1 && rank === 1 : before === 1 && rank > 1), true);
}
