import Joi from 'joi';
import { asked, draftBase, oneOf, typed, value } from '../../schema';
import { stateSayings, type StateDraft } from './draft';
import type { StateClause } from './judge';

const stateTest = Joi.alternatives(
  oneOf('any move'),
  Joi.object({ is: value.required() }),
  Joi.object({ becomes: value.required() }),
  Joi.object({ leaves: value.required() }),
  Joi.object({ from: value.required(), to: value.required() }),
);

export const stateSchema = Joi.object<StateClause, true>({
  kind: oneOf('state').required(),
  asked: asked.required(),
  how: stateTest.required(),
});

export const stateDraftSchema = Joi.object<StateDraft, true>({
  ...draftBase,
  verb: oneOf(...stateSayings.verbs).required(),
  words: typed(500),
  to: typed(500),
});
