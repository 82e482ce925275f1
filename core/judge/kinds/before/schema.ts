import Joi from 'joi';
import { asked, oneOf, sides, zone } from '../../schema';
import type { BeforeClause } from './judge';

export const beforeSchema = Joi.object<BeforeClause, true>({
  kind: oneOf('before').required(),
  asked: asked.required(),
  by: oneOf('day', 'week', 'month').required(),
  zone: zone.required(),
  ...sides,
});
