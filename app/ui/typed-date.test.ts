import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tries } from '#tests/support/search';
import { formatDay, formatTimeOfDay, readDay, readTimeOfDay } from './typed-date';

const LOCALES = ['en-GB', 'en-US', 'de-DE', 'fr-FR', 'sv-SE', 'nl-NL', 'pl-PL', 'es-ES', 'ja-JP', 'ar-EG', 'hi-IN'];

describe('a day that is typed', () => {
  it.each([
    ['2026-12-31', 'en-GB', '2026-12-31'],
    ['31/12/2026', 'en-GB', '2026-12-31'],
    ['03/04/2026', 'en-GB', '2026-04-03'],
    ['03/04/2026', 'en-US', '2026-03-04'],
    ['3.4.26', 'de-DE', '2026-04-03'],
    ['31 Dec 2026', 'en-GB', '2026-12-31'],
    ['Dec 31, 2026', 'en-US', '2026-12-31'],
    ['31 december 2026', 'de-DE', '2026-12-31'],
    ['31. Dez. 2026', 'de-DE', '2026-12-31'],
    ['29 feb 2028', 'en-GB', '2028-02-29'],
  ])('“%s” in %s is %s', (typed, locale, day) => expect(readDay(typed, locale)).toBe(day));

  it.each([
    ['29 Feb 2026', 'en-GB'],
    ['31/04/2026', 'en-GB'],
    ['13/31/2026', 'en-US'],
    ['31 Dec', 'en-GB'],
    ['tomorrow', 'en-GB'],
    ['0/0/0', 'en-GB'],
    ['12026-12-31', 'en-GB'],
    ['', 'en-GB'],
    ['1'.repeat(9_000), 'en-GB'],
  ])('“%s” in %s is none', (typed, locale) => expect(readDay(typed, locale)).toBeNull());

  it('is read back as it is shown, in any locale', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('1900-01-01'), max: new Date('2199-12-31'), noInvalidDate: true }),
        fc.constantFrom(...LOCALES),
        (date, locale) => {
          const day = date.toISOString().slice(0, 10);
          expect([locale, readDay(formatDay(day, locale), locale)]).toEqual([locale, day]);
        },
      ),
      { numRuns: tries(200) },
    );
  });

  it('is shown in the words of the reader', () => {
    expect(['en-GB', 'en-US', 'de-DE'].map((locale) => formatDay('2026-12-31', locale))).toEqual([
      '31 Dec 2026',
      'Dec 31, 2026',
      '31. Dez. 2026',
    ]);
  });
});

describe('a time of day that is typed', () => {
  it.each([
    ['7:30', '07:30'],
    ['07.30', '07:30'],
    ['0730', '07:30'],
    ['730', '07:30'],
    ['19', '19:00'],
    ['7:30 pm', '19:30'],
    ['12:05 AM', '00:05'],
    ['12 p.m.', '12:00'],
  ])('“%s” is %s', (typed, time) => expect(readTimeOfDay(typed)).toBe(time));

  it.each(['24:00', '7:60', '13 pm', '0 am', 'noon', '7:3', ''])('“%s” is none', (typed) =>
    expect(readTimeOfDay(typed)).toBeNull(),
  );

  it('is read back as it is shown, in any locale', () => {
    for (const locale of LOCALES)
      for (let minute = 0; minute < 1440; minute += 7) {
        const time = new Date(minute * 60_000).toISOString().slice(11, 16);
        expect([locale, readTimeOfDay(formatTimeOfDay(time, locale))]).toEqual([locale, time]);
      }
  });
});
