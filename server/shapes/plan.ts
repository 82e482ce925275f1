import Joi from 'joi';
import { NUMBER_OF_RECORDS } from '#core/read/all-records';
import type { Field, FieldType, WatchDefinition } from '#core/read/definition';
import { DOUBTS } from '#core/read/frame/doubts';
import type { Locator } from '#core/read/locator';
import { isRole } from '#core/read/role';
import { fail, ok, type Result } from '#core/result';
import { sanitiseEscapes } from '#core/value/sanitise';
import type { SourceRequest } from '../fetch/request';
import { MOST_RULES, type PlanDraft } from '#core/plan/plan';
import type { RuleDraft } from '#core/plan/rule-draft';
import type { Asked } from '#core/judge/asked';
import { clauseDraft, condition } from '#core/judge/kinds/schemas';
import { asked, fieldKey, rowId, span, text as said, typed as words, zone } from '#core/judge/schema';
import { origin, putOff, recordTest } from './rule';

const way = (name: string, rest: Joi.SchemaMap) => Joi.object({ way: Joi.valid(name).required(), ...rest });

const heads = Joi.array().items(Joi.string().allow('').max(400)).max(40);

const locator = Joi.alternatives(
  way('css', { selector: said(500), without: Joi.array().items(Joi.string().max(500)).max(20) }),
  way('xpath', { path: said(300) }),
  way('label', { label: said(60) }),
  way('block', {
    heading: said(120),
    shape: Joi.valid('money', 'number').required(),
    nth: Joi.number().integer().min(1).max(200).required(),
    of: Joi.number().integer().min(1).max(10_000),
    unit: Joi.string().max(20),
  }),
  way('structured', { type: said(100), path: said(300) }),
  way('pattern', { pattern: said(300) }),
  way('path', { path: said(300) }),
  way('column', { column: words(400) }),
  way('cell', { row: heads.required(), column: heads.required() }),
  way('part', { part: said(120) }),
);

const phrases = Joi.array().items(Joi.string().max(120)).max(60);
const ofKind = (kind: string, rest: Joi.SchemaMap = {}) => Joi.object({ kind: Joi.valid(kind).required(), ...rest });

const type = Joi.alternatives(
  ofKind('money', { currency: Joi.string().length(3).uppercase().allow(null).required() }),
  ofKind('number', { unit: Joi.string().max(20).allow(null), increase: Joi.boolean() }),
  ofKind('text', { masks: Joi.array().items(Joi.string().max(300)).max(20) }),
  ofKind('flag', { yes: phrases.required(), no: phrases.required() }),
  ofKind('phrase', { phrase: words(200) }),
  ofKind('state', {
    states: Joi.array()
      .items(Joi.object({ name: said(60), phrases: phrases.required() }))
      .min(1)
      .max(20)
      .required(),
  }),
  ofKind('grade', { scale: Joi.array().items(Joi.string().max(40)).min(2).max(30).unique().required() }),
  ofKind('moment', { zone: Joi.string().max(60) }),
  ofKind('link'),
  ofKind('picture'),
  ofKind('stated'),
  ofKind('computed', { formula: words(300) }),
  ofKind('count'),
);

const field = Joi.object({
  key: fieldKey.required(),
  label: words(60),
  type: type.required(),
  mode: Joi.valid('stepwise', 'measured').required(),
  polarity: Joi.valid('up is good', 'up is bad', 'neither').required(),
  locale: Joi.string().max(35).allow(null).required(),
  locators: Joi.when('type.kind', {
    is: Joi.valid('computed', 'count'),
    then: Joi.array().max(0).required(),
    otherwise: Joi.array().items(locator).min(1).max(8).required(),
  }),
  absentWhen: phrases,
  // What stands around a value is taken by the server, from what was fetched.
  frames: Joi.any().strip(),
  allowed: Joi.any().strip(),
  believed: Joi.any().strip(),
  varying: Joi.any().strip(),
  role: Joi.string().custom((word: string, helpers) => (isRole(word) ? word : helpers.error('any.invalid'))),
}).custom((said: Field, helpers) =>
  (said.key === NUMBER_OF_RECORDS) === (said.type.kind === 'count') ? said : helpers.error('any.invalid'),
);

const check = (name: string, rest: Joi.SchemaMap) => Joi.object({ check: Joi.valid(name).required(), ...rest });
const count = Joi.number().integer().min(0).max(100_000).allow(null).required();

const guard = Joi.alternatives(
  check('text here', { text: words(200) }),
  check('says', { selector: said(500), text: words(200), how: Joi.valid('equal', 'contains').required() }),
  check('label beside', { label: words(60) }),
  check('count', { least: count, most: count }),
  check('address', { address: said(2000) }),
);

const from = (name: string, rest: Joi.SchemaMap = {}) => Joi.object({ from: Joi.valid(name).required(), ...rest });

