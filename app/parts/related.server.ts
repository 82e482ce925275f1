import type { Instant } from '#core/when/interval';
import { countWaiting } from '#server/db/delivery/deliveries';
import { countRaised } from '#server/db/rule/raised';
import { readTally } from '#server/db/watch/standings';
import { readPulse, type Pulse } from '#server/db/base/workers';
import { atMostEvery } from '../recent.server';
import { services } from '../services.server';

/** What stands beside every view. */
export interface RelatedNow {
  pulse: Pulse;
  watches: number;
  /** Episodes that are open. */
  raised: number;
  /** Mails that wait. */
  waiting: number;
  now: Instant;
}

/** What stands beside every view, or stood a second ago. */
export const relatedNow = atMostEvery(1_000, async (): Promise<RelatedNow> => {
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
