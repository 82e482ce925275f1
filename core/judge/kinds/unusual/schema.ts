import Joi from 'joi';
import { asked, count, draftBase, oneOf, typed, zone } from '../../schema';
import type { UnusualClause } from './judge';
import type { UnusualDraft } from './kind';

const side = oneOf('high', 'low', 'either').required();

export const unusualSchema = Joi.object<UnusualClause, true>({
  kind: oneOf('unusual').required(),
  asked: asked.required(),
  side,
  oneIn: count.required(),
  zone: zone.required(),
});

export const unusualDraftSchema = Joi.object<UnusualDraft, true>({
  ...draftBase,
  verb: oneOf('is unusual').required(),
  side,
  count: typed(12),
  zone,
});
