import Joi from 'joi';
import { asked, count, draftBase, oneOf, text, typed } from '../../schema';
import type { GradeClause } from './judge';
import type { GradeDraft } from './kind';

const gradeTest = Joi.alternatives(
  Joi.object({ moves: oneOf('better', 'worse').required(), steps: count.required() }),
  Joi.object({ is: oneOf('at or below', 'at or above').required(), grade: text(60) }),
);

export const gradeSchema = Joi.object<GradeClause, true>({
  kind: oneOf('grade').required(),
  asked: asked.required(),
  how: gradeTest.required(),
});

export const gradeDraftSchema = Joi.object<GradeDraft, true>({
  ...draftBase,
  verb: oneOf('gets worse', 'gets better', 'is as bad as', 'is as good as').required(),
  count: typed(12),
  words: typed(500),
});
