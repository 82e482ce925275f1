import { describe, expect, it } from 'vitest';
import { greatest, heldBy, type Reachable } from './hold';
import { missingWords } from './missing';

const at = (time: string, day = '2026-11-24') => Date.parse(`${day}T${time}:00Z`);
const reader = (change: Partial<Reachable> = {}): Reachable => ({
  zone: 'Europe/London',
  quiet: { from: 1320, to: 420 },
  mailHour: null,
  passes: null,
  ...change,
});
const alert = (time: string) => ({ orderedAt: at(time), atOnce: true, weight: 'usual' as const });
const digest = (time: string) => ({ orderedAt: at(time), atOnce: false, weight: 'high' as const });

describe('what holds a delivery', () => {
  it('is nothing by day', () => {
    expect(heldBy(reader(), alert('12:00'), at('12:00'))).toBeNull();
    expect(heldBy(reader({ quiet: null }), alert('23:00'), at('23:00'))).toBeNull();
  });

  it('is her quiet hours, until they end', () => {
    expect(heldBy(reader(), alert('23:00'), at('23:00'))).toEqual({
      until: at('07:00', '2026-11-25'),
      by: 'quiet hours',
    });
    expect(heldBy(reader(), alert('21:00'), at('22:30'))).toEqual({
      until: at('07:00', '2026-11-25'),
      by: 'quiet hours',
    });
    expect(heldBy(reader(), alert('06:00'), at('07:00'))).toBeNull();
  });

  it('is her mail hour, for what is told at once, counted from when it was ordered', () => {
    const her = reader({ quiet: null, mailHour: 17 * 60 });
    expect(heldBy(her, alert('10:00'), at('10:00'))).toEqual({ until: at('17:00'), by: 'mail hour' });
    expect(heldBy(her, alert('10:00'), at('17:00'))).toBeNull();
    expect(heldBy(her, alert('10:00'), at('18:00'))).toBeNull();
    expect(heldBy(her, digest('10:00'), at('10:00'))).toBeNull();
    expect(heldBy({ ...her, quiet: { from: 990, to: 1080 } }, alert('10:00'), at('10:00'))).toEqual({
      until: at('18:00'),
      by: 'mail hour',
    });
  });

  it('is nothing for an alert of the weight that she set; a digest waits whatever it bears', () => {
    const her = reader({ passes: 'high', mailHour: 17 * 60 });
    expect(heldBy(her, { ...alert('23:00'), weight: 'high' }, at('23:00'))).toBeNull();
    expect(heldBy(her, alert('23:00'), at('23:00'))).not.toBeNull();
    expect(heldBy(her, { ...alert('23:00'), weight: null }, at('23:00'))).not.toBeNull();
    expect(heldBy(her, digest('23:00'), at('23:00'))).not.toBeNull();
    expect(heldBy(reader({ passes: 'low' }), alert('23:00'), at('23:00'))).toBeNull();
  });

  it('goes by the greatest weight', () => {
    expect(greatest(['low', 'high', 'usual'])).toBe('high');
    expect(greatest([])).toBeNull();
  });
});

describe('what a mail says of the numbers before it', () => {
  it.each([
    [{ gaps: [], held: [] }, []],
    [{ gaps: [{ number: 7, reason: 'left' }], held: [] }, ['Mail 7 was cancelled when you left.']],
    [
      { gaps: [3, 1, 2, 9].map((number) => ({ number, reason: 'left' })), held: [] },
      ['Mails 1 to 3 and 9 were cancelled when you left.'],
    ],
    [
      {
        gaps: [
          { number: 4, reason: null },
          { number: 5, reason: null },
        ],
        held: [],
      },
      ['Mails 4, 5 were taken by no mail server.'],
    ],
    [
      { gaps: [{ number: 4, reason: 'folded' }], held: [6] },
      ['Mail 4 was not taken, and is in a mail of what was kept back.', 'Mail 6 is held until you want to be reached.'],
    ],
    [{ gaps: [], held: [6, 7, 8] }, ['Mails 6 to 8 are held until you want to be reached.']],
    [{ gaps: [{ number: 1, reason: 'what a newer Shrike wrote' }], held: [] }, ['Mail 1 was taken by no mail server.']],
  ])('%j', (missing, said) => {
    expect(missingWords(missing)).toEqual(said);
  });
});
