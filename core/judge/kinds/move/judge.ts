import { compareDecimals, magnitude, subtract } from '../../../value/decimal';
import { alike, isMeasure, sameValue, type Measure, type Value } from '../../../value/value';
import { keyOf, type Figure, type Asked } from '../../asked';
import { undecided, unlikeTo, verdictOf, type Facts, type Finding, type Turn, type Works } from '../../observation';
import { medianOf } from '../../window';
import { amountOf, fits, isZero } from '../../limits';

/** What a move is held against. */
export type Base =
  | { base: 'last' | 'told' | 'extreme' }
  | { base: 'pinned'; value: Measure }
  | { base: 'median'; of: number }
  | { base: 'series'; asked: Asked };

/** A side that is null is switched off. */
export interface MoveClause {
  kind: 'move';
  asked: Asked;
  against: Base;
  rise: Figure | null;
  fall: Figure | null;
}

/** What a move is held against, as far as it is known. At most as many values as a median asks for. */
export interface MoveMemory {
  last: Measure | null;
  /** Told last by the rule, or the baseline; and the furthest on either side since. */
  told: Measure | null;
  high: Measure | null;
  low: Measure | null;
  before: Measure[];
  other: Value | null;
  /** It is known to be missing now. */
  absent: boolean;
}

export const isTimed = ({ base }: Base) => base === 'last' || base === 'told' || base === 'extreme';

/** 8: a value that differs from its base by at least so much. */
export const move: Works<MoveClause, MoveMemory> = {
  fresh: () => ({ last: null, told: null, high: null, low: null, before: [], other: null, absent: false }),

  learn: (clause, memory, key, { value }) => {
    if (clause.against.base === 'series' && key === keyOf(clause.against.asked)) return { ...memory, other: value };
    return key === keyOf(clause.asked) && isMeasure(value)
      ? { ...memory, last: value, before: kept(clause, memory, value) }
      : memory;
  },

  hear: (clause, memory, heard, facts) => {
    if (heard.of !== 'run') return null;
    const other = clause.against.base === 'series' ? heard.read.get(keyOf(clause.against.asked)) : undefined;
    const reading = heard.read.get(keyOf(clause.asked));
    const known = other === undefined ? memory : { ...memory, other: other.value };
    if (reading !== undefined) return read(clause, known, reading.value, facts);
    return other === undefined ? null : againstLatest(clause, known);
  },

  told: (_clause, memory) => ({ ...memory, told: memory.last, high: memory.last, low: memory.last }),
};

function read(clause: MoveClause, memory: MoveMemory, value: Value, facts: Facts): Turn<MoveMemory> {
  if (!isMeasure(value)) return { memory: { ...memory, absent: true }, finding: undecided({ code: 'absent' }) };
  const found = held(clause, memory, value);
  const moved = memory.last !== null && !sameValue(memory.last, value);
  const finding = facts.baseline && isTimed(clause.against) && found.unlike !== true ? BASELINE : found;
  return {
    memory: { ...after(clause, memory, value, facts), absent: false },
    finding: moved && !facts.baseline ? { ...finding, moved } : finding,
  };
}

const BASELINE: Finding = { is: 'unmet', why: { code: 'nothing to hold it against' } };

/** The other side moved: held against what is known of this one. */
function againstLatest(clause: MoveClause, memory: MoveMemory): Turn<MoveMemory> {
  if (memory.absent) return { memory, finding: undecided({ code: 'absent' }) };
  return {
    memory,
    finding: memory.last === null ? undecided({ code: 'not read yet' }) : held(clause, memory, memory.last),
  };
}

/** What is known after a reading. One unlike those before is what comes after is held against. */
function after(clause: MoveClause, memory: MoveMemory, value: Measure, { baseline }: Facts): MoveMemory {
  const before = kept(clause, memory, value);
  const anew = baseline || memory.told === null || !alike(memory.told, value);
  if (anew) return { ...memory, last: value, told: value, high: value, low: value, before };
  const furthest = (known: Measure | null, sign: number) =>
    known !== null && compareDecimals(value.amount, known.amount) * sign <= 0 ? known : value;
  return { ...memory, last: value, high: furthest(memory.high, 1), low: furthest(memory.low, -1), before };
}

function kept({ against }: MoveClause, { before }: MoveMemory, value: Measure): Measure[] {
  return against.base === 'median' ? [...before, value].slice(-against.of) : before;
}

/** A value held against its base. */
function held({ rise, fall, against }: MoveClause, memory: MoveMemory, value: Measure): Finding {
  if (!fits(rise, value) || !fits(fall, value)) return unlikeTo(value, null);
  const bases = basesOf(against, memory, value);
  if (bases === null && against.base === 'median')
    return undecided({ code: 'needs more', has: memory.before.length, of: against.of });
  if (bases === null) return undecided({ code: 'nothing to hold it against' });
  const finding = heldAgainst(bases, value, rise, fall);
  return finding.is === 'met' && isTimed(against) ? { ...finding, happened: true } : finding;
}

/** A value held against what a rise and what a fall of it begin at. */
export function heldAgainst(
  [forRise, forFall]: [Measure, Measure],
  value: Measure,
  rise: Figure | null,
  fall: Figure | null,
): Finding {
  for (const [base, figure] of [
    [forRise, rise],
    [forFall, fall],
  ] as const)
    if (!alike(base, value) || !fits(figure, value)) return unlikeTo(value, base);
  const up = movedBy(forRise, value, rise, 1);
  const down = movedBy(forFall, value, fall, -1);
  const met = up === true || down === true;
  if (!met && (up === null || down === null)) return undecided({ code: 'no percent from zero' });
  const from = down === true ? forFall : forRise;
  const far = magnitude(subtract(value.amount, from.amount));
  return { is: verdictOf(met), why: { code: 'moved', from, to: value }, ...(met ? { value, far } : {}) };
}

/** What a rise and a fall are held against; null where that is not known yet. */
function basesOf(
  against: Base,
  { last, told, high, low, before, other }: MoveMemory,
  value: Measure,
): [Measure, Measure] | null {
  const both = (base: Value | null): [Measure, Measure] | null =>
    base !== null && isMeasure(base) ? [base, base] : null;
  switch (against.base) {
    case 'last':
      return both(last);
    case 'told':
      return both(told);
    case 'extreme':
      return low === null || high === null ? null : [low, high];
    case 'pinned':
      return both(against.value);
    case 'series':
      return both(other);
    case 'median': {
      if (before.length < against.of) return null;
      const unlike = before.find((each) => !alike(each, value));
      return both(unlike ?? { ...value, amount: medianOf(before.map(({ amount }) => amount)) });
    }
  }
}

/** Whether a value lies by at least a figure to one side of its base; null where there is no percent, from zero. */
function movedBy(base: Measure, value: Measure, figure: Figure | null, side: 1 | -1): boolean | null {
  if (figure === null) return false;
  const difference = subtract(value.amount, base.amount);
  if (isZero(difference)) return false;
  if (figure.by === 'percent' && isZero(base.amount)) return null;
  const isThatSide = difference.startsWith('-') === (side === -1);
  return isThatSide && compareDecimals(magnitude(difference), amountOf(figure, base.amount)) >= 0;
}
