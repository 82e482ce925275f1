import { describe, expect, it } from 'vitest';
import { formatBytes } from './retention';

describe('bytes in words', () => {
  it.each([
    [0, '0 B'],
    [1, '1 B'],
    [999, '999 B'],
    [1_000, '1 kB'],
    [1_549, '1.5 kB'],
    [999_900, '1,000 kB'],
    [4_210_000_000, '4.2 GB'],
    [150_000_000, '150 MB'],
  ])('%d are %s', (bytes, said) => expect(formatBytes(bytes, 'en-GB')).toBe(said));
  it('are written as her language does', () => expect(formatBytes(1_549, 'de-DE')).toBe('1,5 kB'));
});
