import {
  isOwn,
  withAsked,
  type Asked,
  type Clause,
  type Figure,
  type ItemSide,
  type Limits,
  type JudgedWindow,
} from '../judge/clause';
import { numberOf } from '../read/all-records';
import { fail, ok, type Result } from '../result';
import { parseLimit } from '../value/parse';
import { describeRefusal } from '../value/refusals';
import { isMeasure, type Measure, type Value } from '../value/value';
import type { SaidIn } from './said-in';
import { NO_SPAN, spanned, type SpanDraft } from './span-draft';
import {
  askedOfSharing,
  askedOfSubject,
  NOT_SHARED,
  saidOfSubject,
  type SharingDraft,
  type SubjectDraft,
} from './subject-draft';

/** What can be said of a field, as the verb of a sentence. */
export const VERBS = [
  'falls below',
  'rises above',
  'is below',
  'is above',
  'is between',
  'is outside',
  'moves by',
  'changes',
  'is unusual',
  'is below another',
  'is above another',
  'takes the lowest place',
  'loses the lowest place',
  'has the lowest place',
  'has not the lowest place',
  'takes the highest place',
  'loses the highest place',
  'has the highest place',
  'has not the highest place',
  'moves in rank',
  'is',
  'becomes',
  'leaves',
  'goes from',
  'gets worse',
  'gets better',
  'is as bad as',
  'is as good as',
  'has the phrase',
  'lacks the phrase',
  'gains the phrase',
  'loses the phrase',
  'matches',
  'has no value',
  'comes back',
  'appears',
  'vanishes',
  'is silent',
  'does not move',
  'fails to be read',
] as const;

export type Verb = (typeof VERBS)[number];

/** What is made of a stretch of readings, as it is typed. */
export interface WindowDraft extends Omit<SpanDraft, 'unit'> {
  make: JudgedWindow['make'];
  /** Sliding, by time or by readings; or the calendar's, without a count. */
  unit: SpanDraft['unit'] | 'reading' | 'this hour' | 'this day' | 'this week' | 'this month';
  /** Of a kept one, whether its sum can only grow. */
  grows?: boolean;
}

export type BaseDraft = 'last' | 'told' | 'extreme' | 'median' | 'pinned' | 'day' | 'week' | 'month' | 'record';

/**
 * A clause while it is being said: figures and words as typed. What a verb does not ask for is kept, and means nothing.
 */
export interface ClauseDraft {
  verb: Verb;
  field: string;
  /** The limit, or the lower of two; a pinned value. */
  limit: string;
  high: string;
  /** Limits beyond it at which it is told again, as typed, apart by semicolons. */
  further?: string;
  /** What figures are counted in, where records of several units are read; else as the present value is. */
  unit?: string;
  /** Whether the limit itself counts. */
  inclusive: boolean;
  /** Figures of a rise and a fall; empty is switched off. */
  rise: string;
  fall: string;
  /** Whether figures are percent. */
  percent: boolean;
  base: BaseDraft;
  /** Readings of a median, words, steps, places, looks, times; of the unusual one in so many. */
  count: string;
  /** A phrase, a pattern, a state, a grade; and where a move leads. */
  words: string;
  to: string;
  /** Another record of the watch, by its identity. */
  record: string;
  /**
   * It is held against what its item says instead, of ours at one of our channels where that is named; or another
   * watch; or what shares a label.
   */
  against?: ItemSide | 'watch' | 'sharing';
  sharing?: SharingDraft;
  channel?: number;
  called?: string;
  /** The other watch, its field, and how old that may be: empty for twice as long as it takes to look again. */
  elsewhere?: { watch: number; field: string; within: SpanDraft };
  /** Whose field it is, where it is not its own record's. */
  subject?: SubjectDraft;
  /** It goes with the condition above it: one of the two is enough, or both are needed together. */
  tied?: 'any' | 'all';
  /** It must not be so. */
  not?: boolean;
  /** Its place is that among the offers of its item, instead of among all records. */
  among?: 'offers';
  /** How far a value has to be back, before it counts as left; empty for no margin. */
  margin: string;
  side: 'high' | 'low' | 'either';
  span: SpanDraft;
  over: WindowDraft | null;
  /** Of a kept one, the zone whose clock it goes by; else the reader's. */
  zone?: string;
}

/** A clause about which only the field and the verb are said. */
export const blankClause = (field: string, verb: Verb): ClauseDraft => ({
  verb,
  field,
  limit: '',
  high: '',
  inclusive: false,
  rise: '',
  fall: '',
  percent: false,
  base: 'last',
  count: '',
  words: '',
  to: '',
  record: '',
  margin: '',
  side: 'either',
  span: NO_SPAN,
  over: null,
});

type Said<T> = Result<T, string>;

