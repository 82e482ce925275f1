import { useEffect } from 'react';
import { useNavigation, useRevalidator } from 'react-router';

/**
 * Keeps a view current while it is on screen: loads again every so often, and when the window comes back; null: not at all.
 * Never while a navigation is under way, which a load would call off.
 */
export function useLive(everyMs: number | null): void {
  const { revalidate, state } = useRevalidator();
  const resting = useNavigation().state === 'idle' && state === 'idle';
  useEffect(() => {
    if (everyMs === null || !resting) return;
    const look = () => {
      if (document.visibilityState === 'visible') void revalidate();
    };
    const timer = setInterval(look, everyMs);
    document.addEventListener('visibilitychange', look);
    return () => {
      clearInterval(timer);
      document.removeEventListener('visibilitychange', look);
    };
  }, [everyMs, revalidate, resting]);
}
