import { fail, ok, type Result } from '../result';
import {
  add,
  compareDecimals,
  decimal,
  magnitude,
  multiply,
  shiftDecimal,
  subtract,
  type Decimal,
} from '../value/decimal';
import { alike, compareMeasures, isMeasure, type Measure, type Value } from '../value/value';
import type { Figure, Limits } from './asked';

/** Whether a value stands where limits say; `unlike` where it is counted in something else. */
export function meetsLimits(limits: Limits, value: Value): Result<boolean, 'unlike'> {
  if (!isMeasure(value)) return fail('unlike');
  if ('limit' in limits) {
    const order = compareMeasures(value, limits.limit);
    if (!order.ok) return order;
    return ok(order.value === 0 ? limits.inclusive : order.value < 0 === (limits.is === 'below'));
  }
  const [low, high] = [compareMeasures(value, limits.low), compareMeasures(value, limits.high)];
  if (!low.ok || !high.ok) return fail('unlike');
  const within = low.value > 0 && high.value < 0;
  const onLimit = low.value === 0 || high.value === 0;
  if (limits.is === 'between') return ok(within || (onLimit && limits.inclusive));
  return ok(!within && (!onLimit || limits.inclusive));
}

/** How many of the limits beyond the first one a value meets. */
export function stepsMet(limits: Limits, value: Measure): number {
  if (!('limit' in limits) || limits.further === undefined) return 0;
  const { is, inclusive } = limits;
  return limits.further.filter((limit) => {
    const met = meetsLimits({ is, inclusive, limit }, value);
    return met.ok && met.value;
  }).length;
}

/**
 * Whether a value that met its limits has come back by a margin, itself included: `above 100, margin 5` is left at 95.
 * Of two limits, between is left outside of them by the margin, outside within them by it. Percent is of the limit's
 * absolute value.
 */
export function isLeftBy(limits: Limits, margin: Figure, value: Measure): boolean {
  const beyond = (limit: Measure, side: 'down' | 'up') => {
    const far = amountOf(margin, limit.amount);
    const at = side === 'down' ? subtract(limit.amount, far) : add(limit.amount, far);
    const order = compareDecimals(value.amount, at);
    return side === 'down' ? order <= 0 : order >= 0;
  };
  switch (limits.is) {
    case 'below':
      return beyond(limits.limit, 'up');
    case 'above':
      return beyond(limits.limit, 'down');
    case 'between':
      return beyond(limits.low, 'down') || beyond(limits.high, 'up');
    case 'outside':
      return beyond(limits.low, 'up') && beyond(limits.high, 'down');
  }
}

/** The amounts at which limits begin to be met, and with a margin those at which they are left. */
export function turningAmounts(limits: Limits, margin: Figure | undefined): Decimal[] {
  const turns = 'limit' in limits ? [limits.limit.amount] : [limits.low.amount, limits.high.amount];
  if (margin === undefined) return turns;
  return turns.flatMap((limit) => {
    const far = amountOf(margin, limit);
    return [limit, subtract(limit, far), add(limit, far)];
  });
}

/** A figure as an amount: itself, or so much percent of what it is held against, without its sign. */
export function amountOf(figure: Figure, of: Decimal): Decimal {
  return figure.by === 'amount' ? figure.amount.amount : percentOfAmount(figure.percent, of);
}

const percentOfAmount = (percent: Decimal, of: Decimal) => shiftDecimal(multiply(magnitude(of), percent), -2);

/** Whether a figure can be held against a value: an amount has to be counted in the same. */
export const fits = (figure: Figure | null, value: Measure) => figure?.by !== 'amount' || alike(figure.amount, value);

export const ZERO = decimal('0') as Decimal;

export const isZero = (amount: Decimal) => compareDecimals(amount, ZERO) === 0;
export const isNegative = (amount: Decimal) => compareDecimals(amount, ZERO) < 0;

/** How far a value stands beyond its limits: of two that it is to stay between, from the nearer one. */
export function beyondBy(limits: Limits, value: Measure): Decimal {
  switch (limits.is) {
    case 'below':
      return subtract(limits.limit.amount, value.amount);
    case 'above':
      return subtract(value.amount, limits.limit.amount);
    case 'between':
      return subtract(ZERO, distanceOutside(limits, value));
    case 'outside':
      return distanceOutside(limits, value);
  }
}

/** How far a value stands outside of two limits; negative within. */
function distanceOutside({ low, high }: Extract<Limits, { low: Measure }>, { amount }: Measure): Decimal {
  const [under, over] = [subtract(low.amount, amount), subtract(amount, high.amount)];
  return compareDecimals(under, over) > 0 ? under : over;
}
