import { useEffect } from 'react';
import { useRevalidator } from 'react-router';

/** Keeps a view current while it is on screen: loads again every so often, and when the window comes back. */
export function useLive(everyMs: number): void {
  const { revalidate, state } = useRevalidator();
  useEffect(() => {
    const look = () => {
      if (document.visibilityState === 'visible' && state === 'idle') void revalidate();
    };
    const timer = setInterval(look, everyMs);
    document.addEventListener('visibilitychange', look);
    return () => {
      clearInterval(timer);
      document.removeEventListener('visibilitychange', look);
    };
  }, [everyMs, revalidate, state]);
}
