import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import { cadenceFault, cutsDue, describeCadence, nextCut, nextCuts, type Cadence, type Planned } from './cadence';
import { DAY, HOUR, MINUTE, type Instant } from './interval';

const LONDON = 'Europe/London';
const at = (text: string, zone = LONDON): Instant => DateTime.fromISO(text, { zone }).toMillis();
const said = (cuts: Instant[], zone = LONDON) =>
  cuts.map((cut) =>
    DateTime.fromMillis(cut, { zone })
      .toISO({ suppressSeconds: true, suppressMilliseconds: true })
      ?.replace('+00:00', 'Z'),
  );
const clock = (hour: number, minute = 0) => hour * 60 + minute;

const daily = (minutes: number): Cadence => ({ cut: 'daily', at: minutes, zone: LONDON });
const every = (hours: number, from = clock(6)): Cadence => ({ cut: 'every', hours, from, zone: LONDON });
const weekly = (days: number[], minutes = clock(8)): Cadence => ({ cut: 'weekly', days, at: minutes, zone: LONDON });
const monthly = (day: number): Cadence => ({ cut: 'monthly', day, at: clock(8), zone: LONDON });

describe('the cuts of a cadence', () => {
  const CUTS: [string, Cadence, string, string[]][] = [
    [
      'daily, over the clocks going forward: 23 hours',
      daily(clock(7, 30)),
      '2026-03-28T07:00',
      ['2026-03-28T07:30Z', '2026-03-29T07:30+01:00', '2026-03-30T07:30+01:00'],
    ],
    [
      'daily at a time that does not exist: the first moment after the gap',
      daily(clock(1, 30)),
      '2026-03-28T12:00',
      ['2026-03-29T02:00+01:00', '2026-03-30T01:30+01:00'],
    ],
    [
      'daily at a time that exists twice: the first',
      daily(clock(1, 30)),
      '2026-10-24T12:00',
      ['2026-10-25T01:30+01:00', '2026-10-26T01:30Z'],
    ],
    [
      'monthly on the 31st: the last day of a month without one',
      monthly(31),
      '2026-01-01T00:00',
      ['2026-01-31T08:00Z', '2026-02-28T08:00Z', '2026-03-31T08:00+01:00', '2026-04-30T08:00+01:00'],
    ],
    [
      'monthly on the 29th, in a leap year',
      monthly(29),
      '2028-02-01T00:00',
      ['2028-02-29T08:00Z', '2028-03-29T08:00+01:00'],
    ],
    [
      'every 5 hours from 06:00',
      every(5),
      '2026-11-02T05:59',
      [
        '2026-11-02T06:00Z',
        '2026-11-02T11:00Z',
        '2026-11-02T16:00Z',
        '2026-11-02T21:00Z',
        '2026-11-03T02:00Z',
        '2026-11-03T06:00Z',
      ],
    ],
    [
      'every 3 hours from 06:00',
      every(3),
      '2026-11-02T06:00',
      ['2026-11-02T09:00Z', '2026-11-02T12:00Z', '2026-11-02T15:00Z', '2026-11-02T18:00Z'],
    ],
    [
      'every 4 hours over the clocks going forward: elapsed hours, anew from 06:00',
      every(4),
      '2026-03-28T21:00',
      ['2026-03-28T22:00Z', '2026-03-29T03:00+01:00', '2026-03-29T06:00+01:00', '2026-03-29T10:00+01:00'],
    ],
    [
      'every 4 hours over the clocks going back: never longer than that apart',
      every(4),
      '2026-10-24T21:00',
      ['2026-10-24T22:00+01:00', '2026-10-25T01:00Z', '2026-10-25T05:00Z', '2026-10-25T06:00Z'],
    ],
    ['every 24 hours', every(24), '2026-11-02T07:00', ['2026-11-03T06:00Z', '2026-11-04T06:00Z']],
    ['on weekdays', weekly([1, 2, 3, 4, 5]), '2026-11-06T08:00', ['2026-11-09T08:00Z', '2026-11-10T08:00Z']],
    ['on one day', weekly([3]), '2026-11-04T07:59', ['2026-11-04T08:00Z', '2026-11-11T08:00Z']],
    ['at midnight', daily(0), '2026-11-02T00:00', ['2026-11-03T00:00Z']],
  ];
  it.each(CUTS)('%s', (_what, cadence, after, cuts) =>
    expect(said(nextCuts(cadence, at(after), cuts.length))).toEqual(cuts),
  );

  it('are none where they come with what happens, or by hand', () => {
    for (const cadence of [
      { cut: 'at once' },
      { cut: 'at once', gather: HOUR },
      { cut: 'after each run' },
      { cut: 'never' },
    ] as Cadence[])
      expect(nextCut(cadence, 0)).toBeNull();
  });

  it('that were missed are made up by one', () => {
    // Every 3 hours from 06:00, nothing ran from 08:00 to 16:10.
    const missed = cutsDue(every(3), at('2026-11-02T06:00'), at('2026-11-02T16:10'), 100);
    expect(said(missed)).toEqual(['2026-11-02T09:00Z', '2026-11-02T12:00Z', '2026-11-02T15:00Z']);
    expect(said([nextCut(every(3), at('2026-11-02T16:10')) ?? 0])).toEqual(['2026-11-02T18:00Z']);
    expect(cutsDue(every(1), 0, 100 * DAY, 50)).toHaveLength(50);
  });

  it('follow from when the cadence was said: from weekly to daily on a Wednesday, the next is on Thursday', () => {
    expect(said([nextCut(daily(clock(8)), at('2026-11-04T10:00')) ?? 0])).toEqual(['2026-11-05T08:00Z']);
  });
});

