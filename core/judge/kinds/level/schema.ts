import Joi from 'joi';
import { asked, draftBase, figure, limits, oneOf, typed, unit, window, windowDraft, zone } from '../../schema';
import { limitSayings, type LimitDraft } from './draft';
import type { LimitClause } from './judge';

export const limitSchema = Joi.object<LimitClause, true>({
  kind: oneOf('level', 'crossing').required(),
  of: Joi.object({ asked: asked.required(), over: window }).required(),
  limits: limits.required(),
  margin: figure,
});

export const limitDraftSchema = Joi.object<LimitDraft, true>({
  ...draftBase,
  verb: oneOf(...limitSayings.verbs).required(),
  limit: typed(60),
  high: typed(60),
  inclusive: Joi.boolean().required(),
  margin: typed(60),
  percent: Joi.boolean().required(),
  over: windowDraft.allow(null).required(),
  further: Joi.string().allow('').max(400),
  unit,
  zone,
});
