import Joi from 'joi';
import { LARGEST } from '../id';
import { decimal, type Decimal } from '../value/decimal';
import type { Measure, Value } from '../value/value';
import { isZone } from '../when/wall-clock';
import { ITEM_SIDES, type Asked, type Figure, type JudgedWindow, type Limits } from './asked';
import type { DraftBase } from './draft/base';
import type { WindowDraft } from './draft/figures';
import type { SpanDraft } from './draft/span';
import type { SharingDraft, SubjectDraft } from './draft/subject';

// The shapes of what conditions of every kind are said in, each held by the compiler to the type that it is of.

/** The key of a field; what every object has is none. */
export const fieldKey = Joi.string()
  .pattern(/^[a-z0-9-]{1,60}$/)
  .invalid('constructor');

/** The number of a row. */
export const rowId = Joi.number().integer().min(1).max(LARGEST);

/** A text that is not empty. */
export const text = (most: number) => Joi.string().max(most).required();

/** What was typed, which may be nothing. */
export const typed = (most: number) => Joi.string().allow('').max(most).required();

/** One of several words. */
export const oneOf = <Word extends string>(...words: readonly Word[]): Joi.StringSchema => Joi.string().valid(...words);

const LONGEST_AMOUNT = 60;

const amount = Joi.string<Decimal>()
  .max(LONGEST_AMOUNT)
  .custom((said: string, helpers) => (decimal(said) === null ? helpers.error('any.invalid') : said))
  .required();

/** A zone of the tz database. */
export const zone = Joi.string()
  .max(60)
  .custom((name: string, helpers) => (isZone(name) ? name : helpers.error('any.invalid')));

type Money = Extract<Measure, { kind: 'money' }>;
type Plain = Extract<Measure, { kind: 'number' }>;

export const measure = Joi.alternatives<Measure>(
  Joi.object<Money, true>({ kind: oneOf('money').required(), amount, currency: Joi.string().max(10).required() }),
  Joi.object<Plain, true>({
    kind: oneOf('number').required(),
    amount,
    unit: Joi.string().allow('').max(30).allow(null).required(),
  }),
);

export const value = Joi.alternatives<Value>(
  measure,
  Joi.object({ kind: oneOf('text').required(), text: Joi.string().allow('').max(2_000).required() }),
  Joi.object({ kind: oneOf('flag').required(), is: Joi.boolean().required() }),
  Joi.object({ kind: oneOf('state').required(), state: text(500) }),
  Joi.object({
    kind: oneOf('grade').required(),
    grade: text(60),
    scale: Joi.array().items(Joi.string().max(60)).max(40).required(),
  }),
  Joi.object({ kind: oneOf('moment').required(), at: Joi.number().required(), day: Joi.boolean().required() }),
  Joi.object({ kind: oneOf('link', 'picture').required(), address: text(2_000) }),
  Joi.object({ kind: oneOf('absent').required() }),
);

export const figure = Joi.alternatives<Figure>(
  Joi.object({ by: oneOf('amount').required(), amount: measure.required() }),
  Joi.object({ by: oneOf('percent').required(), percent: amount }),
);

/** How far it rises, and how far it falls: each a figure, or switched off. */
export const sides = { rise: figure.allow(null).required(), fall: figure.allow(null).required() };

export const limits = Joi.alternatives<Limits>(
  Joi.object({
    is: oneOf('below', 'above').required(),
    limit: measure.required(),
    inclusive: Joi.boolean().required(),
    further: Joi.array().items(measure).min(1).max(20),
  }),
  Joi.object({
    is: oneOf('between', 'outside').required(),
    low: measure.required(),
    high: measure.required(),
    inclusive: Joi.boolean().required(),
  }),
);

export const count = Joi.number().integer().min(1).max(1_000_000);

/** A length of time, in ms: a leap year at the most. */
export const length = Joi.number()
  .integer()
  .min(1)
  .max(366 * 86_400_000);

/** What a clause asks: of its own record, or beside it. */
export const asked = Joi.object<Asked, true>({
  field: fieldKey.required(),
  record: Joi.string().max(800),
  watch: rowId,
  sharing: Joi.object({
    label: text(200),
    where: Joi.object({ label: text(200), is: Joi.string().allow('').max(400).required() }),
  }),
  item: oneOf(...ITEM_SIDES),
  channel: rowId,
  called: Joi.string().max(120),
  within: length,
})
  .nand('record', 'item')
  .nand('watch', 'item')
  .nand('sharing', 'record')
  .nand('sharing', 'watch')
  .nand('sharing', 'item')
  .with('channel', 'item')
  .with('within', 'watch');

const MAKES: JudgedWindow['make'][] = [
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
];

/** What is made of a stretch of readings. */
export const window = Joi.object<JudgedWindow, true>({
  make: oneOf(...MAKES).required(),
  of: Joi.alternatives(
    Joi.object({ last: oneOf('time').required(), ms: length.required() }),
    Joi.object({ last: oneOf('readings').required(), count: count.required() }),
    Joi.object({ this: oneOf('hour', 'day', 'week', 'month').required(), zone: zone.required() }),
  ).required(),
  stepwise: Joi.boolean().required(),
  grows: Joi.boolean().required(),
});

/** A length of time as it is typed. */
export const span = Joi.object<SpanDraft, true>({
  count: typed(12),
  unit: oneOf('minute', 'hour', 'day').required(),
});

const shared = { label: typed(200), where: typed(200), is: typed(400) };

/** Which label two records share, as it is typed. */
export const sharing = Joi.object<SharingDraft, true>(shared);

const subject = Joi.alternatives<SubjectDraft>(
  Joi.object({ of: oneOf('record').required(), record: typed(800) }),
  Joi.object({ of: oneOf('sharing').required(), ...shared }),
  Joi.object({
    of: oneOf('item').required(),
    side: oneOf(...ITEM_SIDES).required(),
    channel: rowId,
    called: Joi.string().max(120),
  }),
  Joi.object({
    of: oneOf('watch').required(),
    watch: rowId.allow(0).required(),
    called: typed(120),
    within: span.required(),
    mode: oneOf('stepwise', 'measured').required(),
    kind: Joi.string().max(20).required(),
    scale: Joi.array().items(Joi.string().max(60)).max(60),
    like: measure.allow(null).required(),
  }),
);

/** What every clause has while it is being said. */
export const draftBase: Joi.StrictSchemaMap<DraftBase> = {
  field: Joi.string().allow('').max(60).required(),
  subject,
  tied: oneOf('any', 'all'),
  not: Joi.boolean(),
};

/** What is made of a stretch of readings, as it is typed. */
export const windowDraft = Joi.object<WindowDraft, true>({
  make: oneOf(...MAKES).required(),
  count: typed(12),
  unit: oneOf('minute', 'hour', 'day', 'reading', 'this hour', 'this day', 'this week', 'this month').required(),
  grows: Joi.boolean(),
});

/** What figures are counted in, as it is said. */
export const unit = Joi.string().allow('').max(20);
