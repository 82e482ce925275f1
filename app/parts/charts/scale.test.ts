import fc from 'fast-check';
import { expect, it } from 'vitest';
import { niceTicks } from './scale';

it('a scale holds all its heights, and goes below nought only where they do', () => {
  const heights = fc.tuple(fc.integer({ min: -1000, max: 100_000 }), fc.integer({ min: 0, max: 100_000 }));
  fc.assert(
    fc.property(heights, ([least, span]) => {
      const { ticks, domain } = niceTicks(least, least + span);
      expect(domain[0]).toBeLessThanOrEqual(least);
      expect(domain[1]).toBeGreaterThanOrEqual(least + span);
      expect(domain[0] < 0).toBe(least < 0);
      expect(ticks.length).toBeGreaterThan(1);
      expect(ticks.length).toBeLessThan(8);
    }),
  );
});

it('a counter that begins at nought has nought at its foot', () => {
  expect(niceTicks(0, 40).domain[0]).toBe(0);
  expect(niceTicks(0, 0).domain[0]).toBe(0);
});
