import type { Asked, ItemSide, Sharing } from '../asked';
import type { Field, FieldType } from '../../read/definition';
import { fail, ok, type Result } from '../../result';
import type { Measure } from '../../value/value';
import { typeOfKind } from '../../read/kinds';
import type { SaidIn } from './said-in';
import { NO_SPAN, spanDraftOf, spanned, type SpanDraft } from './span';

/** The label that two records share, and what another label of the other says, where that is named. */
export interface SharingDraft {
  label: string;
  where: string;
  is: string;
}

export const NOT_SHARED: SharingDraft = { label: '', where: '', is: '' };

/** Whose field a clause asks, where it is not its own record's. */
export type SubjectDraft =
  /** A record of the same watch, by its identity. */
  | { of: 'record'; record: string }
  /** The record that shares a label with its own; of which another label says something, where that is named. */
  | ({ of: 'sharing' } & SharingDraft)
  /**
   * What its item says of the like: ours, at one of our channels where that is named, its agreed minimum, or the
   * cheapest of its other offers.
   */
  | { of: 'item'; side: ItemSide; channel?: number; called?: string }
  /**
   * Another watch, how old its value may be, and what is known of its field where that is said: what it is, and what it
   * is counted in.
   */
  | {
      of: 'watch';
      watch: number;
      called: string;
      within: SpanDraft;
      mode: Field['mode'];
      kind: FieldType['kind'];
      scale?: string[];
      like: Measure | null;
    };

/** The series that a subject means; or what is wrong with it, as a sentence. */
export function askedOfSubject(subject: SubjectDraft, field: string): Result<Asked, string> {
  switch (subject.of) {
    case 'record':
      return subject.record === '' ? fail(`Say whose ${field} it is.`) : ok({ field, record: subject.record });
    case 'sharing':
      return askedOfSharing(subject, field);
    case 'item': {
      const { of: _of, side, ...at } = subject;
      return ok({ field, item: side, ...at });
    }
    case 'watch': {
      const { watch, called, within } = subject;
      if (watch === 0 || field === '') return fail('Say which watch, and which of its values.');
      const asked = { field, watch, ...(called === '' ? {} : { called }) };
      return within.count.trim() === '' ? ok(asked) : spanned(within, (ms) => ({ ...asked, within: ms }));
    }
  }
}

/** The series of the record that shares a label. */
export function askedOfSharing({ label, where, is }: SharingDraft, field: string): Result<Asked, string> {
  if (label === '') return fail('Say which label they share.');
  return ok({ field, sharing: where === '' ? { label } : { label, where: { label: where, is } } });
}

export const sharingDraftOf = ({ label, where }: Sharing): SharingDraft => ({
  label,
  where: where?.label ?? '',
  is: where?.is ?? '',
});

/** What a clause is said in where its field is another watch's. */
export function saidOfSubject(subject: SubjectDraft, field: string, said: SaidIn): SaidIn {
  if (subject.of !== 'watch') return said;
  const { like } = subject;
  return { ...said, present: like === null ? {} : { [field]: like }, fields: [fieldThere(field, subject)] };
}

/** A field of another watch, as far as it is known. */
export const fieldThere = (
  key: string,
  { mode, kind, scale = [] }: Extract<SubjectDraft, { of: 'watch' }>,
): Pick<Field, 'key' | 'mode' | 'type'> => ({
  key,
  mode,
  type: kind === 'grade' ? { kind, scale } : typeOfKind(kind),
});

/** What a clause itself tells of the field that it asks. */
export type KnownOfField = Pick<Extract<SubjectDraft, { of: 'watch' }>, 'mode' | 'kind' | 'scale' | 'like'>;

/** The subject of a kept clause, as it would be said; null where it says more. */
export function subjectDraftOf(
  { record, watch, sharing, item, channel, called, within }: Asked,
  known: Partial<KnownOfField>,
): SubjectDraft | null {
  if (watch !== undefined && record !== undefined) return null;
  if (item !== undefined)
    return {
      of: 'item',
      side: item,
      ...(channel === undefined ? {} : { channel }),
      ...(called === undefined ? {} : { called }),
    };
  if (sharing !== undefined) return { of: 'sharing', ...sharingDraftOf(sharing) };
  if (record !== undefined) return { of: 'record', record };
  if (watch === undefined) return null;
  return {
    of: 'watch',
    watch,
    called: called ?? '',
    within: within === undefined ? NO_SPAN : spanDraftOf(within),
    mode: 'stepwise',
    kind: 'stated',
    like: null,
    ...known,
  };
}
