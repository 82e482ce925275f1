import Joi from 'joi';
import { AMONG } from '../../asked';
import { asked, count, draftBase, oneOf, typed } from '../../schema';
import type { PlaceClause, RankClause } from './judge';
import { PLACE_VERBS, type PlaceDraft, type RankDraft } from './kind';

const others = {
  asked: asked.required(),
  among: oneOf(...AMONG).required(),
  end: oneOf('lowest', 'highest').required(),
};

export const placeSchema = Joi.object<PlaceClause, true>({
  kind: oneOf('place').required(),
  ...others,
  how: oneOf('takes', 'loses', 'has', 'has not').required(),
});

export const rankSchema = Joi.object<RankClause, true>({
  kind: oneOf('rank').required(),
  ...others,
  by: count.required(),
});

const among = oneOf('offers');

export const placeDraftSchema = Joi.object<PlaceDraft, true>({
  ...draftBase,
  verb: oneOf(...PLACE_VERBS).required(),
  among,
});

export const rankDraftSchema = Joi.object<RankDraft, true>({
  ...draftBase,
  verb: oneOf('moves in rank').required(),
  count: typed(12),
  among,
});
