import { describe, expect, it } from 'vitest';
import { LONGEST_SITE_NAME, siteNameOf } from './site-name';

describe('the name of a site', () => {
  it.each([
    ['Skepwright', 'Skepwright'],
    ['  Combe &\n\tLarder ', 'Combe & Larder'],
    ['\u202eSkep\u200bwright', 'Skepwright'],
    ['Skep\ud800wright', 'Skep\ufffdwright'],
  ])('said as %j is %j', (said, name) => expect(siteNameOf(said)).toBe(name));

  it.each(['', '  ', '\u200b', '\u202e \u2066', '\n'])('is none where %j is all that is said', (said) =>
    expect(siteNameOf(said)).toBe(null),
  );

  it('is cut where no list has room for it, and never within a character', () => {
    expect(siteNameOf('n'.repeat(100_000))).toBe('n'.repeat(LONGEST_SITE_NAME));
    expect(siteNameOf(`${'n'.repeat(LONGEST_SITE_NAME - 1)}🐝🐝`)).toBe('n'.repeat(LONGEST_SITE_NAME - 1));
  });
});
