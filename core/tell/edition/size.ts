import type { Change } from '../../compare/compare';
import { compareDecimals, magnitude, multiply, type Decimal } from '../../value/decimal';
import { alike, isMeasure, type Value } from '../../value/value';
import type { LeastMove, ReportDefinition } from '../definition';

/**
 * Whether a move is of the size that a report asks (2), judged exactly and never as it is shown. What has no size or
 * percent (a text, a state, a rise from nought) is not held back by it; what is counted in something else than the
 * least amount is not either.
 */
export function isOfSize(size: ReportDefinition['size'], change: Pick<Change, 'from' | 'to' | 'difference'>): boolean {
  if (change.difference === null || !isMeasure(change.to)) return true;
  return reaches(change.difference.startsWith('-') ? size.falls : size.rises, change, change.to);
}

function reaches(least: LeastMove, change: Pick<Change, 'from' | 'difference'>, to: Value): boolean {
  switch (least.is) {
    case 'any':
      return true;
    case 'off':
      return false;
    case 'percent': {
      const { difference } = change;
      if (difference === null || !isMeasure(change.from)) return true;
      // Multiplied out, so that nothing is rounded.
      const base = magnitude(change.from.amount);
      if (compareDecimals(base, '0' as Decimal) === 0) return true;
      return compareDecimals(multiply(magnitude(difference), '100' as Decimal), multiply(least.least, base)) >= 0;
    }
    case 'amount':
      return (
        !alike(to, least.least) ||
        change.difference === null ||
        compareDecimals(magnitude(change.difference), least.least.amount) >= 0
      );
  }
}
