import { useState } from 'react';

/** What is said where a form was filled in on what is not so any more. */
export const MEANWHILE =
  'Somebody else changed this meanwhile, and nothing of that was overwritten. Load the page again to see it.';

/** What a form was filled in on, as it is held against what is kept when it comes. */
export const asSeen = (state: readonly unknown[]): string => JSON.stringify(state);

/**
 * Whether a form may be kept: nothing moved since it was filled in, or just this was kept already, as by pressing
 * twice.
 */
export const mayKeep = (now: readonly unknown[], wanted: readonly unknown[], was: string): boolean =>
  [was, asSeen(wanted)].includes(asSeen(now));

interface AsSeenProps {
  state: readonly unknown[];
  fetcher: { state: string; data?: { problem: string | null } };
}

/** Sends along what a form was filled in on: what stood there when it was opened, or was kept from it last. */
export function AsSeen({ state, fetcher: { state: doing, data } }: AsSeenProps) {
  const [seen, setSeen] = useState({ was: asSeen(state), answer: data });
  if (doing === 'idle' && data?.problem === null && data !== seen.answer) setSeen({ was: asSeen(state), answer: data });
  return <input type="hidden" name="was" value={seen.was} />;
}
