import { alike, isMeasure, type Measure, type Value } from '../../../value/value';
import { isOwn, type Limits } from '../../asked';
import { meetsLimits } from '../../limits';
import { moved, type Pretended } from '../../pretended';
import type { Never, Seen } from '../../seen';
import type { ConditionKind } from '../kind';
import { compileLimit } from './compile';
import { limitDraftOf, limitSayings, type LimitDraft } from './draft';
import { level as works, type LevelMemory, type LimitClause } from './judge';
import { refuseLimit } from './refuse';
import { limitClauseWords } from './words';

type OnLimits<Kind extends 'level' | 'crossing'> = ConditionKind<LimitClause<Kind>, LimitDraft, LevelMemory>;

const onLimits = <Kind extends 'level' | 'crossing'>(): Omit<OnLimits<Kind>, 'sayings'> => ({
  works,
  asks: ({ of }) => [of.asked],
  withAsked: (clause, asked) => ({ ...clause, of: { ...clause.of, asked: asked(clause.of.asked) } }),
  words: limitClauseWords,
  refuse: refuseLimit,
  draftOf: limitDraftOf,
  knows: ({ of, limits }) => {
    const like = 'limit' in limits ? limits.limit : limits.low;
    return { mode: of.over?.stepwise === false ? 'measured' : 'stepwise', kind: like.kind, like };
  },
  isClocked: ({ of: { over } }) => over !== undefined,
  countsRuns: ({ of }) => of.over !== undefined,
  seesHistory: ({ of }) => of.over !== undefined,
  compile: compileLimit,
  never: ({ of, limits }, seen) =>
    of.over === undefined && isOwn(of.asked) ? neverReached(of.asked.field, limits, seen) : [],
  pretend: ({ of, limits }) => (of.over === undefined ? pretendLimits(limits) : null),
});

/** 6: met for as long as the value stands there. */
export const level: OnLimits<'level'> = { ...onLimits<'level'>(), sayings: limitSayings };

/** 7: as a level, once it was seen on the other side. */
export const crossing: OnLimits<'crossing'> = onLimits<'crossing'>();

function neverReached(field: string, limits: Limits, seen: Seen): Never[] {
  if (!seen.read(field)) return [];
  const like = 'limit' in limits ? limits.limit : limits.low;
  const found = seen.extent(field, like);
  if (found === null) return [{ code: 'never counted so', field, like }];
  const [least, most] = found;
  const limit = Number(like.amount);
  if (limits.is === 'below' && (limits.inclusive ? least > limit : least >= limit))
    return [{ code: 'limit never reached', field, side: 'lowest', amount: least, like }];
  if (limits.is === 'above' && (limits.inclusive ? most < limit : most <= limit))
    return [{ code: 'limit never reached', field, side: 'highest', amount: most, like }];
  return [];
}

function pretendLimits(limits: Limits): Pretended {
  const stands = (value: Value) => {
    const met = meetsLimits(limits, value);
    return met.ok && met.value;
  };
  const like = 'limit' in limits ? limits.limit : limits.low;
  const only = (made: Value) => (value: Value) => (isMeasure(value) && alike(value, like) ? made : null);
  const [meets, leaves] = sidesOf(limits);
  return { stands, meets: only(meets), leaves: only(leaves) };
}

/** The first value on either side of limits: one that meets them, and one that does not. */
function sidesOf(limits: Limits): [meets: Measure, leaves: Measure] {
  const { inclusive } = limits;
  if ('limit' in limits) {
    const beyond = limits.is === 'below' ? -1 : 1;
    return inclusive ? [limits.limit, moved(limits.limit, -beyond)] : [moved(limits.limit, beyond), limits.limit];
  }
  const within = inclusive === (limits.is === 'between') ? limits.low : moved(limits.low, 1);
  const without = inclusive === (limits.is === 'outside') ? limits.low : moved(limits.low, -1);
  return limits.is === 'between' ? [within, without] : [without, within];
}
