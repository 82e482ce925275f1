import type { Figure } from './asked';
import { isNegative, isZero } from './limits';
import { DAY } from '../when/interval';
import { MOST_KEPT } from './window';

/** Why a rule is refused: what cannot be said, or can never come to anything. */
export type Refusal =
  | { code: 'nothing said' }
  | { code: 'too much said'; most: number }
  | { code: 'an event takes no hold' }
  | { code: 'silence takes no hold' }
  | { code: 'no event under none' }
  | { code: 'no margin under none' }
  | { code: 'no percent of nought' }
  | { code: 'margin leaves nothing' }
  | { code: 'limits crossed' }
  | { code: 'limits not further'; most: number }
  | { code: 'units differ' }
  | { code: 'neither rise nor fall' }
  | { code: 'not more than nought' }
  | { code: 'hold of nothing' }
  | { code: 'too long a stretch'; readings: number; most: number }
  | { code: 'bad pattern'; said: string };

export const MOST_READINGS = 1_000;
export const LONGEST = 366 * DAY;

export const NOTHING: Refusal = { code: 'not more than nought' };

export const isWhole = (count: number, most: number) => Number.isInteger(count) && count >= 1 && count <= most;

const MOST_COUNTED = 100_000;

/** Words, places or steps that are counted: one at the least. */
export const ofCount = (count: number): Refusal | null => (isWhole(count, MOST_COUNTED) ? null : NOTHING);

/** The first that is refused of several. */
export function firstRefused<T>(all: readonly T[], of: (each: T) => Refusal | null): Refusal | null {
  for (const each of all) {
    const found = of(each);
    if (found !== null) return found;
  }
  return null;
}

/** A rise, a fall or both are said, each by more than nought. */
export function ofSides({ rise, fall }: { rise: Figure | null; fall: Figure | null }): Refusal | null {
  if (rise === null && fall === null) return { code: 'neither rise nor fall' };
  return firstRefused([rise, fall], (figure) => (figure === null ? null : ofMoved(figure)));
}

const amountIn = (figure: Figure) => (figure.by === 'amount' ? figure.amount.amount : figure.percent);

/** The figure of a move is more than nought. */
const ofMoved = (figure: Figure): Refusal | null =>
  isNegative(amountIn(figure)) || isZero(amountIn(figure)) ? NOTHING : null;

/** A figure by which a value may lie apart is no less than nought. */
export const ofFigure = (figure: Figure): Refusal | null => (isNegative(amountIn(figure)) ? NOTHING : null);

/** Calendar stretches at their longest, in ms. */
export const LENGTHS = { hour: DAY / 24, day: DAY, week: 7 * DAY, month: 31 * DAY } as const;

/** A stretch whose readings are kept may hold so many runs of its watch. */
export function tooLong(ms: number, intervalMs: number): Refusal | null {
  const readings = Math.ceil(ms / intervalMs);
  return readings > MOST_KEPT ? { code: 'too long a stretch', readings, most: MOST_KEPT } : null;
}
