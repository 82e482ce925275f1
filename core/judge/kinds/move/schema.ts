import Joi from 'joi';
import { asked, count, draftBase, measure, oneOf, sides, typed, unit, zone } from '../../schema';
import { moveSayings, type MoveDraft } from './draft';
import type { MoveClause } from './judge';

const base = Joi.alternatives(
  Joi.object({ base: oneOf('last', 'told', 'extreme').required() }),
  Joi.object({ base: oneOf('pinned').required(), value: measure.required() }),
  Joi.object({ base: oneOf('median').required(), of: count.required() }),
  Joi.object({ base: oneOf('series').required(), asked: asked.required() }),
);

export const moveSchema = Joi.object<MoveClause, true>({
  kind: oneOf('move').required(),
  asked: asked.required(),
  against: base.required(),
  ...sides,
});

export const moveDraftSchema = Joi.object<MoveDraft, true>({
  ...draftBase,
  verb: oneOf(...moveSayings.verbs).required(),
  rise: typed(60),
  fall: typed(60),
  percent: Joi.boolean().required(),
  base: oneOf('last', 'told', 'extreme', 'median', 'pinned', 'day', 'week', 'month', 'record').required(),
  count: typed(12),
  limit: typed(60),
  record: typed(800),
  unit,
  zone,
});
