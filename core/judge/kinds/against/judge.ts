import { add, compareDecimals, magnitude, subtract } from '../../../value/decimal';
import { alike, isMeasure, type Measure, type Value } from '../../../value/value';
import { keyOf, type Asked, type Figure } from '../../asked';
import {
  isTooOld,
  undecided,
  unlikeTo,
  type Facts,
  type Finding,
  type Latest,
  type Run,
  type Turn,
  type Works,
} from '../../observation';
import { hasMoved, lastOf } from '../../text-digest';
import { amountOf, fits } from '../../limits';

export interface AgainstClause {
  kind: 'against';
  asked: Asked;
  other: Asked;
  is: 'below' | 'above';
  by: Figure;
  inclusive: boolean;
  margin?: Figure;
}

export interface AgainstMemory {
  own: Value | null;
  /** The last of its own values, absences passed over. */
  last?: Value | null;
  other: Latest | null;
  /** It was met when it was judged last. */
  met: boolean;
}

/** 13: a value below or above another series by so much, judged when either side is read. */
export const against: Works<AgainstClause, AgainstMemory> = {
  fresh: () => ({ own: null, other: null, met: false }),
  learn: (clause, memory, key, reading) => ({
    ...memory,
    ...(key === keyOf(clause.asked) ? { own: reading.value, last: lastOf(memory.last ?? null, reading.value) } : {}),
    ...(key === keyOf(clause.other) ? { other: reading } : {}),
  }),
  hear: (clause, memory, heard, facts) => {
    if (heard.of !== 'run') return null;
    const [own, other] = [heard.read.get(keyOf(clause.asked)), heard.read.get(keyOf(clause.other))];
    if (own === undefined && other === undefined) return null;
    const before = memory.last ?? null;
    const mine = own === undefined ? {} : { own: own.value, last: lastOf(before, own.value) };
    const known = { ...memory, ...mine, other: other ?? memory.other };
    const moved = own !== undefined && hasMoved(before, own.value);
    const turn = judge(clause, known, heard, facts);
    return moved && turn.finding !== null && !facts.baseline ? { ...turn, finding: { ...turn.finding, moved } } : turn;
  },
};

function judge(clause: AgainstClause, memory: AgainstMemory, heard: Run, facts: Facts): Turn<AgainstMemory> {
  const { own, other } = memory;
  const finding = (found: Finding): Turn<AgainstMemory> => ({
    memory: found.is === 'undecided' ? memory : { ...memory, met: found.is === 'met' },
    finding: found,
  });
  if (own === null || !isMeasure(own)) return finding(undecided({ code: own === null ? 'not read yet' : 'absent' }));
  if (other !== null && isTooOld(clause.other, other, heard.at, facts))
    return finding(undecided({ code: 'too old', at: other.at }));
  if (other === null || !isMeasure(other.value)) return finding(undecided({ code: 'nothing to hold it against' }));
  if (!alike(own, other.value) || !fits(clause.by, own)) return finding(unlikeTo(own, other.value));
  const why = { code: 'moved', from: other.value, to: own } as const;
  if (isBeyond(clause, own, other.value))
    return finding({
      is: 'met',
      why,
      value: own,
      far: magnitude(subtract(own.amount, limitBy(clause, other.value))),
    });
  const byMargin = memory.met && facts.raised && clause.margin !== undefined && !isBack(clause, own, other.value);
  return finding(
    byMargin ? { is: 'met', byMargin: true, why: { code: 'within the margin', value: own } } : { is: 'unmet', why },
  );
}

/** The limit that another value sets: so much below or above it. */
function limitBy({ by, is }: AgainstClause, other: Measure) {
  const far = amountOf(by, other.amount);
  return is === 'below' ? subtract(other.amount, far) : add(other.amount, far);
}

function isBeyond(clause: AgainstClause, own: Measure, other: Measure): boolean {
  const order = compareDecimals(own.amount, limitBy(clause, other));
  return order === 0 ? clause.inclusive : order < 0 === (clause.is === 'below');
}

/** Whether a value is back on the good side of the limit by the margin. */
function isBack(clause: AgainstClause, own: Measure, other: Measure): boolean {
  const limit = limitBy(clause, other);
  const far = clause.margin === undefined ? limit : amountOf(clause.margin, limit);
  return clause.is === 'below'
    ? compareDecimals(own.amount, add(limit, far)) >= 0
    : compareDecimals(own.amount, subtract(limit, far)) <= 0;
}
