import { LENGTHS, ofSides, tooLong } from '../../refusal';
import { apartWords, askedWords } from '../../words';
import { ofOneSeries, type ConditionKind } from '../kind';
import { sidesDraftOf, type MoveDraft } from '../move/draft';
import { amountIn, ofMeasure } from '../move/kind';
import { before as works, type BeforeClause, type BeforeMemory } from './judge';

/** 8: differs so from the value in force at the same time by the clock on the wall a day, a week or a month before. */
export const before: ConditionKind<BeforeClause, MoveDraft, BeforeMemory> = {
  works,
  ...ofOneSeries,
  words: ({ asked, by, rise, fall }, names) =>
    `${askedWords(asked, names)} ${apartWords(rise, fall, names)} what it was a ${by} before`,
  refuse: (clause, intervalMs) => ofSides(clause) ?? tooLong(LENGTHS[clause.by], intervalMs),
  draftOf: (clause) => {
    const draft = sidesDraftOf(clause);
    return draft === null ? null : { ...draft, base: clause.by, zone: clause.zone };
  },
  knows: ({ rise, fall }) => ofMeasure(amountIn(rise, fall)),
  isClocked: () => true,
  seesHistory: () => true,
};
