import type { Instant } from '#core/when/interval';
import { countWaiting } from '#server/db/deliveries';
import { countRaised } from '#server/db/raised';
import { readTally } from '#server/db/standings';
import { readPulse, type Pulse } from '#server/db/workers';
import { atMostEvery } from '../recent.server';
import { services } from '../services.server';

/** What stands beside every view. */
export interface Beside {
  pulse: Pulse;
  watches: number;
  /** Episodes that are open. */
  raised: number;
  /** Mails that wait. */
  waiting: number;
  now: Instant;
}

/** What stands beside every view, or stood a second ago. */
export const besideNow = atMostEvery(1_000, async (): Promise<Beside> => {
  const { pool, clock } = services();
  const now = clock();
  const [pulse, tally, raised, waiting] = await Promise.all([
    readPulse(pool, now),
    readTally(pool),
    countRaised(pool),
    countWaiting(pool),
  ]);
  return { pulse, watches: tally.all, raised, waiting, now };
});
