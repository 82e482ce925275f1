import Joi from 'joi';
import { AMONG, ITEM_SIDES, type Condition } from '#core/judge/clause';
import { PROPERTIES } from '#core/items/item';
import type { RecordTest } from '#core/judge/rule';
import { decimal } from '#core/value/decimal';
import { LATEST } from '#core/when/interval';
import { isZone } from '#core/when/wall-clock';
import { LARGEST } from '../../ids.server';

// The shape of a condition that comes from outside, part by part as `core/judge/clause.ts` says it; what it means is
// judged by `refuse`.

/** The key of a field; what every object has is none. */
export const fieldKey = Joi.string()
  .pattern(/^[a-z0-9-]{1,60}$/)
  .invalid('constructor');

/** The number of a row. */
export const rowId = Joi.number().integer().min(1).max(LARGEST);

const text = (most: number) => Joi.string().max(most).required();
const LONGEST_AMOUNT = 60;

const amount = Joi.string()
  .max(LONGEST_AMOUNT)
  .custom((said: string, helpers) => (decimal(said) === null ? helpers.error('any.invalid') : said))
  .required();

/** A zone of the tz database. */
export const zone = Joi.string()
  .max(60)
  .custom((name: string, helpers) => (isZone(name) ? name : helpers.error('any.invalid')));

/** Until when a rule is put off, in ms since 1970, and in which zone that was said. */
export const putOff = Joi.object({
  until: Joi.number().integer().min(0).max(LATEST).required(),
  zone: zone.required(),
});

export const measure = Joi.alternatives(
  Joi.object({ kind: Joi.valid('money').required(), amount, currency: Joi.string().max(10).required() }),
  Joi.object({
    kind: Joi.valid('number').required(),
    amount,
    unit: Joi.string().allow('').max(30).allow(null).required(),
  }),
);

const value = Joi.alternatives(
  measure,
  Joi.object({ kind: Joi.valid('text').required(), text: Joi.string().allow('').max(2_000).required() }),
  Joi.object({ kind: Joi.valid('flag').required(), is: Joi.boolean().required() }),
  Joi.object({ kind: Joi.valid('state').required(), state: text(500) }),
  Joi.object({
    kind: Joi.valid('grade').required(),
    grade: text(60),
    scale: Joi.array().items(Joi.string().max(60)).max(40).required(),
  }),
  Joi.object({ kind: Joi.valid('moment').required(), at: Joi.number().required(), day: Joi.boolean().required() }),
  Joi.object({ kind: Joi.valid('link', 'picture').required(), address: text(2_000) }),
  Joi.object({ kind: Joi.valid('absent').required() }),
);

const figure = Joi.alternatives(
  Joi.object({ by: Joi.valid('amount').required(), amount: measure.required() }),
  Joi.object({ by: Joi.valid('percent').required(), percent: amount }),
);

const limits = Joi.alternatives(
  Joi.object({
    is: Joi.valid('below', 'above').required(),
    limit: measure.required(),
    inclusive: Joi.boolean().required(),
    further: Joi.array().items(measure).min(1).max(20),
  }),
  Joi.object({
    is: Joi.valid('between', 'outside').required(),
    low: measure.required(),
    high: measure.required(),
    inclusive: Joi.boolean().required(),
  }),
);

/** What a clause asks: of its own record, or beside it. */
export const asked = Joi.object({
  field: fieldKey.required(),
  record: Joi.string().max(800),
  watch: rowId,
  sharing: Joi.object({
    label: text(200),
    where: Joi.object({ label: text(200), is: Joi.string().allow('').max(400).required() }),
  }),
  item: Joi.valid(...ITEM_SIDES),
  channel: rowId,
  called: Joi.string().max(120),
  within: Joi.number()
    .integer()
    .min(1)
    .max(366 * 86_400_000),
})
  .nand('record', 'item')
  .nand('watch', 'item')
  .nand('sharing', 'record')
  .nand('sharing', 'watch')
  .nand('sharing', 'item')
  .with('channel', 'item')
  .with('within', 'watch');
const count = Joi.number().integer().min(1).max(1_000_000);
const length = Joi.number()
  .integer()
  .min(1)
  .max(366 * 86_400_000);

