import { ok } from '../../../result';
import type { DraftBase } from '../../draft/base';
import type { ConditionKind } from '../kind';
import { record as works, type RecordClause } from './judge';

/** That a record comes or goes while it is being said. */
export interface RecordDraft extends DraftBase {
  verb: RecordClause['how'];
}

/** 15: a record that was not there before, or no longer is. */
export const record: ConditionKind<RecordClause, RecordDraft, Record<string, never>> = {
  works,
  asks: () => [],
  withAsked: (clause) => clause,
  words: ({ how }) => `a record ${how}`,
  refuse: () => null,
  sayings: {
    verbs: ['appears', 'vanishes'],
    blank: {},
    ofItsOwn: ['appears', 'vanishes'],
    toClause: ({ verb }) => ok({ kind: 'record', how: verb }),
  },
  draftOf: ({ how }) => ({ verb: how }),
  isEvent: () => true,
};
