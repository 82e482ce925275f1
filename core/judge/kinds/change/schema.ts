import Joi from 'joi';
import { asked, count, draftBase, oneOf, typed } from '../../schema';
import type { ChangeClause } from './judge';
import type { ChangeDraft } from './kind';

export const changeSchema = Joi.object<ChangeClause, true>({
  kind: oneOf('change').required(),
  asked: asked.required(),
  words: count,
});

export const changeDraftSchema = Joi.object<ChangeDraft, true>({
  ...draftBase,
  verb: oneOf('changes').required(),
  count: typed(12),
});