const stretch = Joi.object({
  make: Joi.valid(
    'minimum',
    'maximum',
    'mean',
    'median',
    'range',
    'first to last',
    'sum',
    'readings',
    'moves',
    'increase',
    'pace',
  ).required(),
  of: Joi.alternatives(
    Joi.object({ last: Joi.valid('time').required(), ms: length.required() }),
    Joi.object({ last: Joi.valid('readings').required(), count: count.required() }),
    Joi.object({ this: Joi.valid('hour', 'day', 'week', 'month').required(), zone: zone.required() }),
  ).required(),
  stepwise: Joi.boolean().required(),
  grows: Joi.boolean().required(),
});

const base = Joi.alternatives(
  Joi.object({ base: Joi.valid('last', 'told', 'extreme').required() }),
  Joi.object({ base: Joi.valid('pinned').required(), value: measure.required() }),
  Joi.object({ base: Joi.valid('median').required(), of: count.required() }),
  Joi.object({ base: Joi.valid('series').required(), asked: asked.required() }),
);

const sides = { rise: figure.allow(null).required(), fall: figure.allow(null).required() };
const judged = Joi.object({ asked: asked.required(), over: stretch });

const stateTest = Joi.alternatives(
  Joi.valid('any move'),
  Joi.object({ is: value.required() }),
  Joi.object({ becomes: value.required() }),
  Joi.object({ leaves: value.required() }),
  Joi.object({ from: value.required(), to: value.required() }),
);

const gradeTest = Joi.alternatives(
  Joi.object({ moves: Joi.valid('better', 'worse').required(), steps: count.required() }),
  Joi.object({ is: Joi.valid('at or below', 'at or above').required(), grade: text(60) }),
);

const textTest = Joi.alternatives(
  Joi.object({ phrase: text(500), is: Joi.valid('there', 'not there', 'appears', 'disappears').required() }),
  Joi.object({ matches: text(300) }),
);

const silenceTest = Joi.alternatives(
  Joi.object({ of: Joi.valid('readings').required(), ms: length.required() }),
  Joi.object({ of: Joi.valid('runs').required(), count: count.required() }),
  Joi.object({ of: Joi.valid('moves').required(), ms: length.required() }),
  Joi.object({ of: Joi.valid('moves').required(), times: Joi.number().min(0.1).max(1_000).required() }),
);

const end = Joi.valid('lowest', 'highest');

const clause = (kind: string | string[], rest: Joi.SchemaMap) =>
  Joi.object({ kind: (Array.isArray(kind) ? Joi.valid(...kind) : Joi.valid(kind)).required(), ...rest });

const clauses = Joi.alternatives(
  clause(['level', 'crossing'], { of: judged.required(), limits: limits.required(), margin: figure }),
  clause('move', { asked: asked.required(), against: base.required(), ...sides }),
  clause('before', {
    asked: asked.required(),
    by: Joi.valid('day', 'week', 'month').required(),
    zone: zone.required(),
    ...sides,
  }),
  clause('change', { asked: asked.required(), words: count }),
  clause('state', { asked: asked.required(), how: stateTest.required() }),
  clause('grade', { asked: asked.required(), how: gradeTest.required() }),
  clause('text', { asked: asked.required(), how: textTest.required() }),
  clause('against', {
    asked: asked.required(),
    other: asked.required(),
    is: Joi.valid('below', 'above').required(),
    by: figure.required(),
    inclusive: Joi.boolean().required(),
    margin: figure,
  }),
  clause('place', {
    asked: asked.required(),
    among: Joi.valid(...AMONG).required(),
    end: end.required(),
    how: Joi.valid('takes', 'loses', 'has', 'has not').required(),
  }),
  clause('rank', {
    asked: asked.required(),
    among: Joi.valid(...AMONG).required(),
    end: end.required(),
    by: count.required(),
  }),
  clause('unusual', {
    asked: asked.required(),
    side: Joi.valid('high', 'low', 'either').required(),
    oneIn: count.required(),
    zone: zone.required(),
  }),
  clause('absence', { asked: asked.required(), how: Joi.valid('is absent', 'comes back').required() }),
  clause('record', { how: Joi.valid('appears', 'vanishes').required() }),
  clause('silence', { asked: asked.required(), how: silenceTest.required() }),
);

const nested = Joi.link('#condition');
const joined = Joi.array().items(nested).min(1).max(20);

/**
 * A condition of any kind, four levels deep at most: deeper ones are refused by their meaning, and endless ones have no
 * JSON.
 */
export const condition = Joi.alternatives<Condition>(
  clauses,
  Joi.object({ all: joined.required() }),
  Joi.object({ any: joined.required() }),
  Joi.object({ none: joined.required() }),
).id('condition');

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
