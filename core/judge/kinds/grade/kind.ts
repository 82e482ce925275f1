import { fail, ok } from '../../../result';
import type { Value } from '../../../value/value';
import type { DraftBase, Said } from '../../draft/base';
import { counted } from '../../draft/figures';
import type { SaidIn } from '../../draft/said-in';
import type { Pretended } from '../../pretended';
import { ofCount } from '../../refusal';
import { askedWords } from '../../words';
import type { LastValue } from '../change/judge';
import { ofOneSeries, type ConditionKind } from '../kind';
import { grade as works, type GradeClause } from './judge';

/** A grade while it is being said. */
export interface GradeDraft extends DraftBase {
  verb: 'gets worse' | 'gets better' | 'is as bad as' | 'is as good as';
  /** By at least so many grades; one where nothing is said. */
  count: string;
  /** Which grade. */
  words: string;
}

/** 11: by the scale of the field. */
export const grade: ConditionKind<GradeClause, GradeDraft, LastValue> = {
  works,
  ...ofOneSeries,
  words: ({ asked, how }, names) =>
    'moves' in how
      ? `${askedWords(asked, names)} gets ${how.moves} by at least ` +
        `${how.steps === 1 ? 'one grade' : `${how.steps} grades`}`
      : `${askedWords(asked, names)} is ` +
        `${how.is === 'at or below' ? `${how.grade} or worse` : `${how.grade} or better`}`,
  refuse: ({ how }) => ('moves' in how ? ofCount(how.steps) : null),
  sayings: {
    verbs: ['gets worse', 'gets better', 'is as bad as', 'is as good as'],
    blank: { count: '', words: '' },
    toClause: (draft, said) => {
      if (draft.verb === 'is as bad as' || draft.verb === 'is as good as') return gradedAt(draft, said);
      const moves = draft.verb === 'gets worse' ? 'worse' : 'better';
      const asked = { field: draft.field };
      return counted(draft.count || '1', 'grades', (steps) => ({ kind: 'grade', asked, how: { moves, steps } }));
    },
  },
  draftOf: ({ how }) =>
    'moves' in how
      ? { verb: how.moves === 'worse' ? 'gets worse' : 'gets better', count: String(how.steps), words: '' }
      : { verb: how.is === 'at or below' ? 'is as bad as' : 'is as good as', count: '', words: how.grade },
  knows: ({ how }) => ('is' in how ? { kind: 'grade', scale: [how.grade] } : {}),
  isEvent: ({ how }) => 'moves' in how,
  pretend: ({ how }) => pretendGrade(how),
};

function gradedAt({ field, words, verb }: GradeDraft, { fields }: SaidIn): Said<GradeClause> {
  const type = fields.find(({ key }) => key === field)?.type;
  const scale = type?.kind === 'grade' ? type.scale : [];
  const found = scale.find((each) => each.toLowerCase() === words.trim().toLowerCase());
  if (found === undefined) return fail(`Say one of its grades: ${scale.join(', ')}.`);
  const is = verb === 'is as bad as' ? 'at or below' : 'at or above';
  return ok({ kind: 'grade', asked: { field }, how: { is, grade: found } });
}

function pretendGrade(how: GradeClause['how']): Pretended {
  const by = (value: Value, rank: (at: number) => number): Value | null => {
    if (value.kind !== 'grade') return null;
    const other = value.scale[rank(value.scale.indexOf(value.grade))];
    return other === undefined ? null : { ...value, grade: other };
  };
  if ('moves' in how) {
    const steps = how.moves === 'worse' ? how.steps : -how.steps;
    return {
      stands: (value) => by(value, (at) => at + steps) === null,
      meets: (value) => by(value, (at) => at + steps),
      leaves: (value) => by(value, () => (steps > 0 ? 0 : value.kind === 'grade' ? value.scale.length - 1 : 0)),
    };
  }
  const limit = (value: Value, past: number) =>
    by(value, () => (value.kind === 'grade' ? value.scale.indexOf(how.grade) + past : -1));
  const stands = (value: Value) =>
    value.kind === 'grade' &&
    (how.is === 'at or below') === value.scale.indexOf(value.grade) >= value.scale.indexOf(how.grade);
  return {
    stands,
    meets: (value) => limit(value, 0),
    leaves: (value) => limit(value, how.is === 'at or below' ? -1 : 1),
  };
}
