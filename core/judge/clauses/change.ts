import { wordsChanged } from '../../compare/text';
import { sameValue, type Value } from '../../value/value';
import { keyOf, type Clause } from '../clause';
import { undecided, type Finding, type Works } from '../heard';

type ChangeClause = Extract<Clause, { kind: 'change' }>;

export interface LastValue {
  last: Value | null;
}

/** 9: any change, or one of so many words, those that went and those that came. */
export const change: Works<ChangeClause, LastValue> = {
  fresh: () => ({ last: null }),
  learn: ({ asked }, memory, key, { value }) => (key === keyOf(asked) && value.kind !== 'absent' ? { last: value } : memory),
  hear: (clause, memory, heard, { baseline }) => {
    const reading = heard.of === 'run' ? heard.read.get(keyOf(clause.asked)) : undefined;
    if (reading === undefined) return null;
    const { value } = reading;
    if (value.kind === 'absent') return { memory, finding: undecided({ code: 'absent' }) };
    return { memory: { last: value }, finding: baseline || memory.last === null ? FIRST : found(clause, memory.last, value) };
  },
};

const FIRST: Finding = { is: 'unmet', why: { code: 'nothing to hold it against' } };

function found({ words }: ChangeClause, last: Value, value: Value): Finding {
  const moved = !sameValue(last, value);
  const enough = moved && (words === undefined || (last.kind === 'text' && value.kind === 'text' && wordsChanged(last.text, value.text) >= words));
  const why = { code: 'moved', from: last, to: value } as const;
  return { is: enough ? 'met' : 'unmet', why, ...(enough ? { happened: true } : {}), ...(moved ? { moved } : {}) };
}
