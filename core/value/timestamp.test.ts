import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseMoment } from './timestamp';

const iso = (text: string, locale = 'en-GB', zone?: string) => {
  const moment = parseMoment(text, locale, zone);
  return moment === null ? null : `${new Date(moment.at).toISOString().slice(0, moment.day ? 10 : 16)}`;
};

describe('a moment', () => {
  it.each<[string, string, string]>([
    ['2026-11-25', 'en-GB', '2026-11-25'],
    ['2026-11-25T10:15:00Z', 'en-GB', '2026-11-25T10:15'],
    ['2026-11-25T10:15:00+02:00', 'en-GB', '2026-11-25T08:15'],
    ['Wed, 25 Nov 2026 10:15:00 GMT', 'en-GB', '2026-11-25T10:15'],
    ['Wed, 25 Nov 2026 10:15:00 +0100', 'en-GB', '2026-11-25T09:15'],
    ['12/11/2026', 'en-GB', '2026-11-12'],
    ['12/11/2026', 'en-US', '2026-12-11'],
    ['25/11/2026', 'en-US', '2026-11-25'],
    ['25.11.2026', 'de-DE', '2026-11-25'],
    ['25 November 2026', 'en-GB', '2026-11-25'],
    ['25. November 2026', 'de-DE', '2026-11-25'],
    ['25. Dezember 2026', 'de-DE', '2026-12-25'],
    ['Nov 25, 2026', 'en-US', '2026-11-25'],
    ['25 Nov 2026, 08:30', 'en-GB', '2026-11-25T08:30'],
  ])('“%s” in %s is %s', (text, locale, said) => expect(iso(text, locale)).toBe(said));

  it.each(['', 'soon', '2026', '31/02/2026', '24:99', '25', 'L2681', 'x'.repeat(200)])('“%s” is none', (text) => {
    expect(iso(text)).toBe(null);
  });

  it('without an offset is taken in the zone of its source, and a day in none', () => {
    expect(iso('2026-07-01T10:15', 'en-GB', 'Europe/Berlin')).toBe('2026-07-01T08:15');
    expect(iso('1 July 2026, 10:15', 'en-GB', 'Europe/Berlin')).toBe('2026-07-01T08:15');
    expect(iso('1 July 2026', 'en-GB', 'Europe/Berlin')).toBe('2026-07-01');
  });

  it('written in full is read back, whichever it is', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('1990-01-01'), max: new Date('2090-01-01'), noInvalidDate: true }),
        (date) => {
          expect(parseMoment(date.toISOString(), 'en-GB')).toEqual({ kind: 'moment', at: date.getTime(), day: false });
        },
      ),
    );
  });

  it('is never made of any other text', () => {
    fc.assert(
      fc.property(fc.string(), fc.constantFrom('en-GB', 'en-US', 'de-DE'), (text, locale) => {
        const moment = parseMoment(text, locale);
        return moment === null || Number.isFinite(moment.at);
      }),
    );
  });
});
