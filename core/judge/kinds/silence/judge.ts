import { decimal, type Decimal } from '../../../value/decimal';
import { sameValue, type Value } from '../../../value/value';
import type { Instant } from '../../../when/interval';
import { keyOf, type Asked } from '../../asked';
import { freshFor, undecided, verdictOf, type Facts, type Finding, type Turn, type Works } from '../../observation';
import { textDigest } from '../../text-digest';
import { medianOf } from '../../window';

export interface SilenceClause {
  kind: 'silence';
  asked: Asked;
  how: SilenceTest;
}

/** What counts as silence. */
type SilenceTest =
  /** No good reading for a time. */
  | { of: 'readings'; ms: number }
  /** So many failed runs in a row. */
  | { of: 'runs'; count: number }
  /** No move for a time, or for so many times its usual pace. */
  | { of: 'moves'; ms: number }
  | { of: 'moves'; times: number };

export interface SilenceMemory {
  /** When something good was heard of it last, and when the value moved last. */
  heardAt: Instant | null;
  movedAt: Instant | null;
  /** That was a move, and not the first that was read of it. */
  moved?: true;
  last: Value | null;
  failed: number;
  /** The gaps between its moves, the latest hundred, in ms. */
  gaps: number[];
  /** When it was due the last time that it was found silent: the clock need not say that again. */
  said: Instant | null;
}

const MOST_GAPS = 100;
export const LEAST_GAPS = 3;

/** 16: nothing heard, runs that fail, or a value that no longer moves. Judged by the clock. */
export const silence: Works<SilenceClause, SilenceMemory> = {
  fresh: () => ({ heardAt: null, movedAt: null, last: null, failed: 0, gaps: [], said: null }),
  learn: ({ asked }, memory, key, { value, at }) => (key === keyOf(asked) ? heardOf(memory, value, at, at) : memory),

  hear: (clause, memory, heard, facts) => {
    const { how, asked } = clause;
    if (heard.of === 'failure') {
      if (how.of !== 'runs') return null;
      const failed = memory.failed + 1;
      return { memory: { ...memory, failed }, finding: ofRuns(how.count, failed) };
    }
    if (heard.of !== 'run') return null;
    const reading = heard.read.get(keyOf(asked));
    const late = heard.late?.get(keyOf(asked)) ?? [];
    if (reading === undefined && late.length === 0) return null;
    const known =
      reading === undefined
        ? { ...memory, heardAt: heard.at, failed: 0 }
        : { ...heardOf(memory, reading.value, reading.at, heard.at), failed: 0 };
    // What is due at this very moment by the clock is judged after what is heard.
    return how.of === 'runs'
      ? { memory: known, finding: ofRuns(how.count, 0) }
      : standsAt(clause, known, heard.at - 1, facts);
  },

  clock: (clause, memory, at, facts) => (clause.how.of === 'runs' ? null : standsAt(clause, memory, at, facts)),

  nextAt: ({ how }, memory, now, facts) => {
    const [due, stale] = [dueAt(how, memory, facts), staleAt(how, memory, facts)];
    const overdue =
      due !== null && due <= now && due !== memory.said && (stale === null || stale > now + 1) ? now + 1 : null;
    const next = [overdue, due, stale].flatMap((at) => (at === null || at <= now ? [] : at));
    return next.length === 0 ? null : Math.min(...next);
  },
};

/** What is known after a value: an absence is heard of, and is no move. */
function heardOf(memory: SilenceMemory, whole: Value, at: Instant, heardAt: Instant): SilenceMemory {
  const value = textDigest(whole);
  if (value.kind === 'absent') return { ...memory, heardAt };
  if (memory.last === null) return { ...memory, heardAt, last: value, movedAt: at };
  if (sameValue(memory.last, value)) return { ...memory, heardAt };
  const isGap = memory.movedAt !== null && (memory.moved === true || memory.gaps.length > 0);
  const gaps = isGap ? [...memory.gaps, at - (memory.movedAt as Instant)].slice(-MOST_GAPS) : memory.gaps;
  return { ...memory, heardAt, last: value, movedAt: at, moved: true, gaps };
}

/** When it is silent by the clock; null where that cannot be said. */
function dueAt(how: SilenceTest, { heardAt, movedAt, gaps }: SilenceMemory, { savedAt }: Facts): Instant | null {
  if (how.of === 'runs') return null;
  if (how.of === 'readings') return (heardAt ?? savedAt) + how.ms;
  if (movedAt === null) return null;
  if ('ms' in how) return movedAt + how.ms;
  return gaps.length < LEAST_GAPS ? null : movedAt + how.times * usualPace(gaps);
}

/** From when on the latest good reading is too old to say that nothing moved. */
function staleAt(how: SilenceTest, { heardAt }: SilenceMemory, facts: Facts): Instant | null {
  return how.of !== 'moves' || heardAt === null ? null : heardAt + freshFor(facts) + 1;
}

function standsAt({ how }: SilenceClause, memory: SilenceMemory, at: Instant, facts: Facts): Turn<SilenceMemory> {
  const due = dueAt(how, memory, facts);
  const stale = staleAt(how, memory, facts);
  const since: Finding['why'] = {
    code: 'heard of',
    at: (how.of === 'moves' ? memory.movedAt : memory.heardAt) ?? facts.savedAt,
  };
  if (due === null)
    return { memory, finding: undecided({ code: 'needs more', has: memory.gaps.length, of: LEAST_GAPS }) };
  if (stale !== null && at >= stale) return { memory, finding: undecided(since) };
  return { memory: at >= due ? { ...memory, said: due } : memory, finding: { is: verdictOf(at >= due), why: since } };
}

const ofRuns = (count: number, failed: number): Finding => ({
  is: verdictOf(failed >= count),
  why: { code: 'failed runs', count: failed },
});

/** The median of the gaps between moves, in ms. */
export function usualPace(gaps: number[]): number {
  return Number(medianOf(gaps.map((gap) => decimal(String(gap)) as Decimal)));
}
