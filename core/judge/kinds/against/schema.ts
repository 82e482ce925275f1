import Joi from 'joi';
import { ITEM_SIDES } from '../../asked';
import { asked, draftBase, figure, oneOf, rowId, sharing, span, typed, unit } from '../../schema';
import { againstSayings, type AgainstDraft } from './draft';
import type { AgainstClause } from './judge';

export const againstSchema = Joi.object<AgainstClause, true>({
  kind: oneOf('against').required(),
  asked: asked.required(),
  other: asked.required(),
  is: oneOf('below', 'above').required(),
  by: figure.required(),
  inclusive: Joi.boolean().required(),
  margin: figure,
});

export const againstDraftSchema = Joi.object<AgainstDraft, true>({
  ...draftBase,
  verb: oneOf(...againstSayings.verbs).required(),
  limit: typed(60),
  percent: Joi.boolean().required(),
  inclusive: Joi.boolean().required(),
  record: typed(800),
  against: oneOf(...ITEM_SIDES, 'watch', 'sharing'),
  sharing,
  channel: rowId,
  called: Joi.string().max(120),
  elsewhere: Joi.object({
    watch: rowId.required(),
    field: Joi.string().allow('').max(60).required(),
    within: span.required(),
  }),
  unit,
});
