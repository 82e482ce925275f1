import Joi from 'joi';
import { asked, count, draftBase, length, oneOf, span, typed } from '../../schema';
import { silenceSayings, type SilenceDraft } from './draft';
import type { SilenceClause } from './judge';

const silenceTest = Joi.alternatives(
  Joi.object({ of: oneOf('readings').required(), ms: length.required() }),
  Joi.object({ of: oneOf('runs').required(), count: count.required() }),
  Joi.object({ of: oneOf('moves').required(), ms: length.required() }),
  Joi.object({ of: oneOf('moves').required(), times: Joi.number().min(0.1).max(1_000).required() }),
);

export const silenceSchema = Joi.object<SilenceClause, true>({
  kind: oneOf('silence').required(),
  asked: asked.required(),
  how: silenceTest.required(),
});

export const silenceDraftSchema = Joi.object<SilenceDraft, true>({
  ...draftBase,
  verb: oneOf(...silenceSayings.verbs).required(),
  span: span.required(),
  count: typed(12),
});
