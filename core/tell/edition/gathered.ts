import type { AlertId, ChangeId, ItemId, WatchId } from '../../id';
import type { StoodBefore } from '../../compare/net';
import type { Value } from '../../value/value';
import type { Instant } from '../../when/interval';
import type { Cause } from '../failure';
import type { News } from '../news';
import type { Move } from './move';
import type { OfferNow } from './offers';

/** An alert that a report takes. */
export interface ToldAlert {
  id: AlertId;
  watch: WatchId;
  /** The change that raised it; null where none did. */
  move: ChangeId | null;
  news: News;
}

/** A watch that broke in the stretch, or is read again. */
export interface Broken {
  watch: WatchId;
  subject: string;
  site: string;
  page: string;
  kind: 'failing' | 'recovered';
  cause: Cause;
  sentence: string;
  since: Instant;
  /** What was read last, by its field. */
  lastGood: { label: string; value: Value } | null;
  /** Sites that still offer the item. */
  elsewhere: string[];
}

/** What an edition rests on (16). */
export interface Coverage {
  looks: number;
  failed: number;
  /** Watches that are not read now, with since when, and how many are followed in all. */
  stale: { subject: string; site: string; since: Instant }[];
  staleCount: number;
  watches: number;
  /** How many pieces of news it does not take. */
  leftOut: number;
  /** There was more than one edition can hold. */
  tooMany: boolean;
  /** Cuts since the last edition that had nothing to tell. */
  quietCuts: number;
}

/** All that a cut found. */
export interface Gathered {
  /** In the order in which they were committed. */
  moves: Move[];
  /** How series stood of which the first move here found no value. */
  stood: ReadonlyMap<ChangeId, StoodBefore>;
  /** Of items with news, who offers them as it stood at the cut. */
  offers: ReadonlyMap<ItemId, OfferNow[]>;
  alerts: ToldAlert[];
  broken: Broken[];
  coverage: Coverage;
}
