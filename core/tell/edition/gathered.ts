import type { AlertId, ChangeId, ItemId, RuleId, WatchId } from '../../id';
import type { StoodBefore } from '../../compare/net';
import type { Value } from '../../value/value';
import type { Instant } from '../../when/interval';
import type { Cause } from '../failure';
import type { News } from '../news';
import type { ItemProperties, NewsSort, SplitBy } from '../definition';
import type { Move, MoveId, EditionRecord } from './move';
import type { OfferNow } from './offers';
import type { Prices } from './prices';

/** A value as it stood at a cut, under the name that it was given. */
export interface PresentValue {
  name: string;
  /** Null where that was deleted. */
  watch: WatchId | null;
  /** Absent where there is none. */
  value: Value;
  /** When it moved last; null where it never did. */
  movedAt: Instant | null;
  /** Since when it could not be read; null where it is. */
  staleSince: Instant | null;
}

/** An alert that a report takes. */
export interface EditionAlert {
  id: AlertId;
  watch: WatchId;
  /** The change that raised it; null where none did. */
  move: ChangeId | null;
  rule: RuleId;
  record: EditionRecord;
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

/** What broke, with what news of its watch bears: an edition for each value takes its own (14). */
export interface BrokenOf extends Broken {
  of: Bearing;
  /** When its watch was first told of in the stretch. */
  at?: Instant;
}

/** By what news is parted: its tags, its site, the item. */
export interface Bearing {
  tags: string[];
  site: Pick<EditionRecord['site'], 'name' | 'kind'>;
  items: ItemProperties[];
  /** Which sort of news it is. */
  sort?: NewsSort | undefined;
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
  /** Of a cut that is split, the values that its news bears and nobody is named for: the first, and how many. */
  uncovered?: { by: SplitBy; values: (string | null)[]; count: number };
}

/** All that a cut found. */
export interface Gathered {
  /** What stands, where that is asked for instead of moves. */
  present?: PresentValue[];
  /** In the order in which they were committed. */
  moves: Move[];
  /** How series stood of which the first move here found no value. */
  stood: ReadonlyMap<MoveId, StoodBefore>;
  /** Of items with news, who offers them as it stood at the cut. */
  offers: ReadonlyMap<ItemId, OfferNow[]>;
  /** What offers cost on the way, where it is asked whose price is below ours. */
  priced: Prices['moves'];
  /** Since when a series is counted of which this is the first move here, where that is longer than the stretch. */
  since: ReadonlyMap<MoveId, Instant>;
  alerts: EditionAlert[];
  broken: BrokenOf[];
  coverage: Coverage;
}
