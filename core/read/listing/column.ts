import type { Field, RecordSource } from '../definition';
import type { Locator } from '../locator';

/** A field before it is typed: what to call it and where it stands in a record. */
export interface Column {
  label: string;
  locator: Locator;
  mode?: Field['mode'];
}

/** Where a body may hold records, with what stands in them where that is known already. */
export interface Origin {
  records: RecordSource;
  columns?: Column[];
}

/** Records that are looked at before fields are proposed for all. */
export const SAMPLED = 60;
export const MOST_FIELDS = 24;

/** A name as programs write it, in words: `unitPrice`, `unit_price` and `unit-price` are unit price. */
export function wordsOfName(name: string): string {
  return name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/[_-]+/g, ' ')
    .toLowerCase();
}
