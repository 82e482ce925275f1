import type { PersonId, WatchId } from '#core/id';
import type { Cause } from '#core/tell/failure';
import type { Instant } from '#core/when/interval';

/** A watch that stopped being read for a while, or is read again, or asks whether what it found is what is followed: told once each. */
export interface Notice {
  watchId: WatchId;
  kind: 'failing' | 'recovered' | 'question';
  cause: Cause;
  /** The problem in the words of the run; of a recovery what it was. */
  sentence: string;
  since: Instant;
}

/** A notice with what a mail tells of its watch. */
export interface NoticeOfWatch extends Notice {
  id: number;
  cause: Cause;
  subject: string;
  site: string;
  page: string;
  owner: PersonId;
  lastGoodAt: Instant | null;
  /** Some report takes a rule of it, whose readers hear of this, too. A question is its owner's alone. */
  heard: boolean;
}
