import { describe, expect, it } from 'vitest';
import { readLocal, writeLocal } from './wall-clock';

describe('a moment as a form says it', () => {
  it('is read in its zone, and written as it was said', () => {
    const at = readLocal('2026-12-03T08:00', 'Europe/London');
    expect(at).toBe(Date.UTC(2026, 11, 3, 8));
    expect(writeLocal(at ?? 0, 'Europe/London')).toBe('2026-12-03T08:00');
    expect(readLocal('2026-07-03T08:00', 'Europe/London')).toBe(Date.UTC(2026, 6, 3, 7));
  });

  it('is the first moment after a gap, and the first of two', () => {
    expect(readLocal('2026-03-29T01:30', 'Europe/London')).toBe(Date.UTC(2026, 2, 29, 1));
    expect(readLocal('2026-10-25T01:30', 'Europe/London')).toBe(Date.UTC(2026, 9, 25, 0, 30));
  });

  it.each([
    '',
    'tomorrow',
    '2026-02-31T08:00',
    '2026-12-03',
    '2026-12-03T24:00',
    '2026-12-03T08:60',
    '2026-12-03 08:00',
    '9'.repeat(99),
  ])('is none: %s', (said) => {
    expect(readLocal(said, 'Europe/London')).toBeNull();
  });

  it('is none in a zone that is none', () => {
    expect(readLocal('2026-12-03T08:00', 'Nowhere/At all')).toBeNull();
  });
});