const zoneOf = (draft: ClauseDraft, said: SaidIn): string => draft.zone ?? said.zone;

type Saying = (draft: ClauseDraft, said: SaidIn) => Said<Clause>;

/** The clause that a draft means; or what is wrong with it, as a sentence. */
export const toClause: Saying = (draft, said) => {
  const { subject, verb, field } = draft;
  if (subject === undefined) return SAYINGS[verb](draft, said);
  if (OF_ITS_OWN.includes(verb)) return fail('Only of its own record can that be said.');
  const fault = subject.of === 'item' ? itemFault(subject.side, said.present[field]) : null;
  if (fault !== null) return fail(fault);
  const whose = askedOfSubject(subject, field);
  const clause = whose.ok ? SAYINGS[verb](draft, saidOfSubject(subject, field, said)) : whose;
  if (!whose.ok || !clause.ok) return clause;
  return ok(withAsked(clause.value, (asked) => (isOwn(asked) ? { ...asked, ...whose.value } : asked)));
};

/** What cannot be asked of an item: it knows of its other offers what they cost, count and stand at, and no words. */
function itemFault(side: ItemSide, value: Value | undefined): string | null {
  if (value === undefined || value.kind === 'absent' || isMeasure(value)) return null;
  if (side !== 'ours') return 'Of its item only a price or a number can be asked so.';
  return ['state', 'flag', 'grade'].includes(value.kind) ? null : 'Of its item no text, link or date can be asked.';
}

/** What can be said of a record's own fields alone. */
export const OF_ITS_OWN: readonly Verb[] = [
  'is below another',
  'is above another',
  'takes the lowest place',
  'loses the lowest place',
  'has the lowest place',
  'has not the lowest place',
  'takes the highest place',
  'loses the highest place',
  'has the highest place',
  'has not the highest place',
  'moves in rank',
  'appears',
  'vanishes',
  'fails to be read',
];

const asks = ({ field }: ClauseDraft) => ({ asked: { field } });

const amongOf = ({ among }: ClauseDraft) => among ?? 'records';

const placed =
  (how: 'takes' | 'loses' | 'has' | 'has not', end: 'lowest' | 'highest'): Saying =>
  (draft) =>
    ok({ kind: 'place', ...asks(draft), among: amongOf(draft), end, how });

const graded =
  (moves: 'better' | 'worse'): Saying =>
  (draft) =>
    counted(draft.count || '1', 'grades', (steps) => ({ kind: 'grade', ...asks(draft), how: { moves, steps } }));

const phrased =
  (is: 'there' | 'not there' | 'appears' | 'disappears'): Saying =>
  (draft) =>
    draft.words.trim() === ''
      ? fail('Say which phrase.')
      : ok({ kind: 'text', ...asks(draft), how: { phrase: draft.words.trim(), is } });

const SAYINGS: Record<Verb, Saying> = {
  'falls below': limited,
  'rises above': limited,
  'is below': limited,
  'is above': limited,
  'is between': limited,
  'is outside': limited,
  'moves by': movedBy,
  changes: (draft) =>
    draft.count.trim() === ''
      ? ok({ kind: 'change', ...asks(draft) })
      : counted(draft.count, 'words', (words) => ({ kind: 'change', ...asks(draft), words })),
  'is unusual': (draft, said) =>
    counted(draft.count, 'readings', (oneIn) => ({
      kind: 'unusual',
      ...asks(draft),
      side: draft.side,
      oneIn,
      zone: zoneOf(draft, said),
    })),
  'is below another': againstAnother,
  'is above another': againstAnother,
  'takes the lowest place': placed('takes', 'lowest'),
  'takes the highest place': placed('takes', 'highest'),
  'loses the lowest place': placed('loses', 'lowest'),
  'loses the highest place': placed('loses', 'highest'),
  'has the lowest place': placed('has', 'lowest'),
  'has the highest place': placed('has', 'highest'),
  'has not the lowest place': placed('has not', 'lowest'),
  'has not the highest place': placed('has not', 'highest'),
  'moves in rank': (draft) =>
    counted(draft.count, 'places', (by) => ({
      kind: 'rank',
      ...asks(draft),
      among: amongOf(draft),
      end: 'lowest',
      by,
    })),
  is: stated,
  becomes: stated,
  leaves: stated,
  'goes from': stated,
  'gets worse': graded('worse'),
  'gets better': graded('better'),
  'is as bad as': gradedAt,
  'is as good as': gradedAt,
  'has the phrase': phrased('there'),
  'lacks the phrase': phrased('not there'),
  'gains the phrase': phrased('appears'),
  'loses the phrase': phrased('disappears'),
  matches: (draft) =>
    draft.words.trim() === ''
      ? fail('Say the pattern.')
      : ok({ kind: 'text', ...asks(draft), how: { matches: draft.words } }),
  'has no value': (draft) => ok({ kind: 'absence', ...asks(draft), how: 'is absent' }),
  'comes back': (draft) => ok({ kind: 'absence', ...asks(draft), how: 'comes back' }),
  appears: () => ok({ kind: 'record', how: 'appears' }),
  vanishes: () => ok({ kind: 'record', how: 'vanishes' }),
  'is silent': (draft) =>
    spanned(draft.span, (ms) => ({ kind: 'silence', ...asks(draft), how: { of: 'readings', ms } })),
  'does not move': (draft) =>
    draft.span.count.trim() === '' && draft.count.trim() !== ''
      ? counted(draft.count, 'times', (times) => ({ kind: 'silence', ...asks(draft), how: { of: 'moves', times } }))
      : spanned(draft.span, (ms) => ({ kind: 'silence', ...asks(draft), how: { of: 'moves', ms } })),
  'fails to be read': (draft) =>
    counted(draft.count, 'looks', (count) => ({ kind: 'silence', ...asks(draft), how: { of: 'runs', count } })),
};

