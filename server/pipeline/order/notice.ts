import type { PersonId, RuleId, WatchId } from '#core/id';
import type { Cause } from '#core/tell/failure';
import type { Instant } from '#core/when/interval';

/**
 * A watch that stopped being read for a while, or is read again, or asks whether what it found is what is followed:
 * told once each. Or one of which a rule ends soon.
 */
export interface Notice {
  watchId: WatchId;
  kind: 'failing' | 'recovered' | 'question' | 'ends';
  /** Null of what ends. */
  cause: Cause | null;
  /** The problem in the words of the run; of a recovery what it was; of a rule what it says. */
  sentence: string;
  /** Since when it is so; of a rule when it ends. */
  since: Instant;
  rule?: EndingRule;
}

/** The rule that a notice is of, and whoever answers for it. */
interface EndingRule {
  id: RuleId;
  owner: PersonId;
}

/** A notice with what a mail tells of its watch. */
export interface NoticeOfWatch extends Notice {
  id: number;
  subject: string;
  site: string;
  page: string;
  owner: PersonId;
  lastGoodAt: Instant | null;
  /**
   * Some report takes a rule of it, whose readers hear of this, too. A question, and what ends, is its owner's alone.
   */
  heard: boolean;
}
