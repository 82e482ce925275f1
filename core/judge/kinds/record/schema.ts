import Joi from 'joi';
import { draftBase, oneOf } from '../../schema';
import type { RecordClause } from './judge';
import type { RecordDraft } from './kind';

export const recordSchema = Joi.object<RecordClause, true>({
  kind: oneOf('record').required(),
  how: oneOf('appears', 'vanishes').required(),
});

export const recordDraftSchema = Joi.object<RecordDraft, true>({
  ...draftBase,
  verb: oneOf('appears', 'vanishes').required(),
});