/** A whole number that is typed. */
function counted<T>(text: string, of: string, make: (count: number) => T): Said<T> {
  const count = Number(text.trim());
  return /^\d{1,7}$/.test(text.trim()) && count > 0 ? ok(make(count)) : fail(`Say how many ${of}, as a whole number.`);
}

/** An amount that is typed, counted in what the field is counted in. */
function measured(draft: ClauseDraft, text: string, said: SaidIn, what = 'the limit'): Said<Measure> {
  const like = likeOf(draft, said);
  if (like === null) return fail('A limit needs a number to stand against, and there is none here.');
  const amount = parseLimit(text, said.locale);
  if (amount.ok) return ok({ ...like, amount: amount.value });
  return fail(text.trim() === '' ? `Say ${what}.` : `“${text}” cannot be a limit: ${describeRefusal(amount.error)}.`);
}

const COUNTS: JudgedWindow['make'][] = ['readings', 'moves'];

function likeOf({ field, unit, over }: ClauseDraft, { present, fields }: SaidIn): Measure | null {
  const isNumber = fields.some(({ key, type }) => key === field && type.kind === 'count');
  if (isNumber || (over !== null && COUNTS.includes(over.make))) return numberOf(0);
  const value = present[field];
  if (value === undefined || !isMeasure(value)) return null;
  if (unit === undefined) return value;
  return value.kind === 'money' ? { ...value, currency: unit } : { ...value, unit: unit === '' ? null : unit };
}

function limited(draft: ClauseDraft, said: SaidIn): Said<Clause> {
  const limits = limitsOf(draft, said);
  if (!limits.ok) return limits;
  const over = windowOf(draft, said);
  if (!over.ok) return over;
  const margin = draft.margin.trim() === '' ? ok(undefined) : figured(draft, draft.margin, said);
  if (!margin.ok) return margin;
  const kind = draft.verb === 'falls below' || draft.verb === 'rises above' ? 'crossing' : 'level';
  return ok({
    kind,
    of: { asked: { field: draft.field }, ...(over.value === undefined ? {} : { over: over.value }) },
    limits: limits.value,
    ...(margin.value === undefined ? {} : { margin: margin.value }),
  });
}

function limitsOf(draft: ClauseDraft, said: SaidIn): Said<Limits> {
  const limit = measured(draft, draft.limit, said);
  if (!limit.ok) return limit;
  const { verb, inclusive } = draft;
  if (verb !== 'is between' && verb !== 'is outside') {
    const further = furtherOf(draft, said);
    if (!further.ok) return further;
    const is = verb === 'falls below' || verb === 'is below' ? 'below' : 'above';
    return ok({ is, limit: limit.value, inclusive, ...(further.value.length === 0 ? {} : { further: further.value }) });
  }
  const high = measured(draft, draft.high, said, 'the upper limit');
  return high.ok
    ? ok({ is: verb === 'is between' ? 'between' : 'outside', low: limit.value, high: high.value, inclusive })
    : high;
}

function furtherOf(draft: ClauseDraft, said: SaidIn): Said<Measure[]> {
  const limits: Measure[] = [];
  for (const text of (draft.further ?? '').split(';').filter((each) => each.trim() !== '')) {
    const limit = measured(draft, text, said, 'the further limits');
    if (!limit.ok) return limit;
    limits.push(limit.value);
  }
  return ok(limits);
}

