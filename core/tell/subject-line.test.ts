import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { oneLine, subjectLine } from './subject-line';

const ways = [
  (name: string) => `Pricing, daily: ${name} £21.50, down 10.4%`,
  (name: string) => `${name} £21.50, down 10.4%`,
] as const;
const said = (name: string) => subjectLine(name, [...ways]);
const LONG = 'Radial extractor for twenty frames with a motor and a stand of stainless steel';

describe('the subject of a mail', () => {
  it.each([
    ['Copper smoker', 'Pricing, daily: Copper smoker £21.50, down 10.4%'],
    [
      'Radial extractor for twenty-one frames, by hand',
      'Radial extractor for twenty-one frames, by hand £21.50, down 10.4%',
    ],
    [LONG, 'Radial extractor for twenty frames with a motor and a stan… £21.50, down 10.4%'],
  ])('of %s keeps its news within 78 signs', (name, wanted) => {
    expect(said(name)).toBe(wanted);
    expect(said(name).length).toBeLessThanOrEqual(78);
  });

  it('is one line of at most 78 signs whatever it is of, and ends with its news where that has room', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 300, unit: 'binary' }), fc.nat(120), (name, more) => {
        const news = 'x'.repeat(more);
        const line = subjectLine(name, [(of) => `Pricing: ${of} ${news}`, (of) => `${of} ${news}`]);
        expect(line.length).toBeLessThanOrEqual(78);
        expect(line).not.toMatch(/[\r\n]/);
        if (more < 60) expect(line.endsWith(news)).toBe(true);
        expect(oneLine(line)).toBe(line);
      }),
    );
  });
});
