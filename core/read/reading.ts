import type { Result } from '../result';
import type { ReadValue } from './agree';
import type { SourceMarks } from './found';
import type { ReadProblem } from './problem';

/** One field of one record, read or not. */
export interface FieldReading {
  field: string;
  outcome: Result<ReadValue, ReadProblem>;
}

/** One record with its identity; a page without further identity is one record, called `page`. */
export interface ReadRecord {
  identity: string;
  name: string;
  variant: string | null;
  labels: Record<string, string>;
  marks: SourceMarks;
  fields: FieldReading[];
}

/** What a body brought to a watch. */
export interface WatchReading {
  records: ReadRecord[];
  /** Records that are there, and that she neither chose nor left out. */
  offered: { identity: string; name: string }[];
  /** Records that could not be told apart or named; the others were read. */
  problems: ReadProblem[];
}
