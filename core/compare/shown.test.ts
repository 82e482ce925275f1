import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { shownPair, shownValue } from './shown';
import { textDifference } from './text';

const text = (words: string) => ({ kind: 'text' as const, text: words });
const lengthOf = (value: ReturnType<typeof shownValue>) => (value.kind === 'text' ? value.text.length : 0);
const LONG = 'The colony is calm and the stores are full. '.repeat(30_000);

describe('a long text as it is shown', () => {
  it('is its beginning, with how long it is', () => {
    expect(shownValue(text(LONG))).toMatchObject({ whole: LONG.length });
    expect(lengthOf(shownValue(text(LONG)))).toBeLessThan(2100);
    expect(shownValue(text('short'))).toEqual(text('short'));
  });

  it('shows what differs, however deep in it that stands', () => {
    const other = `${LONG.slice(0, 900_000)}Varroa was found.${LONG.slice(900_000)}`;
    const [from, to] = shownPair(text(LONG), text(other));
    expect(lengthOf(from) + lengthOf(to)).toBeLessThan(2000);
    if (from.kind !== 'text' || to.kind !== 'text') throw new Error('no texts');
    expect(to.text).toContain('Varroa was found.');
    const added = textDifference(from.text, to.text).filter(({ kind }) => kind === 'added');
    expect(added.map((piece) => piece.text).join('')).toContain('Varroa');
  });

  it('is never more than a page, and never half a character, whatever the two are', () => {
    const long = fc.string({ unit: 'grapheme', minLength: 0, maxLength: 40 }).map((piece) => piece.repeat(200));
    fc.assert(
      fc.property(long, long, long, (same, a, b) => {
        const [from, to] = shownPair(text(same + a), text(same + b));
        for (const each of [from, to]) {
          expect(lengthOf(each)).toBeLessThanOrEqual(2002);
          expect(each.kind === 'text' && Buffer.from(each.text, 'utf8').toString('utf8') === each.text).toBe(true);
        }
        if (same + a !== same + b) expect(from).not.toEqual(to);
      }),
    );
  });
});
