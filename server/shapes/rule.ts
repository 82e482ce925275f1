import Joi from 'joi';
import { PROPERTIES } from '#core/items/item';
import { condition } from '#core/judge/kinds/schemas';
import type { RecordTest } from '#core/judge/rule';
import { count, length, rowId, text, zone } from '#core/judge/schema';
import { LATEST } from '#core/when/interval';

// The shape of a rule that comes from outside.

/** Until when a rule is put off, in ms since 1970, and in which zone that was said. */
export const putOff = Joi.object({
  until: Joi.number().integer().min(0).max(LATEST).required(),
  zone: zone.required(),
});

const rankedBy = (by: 'highest' | 'lowest') =>
  Joi.object({
    by: Joi.valid(by).required(),
    field: text(60),
    count: Joi.number().integer().min(1).max(1_000).required(),
    anew: Joi.valid('never', 'day', 'week', 'month').required(),
    zone: zone.required(),
  });

/** What tells for which records a rule runs. */
export const recordTest = Joi.alternatives<RecordTest>(
  Joi.object({
    by: Joi.valid('identity').required(),
    in: Joi.array().items(Joi.string().max(800)).min(1).max(2_000).required(),
  }),
  Joi.object({ by: Joi.valid('label').required(), label: text(200), is: Joi.string().allow('').max(400).required() }),
  Joi.object({ by: Joi.valid('name').required(), holds: text(200) }),
  Joi.object({ by: Joi.valid('field').required(), field: text(60), is: Joi.string().allow('').max(400).required() }),
  Joi.object({
    by: Joi.valid('item').required(),
    property: Joi.valid(...PROPERTIES).required(),
    is: Joi.string().allow('').max(200).required(),
  }),
  rankedBy('highest'),
  rankedBy('lowest'),
);

const called = Joi.string().allow('').max(200).required();

/** What a rule was made from. */
export const origin = Joi.alternatives(
  Joi.object({ kind: Joi.valid('rule').required(), id: rowId.required(), name: called }),
  Joi.object({
    kind: Joi.valid('stencil').required(),
    id: rowId.required(),
    name: called,
    version: rowId.required(),
    made: Joi.string().max(40).required(),
  }),
);

const name = Joi.string().max(120);
const words = Joi.object({ subject: Joi.string().max(200), line: Joi.string().max(400) });

/** What a rule has beside those whom it tells, as it is kept. */
export const ruleParts: Joi.SchemaMap = {
  when: condition.required(),
  whenAlreadyMet: Joi.valid('raise', 'wait').required(),
  later: Joi.valid('raise', 'wait'),
  hold: Joi.alternatives(
    Joi.object({ for: Joi.valid('readings').required(), count: count.required() }),
    Joi.object({ for: Joi.valid('time').required(), ms: length.required() }),
  ),
  told: Joi.valid('episode', 'reading', 'move'),
  only: Joi.array().items(recordTest).max(10),
  telling: Joi.object({
    once: Joi.boolean(),
    atMostEvery: length,
    together: Joi.valid(true),
    putOff,
    remindEvery: length,
    hours: Joi.object({
      days: Joi.array().items(Joi.number().integer().min(1).max(7)).min(1).max(7).unique().required(),
      from: Joi.number().integer().min(0).max(1_439).required(),
      to: Joi.number().integer().min(0).max(1_439).required(),
      zone: zone.required(),
    }),
  }),
  tellsEnd: Joi.boolean(),
  steps: Joi.array()
    .items(
      Joi.object({
        after: length.required(),
        audiences: Joi.array().items(Joi.string().max(400)).min(1).max(50).required(),
      }),
    )
    .max(5),
  carry: Joi.array().items(Joi.string().max(60)).max(20).unique(),
  weight: Joi.valid('high', 'usual', 'low'),
  off: Joi.valid(true),
  ends: Joi.object({
    date: Joi.string()
      .pattern(/^\d{4}-\d{2}-\d{2}$/)
      .required(),
    zone: zone.required(),
  }),
  name,
  note: Joi.string().max(500),
  tags: Joi.array().items(Joi.string().max(40)).max(20),
  wording: Joi.object({ better: words, worse: words, neither: words }),
  from: origin,
};
