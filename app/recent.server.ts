/**
 * What was loaded a moment ago, shared by all who ask in that moment: many readers' pages look again every few seconds.
 */
interface Recent {
  forget: () => void;
}

const all = new Set<Recent>();

/**
 * What is loaded is waited for by all who ask, but one that hangs, as on a lost connection, keeps nobody who asks after
 * this long.
 */
const LONGEST_MS = 10_000;

/**
 * Loads something at most once in so many milliseconds, and not twice at once, however many ask; a load that fails is
 * not remembered. Whatever a reader of this process changes is forgotten at once, so that she sees what she did.
 */
export function atMostEvery<Made>(ms: number, load: () => Promise<Made>): () => Promise<Made> {
  let made: { until: number; value: Promise<Made> } | null = null;
  all.add({ forget: () => (made = null) });
  return () => {
    const now = performance.now();
    if (made !== null && now < made.until) return made.value;
    const value = load();
    const own = { until: now + Math.max(ms, LONGEST_MS), value };
    made = own;
    value.then(
      () => (own.until = now + ms),
      () => {
        if (made === own) made = null;
      },
    );
    return value;
  };
}

/** Forgets all of it, since something was changed. */
export function forgetRecent(): void {
  for (const each of all) each.forget();
}
