import type { Instant } from '#core/when/interval';

/** While it waits for a clock that was put back, it goes at this pace. */
const SLOW = 0.9;

/**
 * A clock that never goes back and never stands still. Where the system's is put forward it goes along; where that is
 * put back it goes on, a little more slowly, until both agree: what is due is not late by as much as somebody put the
 * clock back. `monotonic` counts milliseconds from anywhere.
 */
export function steadyClock(wall: () => Instant = Date.now, monotonic = () => performance.now()): () => Instant {
  let [at, since] = [wall(), monotonic()];
  return () => {
    const [now, counted] = [wall(), monotonic()];
    const ran = counted - since;
    at = now >= at + ran ? now : Math.max(now, at + ran * SLOW);
    since = counted;
    return Math.round(at);
  };
}
