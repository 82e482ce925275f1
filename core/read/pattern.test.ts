import fc from 'fast-check';
import { RE2JS } from 're2js';
import { describe, expect, it } from 'vitest';
import { compilePattern, isMatch, rememberSearch, searchFor, takeWanted } from './pattern';
import { patternSize } from './pattern-size';

const pieces = fc.constantFrom(
  ...[
    'a',
    'é',
    '.',
    '\\d',
    '\\pL',
    '\\p{Greek}',
    '[a-z]',
    '[]x]',
    '[^\\]a]',
    '[[:alpha:]]',
    '\\x{10FFFF}',
    '\\Qa{9}\\E',
  ],
  ...['\\(', '\\\\', '^', '$', '\\b', '{', '}', '£'],
);
const repeats = fc.constantFrom('', '', '', '*', '+?', '?', '{3}', '{2,5}', '{4,}', '{0,9}', '{30}', '{,3}');
const pattern = fc.letrec<{ whole: string; piece: string; group: string }>((tie) => ({
  group: fc
    .tuple(fc.constantFrom('(', '(?:', '(?P<n>', '(?i:'), tie('whole'), fc.constantFrom('', '|b'))
    .map(([open, inner, other]) => `${open}${inner}${other})`),
  piece: fc
    .tuple(fc.oneof({ maxDepth: 3 }, pieces, tie('group')), repeats)
    .map(([said, repeated]) => `${said}${repeated}`),
  whole: fc.array(tie('piece'), { minLength: 1, maxLength: 4 }).map((said) => said.join('')),
})).whole;

const compiled = (said: string): RE2JS | null => {
  try {
    return RE2JS.compile(said, RE2JS.CASE_INSENSITIVE);
  } catch {
    return null;
  }
};

describe('the size of a pattern', () => {
  it('is at least what it compiles to, worked out before', () => {
    fc.assert(
      fc.property(pattern, (said) => {
        const program = patternSize(said) < 20_000 ? compiled(said) : null;
        expect(patternSize(said), said).toBeGreaterThanOrEqual(program?.programSize() ?? 0);
      }),
      { numRuns: Number(process.env.SHRIKE_SEARCH ?? 100) * 20 },
    );
  });
  it('of what is no pattern is some number', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'a()[]{}|\\*+?,19Q:pE^') }), (said) => {
        expect(patternSize(said)).toBeGreaterThan(0);
      }),
    );
  });
});

describe('a pattern', () => {
  it.each(['price.{0,40}EUR', '(from|ab) £?\\d{1,6}', '\\pL{3,20}', '^(?:\\w+ ){1,30}$', 'x{400}'])(
    'is taken: %s',
    (said) => expect(compilePattern(said).ok).toBe(true),
  );
  it.each([
    '((a?){1000})x',
    '(((a{10}){10}){10})',
    `(${'\\pL'.repeat(95)}){1000}`,
    `${'[a-z]{300}'.repeat(9)}`,
    '(a{2,900}b){1,900}',
    'a'.repeat(301),
    '',
    '(',
    '(?<=a)b',
    '(a)\\1',
  ])('is refused with a sentence before it costs anything: %s', (said) =>
    expect(compilePattern(said)).toMatchObject({ ok: false, error: expect.stringMatching(/\w+/) as unknown }),
  );
});

describe('a search', () => {
  const heavy = { pattern: '(?:a|b)*a(?:a|b){200}c', text: 'ab'.repeat(5_000) };

  it('finds what the plain search finds', () => {
    fc.assert(
      fc.property(pattern, fc.string({ unit: fc.constantFrom(...'ab é9x£(') }), (said, text) => {
        if (!compilePattern(said).ok) return;
        expect(isMatch({ pattern: said, text })).toBe(compiled(said)?.matcher(text).find());
      }),
    );
  });

  it('that would take too long here is asked of a thread once, and known from then on', () => {
    takeWanted();
    expect([isMatch(heavy), isMatch(heavy)]).toEqual([null, null]);
    const wanted = takeWanted();
    expect([wanted, takeWanted()]).toEqual([[heavy], []]);
    rememberSearch(heavy, searchFor(heavy));
    expect([isMatch(heavy), takeWanted()]).toEqual([false, []]);
  });

  it('that is too long for a thread, too, is not asked again', () => {
    const longer = { ...heavy, text: 'b'.repeat(20_000) };
    expect(isMatch(longer)).toBeNull();
    takeWanted();
    rememberSearch(longer, null);
    expect([isMatch(longer), takeWanted()]).toEqual([null, []]);
  });

  it('is asked for up to so many at once', () => {
    for (let nth = 0; nth < 60; nth += 1) isMatch({ ...heavy, text: `${nth}${heavy.text}` });
    expect(takeWanted().length).toBeLessThanOrEqual(20);
  });
});
