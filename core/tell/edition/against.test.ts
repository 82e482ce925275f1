import { describe, expect, it } from 'vitest';
import type { EditionDocument } from './document';
import { heldAgainst } from './against';
import type { Row } from './groups';

const row = (record: number, field: string | null, moved = true) =>
  ({
    record: { watch: record, id: record },
    site: { id: 1 },
    field: field === null ? null : { key: field },
    moved,
  }) as unknown as Row;
const edition = (...rows: Row[]) => ({ groups: [{ rows }] }) as unknown as EditionDocument;
const said = (before: EditionDocument, now: EditionDocument) =>
  heldAgainst(before, now).map((each) => [each.key, each.before !== null, each.now !== null]);

describe('an edition against the one before', () => {
  it('has what moved in this alone first, then what moved in both, then what moved before alone', () => {
    const [before, now] = [edition(row(1, 'price'), row(2, 'price')), edition(row(2, 'price'), row(3, 'price'))];
    expect(said(before, now)).toEqual([
      ['3 3 price', false, true],
      ['2 2 price', true, true],
      ['1 1 price', true, false],
    ]);
  });
  it('tells fields of a record apart', () =>
    expect(said(edition(row(1, 'price')), edition(row(1, 'stock')))).toHaveLength(2));
  it('leaves out what stands beside and did not move', () =>
    expect(said(edition(row(1, 'price', false)), edition(row(2, 'price', false)))).toEqual([]));
});
