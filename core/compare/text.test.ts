import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { textDifference, wordsChanged } from './text';

describe('the difference of two texts', () => {
  it('is told by words, with what stayed the same around it', () => {
    expect(textDifference('standstill in Harrow Mere', 'standstill in Harrow Mere, Coldwell and Sallow End')).toEqual([
      { kind: 'same', text: 'standstill in Harrow Mere' },
      { kind: 'added', text: ', Coldwell and Sallow End' },
    ]);
  });

  it('cuts what stayed the same to its neighbourhood', () => {
    const long = 'bees '.repeat(200);
    const [same, removed] = textDifference(`${long}low ${long}`, `${long}high ${long}`);
    expect([same?.text.startsWith('…'), (same?.text.length ?? 0) < 100, removed?.text]).toEqual([true, true, 'low']);
  });

  it('shows of that whole words, and whole characters where a word has no end', () => {
    const long = 'report every sighting to the inspector. '.repeat(20);
    const said = textDifference(`${long}low ${long}`, `${long}high ${long}`).flatMap(
      ({ text }) => text.match(/\p{L}+/gu) ?? [],
    );
    expect([...new Set(said)].sort()).toEqual(['every', 'high', 'inspector', 'low', 'report', 'sighting', 'the', 'to']);
    const bees = '🐝'.repeat(101);
    for (const [from, to] of [
      [`${bees} low`, `${bees} high`],
      [`low ${bees}`, `high ${bees}`],
      [bees, bees],
      [`x${bees} low x${bees}`, `x${bees} high x${bees}`],
    ] as const) {
      expect(textDifference(from, to).filter(({ text }) => /\p{Cs}/u.test(text))).toEqual([]);
    }
  });

  it('shows the beginning of what did not change at all', () => {
    expect(textDifference('hive', 'hive')).toEqual([{ kind: 'same', text: 'hive' }]);
    expect(textDifference('', '')).toEqual([]);
    const [piece, ...more] = textDifference('bees '.repeat(200), 'bees '.repeat(200));
    expect([piece?.text.startsWith('bees bees'), piece?.text.endsWith('…'), more.length]).toEqual([true, true, 0]);
  });

  it('says of any two texts what the one becomes the other by', () => {
    const words = fc
      .array(fc.constantFrom('bee', 'hive', 'wax', 'low', 'high'), { maxLength: 12 })
      .map((each) => each.join(' '));
    fc.assert(
      fc.property(words, words, (from, to) => {
        const pieces = textDifference(from, to);
        const said = (kind: 'removed' | 'added') =>
          pieces
            .filter((piece) => piece.kind === kind)
            .map((piece) => piece.text)
            .join('');
        expect(said('removed') === '' && said('added') === '').toBe(from === to);
        if (from.length + to.length < 100) {
          expect(
            pieces
              .filter((piece) => piece.kind !== 'added')
              .map((piece) => piece.text)
              .join(''),
          ).toBe(from);
          expect(
            pieces
              .filter((piece) => piece.kind !== 'removed')
              .map((piece) => piece.text)
              .join(''),
          ).toBe(to);
        }
      }),
    );
  });

  it('shows texts that have nothing in common whole', () => {
    const [from, to] = [7, 11].map((step) => Array.from({ length: 4000 }, (_, at) => `w${at * step}`).join(' '));
    expect(textDifference(from ?? '', to ?? '').map((piece) => piece.kind)).toContain('removed');
  });
});

describe('how many words changed', () => {
  const long = Array.from({ length: 40_000 }, (_, at) => `w${at}`).join(' ');

  it('is exact however far apart they stand', () => {
    expect(wordsChanged(`low ${long} low`, `high ${long} high`)).toBe(4);
    expect(wordsChanged(`${long}, ${long}`, `${long}; ${long} more`)).toBe(1);
    expect(wordsChanged(long, long)).toBe(0);
  });

  it('is all of both where nothing is left', () => {
    const [from = '', to = ''] = [7, 11].map((step) =>
      Array.from({ length: 4000 }, (_, at) => `w${at}x${step}`).join(' '),
    );
    expect(wordsChanged(from, to)).toBe(8000);
  });
});
