import { isMeasure, unitOf, wordsOf, type Value } from './value';

// A value as a cell of a table that programs read: exact, and in no particular language.

/** The bare amount, an ISO 8601 moment, or the words; empty where there is no value. */
export function bareValue(value: Value | null): string {
  if (value === null || value.kind === 'absent') return '';
  if (isMeasure(value)) return value.amount;
  return value.kind === 'moment' ? new Date(value.at).toISOString() : (wordsOf(value) ?? '');
}

/** Its unit or currency; empty where it has none. */
export const unitOfValue = (value: Value | null): string =>
  value !== null && isMeasure(value) ? (unitOf(value) ?? '') : '';

/** A table: what its columns are, and its rows. */
export interface Sheet {
  columns: { head: string; is: 'text' | 'amount' | 'number' | 'moment' }[];
  rows: (string | number)[][];
}
