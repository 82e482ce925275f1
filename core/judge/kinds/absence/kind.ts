import { ok } from '../../../result';
import { ABSENT } from '../../../value/value';
import type { DraftBase } from '../../draft/base';
import { isAbsent } from '../../pretended';
import { askedWords } from '../../words';
import { ofOneSeries, type ConditionKind } from '../kind';
import { absence as works, type AbsenceClause, type AbsenceMemory } from './judge';

/** That a value is missing while it is being said. */
export interface AbsenceDraft extends DraftBase {
  verb: 'has no value' | 'comes back';
}

/** 15: known to be missing. */
export const absence: ConditionKind<AbsenceClause, AbsenceDraft, AbsenceMemory> = {
  works,
  ...ofOneSeries,
  words: ({ asked, how }, names) =>
    `${askedWords(asked, names)} ${how === 'is absent' ? 'has no value' : 'comes back'}`,
  refuse: () => null,
  sayings: {
    verbs: ['has no value', 'comes back'],
    blank: {},
    toClause: ({ field, verb }) =>
      ok({ kind: 'absence', asked: { field }, how: verb === 'has no value' ? 'is absent' : 'comes back' }),
  },
  draftOf: ({ how }) => ({ verb: how === 'is absent' ? 'has no value' : 'comes back' }),
  isEvent: ({ how }) => how === 'comes back',
  pretend: ({ how }) =>
    how === 'is absent'
      ? { stands: isAbsent, meets: () => ABSENT, leaves: () => null }
      : { stands: (value) => !isAbsent(value), meets: () => null, leaves: () => ABSENT },
};
