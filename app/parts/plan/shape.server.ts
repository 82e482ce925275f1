import Joi from 'joi';
import { fail, ok, type Result } from '#core/result';
import type { PlanDraft } from './plan';

const words = (most: number) => Joi.string().allow('').max(most).required();

const locator = Joi.alternatives(
  Joi.object({ way: Joi.valid('css').required(), selector: Joi.string().max(500).required() }),
  Joi.object({ way: Joi.valid('structured').required(), type: Joi.string().max(100).required(), path: Joi.string().max(300).required() }),
);

const type = Joi.alternatives(
  Joi.object({ kind: Joi.valid('money').required(), currency: Joi.string().length(3).uppercase().allow(null).required() }),
  Joi.object({ kind: Joi.valid('number', 'text').required() }),
);

const field = Joi.object({
  key: Joi.string()
    .pattern(/^[a-z0-9-]{1,60}$/)
    .required(),
  label: words(60),
  type: type.required(),
  mode: Joi.valid('stepwise', 'measured').required(),
  polarity: Joi.valid('up is good', 'up is bad', 'neither').required(),
  locale: Joi.string().max(35).allow(null).required(),
  locators: Joi.array().items(locator).min(1).max(8).required(),
});

const condition = Joi.object({
  kind: Joi.valid('level', 'crossing', 'change').required(),
  field: Joi.string().max(60).required(),
  direction: Joi.valid('below', 'above').required(),
  inclusive: Joi.boolean().required(),
  limit: words(60),
});

const plan = Joi.object<PlanDraft>({
  subject: words(120),
  fields: Joi.array().items(field).max(20).unique('key').required(),
  frequency: Joi.object({ count: Joi.number().integer().min(0).max(100_000).required(), unit: Joi.valid('minute', 'hour', 'day').required() })
    .allow(null)
    .required(),
  condition: condition.allow(null).required(),
  onlyRecord: Joi.boolean().required(),
  audiences: Joi.array()
    .items(Joi.string().pattern(/^(person|list):\d+$/))
    .max(50)
    .unique()
    .required(),
  whenAlreadyMet: Joi.valid('raise', 'wait').allow(null).required(),
});

/** Checks that what came from a browser has the shape of a plan; its meaning is judged by `completePlan`. */
export function readPlan(text: FormDataEntryValue | null): Result<PlanDraft, string> {
  try {
    const { value, error } = plan.validate(JSON.parse(typeof text === 'string' ? text : 'null'), { convert: false });
    return error ? fail(`This watch cannot be kept: ${error.message}.`) : ok(value);
  } catch {
    return fail('This watch cannot be kept: it did not arrive whole. Try again.');
  }
}
