import { describe, expect, it } from 'vitest';
import { quotaFault, boundsWords, isNearlySpent } from './quota';

const NONE = { anHour: null, aDay: null, aMonth: null };

describe('what is bounded, in words', () => {
  it('names each bound that is set, and whose it is', () => {
    const set = [
      { ...NONE, of: 'texts' as const, aMonth: 1 },
      { ...NONE, of: 'mails' as const, anHour: 20, aDay: 200 },
      { ...NONE, of: 'mails a reader' as const, aDay: 10 },
    ];
    expect(boundsWords(set)).toEqual([
      '20 mails in 60 minutes',
      '200 mails in 24 hours',
      '10 mails to each reader in 24 hours',
      'one short text a month',
    ]);
  });

  it('is nothing where none is set', () => {
    expect(boundsWords([])).toEqual([]);
    expect(boundsWords([{ ...NONE, of: 'mails' }])).toEqual([]);
  });
});

describe('a bound', () => {
  it.each([0, -1, 1.5, Number.NaN, 1_000_001])('is refused as %d', (anHour) =>
    expect(quotaFault({ ...NONE, anHour })).toMatch(/whole number/),
  );
  it.each([null, 1, 1_000_000])('may be %s', (anHour) => expect(quotaFault({ ...NONE, anHour })).toBeNull());
  it('is nearly spent at eight tenths, and not before', () => {
    expect(isNearlySpent({ used: 8, most: 10 })).toBe(true);
    expect(isNearlySpent({ used: 7, most: 10 })).toBe(false);
    expect(isNearlySpent({ used: 79, most: 99 })).toBe(false);
    expect(isNearlySpent({ used: 80, most: 99 })).toBe(true);
  });
});
