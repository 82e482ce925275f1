import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { editsBetween } from './edits';

/** The fewest edits by the table of longest common subsequences: slow, and plain. */
function fewest(from: number[], to: number[]): number {
  const table = Array.from({ length: from.length + 1 }, () => new Array<number>(to.length + 1).fill(0));
  for (let x = 1; x <= from.length; x += 1)
    for (let y = 1; y <= to.length; y += 1)
      table[x]![y] =
        from[x - 1] === to[y - 1] ? table[x - 1]![y - 1]! + 1 : Math.max(table[x - 1]![y]!, table[x]![y - 1]!);
  return from.length + to.length - 2 * table[from.length]![to.length]!;
}

const sequence = fc.array(fc.nat(4), { maxLength: 30 });
const asked = (from: number[], to: number[], most = 1000) =>
  editsBetween(Int32Array.from(from), Int32Array.from(to), most);

describe('the edits between two sequences', () => {
  it('lead from the one to the other, and are the fewest', () => {
    fc.assert(
      fc.property(sequence, sequence, (from, to) => {
        const edits = asked(from, to) ?? [];
        let [x, y, made] = [0, 0, 0];
        for (const { removed, added, same } of edits) {
          x += removed;
          y += added;
          made += removed + added;
          expect(from.slice(x, x + same)).toEqual(to.slice(y, y + same));
          x += same;
          y += same;
        }
        expect([x, y, made]).toEqual([from.length, to.length, fewest(from, to)]);
      }),
    );
  });

  it('are none where there are more than may be', () => {
    fc.assert(
      fc.property(sequence, sequence, fc.nat(40), (from, to, most) => {
        expect(asked(from, to, most) === null).toBe(fewest(from, to) > most);
      }),
    );
  });

  it('are nothing between the same, and everything between strangers', () => {
    expect(asked([], [])).toEqual([]);
    expect(asked([1, 2], [1, 2])).toEqual([{ removed: 0, added: 0, same: 2 }]);
    expect(asked([1, 2], [3])).toEqual([{ removed: 2, added: 1, same: 0 }]);
    expect(asked([], [1])).toEqual([{ removed: 0, added: 1, same: 0 }]);
  });
});
