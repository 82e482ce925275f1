import type { SiteId, WatchId } from '../id';
import { storedAs } from '../versioned';
import { compareDecimals, decimal, type Decimal } from '../value/decimal';
import type { Measure } from '../value/value';
import { cadenceFault, type Cadence } from '../when/cadence';

// A report's standing order: what it takes, when it is cut, and how what it takes is shown. Numbers as in what a report promises.

/** Sorts of news that a report takes or not (1). */
export const NEWS_SORTS = ['prices', 'stock', 'other fields', 'records', 'alerts', 'failures'] as const;
export type NewsSort = (typeof NEWS_SORTS)[number];

/** What orders an edition (13). */
export const GROUPINGS = ['item', 'site', 'kind', 'watch', 'none'] as const;
export type Grouping = (typeof GROUPINGS)[number];

/** By what lines sort, and by their first line groups (13). */
export const SORTS = ['amount', 'percent', 'price', 'moved', 'name'] as const;
type Sort = (typeof SORTS)[number];

/** By what, and whether the most comes first. */
export interface Sorting {
  by: Sort;
  down: boolean;
}

/** The least size that moves of one direction have to be told (2): off where they are not told at all. */
export type LeastMove = { is: 'any' } | { is: 'off' } | { is: 'amount'; least: Measure } | { is: 'percent'; least: Decimal };

/** Whose a site is. */
export const SITE_KINDS = ['rival', 'own', 'channel'] as const;
export type SiteKind = (typeof SITE_KINDS)[number];

/** What it chooses by: within one list any entry counts, between lists all must; an empty one leaves all in (1). */
interface Scope {
  watches: WatchId[];
  sites: SiteId[];
  /** Whose sites: rivals' whoever they are by then, ours, channels. */
  kinds: SiteKind[];
  tags: string[];
}

export interface StandingOrder {
  cadence: Cadence;
  takes: { sorts: NewsSort[]; only: Scope; not: { watches: WatchId[]; sites: SiteId[]; ours: boolean } };
  size: { falls: LeastMove; rises: LeastMove };
  /** Each move, or what a stretch comes to (9). */
  shows: 'each' | 'net';
  by: Grouping;
  sort: { groups: Sorting; lines: Sorting };
  /** At most so many lines (13); null for as many as a mail can hold. */
  most: number | null;
  /** Of an item that moved every rival, or only what moved (11). */
  items: 'whole' | 'moved';
  /** Of a cut with nothing to tell (8). */
  whenNothing: 'skip' | 'say';
  /** Who reads it, as keys: `person:3`, `list:1`. */
  readers: string[];
}

/** How a standing order is stored. */
export const storedOrder = storedAs<StandingOrder>('standing order');

/** A standing order as it is before anything is said of it: what moved, each weekday morning, by item. */
export function blankOrder(zone: string, readers: string[]): StandingOrder {
  return {
    cadence: { cut: 'weekly', days: [1, 2, 3, 4, 5], at: 7 * 60 + 30, zone },
    takes: {
      sorts: [...NEWS_SORTS],
      only: { watches: [], sites: [], kinds: [], tags: [] },
      not: { watches: [], sites: [], ours: false },
    },
    size: { falls: { is: 'any' }, rises: { is: 'any' } },
    shows: 'net',
    by: 'item',
    sort: { groups: { by: 'percent', down: true }, lines: { by: 'percent', down: true } },
    most: 50,
    items: 'whole',
    whenNothing: 'skip',
    readers,
  };
}

/** The order of a report that tells of its rules as soon as they are met. */
export function atOnceOrder(readers: string[]): StandingOrder {
  const order = blankOrder('UTC', readers);
  return { ...order, cadence: { cut: 'at once' }, takes: { ...order.takes, sorts: ['alerts', 'failures'] }, shows: 'each', by: 'none', most: null };
}

/** No mail has more lines. */
export const MOST_LINES = 1_000;
const MOST_CHOSEN = 1_000;

/** What is wrong with a standing order, as a sentence; null where nothing is. */
export function orderFault(order: StandingOrder): string | null {
  const { takes, size, shows, cadence, most, readers } = order;
  if (readers.length === 0) return 'Nobody would hear: say who reads it.';
  if (takes.sorts.length === 0) return 'It would tell of nothing: say what it takes.';
  const { only, not } = takes;
  if ([only.watches, only.sites, only.tags, not.sites, not.watches].some(({ length }) => length > MOST_CHOSEN))
    return `Choose ${MOST_CHOSEN} at most of each; a tag or a site stands for many.`;
  if (isClosed(size.falls) && isClosed(size.rises) && takes.sorts.every((sort) => sort === 'prices'))
    return 'Neither rises nor falls are told: prices alone would bring nothing.';
  const least = leastFault(size.falls) ?? leastFault(size.rises);
  if (least !== null) return least;
  if (shows === 'net' && (cadence.cut === 'at once' || cadence.cut === 'after each run'))
    return 'The net move is of a stretch: what is told at once is told move by move.';
  if (most !== null && !(Number.isInteger(most) && most >= 1 && most <= MOST_LINES)) return `Say at most how many lines, from 1 to ${MOST_LINES}.`;
  return cadenceFault(cadence);
}

const isClosed = ({ is }: LeastMove) => is === 'off';

function leastFault(move: LeastMove): string | null {
  const said = move.is === 'amount' ? move.least.amount : move.is === 'percent' ? move.least : null;
  if (said === null) return null;
  const size = decimal(said);
  if (size === null) return 'Write the least move as a number: 5, or 2.5.';
  return compareDecimals(size, '0' as Decimal) <= 0 ? 'A least move is more than nought: to hear of all, set none.' : null;
}
