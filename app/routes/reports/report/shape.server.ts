import Joi from 'joi';
import { fail, ok, type Result } from '#core/result';
import { WORDED } from '#core/tell/edition/template';
import {
  FILE_FORMS,
  GROUPINGS,
  NEWS_SORTS,
  orderFault,
  PRICES_NOTIFIED,
  SITE_KINDS,
  SORTS,
  SPLITS,
  WEIGHTS,
  type ReportDefinition,
} from '#core/tell/definition';
import { sanitiseEscapes } from '#core/value/sanitise';
import type { ReportPlan } from '#server/pipeline/report/store';
import { measure } from '#core/judge/schema';

const MOST_CHOSEN = 1_000;
const number = (least: number, most: number) => Joi.number().integer().min(least).max(most);
const ids = Joi.array().items(number(1, 2_147_483_647)).max(MOST_CHOSEN).required();
const zone = Joi.string().allow('').max(60).required();
/** What is out of its range is refused with a sentence of its own. */
const any = Joi.number().required();
const time = any;
const cut = (is: string, rest: Joi.SchemaMap = {}) => Joi.object({ cut: Joi.valid(is).required(), ...rest });

const cadence = Joi.alternatives(
  cut('every', { hours: any, from: time, zone }),
  cut('daily', { at: time, zone }),
  cut('weekly', { days: Joi.array().items(number(1, 7)).max(7).unique().required(), at: time, zone }),
  cut('monthly', { day: any, at: time, zone }),
  cut('never'),
  cut('after each run'),
  cut('at once', { of: Joi.valid('its order').required(), gather: Joi.number().integer() }),
);

const least = Joi.alternatives(
  Joi.object({ is: Joi.valid('any', 'off').required() }),
  Joi.object({ is: Joi.valid('percent').required(), least: Joi.string().allow('').max(30).required() }),
  Joi.object({ is: Joi.valid('amount').required(), least: measure.required() }),
).required();
const LONGEST_WORD = 200;
const LONGEST_WORDS = 5_000;
const words = Joi.array().items(Joi.string().max(LONGEST_WORD)).max(MOST_CHOSEN).required();
const readers = Joi.array()
  .items(Joi.string().pattern(/^(person|list):\d{1,9}$/))
  .max(MOST_CHOSEN)
  .unique()
  .required();
const MOST_PARTS = 1_000;
const split = Joi.object({
  by: Joi.valid(...SPLITS).required(),
  parts: Joi.array()
    .items(Joi.object({ value: Joi.string().max(LONGEST_WORD).allow(null).required(), readers }))
    .max(MOST_PARTS)
    .required(),
})
  .allow(null)
  .required();
const sorting = Joi.object({ by: Joi.valid(...SORTS).required(), down: Joi.boolean().required() }).required();

const order = Joi.object<ReportDefinition>({
  cadence: cadence.required(),
  takes: Joi.object({
    sorts: Joi.array()
      .items(Joi.valid(...NEWS_SORTS))
      .unique()
      .required(),
    only: Joi.object({
      watches: ids,
      sites: ids,
      kinds: Joi.array()
        .items(Joi.valid(...SITE_KINDS))
        .unique()
        .required(),
      tags: words,
      items: ids,
      brand: words,
      category: words,
      supplier: words,
      fields: words,
      rules: ids,
      weights: Joi.array()
        .items(Joi.valid(...WEIGHTS))
        .unique()
        .required(),
    }).required(),
    not: Joi.object({ watches: ids, sites: ids, ours: Joi.boolean().required() }).required(),
  }).required(),
  size: Joi.object({
    falls: least,
    rises: least,
    prices: Joi.valid(...PRICES_NOTIFIED).required(),
    base: Joi.valid('cut', 'told').required(),
  }).required(),
  shows: Joi.valid('each', 'net').required(),
  present: Joi.array()
    .items(
      Joi.object({
        series: number(1, Number.MAX_SAFE_INTEGER).required(),
        name: Joi.string().allow('').max(LONGEST_WORD).required(),
      }),
    )
    .max(MOST_CHOSEN)
    .required(),
  by: Joi.valid(...GROUPINGS).required(),
  sort: Joi.object({ groups: sorting, lines: sorting }).required(),
  most: Joi.number().allow(null).required(),
  items: Joi.valid('whole', 'moved').required(),
  whenNothing: Joi.valid('skip', 'say').required(),
  toldBefore: Joi.valid('mark', 'leave out').required(),
  readers,
  split,
  broken: readers,
  words: Joi.object(
    Object.fromEntries(WORDED.map((part) => [part, Joi.string().allow('').max(LONGEST_WORDS).required()])),
  ).required(),
  attach: Joi.array()
    .items(Joi.valid(...FILE_FORMS))
    .unique()
    .required(),
}).required();

const LONGEST_NAME = 120;

/** A standing order as the page sends it. The error is a sentence. */
export function readDefinition(text: string): Result<ReportDefinition, string> {
  let given: unknown;
  try {
    given = JSON.parse(sanitiseEscapes(text));
  } catch {
    return fail('What the page sent cannot be read. Load it again.');
  }
  const checked = order.validate(given, { convert: false });
  if (checked.error !== undefined) return fail('Something of what is said here cannot be read. Load the page again.');
  const fault = orderFault(checked.value);
  return fault === null ? ok(checked.value) : fail(fault);
}

/** A report as the page sends it: a name, and its standing order. */
export function readPlan(name: string, text: string): Result<ReportPlan, string> {
  const said = name.trim();
  if (said === '') return fail('Give the report a name: its mails begin with it.');
  if (said.length > LONGEST_NAME) return fail(`A name has at most ${LONGEST_NAME} characters.`);
  const read = readDefinition(text);
  return read.ok ? ok({ name: said, order: read.value }) : read;
}
