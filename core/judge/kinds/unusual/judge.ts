import { alike, isMeasure, sameValue, type Measure } from '../../../value/value';
import type { Instant } from '../../../when/interval';
import { bandAt, freshBand, learnBand, wanted, type BandMemory } from '../../band';
import { keyOf, type Asked } from '../../asked';
import { undecided, unlikeTo, verdictOf, type Finding, type Works } from '../../observation';

/** Outside of the band that is expected by what came before; about one false alarm in so many readings. */
export interface UnusualClause {
  kind: 'unusual';
  asked: Asked;
  side: 'high' | 'low' | 'either';
  oneIn: number;
  zone: string;
}

export interface UnusualMemory {
  band: BandMemory;
  last: Measure | null;
}

/** 14: a value outside of the band that is expected for its moment, made of what came before it. */
export const unusual: Works<UnusualClause, UnusualMemory> = {
  fresh: (clause, { intervalMs }) => ({ band: freshBand(clause, intervalMs), last: null }),

  learn: (clause, memory, key, { value, at }) =>
    key === keyOf(clause.asked) && isMeasure(value) ? learned(clause, memory, value, at) : memory,

  hear: (clause, memory, heard, { intervalMs, baseline }) => {
    const reading = heard.of === 'run' ? heard.read.get(keyOf(clause.asked)) : undefined;
    if (reading === undefined) return null;
    const { value, at } = reading;
    if (!isMeasure(value)) return { memory, finding: undecided({ code: 'absent' }) };
    if (memory.last !== null && !alike(memory.last, value)) {
      const anew = { band: freshBand(clause, intervalMs), last: null };
      return { memory: learned(clause, anew, value, at), finding: unlikeTo(value, memory.last) };
    }
    const moved = memory.last !== null && !baseline && !sameValue(memory.last, value);
    const finding = held(clause, memory.band, value, at);
    return { memory: learned(clause, memory, value, at), finding: moved ? { ...finding, moved } : finding };
  },
};

const learned = (clause: UnusualClause, { band }: UnusualMemory, value: Measure, at: Instant): UnusualMemory => ({
  band: learnBand(clause, band, Number(value.amount), at),
  last: value,
});

function held(clause: UnusualClause, memory: BandMemory, value: Measure, at: Instant): Finding {
  const band = bandAt(clause, memory, at);
  if (band === null) return undecided({ code: 'needs more', ...wanted(memory) });
  const amount = Number(value.amount);
  return { is: verdictOf(amount > band.high || amount < band.low), why: { code: 'band', value, ...band } };
}
