import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MINUTE, SECOND } from '#core/when/interval';
import { steadyClock } from './clock';

/** A clock over a system whose time passes, and is put forward and back. */
function onSystem() {
  const system = { wall: 1_800_000_000_000, passed: 5_000 };
  const clock = steadyClock(
    () => system.wall,
    () => system.passed,
  );
  const pass = (ms: number) => {
    system.wall += ms;
    system.passed += ms;
  };
  return { system, clock, pass, put: (ms: number) => (system.wall += ms) };
}

describe('a steady clock', () => {
  it('is that of the system while nobody puts that', () => {
    const { clock, pass, system } = onSystem();
    for (let times = 0; times < 100; times += 1) {
      pass(777);
      expect(clock()).toBe(system.wall);
    }
  });

  it('goes along where the system is put forward, as after a sleep', () => {
    const { clock, put, system } = onSystem();
    put(60 * MINUTE);
    expect(clock()).toBe(system.wall);
  });

  it('goes on where the system is put back, and agrees with it in the end', () => {
    const { clock, pass, put, system } = onSystem();
    const before = clock();
    put(-5 * MINUTE);
    pass(10 * SECOND);
    expect(clock() - before).toBe(9 * SECOND);
    for (let minutes = 0; minutes < 60; minutes += 1) {
      pass(MINUTE);
      clock();
    }
    expect(clock()).toBe(system.wall);
  });

  it('never goes back, nor stands still while time passes, whatever is put', () => {
    const step = fc.record({ pass: fc.integer({ min: 10, max: 100_000 }), put: fc.integer({ min: -1e7, max: 1e7 }) });
    fc.assert(
      fc.property(fc.array(step, { maxLength: 50 }), (steps) => {
        const { clock, pass, put } = onSystem();
        let last = clock();
        for (const each of steps) {
          put(each.put);
          pass(each.pass);
          const now = clock();
          expect(now).toBeGreaterThanOrEqual(last + Math.floor(each.pass * 0.9) - 1);
          last = now;
        }
      }),
    );
  });
});
