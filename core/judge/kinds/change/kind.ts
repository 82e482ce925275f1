import { ok } from '../../../result';
import type { DraftBase } from '../../draft/base';
import { counted } from '../../draft/figures';
import { altered, never } from '../../pretended';
import { ofCount } from '../../refusal';
import { askedWords } from '../../words';
import { ofOneSeries, type ConditionKind } from '../kind';
import { change as works, type ChangeClause, type LastValue } from './judge';

/** A change while it is being said. */
export interface ChangeDraft extends DraftBase {
  verb: 'changes';
  /** By at least so many words; empty for any. */
  count: string;
}

/** 9: differs from the reading before, by at least so many words where that is said. */
export const change: ConditionKind<ChangeClause, ChangeDraft, LastValue> = {
  works,
  ...ofOneSeries,
  words: ({ asked, words }, names) =>
    `${askedWords(asked, names)} ` +
    `changes${words === undefined ? '' : ` by at least ${words} ${words === 1 ? 'word' : 'words'}`}`,
  refuse: ({ words = 1 }) => ofCount(words),
  sayings: {
    verbs: ['changes'],
    blank: { count: '' },
    toClause: ({ field, count }) =>
      count.trim() === ''
        ? ok({ kind: 'change', asked: { field } })
        : counted(count, 'words', (words) => ({ kind: 'change', asked: { field }, words })),
  },
  draftOf: ({ words }) => ({ verb: 'changes', count: words === undefined ? '' : String(words) }),
  isEvent: () => true,
  isChange: true,
  pretend: () => ({ stands: never, meets: altered, leaves: altered }),
};
