import Joi from 'joi';
import { MOST_LOOKS, type PretendedLook } from '#core/plan/pretended';
import type { Value } from '#core/value/value';
import type { Result } from '#core/result';
import type { RecordNow } from '#server/db/records';
import { checked } from '../../parts/plan/shape.server';

/** A record on which a rule can be rehearsed, with its values as they are. */
export interface Pretending {
  identity: string;
  name: string;
  values: Record<string, Value>;
}

const MOST_RECORDS = 50;

/** The first records that are there. */
export const pretendedIn = (records: readonly RecordNow[]): Pretending[] =>
  records
    .filter(({ goneSince }) => goneSince === null)
    .slice(0, MOST_RECORDS)
    .map(({ identity, name, series }) => ({ identity, name, values: Object.fromEntries(series.map(({ field, value }) => [field, value])) }));

const looks = Joi.array<PretendedLook[]>()
  .items(
    Joi.object({
      at: Joi.string().max(40).allow('').required(),
      values: Joi.object().pattern(Joi.string().max(80), Joi.string().max(2_000).allow('')).max(40).required(),
    }),
  )
  .min(1)
  .max(MOST_LOOKS)
  .required();

/** The looks that a form says. */
export const readLooks = (text: string): Result<PretendedLook[], string> => checked(looks, text);
