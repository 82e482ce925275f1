import { setTimeout as sleep } from 'node:timers/promises';

/** A machine with other work is waited for; only what never comes fails. */
export const PATIENCE_MS = 60_000;

/** Waits until something is so; `inVain` tells what there was instead. */
export async function until(
  isSo: () => Promise<boolean> | boolean,
  inVain: () => Promise<string> | string = () => 'what was waited for never came',
  mostMs = PATIENCE_MS,
): Promise<void> {
  for (const end = Date.now() + mostMs; Date.now() < end; await sleep(50)) if (await isSo()) return;
  throw new Error(await inVain());
}
