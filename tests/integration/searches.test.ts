import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { isMatch, takeWanted } from '#core/read/pattern';
import { withSearches } from '#server/pipeline/searches';
import { ReadingPool } from '#server/reading/pool';

const pool = new ReadingPool({ threads: 2, deadlineMs: 5_000, hold: true });
afterAll(() => pool.close());
beforeEach(() => void takeWanted());

const judging = (pattern: string, text: string) => {
  let times = 0;
  const judge = () => {
    times += 1;
    return { found: isMatch({ pattern, text }), times };
  };
  return withSearches(pool, judge);
};
const page = `${'Our jars come by the case. '.repeat(4_000)}From £24.00 a case.`;

describe('a pattern of a rule on a long text', () => {
  it('is looked for in a thread, and the run judges by what that found', async () => {
    const pattern = '(?:from|ab) £\\d{1,4}\\.\\d\\d .{0,200}case';
    expect(await judging(pattern, page)).toEqual({ found: true, times: 2 });
    expect(await judging(pattern, `${page}!`)).toEqual({ found: true, times: 2 });
    expect(await judging(pattern, page)).toEqual({ found: true, times: 1 });
  });
  it('that is found in no time is not asked of one', async () => {
    expect(await judging('£2\\d', 'From £24.00')).toEqual({ found: true, times: 1 });
  });
  it('that no thread comes to the end of stays undecided, and the run goes on', async () => {
    const hasty = new ReadingPool({ threads: 1, deadlineMs: 50, hold: true });
    const text = Array.from({ length: 400_000 }, (_, at) => ((at * 2_654_435_761) % 7 < 3 ? 'a' : 'b')).join('');
    const found = await withSearches(hasty, () => isMatch({ pattern: '(?:a|b)*a(?:a|b){480}c', text }));
    expect(found).toBeNull();
    await hasty.close();
  });
});
