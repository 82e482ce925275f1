import { describe, expect, it } from 'vitest';
import { MINUTE } from '#core/when/interval';
import { Attempts } from './attempts';

const NOW = Date.UTC(2026, 5, 1);
const tries = (attempts: Attempts, by: string, count: number, at = NOW) =>
  Array.from({ length: count }, () => attempts.begin(by, at)).filter(Boolean).length;

describe('attempts to sign in', () => {
  it('are judged eight times in a quarter of an hour, however many come at once', () => {
    expect(tries(new Attempts(), 'ines', 300)).toBe(8);
  });
  it('of one place bar nobody of another', () => {
    const attempts = new Attempts();
    tries(attempts, 'ines 10.0.0.1', 50);
    expect(attempts.begin('ines 10.0.0.2', NOW)).toBe(true);
  });
  it('are judged again once a quarter of an hour has passed since', () => {
    const attempts = new Attempts();
    tries(attempts, 'ines', 8);
    expect([attempts.begin('ines', NOW + 14 * MINUTE), attempts.begin('ines', NOW + 15 * MINUTE)]).toEqual([
      false,
      true,
    ]);
  });
  it('that were right count for nothing', () => {
    const attempts = new Attempts();
    for (let nth = 0; nth < 40; nth += 1) {
      expect(attempts.begin('ines', NOW)).toBe(true);
      attempts.succeeded('ines');
    }
  });
});
