import { multiply, type Decimal } from '../../../value/decimal';
import type { Figure } from '../../asked';
import { ofFigure } from '../../refusal';
import { askedWords, figureWords, otherWords, type Names } from '../../words';
import type { ConditionKind } from '../kind';
import { againstDraftOf, againstSayings, type AgainstDraft } from './draft';
import { against as works, type AgainstClause, type AgainstMemory } from './judge';

/** 13: against another series. */
export const against: ConditionKind<AgainstClause, AgainstDraft, AgainstMemory> = {
  works,
  asks: ({ asked, other }) => [asked, other],
  withAsked: (clause, asked) => ({ ...clause, asked: asked(clause.asked), other: asked(clause.other) }),
  words: ({ asked, other, is, by, inclusive }, names) =>
    `${askedWords(asked, names)} is ${farWords(by, inclusive, names)}${is} ${otherWords(other, names)}`,
  refuse: ({ by, margin }) => ofFigure(by) ?? (margin === undefined ? null : ofFigure(margin)),
  sayings: againstSayings,
  draftOf: againstDraftOf,
  other: ({ other }) => other,
  variants: (clause) => figuresAround(clause.by).map((by) => ({ clause: { ...clause, by }, of: figureOf(by) })),
};

function farWords(by: Figure, inclusive: boolean, { locale }: Names): string {
  const isNought = /^0+(\.0+)?$/.test(by.by === 'amount' ? by.amount.amount : by.percent);
  if (isNought) return inclusive ? 'at or ' : '';
  return `${inclusive ? 'at least' : 'more than'} ${figureWords(by, locale)} `;
}

const PERCENTS = ['0', '1', '2', '3', '4', '5', '7', '10', '15', '20', '30', '50'] as Decimal[];
const TIMES_AS_FAR = ['0', '0.25', '0.5', '0.75', '1', '1.5', '2', '3', '5'] as Decimal[];

const figureOf = (figure: Figure) => ({ what: 'figure', figure }) as const;

function figuresAround(by: Figure): Figure[] {
  if (by.by === 'percent') return PERCENTS.map((percent) => ({ by: 'percent', percent }));
  const amounts = new Set(TIMES_AS_FAR.map((times) => multiply(by.amount.amount, times)));
  return [...amounts].map((amount) => ({ by: 'amount', amount: { ...by.amount, amount } }));
}
