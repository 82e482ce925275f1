import Joi from 'joi';
import { asked, draftBase, oneOf, text, typed } from '../../schema';
import type { TextClause } from './judge';
import type { TextDraft } from './kind';

const textTest = Joi.alternatives(
  Joi.object({ phrase: text(500), is: oneOf('there', 'not there', 'appears', 'disappears').required() }),
  Joi.object({ matches: text(300) }),
);

export const textSchema = Joi.object<TextClause, true>({
  kind: oneOf('text').required(),
  asked: asked.required(),
  how: textTest.required(),
});

export const textDraftSchema = Joi.object<TextDraft, true>({
  ...draftBase,
  verb: oneOf('has the phrase', 'lacks the phrase', 'gains the phrase', 'loses the phrase', 'matches').required(),
  words: typed(500),
});
