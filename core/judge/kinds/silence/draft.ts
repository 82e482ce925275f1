import type { DraftBase, Sayings } from '../../draft/base';
import { counted } from '../../draft/figures';
import { NO_SPAN, spanDraftOf, spanned, type SpanDraft } from '../../draft/span';
import type { SilenceClause } from './judge';

/** Silence while it is being said. */
export interface SilenceDraft extends DraftBase {
  verb: 'is silent' | 'does not move' | 'fails to be read';
  span: SpanDraft;
  /** Of failed runs so many in a row; of what does not move so many times as long as usual, where no time is said. */
  count: string;
}

export const silenceSayings: Sayings<SilenceDraft, SilenceClause> = {
  verbs: ['is silent', 'does not move', 'fails to be read'],
  blank: { span: NO_SPAN, count: '' },
  ofItsOwn: ['fails to be read'],
  toClause: ({ field, verb, span, count }) => {
    const silent = (how: SilenceClause['how']): SilenceClause => ({ kind: 'silence', asked: { field }, how });
    if (verb === 'fails to be read') return counted(count, 'runs', (runs) => silent({ of: 'runs', count: runs }));
    if (verb === 'is silent') return spanned(span, (ms) => silent({ of: 'readings', ms }));
    return span.count.trim() === '' && count.trim() !== ''
      ? counted(count, 'times', (times) => silent({ of: 'moves', times }))
      : spanned(span, (ms) => silent({ of: 'moves', ms }));
  },
};

/** A kept silence as it would be said. */
export function silenceDraftOf({ how }: SilenceClause): Omit<SilenceDraft, keyof DraftBase> {
  const { blank } = silenceSayings;
  if (how.of === 'runs') return { ...blank, verb: 'fails to be read', count: String(how.count) };
  if (how.of === 'readings') return { ...blank, verb: 'is silent', span: spanDraftOf(how.ms) };
  return 'times' in how
    ? { ...blank, verb: 'does not move', count: String(how.times) }
    : { ...blank, verb: 'does not move', span: spanDraftOf(how.ms) };
}
