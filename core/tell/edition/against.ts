import type { EditionDocument } from './document';
import type { Row } from './groups';
import { recordKey } from './lines';

/** A row of one of two editions of a report, or of both. */
export interface Against {
  key: string;
  before: Row | null;
  now: Row | null;
}

/** What of a report's editions is held against one another: each field of each record that moved. */
const keyOf = ({ record, site, field }: Row): string =>
  `${record === null ? site.id : recordKey(record)} ${field?.key ?? ''}`;

const movedIn = ({ groups }: EditionDocument): Map<string, Row> =>
  new Map(
    groups.flatMap(({ rows }) => rows.filter(({ moved }) => moved).map((row): [string, Row] => [keyOf(row), row])),
  );

/**
 * Holds an edition against the one before: what moved in this one alone first, then in both, then in the one before
 * alone. Of what has no room in either nothing is said.
 */
export function heldAgainst(before: EditionDocument, now: EditionDocument): Against[] {
  const [then, own] = [movedIn(before), movedIn(now)];
  const here = [...own].map(([key, row]): Against => ({ key, before: then.get(key) ?? null, now: row }));
  const gone = [...then]
    .filter(([key]) => !own.has(key))
    .map(([key, row]): Against => ({ key, before: row, now: null }));
  return [
    ...here.filter(({ before: row }) => row === null),
    ...here.filter(({ before: row }) => row !== null),
    ...gone,
  ];
}
