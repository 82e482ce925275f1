import { sameValue, type Value } from '../../../value/value';
import { keyOf, type Asked } from '../../asked';
import { textDigest } from '../../text-digest';
import { undecided, verdictOf, type Finding, type Works } from '../../observation';

export interface StateClause {
  kind: 'state';
  asked: Asked;
  how: StateTest;
}

/** What is looked for in a state. */
export type StateTest =
  { is: Value } | { becomes: Value } | { leaves: Value } | { from: Value; to: Value } | 'any move';

export interface StateMemory {
  /** The last value that was one: an absence is passed over. */
  last: Value | null;
  /** The move that is looked for was seen, and is not undone. */
  seen: boolean;
}

/** 10: a state, a flag, a moment or a link. All but `is` hold only after the move was seen. */
export const state: Works<StateClause, StateMemory> = {
  fresh: () => ({ last: null, seen: false }),
  learn: ({ asked }, memory, key, { value }) =>
    key === keyOf(asked) && value.kind !== 'absent' ? { ...memory, last: textDigest(value) } : memory,
  hear: ({ asked, how }, memory, heard, { baseline }) => {
    const reading = heard.of === 'run' ? heard.read.get(keyOf(asked)) : undefined;
    if (reading === undefined) return null;
    const value = textDigest(reading.value);
    if (value.kind === 'absent') return { memory, finding: undecided({ code: 'absent' }) };
    const last = baseline ? null : memory.last;
    const moved = last !== null && !sameValue(last, value);
    const seen = isSeen(how, memory.seen, last, value);
    const finding: Finding = {
      is: verdictOf(isMet(how, seen, value)),
      why: last === null ? { code: 'stands at', value } : { code: 'moved', from: last, to: value },
    };
    const happened = how === 'any move' && moved;
    return {
      memory: { last: value, seen },
      finding: { ...finding, ...(moved ? { moved } : {}), ...(happened ? { happened, is: 'met' } : {}) },
    };
  },
};

function isMet(how: StateTest, seen: boolean, value: Value): boolean {
  if (how === 'any move') return false;
  return 'is' in how ? sameValue(how.is, value) : seen;
}

/** Whether the move was seen by now: it is once it happens, until the value is no longer where it led. */
function isSeen(how: StateTest, seen: boolean, last: Value | null, value: Value): boolean {
  if (how === 'any move' || 'is' in how) return false;
  if ('leaves' in how) return !sameValue(how.leaves, value) && (seen || (last !== null && sameValue(how.leaves, last)));
  if ('becomes' in how)
    return sameValue(how.becomes, value) && (seen || (last !== null && !sameValue(how.becomes, last)));
  return sameValue(how.to, value) && (seen || (last !== null && sameValue(how.from, last)));
}
