import { fail, ok } from '../../../result';
import { wordsOf, type Value } from '../../../value/value';
import type { DraftBase, Said, Sayings } from '../../draft/base';
import type { SaidIn } from '../../draft/said-in';
import type { StateClause } from './judge';

/** A state while it is being said. */
export interface StateDraft extends DraftBase {
  verb: 'is' | 'becomes' | 'leaves' | 'goes from';
  words: string;
  /** Where a move leads. */
  to: string;
}

export const stateSayings: Sayings<StateDraft, StateClause> = {
  verbs: ['is', 'becomes', 'leaves', 'goes from'],
  blank: { words: '', to: '' },
  toClause: (draft, said) => {
    const asked = { field: draft.field };
    const from = stateOf(draft, draft.words, said);
    if (!from.ok) return from;
    switch (draft.verb) {
      case 'is':
        return ok({ kind: 'state', asked, how: { is: from.value } });
      case 'becomes':
        return ok({ kind: 'state', asked, how: { becomes: from.value } });
      case 'leaves':
        return ok({ kind: 'state', asked, how: { leaves: from.value } });
      case 'goes from': {
        const to = stateOf(draft, draft.to, said);
        return to.ok ? ok({ kind: 'state', asked, how: { from: from.value, to: to.value } }) : to;
      }
    }
  },
};

/** A state, a flag or words, as the field says them. */
function stateOf({ field }: StateDraft, text: string, { present, fields }: SaidIn): Said<Value> {
  const words = text.trim();
  if (words === '') return fail('Say which state.');
  const kind = fields.find(({ key }) => key === field)?.type.kind;
  if (kind === 'flag' || present[field]?.kind === 'flag') {
    return /^(yes|no)$/i.test(words) ? ok({ kind: 'flag', is: words.toLowerCase() === 'yes' }) : fail('Say yes or no.');
  }
  return ok(
    kind === 'state' || present[field]?.kind === 'state'
      ? { kind: 'state', state: words }
      : { kind: 'text', text: words },
  );
}

/** A kept state as it would be said; null of any move of one. */
export function stateDraftOf({ how }: StateClause): Omit<StateDraft, keyof DraftBase> | null {
  if (how === 'any move') return null;
  const typed = (value: Value) => wordsOf(value) ?? '';
  if ('is' in how) return { verb: 'is', words: typed(how.is), to: '' };
  if ('becomes' in how) return { verb: 'becomes', words: typed(how.becomes), to: '' };
  if ('leaves' in how) return { verb: 'leaves', words: typed(how.leaves), to: '' };
  return { verb: 'goes from', words: typed(how.from), to: typed(how.to) };
}
