import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatDuration, formatInstant, formatRecent } from './format';
import { timeTicks } from './ticks';
import { backOff, DAY, describeInterval, firstDue, HOUR, intervalLength, MINUTE, nextDue, shareOf } from './interval';

const LONDON = { locale: 'en-GB', zone: 'Europe/London' };
const AT = Date.UTC(2026, 10, 21, 9, 12, 4);

describe('an interval', () => {
  it('has a length and words', () => {
    expect([intervalLength({ count: 2, unit: 'hour' }), describeInterval({ count: 2, unit: 'hour' })]).toEqual([
      2 * HOUR,
      '2 hours',
    ]);
    expect(describeInterval({ count: 1, unit: 'day' })).toBe('day');
  });

  it('keeps its grid: the next due time lies after now, on it, and no further than one step', () => {
    const times = fc.tuple(
      fc.integer({ min: 0, max: 10 * DAY }),
      fc.integer({ min: MINUTE, max: DAY }),
      fc.integer({ min: -HOUR, max: 30 * DAY }),
    );
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
    const fullest = Math.max(
      ...[...new Set(buckets)].map((bucket) => buckets.filter((each) => each === bucket).length),
    );
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

describe('the marks of a time axis', () => {
  const zones = ['Europe/London', 'America/New_York', 'Asia/Kolkata', 'Australia/Lord_Howe', 'Pacific/Apia'];
  const words = (from: number, to: number, zone = 'Europe/London') =>
    timeTicks(from, to, { locale: 'en-GB', zone }).map((tick) => tick.words);

  it('stand at midnights of the reader’s own place, and name the day', () => {
    expect(words(AT - 4 * DAY, AT)).toEqual(['18 Nov', '19 Nov', '20 Nov', '21 Nov']);
    const [first] = timeTicks(AT - 4 * DAY, AT, { locale: 'en-GB', zone: 'America/New_York' });
    expect(new Date(first?.at ?? 0).toISOString()).toBe('2026-11-18T05:00:00.000Z');
  });

  it('fall on whole hours within a day, with the day at its midnight', () => {
    expect(words(AT - 18 * HOUR, AT)).toEqual(['18:00', '21:00', '21 Nov', '03:00', '06:00', '09:00']);
    expect(words(AT - 4 * HOUR, AT)).toEqual(['06:00', '07:00', '08:00', '09:00']);
  });

  it('fall on weeks, months and years where the stretch is long', () => {
    expect(words(AT - 28 * DAY, AT)).toEqual(['26 Oct', '2 Nov', '9 Nov', '16 Nov']);
    expect(words(AT - 150 * DAY, AT)).toEqual(['Jul 2026', 'Aug 2026', 'Sept 2026', 'Oct 2026', 'Nov 2026']);
    expect(words(AT - 1500 * DAY, AT)).toEqual(['2023', '2024', '2025', '2026']);
  });

  it('go down to seconds', () => {
    expect(words(AT - 4 * 1000, AT)).toEqual(['09:12:00', '09:12:01', '09:12:02', '09:12:03', '09:12:04']);
  });

  it('keep to midnight where the clock changes', () => {
    const changed = Date.UTC(2026, 9, 27, 12);
    const hours = timeTicks(changed - 4 * DAY, changed, LONDON).map(({ at }) => formatInstant(at, 'time', LONDON));
    expect(new Set(hours)).toEqual(new Set(['00:00']));
  });

  it('are never too many, never doubled, and lie on the axis, wherever and however long it is', () => {
    const axis = fc.tuple(
      fc.integer({ min: 0, max: 60 * 365 }),
      fc.double({ min: 3, max: 12, noNaN: true }),
      fc.constantFrom(...zones),
    );
    fc.assert(
      fc.property(axis, ([day, power, zone]) => {
        const from = day * DAY + Math.round(power * HOUR);
        const to = from + Math.round(10 ** power);
        const ticks = timeTicks(from, to, { locale: 'en-GB', zone });
        expect(ticks.length).toBeLessThanOrEqual(8);
        for (const { at } of ticks) expect(at >= from && at <= to).toBe(true);
        expect(new Set(ticks.map((tick) => tick.at)).size).toBe(ticks.length);
      }),
    );
  });

  it('are none on an axis without length', () => {
    expect(timeTicks(AT, AT, LONDON)).toEqual([]);
  });
});
