import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE } from './interval';
import { nextMinute, quietFault, quietUntil } from './quiet';

const LONDON = 'Europe/London';
const at = (day: string, time: string) => Date.parse(`${day}T${time}:00Z`);
const NIGHT = { from: 22 * 60, to: 7 * 60 };

describe('quiet hours', () => {
  it.each([
    ['before they begin', at('2026-11-23', '21:59'), null],
    ['at their beginning', at('2026-11-23', '22:00'), at('2026-11-24', '07:00')],
    ['after midnight', at('2026-11-24', '02:00'), at('2026-11-24', '07:00')],
    ['a minute before their end', at('2026-11-24', '06:59'), at('2026-11-24', '07:00')],
    ['at their end, which is none of them', at('2026-11-24', '07:00'), null],
  ])('%s', (_when, moment, until) => {
    expect(quietUntil(NIGHT, LONDON, moment)).toBe(until);
  });

  it('within one day', () => {
    const lunch = { from: 12 * 60, to: 13 * 60 };
    expect(quietUntil(lunch, LONDON, at('2026-11-24', '12:30'))).toBe(at('2026-11-24', '13:00'));
    expect(quietUntil(lunch, LONDON, at('2026-11-24', '13:00'))).toBeNull();
    expect(quietUntil(lunch, LONDON, at('2026-11-24', '02:00'))).toBeNull();
  });

  it('end, at a clock change, with the first moment after the gap, and with the first of two times', () => {
    // 01:30 is not there on 29 March 2026; it is there twice on 25 October.
    expect(quietUntil({ from: 22 * 60, to: 90 }, LONDON, at('2026-03-29', '00:30'))).toBe(at('2026-03-29', '01:00'));
    expect(quietUntil({ from: 22 * 60, to: 90 }, LONDON, at('2026-03-29', '01:00'))).toBeNull();
    expect(quietUntil({ from: 22 * 60, to: 90 }, LONDON, at('2026-10-25', '00:10'))).toBe(at('2026-10-25', '00:30'));
    expect(quietUntil({ from: 22 * 60, to: 90 }, LONDON, at('2026-10-25', '00:30'))).toBeNull();
    expect(quietUntil({ from: 90, to: 7 * 60 }, LONDON, at('2026-10-25', '01:30'))).toBe(at('2026-10-25', '07:00'));
    expect(quietUntil({ from: 90, to: 7 * 60 }, LONDON, at('2026-03-29', '01:00'))).toBe(at('2026-03-29', '06:00'));
  });

  it('are over at their end, whatever the zone, the day and the hours: nothing is held for ever', () => {
    const zones = fc.constantFrom(
      LONDON,
      'America/New_York',
      'Australia/Lord_Howe',
      'Asia/Kathmandu',
      'America/St_Johns',
    );
    const minute = fc.integer({ min: 0, max: 1439 });
    fc.assert(
      fc.property(zones, minute, minute, fc.integer({ min: 0, max: 400 * 24 * 60 }), (zone, from, to, later) => {
        fc.pre(from !== to);
        const moment = at('2026-01-01', '00:00') + later * MINUTE;
        const until = quietUntil({ from, to }, zone, moment);
        if (until === null) return;
        expect(until).toBeGreaterThan(moment);
        expect(until - moment).toBeLessThanOrEqual(25 * HOUR);
        expect(quietUntil({ from, to }, zone, until)).toBeNull();
      }),
    );
  });

  it('that never end, or are no times, are refused', () => {
    expect(quietFault({ from: 60, to: 60 })).toMatch(/never end/);
    expect(quietFault({ from: -1, to: 60 })).not.toBeNull();
    expect(quietFault({ from: 0, to: 1440 })).not.toBeNull();
    expect(quietFault({ from: 1.5, to: 60 })).not.toBeNull();
    expect(quietFault(NIGHT)).toBeNull();
  });
});

describe('the next time of a minute of the day', () => {
  it('is this moment, later today, or tomorrow', () => {
    expect(nextMinute(17 * 60, LONDON, at('2026-11-24', '17:00'))).toBe(at('2026-11-24', '17:00'));
    expect(nextMinute(17 * 60, LONDON, at('2026-11-24', '09:00'))).toBe(at('2026-11-24', '17:00'));
    expect(nextMinute(17 * 60, LONDON, at('2026-11-24', '17:01'))).toBe(at('2026-11-25', '17:00'));
  });
});
