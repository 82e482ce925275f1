import { wordsChanged } from '../../../compare/text';
import { sameValue, type Value } from '../../../value/value';
import { keyOf, type Asked } from '../../asked';
import { textDigest } from '../../text-digest';
import { undecided, type Finding, type Works } from '../../observation';

export interface ChangeClause {
  kind: 'change';
  asked: Asked;
  words?: number;
}

export interface LastValue {
  last: Value | null;
}

export interface ChangeMemory extends LastValue {
  /** The last value whole, while it is missing and only its beginning is remembered. */
  whole?: Value;
}

/** 9: any change, or one of so many words, those that went and those that came. */
export const change: Works<ChangeClause, ChangeMemory> = {
  fresh: () => ({ last: null }),
  learn: ({ asked }, memory, key, { value }) =>
    key === keyOf(asked) && value.kind !== 'absent' ? { last: textDigest(value) } : memory,
  hear: (clause, memory, heard, { baseline }) => {
    const reading = heard.of === 'run' ? heard.read.get(keyOf(clause.asked)) : undefined;
    if (reading === undefined) return null;
    const { value } = reading;
    const before = [reading.before, memory.whole].find((each) => each !== undefined && isWholeOf(memory.last, each));
    if (value.kind === 'absent') {
      const whole = clause.words === undefined || !isLong(before) ? {} : { whole: before };
      return { memory: { ...memory, ...whole }, finding: undecided({ code: 'absent' }) };
    }
    const first = baseline || memory.last === null;
    return {
      memory: { last: textDigest(value) },
      finding: first ? FIRST : found(clause, memory.last ?? value, value, before),
    };
  },
};

const FIRST: Finding = { is: 'unmet', why: { code: 'nothing to hold it against' } };

/** A text that is remembered by its beginning, and may be kept whole for as long as it is missing. */
const isLong = (value: Value | undefined): value is Value =>
  value?.kind === 'text' && textDigest(value) !== value && value.text.length <= MOST_KEPT;

/** In characters: as much as a stretch may keep. */
const MOST_KEPT = 80_000;

const isWholeOf = (last: Value | null, whole: Value): boolean => last !== null && sameValue(textDigest(whole), last);

function found({ words }: ChangeClause, last: Value, value: Value, before: Value | undefined): Finding {
  const moved = !sameValue(last, textDigest(value));
  const enough = moved && (words === undefined || wordsMoved(last, value, before) >= words);
  const why = { code: 'moved', from: last, to: value } as const;
  return { is: enough ? 'met' : 'unmet', why, ...(enough ? { happened: true } : {}), ...(moved ? { moved } : {}) };
}

/**
 * How many words changed; of a long text that is remembered by its beginning alone, and of which no more is known, any
 * number.
 */
function wordsMoved(last: Value, value: Value, before: Value | undefined): number {
  if (last.kind !== 'text' || value.kind !== 'text') return 0;
  const whole = before ?? (isDigest(last.text) ? null : last);
  return whole?.kind === 'text' ? wordsChanged(whole.text, value.text) : Infinity;
}

const isDigest = (text: string) => /… \[\d+ [0-9a-f]{16}\]$/.test(text);
