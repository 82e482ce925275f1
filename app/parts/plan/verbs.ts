import { isOfItsOwn, type ClauseChange, type Verb } from '#core/judge/draft/clause';
import type { ClauseDraft } from '#core/judge/kinds/table';
import type { Field, FieldType } from '#core/read/definition';
import { isMeasure, type Value } from '#core/value/value';

/** A verb as it is offered: its words, and what sets it apart where they alone do not say it. */
interface Offered {
  verb: Verb;
  words: string;
  hint?: string;
  /** What it says with its verb: of several with one verb the one that the clause says is meant. */
  preset: Preset;
}

type Preset = Pick<ClauseChange, 'against' | 'among'>;

const verb = (of: Verb, words: string = of, hint?: string, preset: Preset = {}): Offered => ({
  verb: of,
  words,
  preset,
  ...(hint === undefined ? {} : { hint }),
});

/** Whether a clause says what is offered. */
export const saysOffered = (offered: Offered, clause: ClauseDraft): boolean =>
  offered.verb === clause.verb &&
  offered.preset.against === ('against' in clause ? clause.against : undefined) &&
  offered.preset.among === ('among' in clause ? clause.among : undefined);

const MEASURES = [
  verb('falls below'),
  verb('rises above'),
  verb('changes'),
  verb('moves by', 'rises or falls by so much'),
  verb('is below', 'is below', 'even if nobody saw it pass the limit'),
  verb('is above', 'is above', 'even if nobody saw it pass the limit'),
];

const OF_ITEMS = [
  verb('is below another', 'is below ours', undefined, { against: 'ours' }),
  verb('is above another', 'is above ours', undefined, { against: 'ours' }),
  verb('is below another', 'is under the agreed minimum', undefined, { against: 'minimum' }),
  verb('is below another', 'is below the cheapest other offer', undefined, { against: 'cheapest' }),
  verb('is above another', 'is above the cheapest other offer', undefined, { against: 'cheapest' }),
  verb('takes the lowest place', 'becomes the cheapest offer of its item', undefined, { among: 'offers' }),
  verb('loses the lowest place', 'is no longer the cheapest offer of its item', undefined, { among: 'offers' }),
  verb('has the lowest place', 'is the cheapest offer of its item', undefined, { among: 'offers' }),
  verb('has not the lowest place', 'is not the cheapest offer of its item', undefined, { among: 'offers' }),
  verb('moves in rank', 'moves up or down among the offers of its item', undefined, { among: 'offers' }),
  verb('takes the highest place', 'becomes the dearest offer of its item', undefined, { among: 'offers' }),
  verb('loses the highest place', 'is no longer the dearest offer of its item', undefined, { among: 'offers' }),
  verb('has the highest place', 'is the dearest offer of its item', undefined, { among: 'offers' }),
  verb('has not the highest place', 'is not the dearest offer of its item', undefined, { among: 'offers' }),
];

const MORE_OF_MEASURES = [
  verb('is between'),
  verb('is outside', 'is outside two limits'),
  verb('is unusual', 'is unusual for its hour or day'),
  verb('is below another', 'is below that of another record'),
  verb('is above another', 'is above that of another record'),
  verb('is below another', 'is below that of the same region (or another label)', undefined, { against: 'sharing' }),
  verb('is above another', 'is above that of the same region (or another label)', undefined, { against: 'sharing' }),
  verb('is below another', 'is below that of another watch', undefined, { against: 'watch' }),
  verb('is above another', 'is above that of another watch', undefined, { against: 'watch' }),
  ...OF_ITEMS,
  verb('takes the lowest place', 'becomes the lowest of all records'),
  verb('loses the lowest place', 'is no longer the lowest of all records'),
  verb('has the lowest place', 'is the lowest of all records'),
  verb('has not the lowest place', 'is not the lowest of all records'),
  verb('moves in rank', 'moves up or down among all records'),
  verb('takes the highest place', 'becomes the highest of all records'),
  verb('loses the highest place', 'is no longer the highest of all records'),
  verb('has the highest place', 'is the highest of all records'),
  verb('has not the highest place', 'is not the highest of all records'),
];

const OF_A_NUMBER = [
  verb('is between'),
  verb('is outside', 'is outside two limits'),
  verb('is unusual', 'is unusual for its hour or day'),
  verb('does not move', 'does not move for too long'),
];

const GRADES = [
  verb('changes'),
  verb('gets worse'),
  verb('gets better'),
  verb('is as bad as', 'is at or below a grade'),
  verb('is as good as', 'is at or above a grade'),
];
const STATES = [
  verb('changes'),
  verb('becomes'),
  verb('leaves', 'is no longer'),
  verb('is'),
  verb('goes from', 'goes from one to another'),
];
const TEXTS = [verb('changes'), verb('gains the phrase', 'gains a phrase'), verb('loses the phrase', 'loses a phrase')];
const MORE_OF_TEXTS = [
  verb('has the phrase', 'has a phrase'),
  verb('lacks the phrase', 'lacks a phrase'),
  verb('matches', 'matches a pattern'),
  ...STATES.filter((offered) => offered.verb !== 'changes'),
];

const OF_ANY = [
  verb('has no value', 'has no value any more'),
  verb('comes back', 'has a value again'),
  verb('is silent', 'is silent for too long'),
  verb('does not move', 'does not move for too long'),
  verb('fails to be read', 'fails to be read so often'),
];

const OF_LISTS = [verb('appears', 'a record appears'), verb('vanishes', 'a record vanishes')];

/** The verbs of a field: those that are usual first, and then the rest. */
export function verbsOf(
  field: Pick<Field, 'type'> | undefined,
  present: Value | undefined,
  { isList, isOther }: { isList: boolean; isOther: boolean },
): { usual: Offered[]; more: Offered[] } {
  const all = verbsOfAny(field, present, isList);
  const sayable = (offered: Offered) => !isOther || !isOfItsOwn(offered.verb);
  return { usual: all.usual.filter(sayable), more: all.more.filter(sayable) };
}

/** What is usual of what is no measure, or was never read as one; of texts, and what may be one, more can be said. */
const USUAL: Partial<Record<FieldType['kind'], Offered[]>> = {
  grade: GRADES,
  state: STATES,
  flag: STATES,
  phrase: STATES,
  ...Object.fromEntries(
    (['moment', 'link', 'picture', 'money', 'number', 'computed'] as const).map((kind) => [kind, [verb('changes')]]),
  ),
};

function verbsOfAny(
  field: Pick<Field, 'type'> | undefined,
  present: Value | undefined,
  isList: boolean,
): { usual: Offered[]; more: Offered[] } {
  const kind = field?.type.kind;
  if (kind === 'count') return { usual: MEASURES, more: OF_A_NUMBER };
  const rest = [...OF_ANY, ...(isList ? OF_LISTS : [])];
  if (present !== undefined && isMeasure(present)) return { usual: MEASURES, more: [...MORE_OF_MEASURES, ...rest] };
  const usual = kind === undefined ? undefined : USUAL[kind];
  return usual === undefined ? { usual: TEXTS, more: [...MORE_OF_TEXTS, ...rest] } : { usual, more: rest };
}
