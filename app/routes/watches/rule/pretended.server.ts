import Joi from 'joi';
import { MOST_RUNS, type PretendedRun } from '#core/plan/pretended';
import type { Value } from '#core/value/value';
import type { Result } from '#core/result';
import type { RecordNow } from '#server/db/reading/records';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { ALL_RECORDS, isAllRecords, NUMBER_OF_RECORDS } from '#core/read/all-records';
import { presentOf } from '../../../parts/plan/present';
import { checked } from '#server/shapes/plan';

/** A record on which a rule can be rehearsed, with its values as they are. */
export interface Pretending {
  identity: string;
  name: string;
  values: Record<string, Value>;
}

const MOST_RECORDS = 50;

/**
 * The first records that are there, and, of a list, all of them together, of which it can be pretended that there are
 * more or fewer.
 */
export function pretendedOf(watch: WatchNow, records: readonly RecordNow[]): Pretending[] {
  const { [NUMBER_OF_RECORDS]: number } = presentOf(watch);
  const all =
    number === undefined
      ? []
      : [{ identity: ALL_RECORDS, name: watch.definition.subject, values: { [NUMBER_OF_RECORDS]: number } }];
  return [
    ...records
      .filter((record) => record.goneSince === null && !isAllRecords(record))
      .slice(0, MOST_RECORDS)
      .map(pretending),
    ...all,
  ];
}

const pretending = ({ identity, name, series }: RecordNow): Pretending => ({
  identity,
  name,
  values: Object.fromEntries(series.map(({ field, value }) => [field, value])),
});

const looks = Joi.array<PretendedRun[]>()
  .items(
    Joi.object({
      at: Joi.string().max(40).allow('').required(),
      values: Joi.object().pattern(Joi.string().max(80), Joi.string().max(2_000).allow('')).max(40).required(),
    }),
  )
  .min(1)
  .max(MOST_RUNS)
  .required();

/** The runs that a form says. */
export const readLooks = (text: string): Result<PretendedRun[], string> => checked(looks, text);
