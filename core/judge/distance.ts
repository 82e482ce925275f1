import type { Result } from '../result';
import { fail, ok } from '../result';
import { compareDecimals, ordersApart, subtract } from '../value/decimal';
import { isMeasure, moveBetween, type Measure, type Move, type Value } from '../value/value';
import type { Limits } from './asked';
import { meetsLimits } from './limits';

/** How a present value stands to a limit, for showing while the limit is being set. */
export interface Distance {
  /** From the limit, of two the nearer one, to the value, signed. */
  move: Move;
  met: boolean;
  /** True when value and limit differ a hundredfold or more: probably a slip of the decimal mark. */
  farAway: boolean;
}

const QUERIED_ORDERS = 2;

/** The distance of a value from limits; `unlike` when they cannot be compared. */
export function distanceTo(limits: Limits, value: Value): Result<Distance, 'unlike'> {
  const met = meetsLimits(limits, value);
  if (!met.ok || !isMeasure(value)) return fail('unlike');
  const limit = nearest(limits, value);
  const move = moveBetween(limit, value);
  if (move === null) return fail('unlike');
  const orders = ordersApart(limit.amount, value.amount);
  return ok({ move, met: met.value, farAway: orders !== null && orders >= QUERIED_ORDERS });
}

/** Of two limits the one that lies nearer to a value. */
export function nearest(limits: Limits, { amount }: Measure): Measure {
  if ('limit' in limits) return limits.limit;
  const middle = compareDecimals(subtract(amount, limits.low.amount), subtract(limits.high.amount, amount));
  return middle <= 0 ? limits.low : limits.high;
}
