import { fail, ok } from '../../../result';
import type { Asked, ItemSide } from '../../asked';
import type { DraftBase, Said, Sayings } from '../../draft/base';
import { figured, typedFigure } from '../../draft/figures';
import { NO_SPAN, spanDraftOf, spanned, type SpanDraft } from '../../draft/span';
import { askedOfSharing, NOT_SHARED, sharingDraftOf, type SharingDraft } from '../../draft/subject';
import type { AgainstClause } from './judge';

/** A value against another series while it is being said. */
export interface AgainstDraft extends DraftBase {
  verb: 'is below another' | 'is above another';
  /** By more than so much; empty for any. */
  limit: string;
  percent: boolean;
  inclusive: boolean;
  /** Another record of the watch, by its identity. */
  record: string;
  /**
   * It is held against what its item says instead, of ours at one of our channels where that is named; or another
   * watch; or what shares a label.
   */
  against?: ItemSide | 'watch' | 'sharing' | undefined;
  sharing?: SharingDraft;
  channel?: number | undefined;
  called?: string | undefined;
  /** The other watch, its field, and how old that may be: empty for twice as long as it takes to look again. */
  elsewhere?: { watch: number; field: string; within: SpanDraft };
  /** What the figure is counted in; else as the present value is. */
  unit?: string;
}

export const againstSayings: Sayings<AgainstDraft, AgainstClause> = {
  verbs: ['is below another', 'is above another'],
  blank: { limit: '', percent: false, inclusive: false, record: '' },
  besides: ['against', 'sharing', 'channel', 'called', 'elsewhere', 'unit'],
  ofItsOwn: ['is below another', 'is above another'],
  toClause: (draft, said) => {
    const other = otherOf(draft);
    if (!other.ok) return other;
    const by = figured(draft, draft.limit.trim() === '' ? '0' : draft.limit, said);
    if (!by.ok) return by;
    const { field, inclusive, verb } = draft;
    const is = verb === 'is below another' ? 'below' : 'above';
    return ok({ kind: 'against', asked: { field }, other: other.value, is, by: by.value, inclusive });
  },
};

function otherOf(draft: AgainstDraft): Said<Asked> {
  const { field, record, against, channel, called, elsewhere, sharing = NOT_SHARED } = draft;
  const named = called === undefined ? {} : { called };
  if (against === undefined)
    return record === '' ? fail('Say which record it is held against.') : ok({ field, record });
  if (against === 'sharing') return askedOfSharing(sharing, field);
  if (against !== 'watch') return ok({ field, item: against, ...(channel === undefined ? {} : { channel }), ...named });
  if (elsewhere === undefined || elsewhere.field === '') return fail('Say which watch it is held against.');
  const other = { field: elsewhere.field, watch: elsewhere.watch, ...named };
  return elsewhere.within.count.trim() === ''
    ? ok(other)
    : spanned(elsewhere.within, (within) => ({ ...other, within }));
}

/** A kept one as it would be said; null where it has a margin, or holds against what cannot be said. */
export function againstDraftOf(clause: AgainstClause): Omit<AgainstDraft, keyof DraftBase> | null {
  const { asked, other, margin, is, by, inclusive } = clause;
  if (!isSayable(other, asked) || margin !== undefined) return null;
  const { amount, ...counted } = typedFigure(by);
  return {
    ...againstSayings.blank,
    verb: is === 'below' ? 'is below another' : 'is above another',
    ...otherDraft(other),
    inclusive,
    limit: amount,
    ...counted,
  };
}

/**
 * Whether another series can be said here: of another watch as a whole, or alike of another record, what shares a
 * label, or the item.
 */
const isSayable = ({ watch, record, item, sharing, field }: Asked, asked: Asked): boolean =>
  watch === undefined ? (record ?? item ?? sharing) !== undefined && field === asked.field : record === undefined;

function otherDraft(other: Asked): Partial<AgainstDraft> {
  const { record = '', item, watch, sharing, field, within, channel, called } = other;
  return {
    record,
    ...(item === undefined ? {} : { against: item }),
    ...(sharing === undefined ? {} : { against: 'sharing', sharing: sharingDraftOf(sharing) }),
    ...(watch === undefined
      ? {}
      : {
          against: 'watch',
          elsewhere: { watch, field, within: within === undefined ? NO_SPAN : spanDraftOf(within) },
        }),
    ...(channel === undefined ? {} : { channel }),
    ...(called === undefined ? {} : { called }),
  };
}
