import { createContext, useContext, useEffect, useState } from 'react';
import { useRouteLoaderData } from 'react-router';
import type { Instant } from '#core/when/interval';
import type { loader } from './route';

const TICK_MS = 15_000;

/** The server's time, by which views say how long ago something was; it goes on while a view stays on screen. */
export const NowContext = createContext<Instant | null>(null);

/** The server's time from when something was loaded on, moved on every quarter of a minute. */
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

/** The reader's place and the server's time, as every view under the shell has them. */
export function useReader() {
  const data = useRouteLoaderData<typeof loader>('routes/shell/route');
  const now = useContext(NowContext);
  if (data === undefined) throw new Error('a view outside the shell asks for the reader');
  return { place: data.place, locale: data.place.locale, now: now ?? data.now };
}