const ZONES = [
  'Europe/London',
  'America/New_York',
  'Australia/Lord_Howe',
  'Asia/Kathmandu',
  'Pacific/Apia',
  'America/Santiago',
  'Africa/Cairo',
  'UTC',
];
const zone = fc.constantFrom(...ZONES);
const minutes = fc.integer({ min: 0, max: 24 * 60 - 1 });
const planned: fc.Arbitrary<Planned> = fc.oneof(
  fc.record({ cut: fc.constant('daily' as const), at: minutes, zone }),
  fc.record({ cut: fc.constant('every' as const), hours: fc.integer({ min: 1, max: 24 }), from: minutes, zone }),
  fc.record({
    cut: fc.constant('weekly' as const),
    days: fc.uniqueArray(fc.integer({ min: 1, max: 7 }), { minLength: 1 }),
    at: minutes,
    zone,
  }),
  fc.record({ cut: fc.constant('monthly' as const), day: fc.integer({ min: 1, max: 31 }), at: minutes, zone }),
);
const moment = fc.integer({ min: Date.UTC(2009, 0, 1), max: Date.UTC(2040, 0, 1) });

/** The local days of cuts, as 2026-11-02. */
const daysOf = (cuts: Instant[], { zone: place }: Planned) =>
  cuts.map((cut) => DateTime.fromMillis(cut, { zone: place }).toISODate() ?? '');

