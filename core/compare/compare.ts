import { compareDecimals, decimal, type Decimal } from '../value/decimal';
import { ABSENT, alike, isMeasure, moveBetween, sameValue, scaleOf, type Polarity, type Value } from '../value/value';

/**
 * What sort of difference it is. Amount: the same unit, so it has a difference. Unit: the currency or unit
 * changed, so nothing is subtracted. Presence: from or to absent. Grade: up or down a scale, its difference in
 * steps. State: from one state, flag, moment or address to another. Text: words. Record: the whole record
 * appeared or vanished.
 */
type ChangeKind = 'amount' | 'unit' | 'presence' | 'grade' | 'state' | 'text' | 'record';

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
  const kind = kindOf(from, to);
  if (kind === 'grade') return { kind, from, to, ...gradeMove(from, to), percent: null };
  const move = moveBetween(from, to);
  const sense = move === null ? flagSense(to, polarity) : senseOf(move.difference, polarity);
  return { kind, from, to, difference: move?.difference ?? null, percent: move?.percent ?? null, sense };
}

/** A record that came or went is a change of its own, of no field. */
export function recordChange(what: 'appeared' | 'vanished', name: string): Change {
  const shown: Value = { kind: 'text', text: name };
  const [from, to] = what === 'appeared' ? [ABSENT, shown] : [shown, ABSENT];
  return { kind: 'record', from, to, difference: null, percent: null, sense: 'neither' };
}

/** Steps on the scale, up being better: the scale itself says which way is good. */
function gradeMove(from: Value, to: Value): Pick<Change, 'difference' | 'sense'> {
  if (from.kind !== 'grade' || to.kind !== 'grade') return { difference: null, sense: 'neither' };
  const steps = from.scale.indexOf(from.grade) - to.scale.indexOf(to.grade);
  return { difference: decimal(String(steps)), sense: steps > 0 ? 'better' : 'worse' };
}

/** A flag that goes on is a rise. */
function flagSense(to: Value, polarity: Polarity): Sense {
  if (to.kind !== 'flag' || polarity === 'neither') return 'neither';
  return to.is === (polarity === 'up is good') ? 'better' : 'worse';
}

function kindOf(from: Value, to: Value): ChangeKind {
  if (from.kind === 'absent' || to.kind === 'absent') return 'presence';
  if (alike(from, to)) return 'amount';
  if (isMeasure(from) && isMeasure(to)) return 'unit';
  if (from.kind === 'grade' && to.kind === 'grade' && scaleOf(from) === scaleOf(to)) return 'grade';
  return from.kind === 'text' || to.kind === 'text' ? 'text' : 'state';
}

/** Whether a signed difference is for the better, by polarity. */
function senseOf(difference: Decimal, polarity: Polarity): Sense {
  const sign = compareDecimals(difference, '0' as Decimal);
  if (sign === 0 || polarity === 'neither') return 'neither';
  return sign > 0 === (polarity === 'up is good') ? 'better' : 'worse';
}
