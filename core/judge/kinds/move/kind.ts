import { add, subtract } from '../../../value/decimal';
import { formatValue } from '../../../value/format';
import { alike, isMeasure, type Measure, type Value } from '../../../value/value';
import type { Figure } from '../../asked';
import { amountOf } from '../../limits';
import { never, type Pretended } from '../../pretended';
import { isWhole, MOST_READINGS, NOTHING, ofSides } from '../../refusal';
import { alikeFigures, apartWords, askedWords, figureWords, otherWords, type Names } from '../../words';
import type { ConditionKind } from '../kind';
import { moveDraftOf, moveSayings, type MoveDraft } from './draft';
import { isTimed, move as works, type MoveClause, type MoveMemory } from './judge';

/** 8: differs from its base by at least so much. */
export const move: ConditionKind<MoveClause, MoveDraft, MoveMemory> = {
  works,
  asks: ({ asked, against }) => (against.base === 'series' ? [asked, against.asked] : [asked]),
  withAsked: (clause, asked) => ({
    ...clause,
    asked: asked(clause.asked),
    against:
      clause.against.base === 'series' ? { ...clause.against, asked: asked(clause.against.asked) } : clause.against,
  }),
  words: (clause, names) => `${askedWords(clause.asked, names)} ${wordsOf(clause, names)}`,
  refuse: ({ against, ...sides }) =>
    against.base === 'median' && !isWhole(against.of, MOST_READINGS) ? NOTHING : ofSides(sides),
  sayings: moveSayings,
  draftOf: moveDraftOf,
  knows: ({ against, rise, fall }) => ofMeasure(against.base === 'pinned' ? against.value : amountIn(rise, fall)),
  isEvent: ({ against }) => isTimed(against),
  countsRuns: ({ against }) => against.base === 'median',
  seesHistory: ({ against }) => against.base === 'median',
  other: ({ against }) => (against.base === 'series' ? against.asked : null),
  pretend: pretendMove,
};

/** The measure in which a rise or a fall is counted, where it is an amount. */
export function amountIn(rise: Figure | null, fall: Figure | null): Measure | null {
  const figure = rise?.by === 'amount' ? rise : fall;
  return figure?.by === 'amount' ? figure.amount : null;
}

/** What is known of a field by a measure that it is held against. */
export const ofMeasure = (like: Measure | null) => (like === null ? {} : { kind: like.kind, like });

function wordsOf({ against, rise, fall }: MoveClause, names: Names): string {
  switch (against.base) {
    case 'last':
      return moveWords(rise, fall, names);
    case 'told':
      return `${moveWords(rise, fall, names)} since it was last told`;
    case 'extreme':
      return `${moveWords(rise, fall, names)} from its lowest or highest since it was last told`;
    case 'pinned':
      return `${apartWords(rise, fall, names)} ${formatValue(against.value, names.locale)}`;
    case 'median':
      return `${apartWords(rise, fall, names)} the median of its last ${against.of} readings`;
    case 'series':
      return `${apartWords(rise, fall, names)} ${otherWords(against.asked, names)}`;
  }
}

function moveWords(rise: Figure | null, fall: Figure | null, { locale }: Names): string {
  if (rise !== null && fall !== null && alikeFigures(rise, fall))
    return `rises or falls by at least ${figureWords(rise, locale)}`;
  const sides = [
    ...(rise === null ? [] : [`rises by at least ${figureWords(rise, locale)}`]),
    ...(fall === null ? [] : [`falls by at least ${figureWords(fall, locale)}`]),
  ];
  return sides.join(' or ');
}

function pretendMove({ against, rise, fall }: MoveClause): Pretended | null {
  if (against.base === 'series' || against.base === 'median') return null;
  const by = (value: Value, base: Value): Value | null => {
    const figure = rise ?? fall;
    if (figure === null || !isMeasure(base) || !isMeasure(value) || !alike(value, base)) return null;
    return further(base, figure, figure === rise ? 1 : -1);
  };
  if (against.base === 'pinned')
    return { stands: never, meets: (value) => by(value, against.value), leaves: () => against.value };
  return { stands: never, meets: (value) => by(value, value), leaves: () => null };
}

function further(base: Measure, figure: Figure, side: 1 | -1): Measure {
  const far = amountOf(figure, base.amount);
  return { ...base, amount: side === 1 ? add(base.amount, far) : subtract(base.amount, far) };
}
