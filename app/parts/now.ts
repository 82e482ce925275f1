import { createContext, useEffect, useState } from 'react';
import type { Instant } from '#core/when/interval';

const TICK_MS = 15_000;

/** The server's time, by which views say how long ago something was. */
export const NowContext = createContext<Instant | null>(null);

/**
 * The server's time from when something was loaded on; while a view stays on screen it goes on, every quarter of a
 * minute.
 */
export function useNow(loadedAt: Instant): Instant {
  const [passed, setPassed] = useState(0);
  useEffect(() => {
    const began = performance.now();
    setPassed(0);
    const timer = setInterval(() => setPassed(Math.round(performance.now() - began)), TICK_MS);
    return () => clearInterval(timer);
  }, [loadedAt]);
  return loadedAt + passed;
}