describe('any cadence, over clock changes and ten years', () => {
  it('goes on for ever, and passes over no cut that it gave from an earlier moment', () => {
    fc.assert(
      fc.property(planned, moment, fc.integer({ min: 0, max: 100 }), (cadence, after, share) => {
        const cuts = nextCuts(cadence, after, 12);
        expect(cuts).toHaveLength(12);
        expect(cuts.every((cut, n) => cut > (cuts[n - 1] ?? after))).toBe(true);
        // From any moment between two cuts the later of them is next.
        const between = (cuts[3] ?? 0) + Math.floor((((cuts[4] ?? 0) - (cuts[3] ?? 0) - 1) * share) / 100);
        expect(nextCut(cadence, between)).toBe(cuts[4]);
      }),
      { numRuns: 300 },
    );
  });

  it('is cut once on each day that it names, and on no other', () => {
    const dailies = planned.filter((cadence) => cadence.cut !== 'every' && cadence.zone !== 'Pacific/Apia');
    fc.assert(
      fc.property(dailies, moment, (cadence, after) => {
        const days = daysOf(nextCuts(cadence, after, 40), cadence);
        expect(new Set(days).size).toBe(40);
        for (const day of days) {
          const date = DateTime.fromISO(day);
          if (cadence.cut === 'weekly') expect(cadence.days).toContain(date.weekday);
          if (cadence.cut === 'monthly') expect(date.day).toBe(Math.min(cadence.day, date.daysInMonth ?? 0));
        }
        if (cadence.cut === 'daily') {
          const [first] = days;
          expect(days).toEqual(
            days.map((_, n) =>
              DateTime.fromISO(first ?? '')
                .plus({ days: n })
                .toISODate(),
            ),
          );
        }
      }),
      { numRuns: 100 },
    );
  });

  it('of hours is never longer than so many apart', () => {
    fc.assert(
      fc.property(
        planned.filter((cadence) => cadence.cut === 'every'),
        moment,
        (cadence, after) => {
          const cuts = nextCuts(cadence, after, 60);
          for (const [n, cut] of cuts.slice(1).entries())
            expect(cut - (cuts[n] ?? 0)).toBeLessThanOrEqual(cadence.hours * HOUR);
          expect((cuts[0] ?? 0) - after).toBeLessThanOrEqual(cadence.hours * HOUR);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('a cadence', () => {
  it.each<[Cadence, string]>([
    [{ cut: 'at once' }, 'at once'],
    [{ cut: 'at once', gather: 10 * MINUTE }, 'at once, gathered for 10 minutes'],
    [{ cut: 'at once', gather: HOUR }, 'at once, gathered for one hour'],
    [{ cut: 'after each run' }, 'after each run'],
    [every(1), 'every hour from 06:00'],
    [every(3), 'every 3 hours from 06:00'],
    [daily(clock(7, 30)), 'each day at 07:30'],
    [weekly([5, 1, 2, 3, 4]), 'each weekday at 08:00'],
    [weekly([1]), 'each Monday at 08:00'],
    [weekly([4, 1]), 'each Monday and Thursday at 08:00'],
    [weekly([6, 7, 2]), 'each Tuesday, Saturday and Sunday at 08:00'],
    [monthly(1), 'on the 1st of each month at 08:00'],
    [monthly(22), 'on the 22nd of each month at 08:00'],
    [monthly(13), 'on the 13th of each month at 08:00'],
    [{ ...daily(clock(7)), zone: 'Asia/Tokyo' } as Cadence, 'each day at 07:00 (Asia/Tokyo)'],
    [{ cut: 'never' }, 'by hand only'],
  ])('is said in words: %j', (cadence, words) => expect(describeCadence(cadence, LONDON)).toBe(words));

  it.each<[Cadence, RegExp | null]>([
    [{ cut: 'never' }, null],
    [{ cut: 'at once' }, null],
    [daily(clock(23, 59)), null],
    [{ cut: 'at once', gather: 5 }, /a minute at the least/],
    [{ cut: 'at once', gather: 2 * DAY }, /a day at most/],
    [daily(24 * 60), /time of day/],
    [daily(-1), /time of day/],
    [daily(Number.NaN), /time of day/],
    [{ cut: 'daily', at: 60, zone: 'Europe/Londres' }, /time zone/],
    [{ cut: 'daily', at: 60, zone: '' }, /time zone/],
    [every(0), /how many hours/],
    [every(25), /how many hours/],
    [every(1.5), /how many hours/],
    [weekly([]), /days of the week/],
    [weekly([0]), /days of the week/],
    [monthly(0), /day of the month/],
    [monthly(32), /day of the month/],
  ])('is refused where it could never be kept: %j', (cadence, fault) => {
    const found = cadenceFault(cadence);
    if (fault === null) expect(found).toBeNull();
    else expect(found).toMatch(fault);
  });
});
