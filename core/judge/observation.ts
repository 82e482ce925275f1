import type { Decimal } from '../value/decimal';
import type { Value } from '../value/value';
import type { Asked } from './asked';
import type { Instant } from '../when/interval';

/** A good reading: what it was, and when. */
export interface Latest {
  value: Value;
  at: Instant;
  /** Of another watch, or an item: how long it may be leant on by the pace of what it was read by, in ms. */
  goodFor?: number;
  /** The value that stood before, where it is known whole: a rule remembers a long text by its beginning alone. */
  before?: Value;
}

/**
 * What a rule hears of its subject. A run brings the good readings of one moment, by the name of their series: in time,
 * or late ones that only take their place. `own` says whether it was a run of the rule's own watch. Groups are the
 * latest of the other members, by name.
 */
export type Observation =
  | {
      of: 'run';
      at: Instant;
      /** When it was so: the source's own time where it gives one, else that of the run. */
      moment: Instant;
      own: boolean;
      read: ReadonlyMap<string, Latest>;
      late?: ReadonlyMap<string, Latest[]>;
      groups?: ReadonlyMap<string, Latest[]>;
      /** The record was not there before. */
      came?: boolean;
      /** It was known when the rule was saved, and is heard of by it now. */
      known?: boolean;
    }
  | { of: 'failure'; at: Instant }
  | { of: 'gone'; at: Instant }
  /** The record is there, and no longer one of those that the rule runs for. */
  | { of: 'dropped'; at: Instant };

export type Run = Extract<Observation, { of: 'run' }>;

/** What is met, not met, or cannot be said. */
export type Verdict = 'met' | 'unmet' | 'undecided';

/** How many runs of a stretch were read, of those that were due. */
export interface Share {
  read: number;
  due: number;
}

/** When what grows at its pace so far comes to its limit, and whose days those are. */
export interface Reaches {
  at: Instant;
  zone: string;
}

/** Why a clause was found to be so, with the numbers it turned on. */
export type Why =
  /** Of a whole stretch, with what was read of it where some is missing; of a pace, with when it reaches the limit. */
  | { code: 'stands at'; value: Value; of?: Share; reaches?: Reaches }
  | { code: 'within the margin'; value: Value }
  | { code: 'not seen on the other side'; value: Value }
  | { code: 'moved'; from: Value; to: Value }
  | { code: 'absent' }
  /** Its pattern would take too long on a text of that length. */
  | { code: 'too long to search' }
  | { code: 'unlike'; value: Value; other: Value | null }
  | { code: 'no percent from zero' }
  | { code: 'nothing to hold it against' }
  | { code: 'not read yet' }
  | { code: 'too old'; at: Instant }
  | { code: 'needs more'; has: number; of: number }
  | { code: 'unfinished'; value: Value | null; read: number; due: number }
  | { code: 'counted once as left' }
  | { code: 'place'; value: Value; first: Value | null; rank: number }
  | { code: 'band'; value: Value; expected: number; low: number; high: number }
  | { code: 'heard of'; at: Instant }
  | { code: 'failed runs'; count: number }
  | { code: 'came' }
  | { code: 'went' };

/** What a clause makes of what it heard. */
export interface Finding {
  is: Verdict;
  why: Why;
  /** It is undecided, since a value is counted in something else than what it is held against. */
  unlike?: true;
  /** It is met by its re-arm margin alone. */
  byMargin?: true;
  /** An event happened at this moment. */
  happened?: true;
  /** What was judged moved since the reading before. */
  moved?: true;
  /** How many limits beyond its first one it meets. */
  step?: number;
  /** How it stands to its limit, and how far beyond it, for the peak of an episode. */
  value?: Value;
  far?: Decimal;
}

/** Intervals after which the latest reading is too old to be leant on. */
const FRESH_INTERVALS = 2;

/** How old the latest reading may be, in ms, so that the clock or another series may lean on it (16, 21, 23). */
export const freshFor = ({ intervalMs }: Pick<Facts, 'intervalMs'>) => FRESH_INTERVALS * intervalMs;

/**
 * How long a value may be leant on, in ms: of another watch by what she says, or by the pace of that watch (21); of its
 * own for good.
 */
export function mayLeanOn({ watch, within }: Asked, { goodFor }: Latest, facts: Pick<Facts, 'intervalMs'>): number {
  return within ?? goodFor ?? (watch === undefined ? Infinity : freshFor(facts));
}

/** Whether a value is too old to be leant on. */
export const isTooOld = (asked: Asked, latest: Latest, now: Instant, facts: Pick<Facts, 'intervalMs'>): boolean =>
  now - latest.at > mayLeanOn(asked, latest, facts);

/** What a clause is told besides what it hears. */
export interface Facts {
  /** How often the watch looks, in ms; of a posted source its usual pace. */
  intervalMs: number;
  /** When the rule was saved. */
  savedAt: Instant;
  /** What is heard is the rule's baseline: nothing moved there. */
  baseline: boolean;
  /** What the baseline meets is raised, as she chose. */
  raise: boolean;
  /** The rule is raised: re-arm margins hold. */
  raised: boolean;
}

/** What becomes of a clause by a moment; without a finding what stood stands. */
export interface Turn<Memory> {
  memory: Memory;
  finding: Finding | null;
}

/**
 * How a kind of clause is judged. All pure; a memory is small, and each turn costs the same whatever lies behind it.
 */
export interface Works<Clause, Memory> {
  fresh: (clause: Clause, situation: Pick<Facts, 'intervalMs' | 'savedAt'>) => Memory;
  /** Takes a reading of before the rule was saved. */
  learn?: (clause: Clause, memory: Memory, key: string, reading: Latest) => Memory;
  /** Null where it is none of its business. */
  hear: (clause: Clause, memory: Memory, heard: Observation, facts: Facts) => Turn<Memory> | null;
  /** What the clock alone makes of it, at a moment that `nextEnd` or `nextAt` gave. */
  clock?: (clause: Clause, memory: Memory, at: Instant, facts: Facts) => Turn<Memory> | null;
  /** When a stretch of the calendar ends: before what is heard at that moment. */
  nextEnd?: (clause: Clause, memory: Memory) => Instant | null;
  /** When the clock may move it next otherwise, after `now`: after what is heard at that moment. */
  nextAt?: (clause: Clause, memory: Memory, now: Instant, facts: Facts) => Instant | null;
  /** The rule told of this moment. */
  told?: (clause: Clause, memory: Memory) => Memory;
}

export const undecided = (why: Why): Finding => ({ is: 'undecided', why });
export const unlikeTo = (value: Value, other: Value | null): Finding => ({
  is: 'undecided',
  unlike: true,
  why: { code: 'unlike', value, other },
});
export const verdictOf = (met: boolean): Verdict => (met ? 'met' : 'unmet');
