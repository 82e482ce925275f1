/** A stretch of edits: so many of the one go, so many of the other come, and so many after them stayed the same. */
export interface Edit {
  removed: number;
  added: number;
  same: number;
}

/**
 * The fewest removals and additions by which one sequence becomes another (Myers, "An O(ND) Difference Algorithm and
 * Its Variations", 1986, greedy), as stretches in order; null where there are more than `most`. Elements are numbers
 * that are the same where the elements are. Takes at most `most²` steps beside one for each element, and `2·most²`
 * bytes.
 */
export function editsBetween(from: Int32Array, to: Int32Array, most: number): Edit[] | null {
  if (unmatched(from, to) > most) return null;
  const reached = waysBetween(from, to, most);
  return reached === null ? null : stretchesOf(reached, from.length, to.length);
}

/** How many elements of either have no like in the other, each taken once: every edit script has as many at least. */
function unmatched(from: Int32Array, to: Int32Array): number {
  const more = new Map<number, number>();
  for (const each of from) more.set(each, (more.get(each) ?? 0) + 1);
  for (const each of to) more.set(each, (more.get(each) ?? 0) - 1);
  let count = 0;
  for (const each of more.values()) count += Math.abs(each);
  return count;
}

/**
 * How far along `from` one comes with so many edits, for each diagonal (the place in `from` less that in `to`) from
 * `-edits` to `edits` by twos; the last of them comes to both ends.
 */
function waysBetween(from: Int32Array, to: Int32Array, most: number): Int32Array[] | null {
  const bound = Math.min(most, from.length + to.length);
  const furthest = new Int32Array(2 * bound + 3);
  const middle = bound + 1;
  const reached: Int32Array[] = [];
  for (let edits = 0; edits <= bound; edits += 1) {
    const here = new Int32Array(edits + 1);
    for (let diagonal = -edits; diagonal <= edits; diagonal += 2) {
      const place = middle + diagonal;
      let x = comesByAdding(furthest, place, diagonal, edits)
        ? (furthest[place + 1] as number)
        : (furthest[place - 1] as number) + 1;
      let y = x - diagonal;
      while (x < from.length && y < to.length && from[x] === to[y]) {
        x += 1;
        y += 1;
      }
      furthest[place] = x;
      here[(diagonal + edits) / 2] = x;
      if (x >= from.length && y >= to.length) return [...reached, here];
    }
    reached.push(here);
  }
  return null;
}

const comesByAdding = (furthest: Int32Array, place: number, diagonal: number, edits: number): boolean =>
  diagonal === -edits || (diagonal !== edits && (furthest[place - 1] as number) < (furthest[place + 1] as number));

/** Goes back from both ends by the edit that led to each place. */
function stretchesOf(reached: Int32Array[], fromLength: number, toLength: number): Edit[] {
  const stretches: Edit[] = [];
  let [x, y] = [fromLength, toLength];
  let now: Edit = { removed: 0, added: 0, same: 0 };
  const note = () => {
    if (now.removed + now.added + now.same > 0) stretches.push(now);
  };
  for (let edits = reached.length - 1; edits > 0; edits -= 1) {
    const diagonal = x - y;
    const before = reached[edits - 1] as Int32Array;
    const at = (of: number) => before[(of + edits - 1) / 2] ?? -1;
    const added = diagonal === -edits || (diagonal !== edits && at(diagonal - 1) < at(diagonal + 1));
    const [fromX, fromY] = added
      ? [at(diagonal + 1), at(diagonal + 1) - diagonal - 1]
      : [at(diagonal - 1), at(diagonal - 1) - diagonal + 1];
    const same = added ? x - fromX : x - fromX - 1;
    if (same > 0) {
      note();
      now = { removed: 0, added: 0, same };
    }
    if (added) now.added += 1;
    else now.removed += 1;
    [x, y] = [fromX, fromY];
  }
  if (x > 0) {
    note();
    now = { removed: 0, added: 0, same: x };
  }
  note();
  return stretches.reverse();
}
