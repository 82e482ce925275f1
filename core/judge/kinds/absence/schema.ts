import Joi from 'joi';
import { asked, draftBase, oneOf } from '../../schema';
import type { AbsenceClause } from './judge';
import type { AbsenceDraft } from './kind';

export const absenceSchema = Joi.object<AbsenceClause, true>({
  kind: oneOf('absence').required(),
  asked: asked.required(),
  how: oneOf('is absent', 'comes back').required(),
});

export const absenceDraftSchema = Joi.object<AbsenceDraft, true>({
  ...draftBase,
  verb: oneOf('has no value', 'comes back').required(),
});
