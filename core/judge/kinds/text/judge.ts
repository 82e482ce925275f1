import { isMatch } from '../../../read/pattern';
import { foldText } from '../../../value/parse';
import { sameValue, type Value } from '../../../value/value';
import { keyOf, type Asked } from '../../asked';
import { textDigest } from '../../text-digest';
import { undecided, unlikeTo, verdictOf, type Works } from '../../observation';

export interface TextClause {
  kind: 'text';
  asked: Asked;
  how: { phrase: string; is: 'there' | 'not there' | 'appears' | 'disappears' } | { matches: string };
}

export interface TextMemory {
  /** Whether the phrase was there last. */
  was: boolean | null;
  seen: boolean;
  last: Value | null;
}

/** 12: a phrase that is there or not, that appears or disappears; or a pattern. */
export const text: Works<TextClause, TextMemory> = {
  fresh: () => ({ was: null, seen: false, last: null }),
  learn: ({ asked, how }, memory, key, { value }) =>
    key === keyOf(asked) && value.kind === 'text'
      ? { ...memory, was: isThere(how, value.text), last: textDigest(value) }
      : memory,
  hear: ({ asked, how }, memory, heard, { baseline }) => {
    const reading = heard.of === 'run' ? heard.read.get(keyOf(asked)) : undefined;
    if (reading === undefined) return null;
    const { value } = reading;
    if (value.kind === 'absent') return { memory, finding: undecided({ code: 'absent' }) };
    if (value.kind !== 'text') return { memory, finding: unlikeTo(value, null) };
    const there = isThere(how, value.text);
    if (there === null) return { memory, finding: undecided({ code: 'too long to search' }) };
    return found(how, baseline ? { ...memory, was: null } : memory, value, there);
  },
};

/** What is made of a text in which it is there, or is not, after what was. */
function found(how: TextClause['how'], memory: TextMemory, value: Value, there: boolean) {
  const { was, last } = memory;
  const appears = 'phrase' in how && how.is === 'appears';
  const seen = 'phrase' in how && there === appears && (memory.seen || was === !appears);
  const moved = was !== null && last !== null && !sameValue(last, textDigest(value));
  const met = 'matches' in how || how.is === 'there' ? there : how.is === 'not there' ? !there : seen;
  const why = { code: 'stands at' as const, value };
  return {
    memory: { was: there, seen, last: textDigest(value) },
    finding: { is: verdictOf(met), why, ...(moved ? { moved } : {}) },
  };
}

/**
 * Whether the phrase is in a text, its white space folded and whatever its case; or the pattern matches, where that can
 * be told in time.
 */
function isThere(how: TextClause['how'], said: string): boolean | null {
  if ('phrase' in how) return foldText(said).toLowerCase().includes(foldText(how.phrase).toLowerCase());
  return isMatch({ pattern: how.matches, text: said });
}
