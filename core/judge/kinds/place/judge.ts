import { compareDecimals } from '../../../value/decimal';
import { alike, isMeasure, type Measure, type Value } from '../../../value/value';
import { groupKey, keyOf, type Asked } from '../../asked';
import { hasMoved, lastOf } from '../../text-digest';
import {
  freshFor,
  undecided,
  unlikeTo,
  verdictOf,
  type Facts,
  type Finding,
  type Run,
  type Works,
} from '../../observation';

interface AmongOthers {
  asked: Asked;
  among: string;
  end: 'lowest' | 'highest';
}

/** Its place among the others of a group. */
export interface PlaceClause extends AmongOthers {
  kind: 'place';
  how: 'takes' | 'loses' | 'has' | 'has not';
}

/** Its rank among them moved by so many places. */
export interface RankClause extends AmongOthers {
  kind: 'rank';
  by: number;
}

export interface PlaceMemory {
  own: Value | null;
  /** The last of its own values, absences passed over. */
  last?: Value | null;
  /** One more than the number of those strictly better, when it was judged last. */
  rank: number | null;
}

/**
 * 13: the place of a value among the others of a group, judged when any of them is read. Who shares the first place has
 * it.
 */
export const place: Works<PlaceClause | RankClause, PlaceMemory> = {
  fresh: () => ({ own: null, rank: null }),
  learn: ({ asked }, memory, key, { value }) =>
    key === keyOf(asked) ? { ...memory, own: value, last: lastOf(memory.last ?? null, value) } : memory,
  hear: (clause, memory, heard, facts) => {
    const own = heard.of === 'run' ? heard.read.get(keyOf(clause.asked)) : undefined;
    if (heard.of !== 'run' || (own === undefined && !(heard.groups?.has(groupKey(clause)) ?? false))) return null;
    const last = memory.last ?? null;
    const known = own === undefined ? memory : { ...memory, own: own.value, last: lastOf(last, own.value) };
    const ranked = rankOf(clause, known.own, heard, facts);
    // A value moves whether its place can be told or not.
    const moved = own !== undefined && !facts.baseline && hasMoved(last, own.value) ? { moved: true as const } : {};
    if ('is' in ranked)
      return {
        // What comes after is judged afresh.
        memory: ranked.unlike === true ? { ...known, rank: null } : known,
        finding: { ...ranked, ...moved },
      };
    const { rank, first, value } = ranked;
    const why = { code: 'place', value, first, rank } as const;
    return {
      memory: { ...known, rank },
      finding: { ...judged(clause, facts.baseline ? null : memory.rank, rank), why, ...moved },
    };
  },
};

function judged(
  clause: PlaceClause | RankClause,
  before: number | null,
  rank: number,
): Pick<Finding, 'is' | 'happened'> {
  if (clause.kind === 'place' && clause.how === 'has') return { is: verdictOf(rank === 1) };
  if (clause.kind === 'place' && clause.how === 'has not') return { is: verdictOf(rank !== 1) };
  const happened =
    before !== null &&
    (clause.kind === 'rank'
      ? Math.abs(rank - before) >= clause.by
      : clause.how === 'takes'
        ? before > 1 && rank === 1
        : before === 1 && rank > 1);
  return happened ? { is: 'met', happened } : { is: 'unmet' };
}

interface Ranked {
  value: Measure;
  first: Measure;
  rank: number;
}

/** The place of a value among those that are known, alike and not too old. */
function rankOf(clause: PlaceClause | RankClause, own: Value | null, heard: Run, facts: Facts): Ranked | Finding {
  if (own === null || !isMeasure(own)) return undecided({ code: own === null ? 'not read yet' : 'absent' });
  const there = (heard.groups?.get(groupKey(clause)) ?? []).flatMap(({ value, at, goodFor }) =>
    isMeasure(value) && heard.at - at <= (goodFor ?? freshFor(facts)) ? value : [],
  );
  const [another] = there;
  if (another === undefined) return undecided({ code: 'nothing to hold it against' });
  // Who asks for something else is left out; where nobody else is there, that is said.
  const others = there.filter((other) => alike(other, own));
  if (others.length === 0) return unlikeTo(own, another);
  const better = (one: Measure, other: Measure) =>
    compareDecimals(one.amount, other.amount) === (clause.end === 'lowest' ? -1 : 1);
  const first = others.reduce((best, each) => (better(each, best) ? each : best));
  return { value: own, first, rank: 1 + others.filter((other) => better(other, own)).length };
}
