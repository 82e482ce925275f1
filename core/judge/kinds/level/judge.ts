import { isMeasure, type Measure, type Value } from '../../../value/value';
import { keyOf, type Judged, type Limits, type Figure } from '../../asked';
import { undecided, unlikeTo, type Facts, type Finding, type Turn, type Works } from '../../observation';
import {
  freshWindow,
  observeWindow,
  learnWindow,
  metEarly,
  reachedAt,
  windowAt,
  windowNextAt,
  windowNextEnd,
  type WindowMemory,
  type WindowResult,
  type WindowTurn,
} from '../../window';
import { hasMoved, lastOf } from '../../text-digest';
import { beyondBy, isLeftBy, meetsLimits, stepsMet, turningAmounts } from '../../limits';

/** A value beyond its limits, or one that was seen to come there. */
export interface LimitClause<Kind extends 'level' | 'crossing' = 'level' | 'crossing'> {
  kind: Kind;
  of: Judged;
  limits: Limits;
  margin?: Figure;
}

/**
 * What a clause on a limit saw last. `unjudged`: nothing yet. `afresh`: something unlike the limit. `clear`: a value on
 * the good side. `beyond`: one beyond it, and it counts. `passed over`: one beyond it that nobody saw cross.
 */
type Side = 'unjudged' | 'afresh' | 'clear' | 'beyond' | 'passed over';

export interface LevelMemory {
  side: Side;
  /** The last value that was judged: of a stretch what it came to. */
  last: Value | null;
  /** It was read since the rule was saved: before that a stretch is not judged. */
  read: boolean;
  stretch?: WindowMemory;
}

/** 6 and 7, with 25: a value beyond its limits, of a reading or of a stretch. */
export const level: Works<LimitClause, LevelMemory> = {
  fresh: ({ of: { over } }, { savedAt }) => ({
    side: 'unjudged',
    last: null,
    read: false,
    ...(over === undefined ? {} : { stretch: freshWindow(over, savedAt) }),
  }),

  learn: ({ of: { asked, over } }, memory, key, reading) => {
    if (key !== keyOf(asked)) return memory;
    const stretch =
      over === undefined || memory.stretch === undefined ? {} : { stretch: learnWindow(over, memory.stretch, reading) };
    return over === undefined ? { ...memory, last: lastOf(memory.last, reading.value) } : { ...memory, ...stretch };
  },

  hear: (clause, memory, heard, facts) => {
    const { asked, over } = clause.of;
    const reading = heard.of === 'run' ? heard.read.get(keyOf(asked)) : undefined;
    if (over !== undefined && memory.stretch !== undefined) {
      const known = reading === undefined ? memory : { ...memory, read: true };
      return fromWindow(clause, known, observeWindow(over, memory.stretch, asked, heard, facts), facts);
    }
    if (reading === undefined) return null;
    const moved = hasMoved(memory.last, reading.value);
    const turn = judgeValue(clause, memory, reading.value, facts);
    const { finding } = turn;
    const last = lastOf(memory.last, reading.value);
    return { memory: { ...turn.memory, last }, finding: moved && !facts.baseline ? { ...finding, moved } : finding };
  },

  clock: (clause, memory, at, facts) => {
    const { over } = clause.of;
    if (over === undefined || memory.stretch === undefined) return null;
    const turn = windowAt(over, memory.stretch, at, facts);
    return memory.read
      ? fromWindow(clause, memory, turn, facts)
      : { memory: { ...memory, stretch: turn.memory }, finding: null };
  },

  nextEnd: ({ of: { over } }, { stretch }) =>
    over === undefined || stretch === undefined ? null : windowNextEnd(over, stretch),

  nextAt: ({ of: { over }, limits, margin }, { stretch }, now) =>
    over === undefined || stretch === undefined
      ? null
      : windowNextAt(over, stretch, now, turningAmounts(limits, margin)),
};

/** A turn that found something. */
interface Found extends Turn<LevelMemory> {
  finding: Finding;
}

/** A value held against the limits, with the margin while the rule is raised. */
function judgeValue(clause: LimitClause, memory: LevelMemory, value: Value, facts: Facts): Found {
  const { limits, margin } = clause;
  if (value.kind === 'absent') return { memory, finding: undecided({ code: 'absent' }) };
  const met = meetsLimits(limits, value);
  if (!met.ok || !isMeasure(value))
    return {
      memory: { ...memory, side: 'afresh' },
      finding: unlikeTo(value, 'limit' in limits ? limits.limit : limits.low),
    };
  if (met.value) return beyond(clause, memory, value, facts);
  if (memory.side === 'beyond' && facts.raised && margin !== undefined && !isLeftBy(limits, margin, value))
    return { memory, finding: { is: 'met', byMargin: true, why: { code: 'within the margin', value } } };
  return { memory: { ...memory, side: 'clear' }, finding: { is: 'unmet', why: { code: 'stands at', value } } };
}

