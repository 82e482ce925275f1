import { describe, expect, it } from 'vitest';
import { HOUR } from '#core/when/interval';
import { untilOf } from './until';

const LONDON = 'Europe/London';
const at = (time: string) => Date.parse(time);
const until = (said: string, now: string, zone = LONDON) => {
  const found = untilOf(said, at(now), zone);
  return found === null ? null : new Date(found).toISOString().slice(0, 16);
};

describe('until when something is put off', () => {
  it.each([
    ['2026-11-26T23:30:00Z', '2026-11-27T08:00'],
    // A day begins at midnight, not at eight.
    ['2026-11-27T02:00:00Z', '2026-11-28T08:00'],
    ['2026-11-27T07:00:20Z', '2026-11-28T08:00'],
    ['2026-11-27T08:00:20Z', '2026-11-28T08:00'],
  ])('tomorrow, said at %s, is %s', (now, then) => {
    expect(until('tomorrow', now)).toBe(then);
  });

  it.each([
    ['2026-11-27T12:00:00Z', '2026-11-30T08:00'],
    ['2026-11-29T23:59:00Z', '2026-11-30T08:00'],
    ['2026-11-30T06:00:00Z', '2026-12-07T08:00'],
  ])('next Monday, said at %s, is %s', (now, then) => {
    expect(until('monday', now)).toBe(then);
  });

  it('goes by the calendar of its reader, also where the clock is turned', () => {
    expect(until('tomorrow', '2026-11-27T05:00:00Z', 'America/New_York')).toBe('2026-11-28T13:00');
    expect(until('tomorrow', '2026-11-27T04:30:00Z', 'America/New_York')).toBe('2026-11-27T13:00');
    expect(until('tomorrow', '2026-10-24T20:00:00Z')).toBe('2026-10-25T08:00');
    expect(until('tomorrow', '2026-03-28T20:00:00Z')).toBe('2026-03-29T07:00');
  });

  it('is two hours from now, or nothing where nobody offered it', () => {
    expect(untilOf('hours', at('2026-11-27T12:00:00Z'), LONDON)).toBe(at('2026-11-27T12:00:00Z') + 2 * HOUR);
    expect([
      until('day', '2026-11-27T12:00:00Z'),
      until('', '2026-11-27T12:00:00Z'),
      until('__proto__', '2026-11-27T12:00:00Z'),
    ]).toEqual([null, null, null]);
  });
});
