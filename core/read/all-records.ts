import { fail, ok } from '../result';
import { decimal, type Decimal } from '../value/decimal';
import { arePoints, isOne, type Field, type RecordSource, type WatchDefinition } from './definition';
import type { FieldReading, ReadRecord, WatchReading } from './reading';

// The number of records of a list: a field of none of them alone. It is kept as that of one more record, which stands
// for all of them.

/**
 * The identity of the record that stands for all records of a watch; one of them that is called so cannot be told apart
 * from it.
 */
export const ALL_RECORDS = '#all-records';

/** The key of their number: one that no label comes to. */
export const NUMBER_OF_RECORDS = '-records';

/** Whether something is all records of a watch, and not one of them. */
export const isAllRecords = ({ identity }: { identity: string }): boolean => identity === ALL_RECORDS;

export const NUMBER: Field = {
  key: NUMBER_OF_RECORDS,
  label: 'number of records',
  type: { kind: 'count' },
  mode: 'measured',
  polarity: 'neither',
  locale: null,
  locators: [],
};

/**
 * Whether a source lists records that can be counted. Of points and samples each comes when it comes; a page is one.
 */
export function isList(records: RecordSource): boolean {
  return !arePoints(records) && !isOne(records);
}

const counts = ({ fields }: Pick<WatchDefinition, 'fields'>): boolean =>
  fields.some(({ type }) => type.kind === 'count');

/** The fields of a definition, with the number of its records where that can be asked. */
export function withNumber({ records, fields }: Pick<WatchDefinition, 'records' | 'fields'>): Field[] {
  return counts({ fields }) || !isList(records) ? fields : [...fields, NUMBER];
}

/**
 * What was read, with how many records that is, where the definition asks it; where some could not be told apart, it is
 * not known.
 */
export function counted(reading: WatchReading, definition: WatchDefinition): WatchReading {
  const { records, problems } = reading;
  if (!counts(definition) || !isList(definition.records)) return reading;
  const outcome: FieldReading['outcome'] =
    problems.length > 0
      ? fail({ reason: 'not counted', records: records.length })
      : ok({ value: numberOf(records.length), text: String(records.length), byLocale: false, lost: [] });
  const all: ReadRecord = {
    identity: ALL_RECORDS,
    name: definition.subject,
    variant: null,
    labels: {},
    marks: { at: null, quality: null },
    fields: [{ field: NUMBER_OF_RECORDS, outcome }],
  };
  return { ...reading, records: [...records, all] };
}

/** A number of records as a value. */
export const numberOf = (count: number) => ({
  kind: 'number' as const,
  amount: decimal(String(count)) as Decimal,
  unit: null,
});
