import type { Result } from '../result';
import { fail, ok } from '../result';
import { ordersApart } from '../value/decimal';
import { isMeasure, moveBetween, type Move, type Value } from '../value/value';
import type { LimitCondition } from './rule';
import { meets } from './step';

/** How a present value stands to a limit, for showing while the limit is being set. */
export interface Distance {
  /** From the limit to the value, signed. */
  move: Move;
  met: boolean;
  /** True when value and limit differ a hundredfold or more: probably a slip of the decimal mark. */
  farAway: boolean;
}

const QUERIED_ORDERS = 2;

/** The distance of a value from a condition's limit; `unlike` when they cannot be compared. */
export function distanceTo(condition: LimitCondition, value: Value): Result<Distance, 'unlike'> {
  const met = meets(condition, value);
  const move = moveBetween(condition.limit, value);
  if (!met.ok || move === null || !isMeasure(value)) return fail('unlike');
  const orders = ordersApart(condition.limit.amount, value.amount);
  return ok({ move, met: met.value, farAway: orders !== null && orders >= QUERIED_ORDERS });
}