function windowOf(draft: ClauseDraft, said: SaidIn): Said<JudgedWindow | undefined> {
  const { over, field } = draft;
  if (over === null) return ok(undefined);
  const stepwise = said.fields.find(({ key }) => key === field)?.mode === 'stepwise';
  const made = { make: over.make, stepwise, grows: over.grows ?? !isNegative(said.present[field]) };
  const { unit } = over;
  if (unit === 'this hour' || unit === 'this day' || unit === 'this week' || unit === 'this month') {
    return ok({ ...made, of: { this: unit.slice('this '.length) as 'hour', zone: zoneOf(draft, said) } });
  }
  if (over.make === 'pace') return fail('A pace needs a stretch of the calendar: this hour, day, week or month.');
  if (unit === 'reading')
    return counted(over.count, 'readings', (count) => ({ ...made, of: { last: 'readings', count } }));
  return spanned({ count: over.count, unit }, (ms) => ({ ...made, of: { last: 'time', ms } }));
}

const isNegative = (value: Value | undefined) =>
  value !== undefined && isMeasure(value) && value.amount.startsWith('-');

/** A figure that is typed: an amount, or percent. */
function figured(draft: ClauseDraft, text: string, said: SaidIn): Said<Figure> {
  if (!draft.percent && !text.trim().endsWith('%')) {
    const amount = measured(draft, text, said, 'the figure');
    return amount.ok ? ok({ by: 'amount', amount: amount.value }) : amount;
  }
  const percent = parseLimit(text.replace('%', ''), said.locale);
  return percent.ok ? ok({ by: 'percent', percent: percent.value }) : fail(`“${text}” cannot be a percentage.`);
}

function sidesOf(draft: ClauseDraft, said: SaidIn): Said<{ rise: Figure | null; fall: Figure | null }> {
  const of = (text: string): Said<Figure | null> => (text.trim() === '' ? ok(null) : figured(draft, text, said));
  const [rise, fall] = [of(draft.rise), of(draft.fall)];
  if (!rise.ok) return rise;
  return fall.ok ? ok({ rise: rise.value, fall: fall.value }) : fall;
}

function movedBy(draft: ClauseDraft, said: SaidIn): Said<Clause> {
  const sides = sidesOf(draft, said);
  if (!sides.ok) return sides;
  const asked = { field: draft.field };
  const with_ = (against: Extract<Clause, { kind: 'move' }>['against']): Clause => ({
    kind: 'move',
    asked,
    against,
    ...sides.value,
  });
  switch (draft.base) {
    case 'last':
    case 'told':
    case 'extreme':
      return ok(with_({ base: draft.base }));
    case 'median':
      return counted(draft.count, 'readings', (of) => with_({ base: 'median', of }));
    case 'pinned': {
      const value = measured(draft, draft.limit, said, 'the value that it is held against');
      return value.ok ? ok(with_({ base: 'pinned', value: value.value })) : value;
    }
    case 'record':
      return draft.record === ''
        ? fail('Say which record it is held against.')
        : ok(with_({ base: 'series', asked: { field: draft.field, record: draft.record } }));
    default:
      return ok({ kind: 'before', asked, by: draft.base, zone: zoneOf(draft, said), ...sides.value });
  }
}

function otherOf({
  field,
  record,
  against,
  channel,
  called,
  elsewhere,
  sharing = NOT_SHARED,
}: ClauseDraft): Said<Asked> {
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

function againstAnother(draft: ClauseDraft, said: SaidIn): Said<Clause> {
  const other = otherOf(draft);
  if (!other.ok) return other;
  const by = draft.limit.trim() === '' ? figured(draft, '0', said) : figured(draft, draft.limit, said);
  if (!by.ok) return by;
  const { field, inclusive } = draft;
  return ok({
    kind: 'against',
    asked: { field },
    other: other.value,
    is: draft.verb === 'is below another' ? 'below' : 'above',
    by: by.value,
    inclusive,
  });
}

function stated(draft: ClauseDraft, said: SaidIn): Said<Clause> {
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
    default: {
      const to = stateOf(draft, draft.to, said);
      return to.ok ? ok({ kind: 'state', asked, how: { from: from.value, to: to.value } }) : to;
    }
  }
}

/** A state, a flag or words, as the field says them. */
function stateOf({ field }: ClauseDraft, text: string, { present, fields }: SaidIn): Said<Value> {
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

function gradedAt({ field, words, verb }: ClauseDraft, { fields }: SaidIn): Said<Clause> {
  const type = fields.find(({ key }) => key === field)?.type;
  const scale = type?.kind === 'grade' ? type.scale : [];
  const grade = scale.find((each) => each.toLowerCase() === words.trim().toLowerCase());
  if (grade === undefined) return fail(`Say one of its grades: ${scale.join(', ')}.`);
  return ok({
    kind: 'grade',
    asked: { field },
    how: { is: verb === 'is as bad as' ? 'at or below' : 'at or above', grade },
  });
}
