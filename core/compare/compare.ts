import { compareDecimals, type Decimal } from '../value/decimal';
import { alike, isMeasure, moveBetween, sameValue, type Polarity, type Value } from '../value/value';

/**
 * What sort of difference it is. Amount: the same unit, so it has a difference. Unit: the currency or unit
 * changed, so nothing is subtracted. Presence: from or to absent. Text: words.
 */
type ChangeKind = 'amount' | 'unit' | 'presence' | 'text';

/** Whether a change is good news by the field's polarity. */
export type Sense = 'better' | 'worse' | 'neither';

/** The difference between two good readings of one stepwise field. */
export interface Change {
  kind: ChangeKind;
  from: Value;
  to: Value;
  /** Signed, in the value's own unit; null unless the kind is amount. */
  difference: Decimal | null;
  /** Percent of the old value, one place; null from zero and for other kinds. */
  percent: Decimal | null;
  sense: Sense;
}

/** Compares the last good reading with the present one. Null when they mean the same. */
export function compareReadings(from: Value, to: Value, polarity: Polarity): Change | null {
  if (sameValue(from, to)) return null;
  const move = moveBetween(from, to);
  const sense = move === null ? 'neither' : senseOf(move.difference, polarity);
  return { kind: kindOf(from, to), from, to, difference: move?.difference ?? null, percent: move?.percent ?? null, sense };
}

function kindOf(from: Value, to: Value): ChangeKind {
  if (from.kind === 'absent' || to.kind === 'absent') return 'presence';
  if (alike(from, to)) return 'amount';
  return isMeasure(from) && isMeasure(to) ? 'unit' : 'text';
}

/** Whether a signed difference is for the better, by polarity. */
function senseOf(difference: Decimal, polarity: Polarity): Sense {
  const sign = compareDecimals(difference, '0' as Decimal);
  if (sign === 0 || polarity === 'neither') return 'neither';
  return sign > 0 === (polarity === 'up is good') ? 'better' : 'worse';
}
