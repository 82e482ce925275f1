import { scaleOf, type Value } from '../../../value/value';
import { keyOf, type Asked } from '../../asked';
import { undecided, unlikeTo, verdictOf, type Finding, type Works } from '../../observation';
import type { LastValue } from '../change/judge';

export interface GradeClause {
  kind: 'grade';
  asked: Asked;
  how: { moves: 'better' | 'worse'; steps: number } | { is: 'at or below' | 'at or above'; grade: string };
}
type Grade = Extract<Value, { kind: 'grade' }>;

/** 11: a grade by its scale, the best first; the letters say nothing. */
export const grade: Works<GradeClause, LastValue> = {
  fresh: () => ({ last: null }),
  learn: ({ asked }, memory, key, { value }) =>
    key === keyOf(asked) && value.kind === 'grade' ? { last: value } : memory,
  hear: ({ asked, how }, memory, heard, { baseline }) => {
    const reading = heard.of === 'run' ? heard.read.get(keyOf(asked)) : undefined;
    if (reading === undefined) return null;
    const { value } = reading;
    if (value.kind === 'absent') return { memory, finding: undecided({ code: 'absent' }) };
    if (value.kind !== 'grade') return { memory, finding: unlikeTo(value, null) };
    const last = baseline || memory.last?.kind !== 'grade' ? null : memory.last;
    return { memory: { last: value }, finding: 'moves' in how ? steps(how, last, value) : stands(how, last, value) };
  },
};

const rank = ({ grade: name, scale }: Grade) => scale.indexOf(name);

function steps(
  { moves, steps: least }: { moves: 'better' | 'worse'; steps: number },
  last: Grade | null,
  value: Grade,
): Finding {
  if (last === null) return { is: 'unmet', why: { code: 'stands at', value } };
  if (scaleOf(last) !== scaleOf(value)) return unlikeTo(value, last);
  const worse = rank(value) - rank(last);
  const met = (moves === 'worse' ? worse : -worse) >= least;
  return {
    is: verdictOf(met),
    why: { code: 'moved', from: last, to: value },
    ...(met ? { happened: true } : {}),
    ...(worse === 0 ? {} : { moved: true }),
  };
}

function stands(
  { is, grade: limit }: { is: 'at or below' | 'at or above'; grade: string },
  last: Grade | null,
  value: Grade,
): Finding {
  const at = value.scale.indexOf(limit);
  if (at < 0) return unlikeTo(value, null);
  const moved = last !== null && rank(last) !== rank(value);
  return {
    is: verdictOf(is === 'at or below' ? rank(value) >= at : rank(value) <= at),
    why: { code: 'stands at', value },
    ...(moved ? { moved } : {}),
  };
}
