import { isOwn, type Asked, type Clause, type Figure, type JudgedWindow } from '../judge/clause';
import { ALL_RECORDS } from '../read/all-records';
import { unitOf, wordsOf, type Measure, type Value } from '../value/value';
import { blankClause, OF_ITS_OWN, type ClauseDraft, type WindowDraft, type Verb } from './clause-draft';
import { NO_SPAN, spanDraftOf } from './span-draft';
import { sharingDraftOf, subjectDraftOf } from './subject-draft';

// A kept clause as it would be said.

/** The draft that stands for a kept clause, as a reader would type it; null where it says more than a draft can. */
export function clauseDraftOf(clause: Clause): ClauseDraft | null {
  const asked = 'of' in clause ? clause.of.asked : 'asked' in clause ? clause.asked : { field: '' };
  const subject = isOwn(asked) || asked.record === ALL_RECORDS ? undefined : subjectDraftOf(asked, clause);
  if (subject === null) return null;
  const draft: Drafting = (verb, change = {}) => ({
    ...blankClause(asked.field, verb),
    ...change,
    ...(subject === undefined ? {} : { subject }),
  });
  const say = DRAFTS[clause.kind] as (clause: Clause, draft: Drafting) => ClauseDraft | null;
  const said = say(clause, draft);
  return said !== null && subject !== undefined && OF_ITS_OWN.includes(said.verb) ? null : said;
}

const isSayable = (among: string) => among === 'records' || among === 'offers';
const amongDraft = (among: string): Partial<ClauseDraft> => (among === 'offers' ? { among } : {});

const DRAFTS: {
  [Kind in Clause['kind']]: (clause: Extract<Clause, { kind: Kind }>, draft: Drafting) => ClauseDraft | null;
} = {
  level: limitedDraft,
  crossing: limitedDraft,
  move: movedDraft,
  before: movedDraft,
  change: ({ words }, draft) => draft('changes', { count: words === undefined ? '' : String(words) }),
  state: ({ how }, draft) => statedDraft(how, draft),
  grade: ({ how }, draft) =>
    'moves' in how
      ? draft(how.moves === 'worse' ? 'gets worse' : 'gets better', { count: String(how.steps) })
      : draft(how.is === 'at or below' ? 'is as bad as' : 'is as good as', { words: how.grade }),
  text: ({ how }, draft) =>
    'matches' in how ? draft('matches', { words: how.matches }) : draft(verbOfPhrase(how.is), { words: how.phrase }),
  against: ({ asked, other, margin, is, by, inclusive }, draft) =>
    !isSayableOther(other, asked) || margin !== undefined
      ? null
      : draft(is === 'below' ? 'is below another' : 'is above another', {
          ...otherDraft(other),
          inclusive,
          ...typedFigure(by, 'limit'),
        }),
  place: ({ how, end, among }, draft) =>
    isSayable(among) ? draft(`${how} the ${end} place`, amongDraft(among)) : null,
  rank: ({ by, end, among }, draft) =>
    isSayable(among) && end === 'lowest' ? draft('moves in rank', { count: String(by), ...amongDraft(among) }) : null,
  unusual: ({ oneIn, side, zone }, draft) => draft('is unusual', { count: String(oneIn), side, zone }),
  absence: ({ how }, draft) => draft(how === 'is absent' ? 'has no value' : 'comes back'),
  record: ({ how }, draft) => draft(how),
  silence: ({ how }, draft) => silentDraft(how, draft),
};

/**
 * Whether another series can be said here: of another watch as a whole, or alike of another record, what shares a
 * label, or the item.
 */
const isSayableOther = ({ watch, record, item, sharing, field }: Asked, asked: Asked): boolean =>
  watch === undefined ? (record ?? item ?? sharing) !== undefined && field === asked.field : record === undefined;

const otherDraft = ({
  record = '',
  item,
  watch,
  sharing,
  field,
  within,
  channel,
  called,
}: Asked): Partial<ClauseDraft> => ({
  record,
  ...(item === undefined ? {} : { against: item }),
  ...(sharing === undefined ? {} : { against: 'sharing' as const, sharing: sharingDraftOf(sharing) }),
  ...(watch === undefined
    ? {}
    : { against: 'watch', elsewhere: { watch, field, within: within === undefined ? NO_SPAN : spanDraftOf(within) } }),
  ...(channel === undefined ? {} : { channel }),
  ...(called === undefined ? {} : { called }),
});

type Drafting = (verb: Verb, change?: Partial<ClauseDraft>) => ClauseDraft;

