import type { Measure } from '../../../value/value';
import { isOwn, keyOf, type Figure, type Limits } from '../../asked';
import { scaled, unitName, type CompiledTest, type WholeSteps } from '../../whole-steps';
import { amountOf } from '../../limits';
import type { LimitClause } from './judge';

/** A limit on the readings themselves as numbers; null where it says more than that. */
export function compileLimit(
  { kind, limits, margin, of }: LimitClause,
  { places, units }: WholeSteps,
): CompiledTest | null {
  if (of.over !== undefined) return null;
  const bounds = boundsOf(limits, places);
  if (!isOwn(of.asked) || bounds === null || ('limit' in limits && limits.further !== undefined)) return null;
  const [low, high] = bounds;
  // A unit that nothing was counted in is unlike everything.
  const unit = units.indexOf(unitName('limit' in limits ? limits.limit : limits.low));
  const lets = margin === undefined ? null : marginOf(limits, margin, places);
  if (lets === undefined) return null;
  return {
    field: keyOf(of.asked),
    crossing: kind === 'crossing',
    unit,
    ...rangeOf(limits, low, high),
    isLeft: lets === null ? null : leaving(limits, low, high, lets),
    limits,
  };
}

function boundsOf(limits: Limits, places: number): [low: number, high: number] | null {
  const [low, high] = 'limit' in limits ? [limits.limit, limits.limit] : [limits.low, limits.high];
  const [least, most] = [scaled(low.amount, places), scaled(high.amount, places)];
  return least === null || most === null ? null : [least, most];
}

/** The margin at the lower and at the upper limit, in whole steps; undefined where it is no whole number of them. */
function marginOf(limits: Limits, margin: Figure, places: number): [number, number] | undefined {
  const at = ({ amount }: Measure) => scaled(amountOf(margin, amount), places);
  const [low, high] = 'limit' in limits ? [at(limits.limit), at(limits.limit)] : [at(limits.low), at(limits.high)];
  return low === null || high === null ? undefined : [low, high];
}

/** In whole steps every limit is a range, its ends included. */
function rangeOf(
  { is, inclusive }: Limits,
  low: number,
  high: number,
): Pick<CompiledTest, 'least' | 'most' | 'elsewhere'> {
  const by = inclusive ? 0 : 1;
  switch (is) {
    case 'below':
      return { least: -Infinity, most: low - by, elsewhere: false };
    case 'above':
      return { least: high + by, most: Infinity, elsewhere: false };
    case 'between':
      return { least: low + by, most: high - by, elsewhere: false };
    case 'outside':
      return { least: low + 1 - by, most: high - 1 + by, elsewhere: true };
  }
}

function leaving(
  { is }: Limits,
  low: number,
  high: number,
  [atLow, atHigh]: [number, number],
): (amount: number) => boolean {
  switch (is) {
    case 'below':
      return (amount) => amount >= low + atLow;
    case 'above':
      return (amount) => amount <= high - atHigh;
    case 'between':
      return (amount) => amount <= low - atLow || amount >= high + atHigh;
    case 'outside':
      return (amount) => amount >= low + atLow && amount <= high - atHigh;
  }
}