const records = Joi.alternatives(
  from('page'),
  from('rows', {
    rows: said(500),
    table: Joi.object({ heads: heads.required(), under: heads.required() }),
    around: Joi.any().strip(),
  }),
  from('json', { path: said(300) }),
  from('csv'),
  from('xml', { path: said(300) }),
  from('feed'),
  from('metrics', { family: Joi.string().max(200).allow(null).required() }),
  from('senml', { grouped: Joi.valid(true) }),
);

const identities = Joi.array().items(Joi.string().max(500)).max(50_000);

const sealed = Joi.object({ sealed: said(40_000) });

const pairs = Joi.array()
  .items(
    Joi.object({
      name: Joi.string()
        .pattern(/^[\w.~-]{1,100}$/)
        .required(),
      value: Joi.alternatives(Joi.string().allow('').max(2000), sealed).required(),
    }),
  )
  .max(30);

const target = Joi.alternatives(Joi.object({ selector: said(300) }), Joi.object({ words: said(120) }));
const act = (name: string, rest: Joi.SchemaMap) =>
  Joi.object({ act: Joi.valid(name).required(), ...rest, guard, optional: Joi.boolean() });

const step = Joi.alternatives(
  act('go to', { address: said(2000) }),
  act('click', { at: target.required() }),
  act('fill in', { at: target.required(), text: Joi.alternatives(Joi.string().allow('').max(500), sealed).required() }),
  act('choose', { at: target.required(), option: said(200) }),
  act('wait for', { at: target.required() }),
  act('scroll', { screens: Joi.number().integer().min(1).max(20).required() }),
);

const most = Joi.number().integer().min(2).max(20).required();

const sourceRequest = Joi.object<SourceRequest>({
  method: Joi.valid('GET', 'POST'),
  headers: pairs,
  query: pairs,
  body: Joi.alternatives(Joi.string().allow('').max(20_000), sealed),
  bodyType: Joi.string().max(100),
  signIn: Joi.alternatives(
    Joi.object({ kind: Joi.valid('basic').required(), user: said(200), secret: sealed.required() }),
    Joi.object({ kind: Joi.valid('bearer').required(), secret: sealed.required() }),
  ),
  follow: Joi.alternatives(
    Joi.object({ by: Joi.valid('link').required(), selector: said(300), most }),
    Joi.object({
      by: Joi.valid('counter').required(),
      parameter: said(60),
      from: Joi.number().integer().min(0).required(),
      most,
    }),
  ),
  steps: Joi.array().items(step).max(20),
});

/** A request that came from a browser, its secrets sealed; or why it is none. */
export const readRequest = (text: string | null): Result<SourceRequest, string> => checked(sourceRequest, text);

const readers = Joi.array()
  .items(Joi.string().pattern(/^(person|list):\d+$/))
  .max(50)
  .unique();

const rule = Joi.object<RuleDraft>({
  id: rowId.allow(null).required(),
  clauses: Joi.array().items(clauseDraft).max(20).required(),
  join: Joi.valid('all', 'any', 'none').required(),
  kept: condition,
  audiences: readers.required(),
  whenAlreadyMet: Joi.valid('raise', 'wait').allow(null).required(),
  later: Joi.valid('raise', 'wait'),
  hold: Joi.object({ count: words(12), unit: Joi.valid('reading', 'minute', 'hour', 'day').required() })
    .allow(null)
    .required(),
  told: Joi.valid('episode', 'reading', 'move', 'once').required(),
  atMostEvery: span.allow(null).required(),
  together: Joi.valid(true),
  putOff,
  remindEvery: span.allow(null).required(),
  hours: Joi.object({
    days: Joi.array().items(Joi.number().integer().min(1).max(7)).max(7).unique().required(),
    from: words(8),
    to: words(8),
    zone,
  })
    .allow(null)
    .required(),
  tellsEnd: Joi.boolean().required(),
  steps: Joi.array()
    .items(Joi.object({ after: span.required(), audiences: readers.required() }))
    .max(5)
    .required(),
  only: Joi.array().items(recordTest).max(10).required(),
  carry: Joi.array().items(Joi.string().max(60)).max(20).unique().required(),
  weight: Joi.valid('high', 'usual', 'low').required(),
  name: words(120),
  note: words(500),
  tags: words(400),
  owner: rowId,
  wording: Joi.object()
    .pattern(
      Joi.valid('better', 'worse', 'neither'),
      Joi.object({ subject: Joi.string().allow('').max(200), line: Joi.string().allow('').max(400) }),
    )
    .required(),
  from: origin,
  off: Joi.boolean().required(),
  ends: Joi.string()
    .allow('')
    .pattern(/^\d{4}-\d{2}-\d{2}$/)
    .required(),
  endsIn: zone,
});

const naming = Joi.object({
  pattern: Joi.string().max(200),
  own: Joi.object().pattern(Joi.string().max(800), Joi.string().max(120)).max(2_000),
});