const PHRASES = {
  'has the phrase': 'there',
  'lacks the phrase': 'not there',
  'gains the phrase': 'appears',
  'loses the phrase': 'disappears',
} as const;

const verbOfPhrase = (is: (typeof PHRASES)[keyof typeof PHRASES]): Verb =>
  (Object.keys(PHRASES) as (keyof typeof PHRASES)[]).find((verb) => PHRASES[verb] === is) ?? 'has the phrase';

const typedUnit = (measure: Measure) => ({ unit: unitOf(measure) ?? '' });

function typedFigure(figure: Figure, as: 'limit' | 'margin'): Partial<ClauseDraft> {
  return figure.by === 'percent'
    ? { [as]: figure.percent, percent: true }
    : { [as]: figure.amount.amount, ...typedUnit(figure.amount) };
}

function limitedDraft(
  { kind, of: { over }, limits, margin }: Extract<Clause, { kind: 'level' | 'crossing' }>,
  draft: Drafting,
): ClauseDraft | null {
  if (kind === 'crossing' && (limits.is === 'between' || limits.is === 'outside')) return null;
  const verb: Verb =
    kind === 'crossing' ? (limits.is === 'below' ? 'falls below' : 'rises above') : (`is ${limits.is}` as Verb);
  const said =
    'limit' in limits
      ? {
          limit: limits.limit.amount,
          ...typedUnit(limits.limit),
          ...(limits.further === undefined ? {} : { further: limits.further.map(({ amount }) => amount).join('; ') }),
        }
      : { limit: limits.low.amount, high: limits.high.amount, ...typedUnit(limits.low) };
  return draft(verb, {
    ...said,
    inclusive: limits.inclusive,
    ...(margin === undefined ? {} : { ...typedFigure(margin, 'margin') }),
    ...(over === undefined ? {} : { over: windowDraftOf(over) }),
    ...(over !== undefined && 'this' in over.of ? { zone: over.of.zone } : {}),
  });
}

function windowDraftOf({ make, of, grows }: JudgedWindow): WindowDraft {
  if ('this' in of) return { make, count: '', unit: `this ${of.this}`, grows };
  return of.last === 'readings'
    ? { make, count: String(of.count), unit: 'reading', grows }
    : { make, ...spanDraftOf(of.ms), grows };
}

function movedDraft(clause: Extract<Clause, { kind: 'move' | 'before' }>, draft: Drafting): ClauseDraft | null {
  const { rise, fall } = clause;
  if (rise !== null && fall !== null && rise.by !== fall.by) return null;
  const typed = (figure: Figure | null) =>
    figure === null ? '' : figure.by === 'percent' ? figure.percent : figure.amount.amount;
  const figures = { rise: typed(rise), fall: typed(fall), percent: (rise ?? fall)?.by === 'percent' };
  if (clause.kind === 'before') return draft('moves by', { ...figures, base: clause.by, zone: clause.zone });
  const { against } = clause;
  switch (against.base) {
    case 'median':
      return draft('moves by', { ...figures, base: 'median', count: String(against.of) });
    case 'pinned':
      return draft('moves by', {
        ...figures,
        base: 'pinned',
        limit: against.value.amount,
        ...typedUnit(against.value),
      });
    case 'series':
      if (against.asked.watch !== undefined || against.asked.record === undefined) return null;
      return draft('moves by', { ...figures, base: 'record', record: against.asked.record });
    default:
      return draft('moves by', { ...figures, base: against.base });
  }
}

function statedDraft(how: Extract<Clause, { kind: 'state' }>['how'], draft: Drafting): ClauseDraft | null {
  if (how === 'any move') return null;
  const typed = (value: Value) => wordsOf(value) ?? '';
  if ('is' in how) return draft('is', { words: typed(how.is) });
  if ('becomes' in how) return draft('becomes', { words: typed(how.becomes) });
  if ('leaves' in how) return draft('leaves', { words: typed(how.leaves) });
  return draft('goes from', { words: typed(how.from), to: typed(how.to) });
}

function silentDraft(how: Extract<Clause, { kind: 'silence' }>['how'], draft: Drafting): ClauseDraft {
  if (how.of === 'runs') return draft('fails to be read', { count: String(how.count) });
  if (how.of === 'readings') return draft('is silent', { span: spanDraftOf(how.ms) });
  return 'times' in how
    ? draft('does not move', { count: String(how.times) })
    : draft('does not move', { span: spanDraftOf(how.ms) });
}
