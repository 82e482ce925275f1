import { DateTime } from 'luxon';
import { isMeasure, sameValue, type Value } from '../../../value/value';
import { DAY, type Instant } from '../../../when/interval';
import { firstReaching, sameTimeBefore } from '../../../when/wall-clock';
import { keyOf, type Asked, type Figure } from '../../asked';
import { undecided, type Finding, type Latest, type Works } from '../../observation';
import { MOST_KEPT } from '../../window';
import { heldAgainst } from '../move/judge';

export interface BeforeClause {
  kind: 'before';
  asked: Asked;
  by: 'day' | 'week' | 'month';
  zone: string;
  rise: Figure | null;
  fall: Figure | null;
}

/** The values of a while, each from when it was so: at most as many as a stretch keeps. */
export interface BeforeMemory {
  past: Latest[];
  now: Value | null;
  /** It was read since the rule was saved. */
  read: boolean;
}

/** 8: a value held against the one in force at the same time before, judged anew as that moves. */
export const before: Works<BeforeClause, BeforeMemory> = {
  fresh: () => ({ past: [], now: null, read: false }),

  learn: (clause, memory, key, reading) => (key === keyOf(clause.asked) ? took(clause, memory, reading) : memory),

  hear: (clause, memory, heard, { baseline }) => {
    const reading = heard.of === 'run' ? heard.read.get(keyOf(clause.asked)) : undefined;
    if (reading === undefined) return null;
    const moved =
      memory.now !== null &&
      memory.now.kind !== 'absent' &&
      reading.value.kind !== 'absent' &&
      !sameValue(memory.now, reading.value);
    const known = { ...took(clause, memory, reading), read: true };
    const finding = standsAt(clause, known, reading.at);
    return { memory: known, finding: moved && !baseline ? { ...finding, moved } : finding };
  },

  clock: (clause, memory, at) => ({ memory, finding: memory.read ? standsAt(clause, memory, at) : null }),

  nextAt: ({ by, zone }, { past }, now) => {
    if (past.length === 0) return null;
    const base = sameTimeBefore(now, by, zone);
    const next = past.find(({ at }) => at > base);
    // On the 29th the day a month before may be the 28th again: a month goes back at midnights, as any day does where
    // the clock is turned.
    const midnight = by === 'month' ? midnightAfter(now, zone) : null;
    const turn = clockTurn(now, midnight ?? now + REACH[by], zone);
    const back = turn ?? midnight;
    const most = (back ?? now + REACH[by]) - now;
    return (next === undefined ? null : firstReaching(next.at, now, by, zone, most)) ?? back;
  },
};

const midnightAfter = (at: Instant, zone: string): Instant =>
  DateTime.fromMillis(at, { zone }).plus({ days: 1 }).startOf('day').toMillis();

/** Longer than each is where the clock is turned. */
const REACH = { day: 2 * DAY, week: 8 * DAY, month: 32 * DAY } as const;

/** Keeps a value from when it was so, and of those before the time that is leant on only the last. */
function took({ by, zone }: BeforeClause, { past, read }: BeforeMemory, { value, at }: Latest): BeforeMemory {
  const last = past.at(-1)?.value;
  const all = last !== undefined && sameValue(last, value) ? past : [...past, { value, at }];
  const base = sameTimeBefore(at, by, zone) - DAY;
  const from = all.findLastIndex((each) => each.at <= base);
  return { past: all.slice(Math.max(from, 0, all.length - MOST_KEPT)), now: value, read };
}

function standsAt({ by, zone, rise, fall }: BeforeClause, { past, now }: BeforeMemory, at: Instant): Finding {
  if (now === null || !isMeasure(now)) return undecided({ code: now === null ? 'not read yet' : 'absent' });
  const base = sameTimeBefore(at, by, zone);
  const then = past.findLast((each) => each.at <= base)?.value;
  return then === undefined || !isMeasure(then)
    ? undecided({ code: 'nothing to hold it against' })
    : heldAgainst([then, then], now, rise, fall);
}

/** When the clock on the wall is turned between two moments; null where it is not. */
function clockTurn(from: Instant, to: Instant, zone: string): Instant | null {
  const offset = (at: Instant) => DateTime.fromMillis(at, { zone }).offset;
  if (offset(from) === offset(to)) return null;
  let [low, high] = [from, to];
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (offset(middle) === offset(from)) low = middle;
    else high = middle;
  }
  return high;
}
