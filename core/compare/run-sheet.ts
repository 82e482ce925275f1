import { bareValue, unitOfValue, type Sheet } from '../value/cell';
import type { Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { Change } from './compare';

// What a run read, and what moved with it, as tables.

/** A record as it stood after a run: its values by field. */
export interface StoodRecord {
  name: string;
  identity: string;
  values: Record<string, Value>;
}

/**
 * The records of a run: a row each, a column and its unit for each field. A head that stands already bears a number.
 */
export function recordsSheet(
  fields: readonly { key: string; label: string }[],
  records: readonly StoodRecord[],
): Sheet {
  const columns: Sheet['columns'] = [
    { head: 'record', is: 'text' },
    { head: 'identity', is: 'text' },
    ...fields.flatMap(({ label }): Sheet['columns'] => [
      { head: label, is: 'amount' },
      { head: `${label} unit`, is: 'text' },
    ]),
  ];
  return {
    columns: columns.map(({ head, is }, place) => {
      const before = columns.slice(0, place).filter((other) => other.head === head).length;
      return { head: before === 0 ? head : `${head} (${before + 1})`, is };
    }),
    rows: records.map(({ name, identity, values }) => [
      name,
      identity,
      ...fields.flatMap(({ key }) => [bareValue(values[key] ?? null), unitOfValue(values[key] ?? null)]),
    ]),
  };
}

/** A change with what it is of. */
export interface MovedRecord extends Change {
  record: string;
  /** The label of the field; empty of a record that came or went. */
  field: string;
  at: Instant;
}

const CHANGES = [
  { head: 'record', is: 'text' },
  { head: 'what', is: 'text' },
  { head: 'field', is: 'text' },
  { head: 'was', is: 'amount' },
  { head: 'was unit', is: 'text' },
  { head: 'now', is: 'amount' },
  { head: 'unit', is: 'text' },
  { head: 'difference', is: 'amount' },
  { head: 'percent', is: 'amount' },
  { head: 'seen', is: 'moment' },
] as const satisfies Sheet['columns'];

/** What came of a change: a record appeared or vanished, or a field moved. */
const whatCame = ({ kind, to }: Pick<Change, 'kind' | 'to'>): 'appeared' | 'vanished' | 'moved' =>
  kind !== 'record' ? 'moved' : to.kind === 'absent' ? 'vanished' : 'appeared';

/** The changes of a run, a row each. */
export function changesSheet(changes: readonly MovedRecord[]): Sheet {
  return {
    columns: [...CHANGES],
    rows: changes.map(({ record, field, at, ...change }) => {
      const isRecord = change.kind === 'record';
      const [from, to] = isRecord ? [null, null] : [change.from, change.to];
      return [
        record,
        whatCame(change),
        field,
        bareValue(from),
        unitOfValue(from),
        bareValue(to),
        unitOfValue(to),
        change.difference ?? '',
        change.percent ?? '',
        new Date(at).toISOString(),
      ];
    }),
  };
}
