import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatDuration, formatInstant, formatRecent } from './format';
import { backOff, DAY, describeInterval, firstDue, HOUR, intervalLength, MINUTE, nextDue, shareOf } from './interval';

const LONDON = { locale: 'en-GB', zone: 'Europe/London' };
const AT = Date.UTC(2026, 10, 21, 9, 12, 4);

describe('an interval', () => {
  it('has a length and words', () => {
    expect([intervalLength({ count: 2, unit: 'hour' }), describeInterval({ count: 2, unit: 'hour' })]).toEqual([2 * HOUR, '2 hours']);
    expect(describeInterval({ count: 1, unit: 'day' })).toBe('day');
  });

  it('keeps its grid: the next due time lies after now, on it, and no further than one step', () => {
    const times = fc.tuple(fc.integer({ min: 0, max: 10 * DAY }), fc.integer({ min: MINUTE, max: DAY }), fc.integer({ min: -HOUR, max: 30 * DAY }));
    fc.assert(
      fc.property(times, ([previous, length, later]) => {
        const now = previous + later;
        const due = nextDue(previous, length, now);
        expect(due).toBeGreaterThan(now);
        expect((due - previous) % length).toBe(0);
        expect(due - Math.max(now, previous)).toBeLessThanOrEqual(length);
      }),
    );
  });

  it('makes up a long stop with one run', () => {
    expect(nextDue(0, HOUR, 10 * HOUR + 1)).toBe(11 * HOUR);
  });

  it('spreads sources that begin together over a tenth of it', () => {
    const dues = Array.from({ length: 10_000 }, (_, at) => firstDue(0, HOUR, shareOf(`source ${at}`)));
    expect(Math.min(...dues)).toBeGreaterThanOrEqual(0.9 * HOUR);
    expect(Math.max(...dues)).toBeLessThanOrEqual(HOUR);
    const buckets = dues.map((due) => Math.floor(due / 10_000));
    const fullest = Math.max(...[...new Set(buckets)].map((bucket) => buckets.filter((each) => each === bucket).length));
    expect(fullest).toBeLessThan(1000);
  });
});

describe('back-off', () => {
  it('doubles up to its longest', () => {
    expect([1, 2, 3, 4, 50].map((attempts) => backOff(attempts, 15, 100))).toEqual([15, 30, 60, 100, 100]);
  });
});

describe('writing times', () => {
  it('follows the reader’s place', () => {
    expect(formatInstant(AT, 'exact', LONDON)).toBe('Sat 21 Nov 2026 09:12:04 GMT');
    expect(formatInstant(AT, 'exact', { locale: 'en-GB', zone: 'Europe/Berlin' })).toContain('10:12:04');
  });

  it('is as short as the day allows', () => {
    expect(formatRecent(AT, AT + HOUR, LONDON)).toBe('09:12');
    expect(formatRecent(AT, AT + 2 * DAY, LONDON)).toBe('Sat 09:12');
    expect(formatRecent(AT, AT + 40 * DAY, LONDON)).toBe('21 Nov');
  });

  it('gives a stretch in its two largest units', () => {
    expect([42, 400, 12_000, 6 * MINUTE, 130 * MINUTE, 56 * HOUR].map(formatDuration)).toEqual([
      '42 ms',
      '0.4 s',
      '12 s',
      '6 min',
      '2 h 10 min',
      '2 d 8 h',
    ]);
  });
});
