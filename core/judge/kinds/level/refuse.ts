import { add, compareDecimals, subtract } from '../../../value/decimal';
import { alike, type Measure } from '../../../value/value';
import type { Figure, JudgedWindow, Limits } from '../../asked';
import { amountOf, isZero } from '../../limits';
import { isWhole, LENGTHS, LONGEST, NOTHING, ofFigure, tooLong, type Refusal } from '../../refusal';
import { isTally, MOST_KEPT } from '../../window';
import type { LimitClause } from './judge';

/** What is wrong with a limit on a watch that looks so often. */
export const refuseLimit = ({ of, limits, margin }: LimitClause, intervalMs: number): Refusal | null =>
  ofLimits(limits) ?? ofMargin(limits, margin) ?? ofWindow(of.over, intervalMs);

function ofLimits(limits: Limits): Refusal | null {
  if ('limit' in limits) return ofFurther(limits);
  if (!alike(limits.low, limits.high)) return { code: 'units differ' };
  return compareDecimals(limits.low.amount, limits.high.amount) >= 0 ? { code: 'limits crossed' } : null;
}

const MOST_FURTHER = 9;

/** Limits beyond the first are counted as it is, and each lies beyond the one before. */
function ofFurther({ is, limit, further = [] }: Extract<Limits, { limit: Measure }>): Refusal | null {
  if (further.some((each) => !alike(each, limit))) return { code: 'units differ' };
  const side = is === 'below' ? -1 : 1;
  const isOrdered = further.every(
    ({ amount }, at) => compareDecimals(amount, (further[at - 1] ?? limit).amount) === side,
  );
  return isOrdered && further.length <= MOST_FURTHER ? null : { code: 'limits not further', most: MOST_FURTHER };
}

/**
 * A margin is counted in what its limits are, is no percent of nought, and leaves room between two limits that a value
 * is to stay out of.
 */
function ofMargin(limits: Limits, margin: Figure | undefined): Refusal | null {
  if (margin === undefined) return null;
  const all = 'limit' in limits ? [limits.limit] : [limits.low, limits.high];
  if (margin.by === 'amount' && all.some((limit) => !alike(limit, margin.amount))) return { code: 'units differ' };
  if (margin.by === 'percent' && all.some(({ amount }) => isZero(amount))) return { code: 'no percent of nought' };
  const bad = ofFigure(margin);
  if (bad !== null || limits.is !== 'outside') return bad;
  const [low, high] = [limits.low.amount, limits.high.amount];
  const isEmpty = compareDecimals(add(low, amountOf(margin, low)), subtract(high, amountOf(margin, high))) > 0;
  return isEmpty ? { code: 'margin leaves nothing' } : null;
}

/**
 * A stretch that keeps its readings may hold so many runs of its watch; one that only sums them up is bounded by
 * nothing.
 */
function ofWindow(over: JudgedWindow | undefined, intervalMs: number): Refusal | null {
  if (over === undefined) return null;
  if (
    'last' in over.of &&
    !isWhole('ms' in over.of ? over.of.ms : over.of.count, 'ms' in over.of ? LONGEST : MOST_KEPT)
  )
    return NOTHING;
  const ms = 'this' in over.of ? LENGTHS[over.of.this] : over.of.last === 'time' ? over.of.ms : 0;
  return isTally(over) ? null : tooLong(ms, intervalMs);
}
