import type { Instant } from '../when/interval';
import type { Element } from './html';

/** The text found at a place, with what the source states beside it. */
export interface Found {
  text: string;
  /** The same without what is struck out, where some of it is. */
  standing?: string;
  /** Something else moved about the place: it may confirm another way, and no more. */
  unsure?: true;
  /** ISO 4217 code stated beside it, for prices. */
  currency: string | null;
  /** Where it stands in a page. */
  elements?: Element[];
  /** How the source itself types it, where it does: machine-written numbers have a point and no groups. */
  stated?: 'number' | 'flag' | 'text' | 'null';
  /** Unit stated beside it. */
  unit?: string | null;
  /** How far the source vouches for it, where it says so of this value alone. */
  quality?: Quality | null;
}

/** How far a source vouches for a point. */
export type Quality = 'good' | 'uncertain' | 'bad';

/** Why a locator gives no text. */
export type LocateProblem =
  | { reason: 'no match' }
  | { reason: 'several matches'; count: number }
  | { reason: 'bad selector'; detail: string }
  | { reason: 'not here' };

/** The source's own moment and quality of a record; null where it states none. */
export interface SourceMarks {
  at: Instant | null;
  quality: Quality | null;
}

/** A text as a machine wrote it. */
export function plainText(text: string): Found {
  return { text, currency: null, stated: 'text' };
}