/** A value beyond the limits: a crossing has to be seen. */
function beyond({ kind, limits }: LimitClause, memory: LevelMemory, value: Measure, { raise }: Facts): Found {
  const unseen =
    kind === 'crossing' &&
    (memory.side === 'afresh' || memory.side === 'passed over' || (memory.side === 'unjudged' && !raise));
  if (unseen)
    return {
      memory: { ...memory, side: 'passed over' },
      finding: { is: 'unmet', why: { code: 'not seen on the other side', value } },
    };
  const step = stepsMet(limits, value);
  const far = beyondBy(limits, value);
  const finding: Finding = {
    is: 'met',
    value,
    far,
    why: { code: 'stands at', value },
    ...(step === 0 ? {} : { step }),
  };
  return { memory: { ...memory, side: 'beyond' }, finding };
}

/** What a stretch comes to, held against the limits. */
function fromWindow(
  clause: LimitClause,
  memory: LevelMemory,
  turn: WindowTurn | null,
  facts: Facts,
): Turn<LevelMemory> | null {
  if (turn === null) return null;
  const known = { ...memory, stretch: turn.memory };
  const { result } = turn;
  if (result === null) return { memory: known, finding: null };
  switch (result.is) {
    case 'left':
      return { memory: { ...known, side: 'clear' }, finding: { is: 'unmet', why: { code: 'counted once as left' } } };
    case 'unlike':
      return { memory: { ...known, side: 'afresh' }, finding: unlikeTo(result.value, null) };
    case 'nothing':
      return { memory: known, finding: undecided(result.why) };
    case 'whole':
      return early(
        clause,
        movedOn(memory, explained(clause, judgeValue(clause, known, result.value, facts), result), facts),
      );
    default:
      return unfinished(clause, known, result, facts);
  }
}

/** What a stretch comes to, with whether that is another than it came to last. */
function movedOn({ last }: LevelMemory, { memory, finding }: Found, { baseline }: Facts): Found {
  const value = 'value' in finding.why ? finding.why.value : null;
  if (value === null) return { memory, finding };
  const moved = hasMoved(last, value) && !baseline;
  return { memory: { ...memory, last: lastOf(last, value) }, finding: moved ? { ...finding, moved } : finding };
}

/** How much of a stretch was read, where that is not nearly all, and when a pace reaches the limit. */
function explained(
  { of: { over }, limits }: LimitClause,
  found: Found,
  { of, total }: Extract<WindowResult, { is: 'whole' }>,
): Found {
  const { why } = found.finding;
  if (why.code !== 'stands at') return found;
  const at = total === undefined ? null : reachedAt(total, limits);
  const zone = over !== undefined && 'this' in over.of ? over.of.zone : 'UTC';
  const said = { ...(of === undefined ? {} : { of }), ...(at === null ? {} : { reaches: { at, zone } }) };
  return { ...found, finding: { ...found.finding, why: { ...why, ...said } } };
}

/** Of a stretch that is not at its end only what cannot be undone counts, and that it is counted in something else. */
function unfinished(clause: LimitClause, known: LevelMemory, result: Unfinished, facts: Facts): Turn<LevelMemory> {
  const { value, read, due, is, certain } = result;
  const found = value === null ? null : judgeValue(clause, known, value, facts);
  if (found?.finding.unlike === true) return movedOn(known, found, facts);
  if (found !== null && value !== null && found.finding.byMargin !== true && isSettled(clause.limits, value, certain))
    return early(clause, movedOn(known, found, facts), is === 'running');
  // What began at nought, or can but fall, was seen there: it may be seen to come beyond from now on.
  const side = isSeenClear(clause, found, certain) && known.side !== 'beyond' ? { side: 'clear' as const } : {};
  return {
    memory: { ...known, ...side },
    finding: is === 'running' ? null : undecided({ code: 'unfinished', value, read, due }),
  };
}

/** Whether how a value that can only grow, or only fall, stands to its limits can no longer be undone. */
function isSettled(limits: Limits, value: Value, certain: 'above' | 'below' | null): boolean {
  const met = meetsLimits(limits, value);
  if (certain === null || !met.ok) return false;
  if ('limit' in limits) return met.value === (limits.is === certain);
  const limit = certain === 'above' ? limits.high : limits.low;
  const inclusive = limits.inclusive === (limits.is === 'outside');
  const beyond = meetsLimits({ is: certain, limit, inclusive }, value);
  return beyond.ok && beyond.value;
}

/** Whether what is on its way to a limit in one direction stands on the good side of it. */
const isSeenClear = ({ limits }: LimitClause, found: Found | null, certain: 'above' | 'below' | null): boolean =>
  limits.is === certain && found?.finding.is === 'unmet' && found.finding.why.code === 'stands at';

type Unfinished = Extract<WindowResult, { is: 'unfinished' | 'running' }>;

/** What is met before a calendar stretch ends is left at its end; so is a pace, whenever it was met. */
function early({ of: { over } }: LimitClause, found: Found, running = over?.make === 'pace'): Found {
  const { stretch } = found.memory;
  // One that nobody saw cross is left with it, too: from then on it can be seen.
  const isBeyond = found.finding.is === 'met' || found.memory.side === 'passed over';
  return running && isBeyond && stretch !== undefined
    ? { ...found, memory: { ...found.memory, stretch: metEarly(stretch) } }
    : found;
}