/**
 * What is said of records wherever they are said: what tells them apart, which are read, and what guards the reading.
 */
const ofRecords = {
  identity: Joi.array().items(fieldKey).max(8).required(),
  variant: fieldKey.allow(null).required(),
  chosen: identities.allow(null).required(),
  leftOut: identities.required(),
  guards: Joi.array().items(guard).max(12).required(),
  names: naming,
};

const plan = Joi.object<PlanDraft>({
  subject: words(120),
  records: records.required(),
  ...ofRecords,
  fields: Joi.array().items(field).max(20).unique('key').required(),
  frequency: Joi.object({
    count: Joi.number().integer().min(0).max(100_000).required(),
    unit: Joi.valid('second', 'minute', 'hour', 'day').required(),
  })
    .allow(null)
    .required(),
  rules: Joi.array().items(rule).max(MOST_RULES).required(),
});

/** Nothing that is kept is nested deeper, and to check what is would take seconds. */
const DEEPEST = 24;

const isWithin = (value: unknown, levels: number): boolean =>
  typeof value !== 'object' ||
  value === null ||
  (levels > 0 && Object.values(value).every((part) => isWithin(part, levels - 1)));

/** What a text says as JSON; throws where it says nothing, or what no page of ours would. */
function parse(text: string | null): unknown {
  const said: unknown = JSON.parse(sanitiseEscapes(text ?? 'null'));
  if (!isWithin(said, DEEPEST)) throw new RangeError('nested too deep');
  return said;
}

const checked = <T>(schema: Joi.Schema, text: string | null): Result<T, string> => {
  try {
    const read = schema.validate(parse(text), { convert: false });
    return read.error ? fail(read.error.message) : ok(read.value as T);
  } catch {
    return fail('It did not arrive whole.');
  }
};

/** A locator that came from a browser, or why it is none. */
export const readLocator = (text: string | null): Result<Locator, string> => checked(locator, text);

/** A type that came from a browser, or why it is none. */
export const readType = (text: string | null): Result<FieldType, string> => checked(type, text);

/** Checks that what came from a browser has the shape of a plan; its meaning is judged by `completePlan`. */
export function readPlan(text: FormDataEntryValue | null): Result<PlanDraft, string> {
  try {
    const read = plan.validate(parse(typeof text === 'string' ? text : null), { convert: false });
    return read.error ? fail(`This watch cannot be kept: ${read.error.message}.`) : ok(read.value);
  } catch {
    return fail('This watch cannot be kept: it did not arrive whole. Try again.');
  }
}

/** A rule that came from a browser, or why it is none. */
export const readRule = (text: string | null): Result<RuleDraft, string> => checked(rule, text);

const MOST_ASKED = 20;
const askedRelatedShape = Joi.array().items(asked).max(MOST_ASKED).required();

/** What a rule asks beside its record, or why that is nothing that can be asked. */
export const readAsked = (text: string | null): Result<Asked[], string> => checked(askedRelatedShape, text);

const line = Joi.string().allow('').max(2_000);
const lines = Joi.array().items(line).max(400);

/** What stood around a value, as it was kept with a watch. */
const frame = Joi.object({
  before: line.required(),
  own: line.required(),
  after: line.required(),
  bare: line.required(),
  sign: line.required(),
  others: Joi.number().integer().min(-1).required(),
  above: line.allow(null).required(),
  under: line.allow(null).required(),
  labelled: Joi.boolean().required(),
  row: lines.required(),
  column: lines.required(),
  headings: lines.required(),
  locale: Joi.string().max(60).allow(null).required(),
  title: line.allow(null).required(),
  window: line.allow(null).required(),
  thing: Joi.object().pattern(Joi.string().max(200), line).max(100).required(),
  chosen: lines.required(),
  facts: Joi.array()
    .items(Joi.array().ordered(line.required(), line.required(), Joi.valid('announced')))
    .max(400)
    .required(),
  lines: lines.required(),
});
const frames = Joi.array().items(frame).max(40);

/** How a watch reads, as it is kept: with what stands around its values. */
export const reads = Joi.object<WatchDefinition>({
  subject: said(120),
  records: Joi.alternatives().conditional('.from', {
    is: 'rows',
    then: from('rows', {
      rows: said(500),
      table: Joi.object({ heads: heads.required(), under: heads.required() }),
      around: frames,
    }),
    otherwise: records,
  }),
  ...ofRecords,
  fields: Joi.array()
    .items(
      field.keys({
        frames,
        allowed: Joi.array().items(Joi.valid(...DOUBTS)),
        believed: Joi.array().items(line).max(100),
        varying: Joi.array().items(line).max(400),
      }),
    )
    .min(1)
    .max(20)
    .unique('key')
    .required(),
});

export { sourceRequest, checked };
