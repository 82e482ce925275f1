import { alike, isMeasure, sameValue, type Value } from '../value/value';
import type { Instant } from '../when/interval';

/** One move of a series: what it was from a moment on. */
export interface SeriesMove {
  at: Instant;
  to: Value;
}

/**
 * How a series stood when a stretch began: its last value that was one, and since when it has had none, where it has
 * none.
 */
export interface StoodBefore {
  /** Null where it was not read yet. */
  value: Value | null;
  absentSince: Instant | null;
}

/** What became of values that are counted alike: the first of them, the last, and how often it moved on the way. */
export interface NetPart {
  from: Value;
  to: Value;
  moves: number;
}

/** The net move of a series over a stretch (9 of what a report promises). */
export interface Net {
  /** With each change of unit another part begins, even when the unit comes back; mostly there is one. */
  parts: NetPart[];
  /** It was first read in this stretch. */
  isFirst: boolean;
  /** How long in all it had no value that came back, in ms. */
  awayMs: number;
  /** Since when it has none, where it has none at the end. */
  absentSince: Instant | null;
}

/**
 * What a series comes to over a stretch: the value in force when it began against the one in force when it ends, with
 * the number of moves between. An absence is no move: what comes back is held against what was before. Null where no
 * value was known before or since.
 */
export function netOf(before: StoodBefore, moves: readonly SeriesMove[]): Net | null {
  const parts: NetPart[] = before.value === null ? [] : [{ from: before.value, to: before.value, moves: 0 }];
  let { absentSince } = before;
  let awayMs = 0;
  for (const { at, to } of moves) {
    if (to.kind === 'absent') absentSince ??= at;
    else {
      if (absentSince !== null) awayMs += at - absentSince;
      absentSince = null;
      take(parts, to);
    }
  }
  return parts.length === 0 ? null : { parts, isFirst: before.value === null, awayMs, absentSince };
}

function take(parts: NetPart[], to: Value): void {
  const last = parts.at(-1);
  if (last === undefined || isUnlike(last.to, to)) parts.push({ from: to, to, moves: 0 });
  else if (!sameValue(last.to, to)) Object.assign(last, { to, moves: last.moves + 1 });
}

/** Numbers that are counted in something else, or a number where there was none. */
const isUnlike = (one: Value, other: Value): boolean =>
  (isMeasure(one) || isMeasure(other)) && !(isMeasure(one) && isMeasure(other) && alike(one, other));

/** Whether it left and came back as it was, and is there: no change over the stretch, and yet not nothing. */
export const isReturn = ({ parts: [only, ...more], absentSince }: Net): boolean =>
  absentSince === null && only !== undefined && more.length === 0 && only.moves > 0 && sameValue(only.from, only.to);

/** How often it moved, over all its parts. */
export const movesOf = ({ parts }: Net): number => parts.reduce((count, { moves }) => count + moves, 0);

/** Whether anything became of it at all. */
export const hasNews = ({ parts, isFirst, awayMs, absentSince }: Net): boolean =>
  isFirst || parts.length > 1 || awayMs > 0 || absentSince !== null || parts.some(({ moves }) => moves > 0);
