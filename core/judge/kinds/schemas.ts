import Joi from 'joi';
import type { Condition } from '../clause';
import { absenceDraftSchema, absenceSchema } from './absence/schema';
import { againstDraftSchema, againstSchema } from './against/schema';
import { beforeSchema } from './before/schema';
import { changeDraftSchema, changeSchema } from './change/schema';
import { gradeDraftSchema, gradeSchema } from './grade/schema';
import { limitDraftSchema, limitSchema } from './level/schema';
import { moveDraftSchema, moveSchema } from './move/schema';
import { placeDraftSchema, placeSchema, rankDraftSchema, rankSchema } from './place/schema';
import { recordDraftSchema, recordSchema } from './record/schema';
import { silenceDraftSchema, silenceSchema } from './silence/schema';
import { stateDraftSchema, stateSchema } from './state/schema';
import type { Clause, ClauseDraft, KINDS } from './table';
import { textDraftSchema, textSchema } from './text/schema';
import { unusualDraftSchema, unusualSchema } from './unusual/schema';

// The shapes of conditions that come from outside; what they mean is judged by `refuse`. They stand apart from the
// table of kinds, since no browser checks a shape.

interface SchemasOf {
  clause: Joi.ObjectSchema;
  /** None where it is said as one of another kind. */
  draft?: Joi.ObjectSchema;
}

const SCHEMAS: Record<keyof typeof KINDS, SchemasOf> = {
  level: { clause: limitSchema, draft: limitDraftSchema },
  crossing: { clause: limitSchema },
  move: { clause: moveSchema, draft: moveDraftSchema },
  before: { clause: beforeSchema },
  change: { clause: changeSchema, draft: changeDraftSchema },
  state: { clause: stateSchema, draft: stateDraftSchema },
  grade: { clause: gradeSchema, draft: gradeDraftSchema },
  text: { clause: textSchema, draft: textDraftSchema },
  against: { clause: againstSchema, draft: againstDraftSchema },
  place: { clause: placeSchema, draft: placeDraftSchema },
  rank: { clause: rankSchema, draft: rankDraftSchema },
  unusual: { clause: unusualSchema, draft: unusualDraftSchema },
  absence: { clause: absenceSchema, draft: absenceDraftSchema },
  record: { clause: recordSchema, draft: recordDraftSchema },
  silence: { clause: silenceSchema, draft: silenceDraftSchema },
};

const clause = Joi.alternatives<Clause>(...new Set(Object.values(SCHEMAS).map((schemas) => schemas.clause)));

/** A clause while it is being said. */
export const clauseDraft = Joi.alternatives<ClauseDraft>(...Object.values(SCHEMAS).flatMap(({ draft }) => draft ?? []));

const nested = Joi.link('#condition');
const joined = Joi.array().items(nested).min(1).max(20);

/**
 * A condition of any kind, four levels deep at most: deeper ones are refused by their meaning, and endless ones have no
 * JSON.
 */
export const condition = Joi.alternatives<Condition>(
  clause,
  Joi.object({ all: joined.required() }),
  Joi.object({ any: joined.required() }),
  Joi.object({ none: joined.required() }),
).id('condition');
