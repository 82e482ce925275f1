import { fail, ok } from '../../result';
import { ALL_RECORDS } from '../../read/all-records';
import { isMeasure, type Value } from '../../value/value';
import { isOwn, type ItemSide } from '../asked';
import { asksIn, withAsked, type Clause } from '../clause';
import { KINDS, kindOf, type ClauseDraft } from '../kinds/table';
import type { Said, Sayings } from './base';
import type { SaidIn } from './said-in';
import { askedOfSubject, saidOfSubject, subjectDraftOf } from './subject';

/** What can be said of a field, as the verb of a sentence. */
export type Verb = ClauseDraft['verb'];

type AnySayings = Sayings<ClauseDraft, Clause>;

const ALL_SAYINGS = Object.values(KINDS).flatMap(({ sayings }) => (sayings as AnySayings | undefined) ?? []);
const SAYINGS = new Map(ALL_SAYINGS.flatMap((sayings) => sayings.verbs.map((verb) => [verb, sayings] as const)));

export const VERBS: readonly Verb[] = [...SAYINGS.keys()];

function sayingsOf(verb: Verb): AnySayings {
  const sayings = SAYINGS.get(verb);
  if (sayings === undefined) throw new Error(`no kind of condition is said by “${verb}”`);
  return sayings;
}

type Saying<Draft, V> = Draft extends { verb: infer Own } ? (V extends Own ? Draft : never) : never;

/** The draft of a clause that is said by a verb. */
export type DraftFor<V extends Verb> = Saying<ClauseDraft, V>;

/** A clause about which only the field and the verb are said. */
export const blankClause = <V extends Verb>(field: string, verb: V): DraftFor<V> =>
  ({ ...sayingsOf(verb).blank, verb, field }) as unknown as DraftFor<V>;

/** A clause with something of it said otherwise; its verb stays. */
export const withSaid = (clause: ClauseDraft, change: ClauseChange): ClauseDraft => ({ ...clause, ...change });

/** What may be said otherwise of a clause, of whichever kind that is. */
export type ClauseChange = { [Key in Exclude<KeyOf<ClauseDraft>, 'verb'>]?: ValueOf<ClauseDraft, Key> };

type KeyOf<Draft> = Draft extends Draft ? keyof Draft : never;
type ValueOf<Draft, Key> = Draft extends Draft ? (Key extends keyof Draft ? Draft[Key] : never) : never;

/** What is said of any verb beside its own figures, and means alike under each that takes it. */
const LASTING = ['unit', 'zone'];

/**
 * A clause said by another verb, or of another field. Whose field it is stays, and so do the figures where both verbs
 * are of one kind: of another they would mean something else.
 */
export function withVerb(clause: ClauseDraft, verb: Verb, field = clause.field): ClauseDraft {
  const { blank } = sayingsOf(verb);
  const isAlike = sayingsOf(clause.verb) === sayingsOf(verb);
  const lasting = [...BASE, ...(isAlike ? [...Object.keys(blank), ...LASTING] : [])];
  return { ...blankClause(field, verb), ...only(clause, lasting) };
}

/** A draft of a clause without what its verb does not ask for, and with all that it does. */
export function asSaidBy(draft: { verb: Verb; field: string }): ClauseDraft {
  const { blank, besides = [] } = sayingsOf(draft.verb);
  return { ...blankClause(draft.field, draft.verb), ...only(draft, [...BASE, ...Object.keys(blank), ...besides]) };
}

/** What every clause may have beside its verb, its field and its figures. */
const BASE = ['subject', 'tied', 'not'];

const only = (draft: object, keys: readonly string[]) =>
  Object.fromEntries(Object.entries(draft).filter(([key]) => keys.includes(key)));

/** Whether a verb can be said of a record's own fields alone. */
export const isOfItsOwn = (verb: Verb): boolean => sayingsOf(verb).ofItsOwn?.includes(verb) ?? false;

/** The clause that a draft means; or what is wrong with it, as a sentence. */
export function toClause(draft: ClauseDraft, said: SaidIn): Said<Clause> {
  const { subject, verb, field } = draft;
  const { toClause: say } = sayingsOf(verb);
  if (subject === undefined) return say(draft, said);
  if (isOfItsOwn(verb)) return fail('Only of its own record can that be said.');
  const fault = subject.of === 'item' ? itemFault(subject.side, said.present[field]) : null;
  if (fault !== null) return fail(fault);
  const whose = askedOfSubject(subject, field);
  const clause = whose.ok ? say(draft, saidOfSubject(subject, field, said)) : whose;
  if (!whose.ok || !clause.ok) return clause;
  return ok(withAsked(clause.value, (asked) => (isOwn(asked) ? { ...asked, ...whose.value } : asked)));
}

/** What cannot be asked of an item: it knows of its other offers what they cost, count and stand at, and no words. */
function itemFault(side: ItemSide, value: Value | undefined): string | null {
  if (value === undefined || value.kind === 'absent' || isMeasure(value)) return null;
  if (side !== 'ours') return 'Of its item only a price or a number can be asked so.';
  return ['state', 'flag', 'grade'].includes(value.kind) ? null : 'Of its item no text, link or date can be asked.';
}

/** The draft that stands for a kept clause, as a reader would type it; null where it says more than a draft can. */
export function clauseDraftOf(clause: Clause): ClauseDraft | null {
  const kind = kindOf(clause);
  const [asked = { field: '' }] = asksIn(clause);
  const subject =
    isOwn(asked) || asked.record === ALL_RECORDS ? undefined : subjectDraftOf(asked, kind.knows?.(clause) ?? {});
  const draft = kind.draftOf(clause);
  if (subject === null || draft === null) return null;
  if (subject !== undefined && isOfItsOwn(draft.verb)) return null;
  return { ...draft, field: asked.field, ...(subject === undefined ? {} : { subject }) } as ClauseDraft;
}
