import type { ItemId, RuleId, SeriesId, SiteId, WatchId } from '../id';
import type { Item } from '../items/item';
import type { Weight } from '../judge/rule';
import { storedAs } from '../versioned';
import { isCurrency } from '../value/currency';
import { compareDecimals, decimal, type Decimal } from '../value/decimal';
import type { Measure } from '../value/value';
import { OUR_WORDS, wordsFault, type OwnWords } from './edition/template';
import { cadenceFault, isAtOnce, isOfRules, type Cadence } from '../when/cadence';

// A report's standing order: what it takes, when it is cut, and how what it takes is shown. Numbers as in what a report
// promises.

/** Sorts of news that a report takes or not (1). */
export const NEWS_SORTS = [
  'prices',
  'stock',
  'other fields',
  'records',
  'first readings',
  'alerts',
  'failures',
] as const;
export type NewsSort = (typeof NEWS_SORTS)[number];

/** What a report takes unless somebody says otherwise: a first reading is a baseline, and no move. */
export const USUAL_SORTS: readonly NewsSort[] = NEWS_SORTS.filter((sort) => sort !== 'first readings');

/** What orders an edition (13). */
export const GROUPINGS = [
  'item',
  'site',
  'channel',
  'tag',
  'brand',
  'category',
  'supplier',
  'kind',
  'watch',
  'none',
] as const;
export type Grouping = (typeof GROUPINGS)[number];

/** By what lines sort, and by their first line groups (13). */
export const SORTS = ['amount', 'percent', 'price', 'weight', 'moved', 'name'] as const;
type Sort = (typeof SORTS)[number];

/** By what, and whether the most comes first. */
export interface Sorting {
  by: Sort;
  down: boolean;
}

/** The least size that moves of one direction have to be told (2): off where they are not told at all. */
export type LeastMove =
  { is: 'any' } | { is: 'off' } | { is: 'amount'; least: Measure } | { is: 'percent'; least: Decimal };

/** Whose a site is. */
export const SITE_KINDS = ['rival', 'own', 'channel'] as const;
export type SiteKind = (typeof SITE_KINDS)[number];

/** Properties of an item by which news is chosen, and editions are split. */
export const ITEM_PROPERTIES = ['brand', 'category', 'supplier'] as const;
export type ItemProperty = (typeof ITEM_PROPERTIES)[number];
export type ItemProperties = Pick<Item, ItemProperty>;

/** How much an alert matters, the most first. */
export const WEIGHTS = ['high', 'usual', 'low'] as const satisfies readonly Weight[];

/** What it chooses by: within one list any entry counts, between lists all must; an empty one leaves all in (1). */
interface Scope extends Record<ItemProperty, string[]> {
  watches: WatchId[];
  sites: SiteId[];
  /** Whose sites: rivals' whoever they are by then, ours, channels. */
  kinds: SiteKind[];
  tags: string[];
  items: ItemId[];
  /** What fields are called. Records that come and go have none. */
  fields: string[];
  /** Of these only alerts are, and what broke of their watches. */
  rules: RuleId[];
  weights: Weight[];
}

/** Which prices are told, by where the move that is shown ends (2). */
export const PRICES_NOTIFIED = ['any', 'below ours', 'under the minimum'] as const;
type PricesNotified = (typeof PRICES_NOTIFIED)[number];

/** How far something must have moved to be told, and from where that is counted (2). */
interface Size {
  falls: LeastMove;
  rises: LeastMove;
  prices: PricesNotified;
  /** From the value at the last cut, or from what this report showed last, so that small moves add up. */
  base: 'cut' | 'told';
}

/** The files that mails bear. */
export const FILE_FORMS = ['csv', 'xlsx', 'json'] as const;
export type FileForm = (typeof FILE_FORMS)[number];

/** By what news is parted into editions (14); `news` is which sort of it it is. */
export const SPLITS = ['tag', 'site', 'channel', ...ITEM_PROPERTIES, 'news'] as const;
export type SplitBy = (typeof SPLITS)[number];

/** One edition for each value; null stands for news that bears none. */
export interface Split {
  by: SplitBy;
  /** Who reads which; what is not among them goes to the readers of the report. */
  parts: { value: string | null; readers: string[] }[];
}

/** A value that is shown as it stands, under a name of her own (15). */
export interface Present {
  series: SeriesId;
  name: string;
}

export interface ReportDefinition {
  cadence: Cadence;
  takes: { sorts: NewsSort[]; only: Scope; not: { watches: WatchId[]; sites: SiteId[]; ours: boolean } };
  size: Size;
  /** Each move, or what a stretch comes to (9). */
  shows: 'each' | 'net';
  /** What is shown as it stands instead of changes, in this order; where it is empty, changes are (15). */
  present: Present[];
  by: Grouping;
  sort: { groups: Sorting; lines: Sorting };
  /** At most so many lines (13); null for as many as a mail can hold. */
  most: number | null;
  /** Of an item that moved every rival, or only what moved (11). */
  items: 'whole' | 'moved';
  /** Of a cut with nothing to tell (8). */
  whenNothing: 'skip' | 'say';
  /** What a reader was told at once before: marked so, or left out of what she gets (20). */
  toldBefore: 'mark' | 'leave out';
  /** Who reads it, as keys: `person:3`, `list:1`. Where it is split, who reads what nobody is named for. */
  readers: string[];
  split: Split | null;
  /** Who reads what broke, as an edition of its own (17); nobody where it goes with the rest. */
  broken: string[];
  /** Every line of its stretch, as files of its mails. */
  attach: FileForm[];
  /** Her own words of its editions (18). */
  words: OwnWords;
}

/** How a standing order is stored. */
export const storedOrder = storedAs<ReportDefinition>('standing order', withParts, withMarks, withChanges);

const NO_SCOPE: Scope = {
  watches: [],
  sites: [],
  kinds: [],
  tags: [],
  items: [],
  brand: [],
  category: [],
  supplier: [],
  fields: [],
  rules: [],
  weights: [],
};

/** Orders chose by less, held prices against nothing but a size, and had one edition for all. */
function withParts(older: unknown): unknown {
  const order = older as ReportDefinition;
  return {
    ...order,
    takes: { ...order.takes, only: { ...NO_SCOPE, ...order.takes.only } },
    size: { ...order.size, prices: 'any', base: 'cut' },
    split: null,
    broken: [],
    attach: [],
    words: OUR_WORDS,
  };
}

/** Whatever was told at once was marked. */
function withMarks(older: unknown): unknown {
  return { ...(older as ReportDefinition), toldBefore: 'mark' };
}

/** Changes alone were shown. */
function withChanges(older: unknown): unknown {
  return { ...(older as ReportDefinition), present: [] };
}

/** Everybody whom an order names. */
export const allReaders = ({
  readers,
  split,
  broken,
}: Pick<ReportDefinition, 'readers' | 'split' | 'broken'>): string[] => [
  ...new Set([...readers, ...(split?.parts.flatMap((part) => part.readers) ?? []), ...broken]),
];

/** A standing order as it is before anything is said of it: what moved, each weekday morning, by item. */
export function blankDefinition(zone: string, readers: string[]): ReportDefinition {
  return {
    cadence: { cut: 'weekly', days: [1, 2, 3, 4, 5], at: 7 * 60 + 30, zone },
    takes: {
      sorts: [...USUAL_SORTS],
      only: NO_SCOPE,
      not: { watches: [], sites: [], ours: false },
    },
    size: { falls: { is: 'any' }, rises: { is: 'any' }, prices: 'any', base: 'cut' },
    shows: 'net',
    present: [],
    by: 'item',
    sort: { groups: { by: 'percent', down: true }, lines: { by: 'percent', down: true } },
    most: 50,
    items: 'whole',
    whenNothing: 'skip',
    toldBefore: 'mark',
    readers,
    split: null,
    broken: [],
    attach: [],
    words: OUR_WORDS,
  };
}

/** The order of a report that tells of its rules as soon as they are met. */
export function atOnceDefinition(readers: string[]): ReportDefinition {
  const order = blankDefinition('UTC', readers);
  return {
    ...order,
    cadence: { cut: 'at once' },
    takes: { ...order.takes, sorts: ['alerts', 'failures'] },
    shows: 'each',
    by: 'none',
    most: null,
  };
}

/** No mail has more lines. */
export const MOST_LINES = 1_000;
const MOST_CHOSEN = 1_000;

/** What is wrong with a standing order, as a sentence; null where nothing is. */
export function orderFault(order: ReportDefinition): string | null {
  const { takes, shows, cadence, most, readers } = order;
  if (readers.length === 0) return 'Nobody would hear: say who reads it.';
  const part =
    takesFault(takes) ?? sizeFault(order) ?? presentFault(order) ?? splitFault(order) ?? wordsFault(order.words);
  if (part !== null) return part;
  if (shows === 'net' && isAtOnce(cadence))
    return 'The net move is of a stretch: what is told at once is told move by move.';
  if (most !== null && !(Number.isInteger(most) && most >= 1 && most <= MOST_LINES))
    return `Say at most how many lines, from 1 to ${MOST_LINES}.`;
  return cadenceFault(cadence);
}

function takesFault({ sorts, only, not }: ReportDefinition['takes']): string | null {
  if (sorts.length === 0) return 'It would tell of nothing: say what it takes.';
  const { kinds: _, ...lists } = only;
  return [...Object.values(lists), not.sites, not.watches].some(({ length }) => length > MOST_CHOSEN)
    ? `Choose ${MOST_CHOSEN} at most of each; a tag or a site stands for many.`
    : null;
}

function sizeFault({ size, takes, shows }: ReportDefinition): string | null {
  if (isClosed(size.falls) && isClosed(size.rises) && takes.sorts.every((sort) => sort === 'prices'))
    return 'Neither rises nor falls are told: prices alone would bring nothing.';
  if (size.base === 'told' && shows === 'each')
    return 'Moves add up where the net move is shown: show that, or count from the last edition.';
  return leastFault(size.falls) ?? leastFault(size.rises);
}

const MOST_PRESENT = 200;
const LONGEST_NAME = 120;

function presentFault({ present, cadence, split }: ReportDefinition): string | null {
  if (present.length === 0) return null;
  if (present.length > MOST_PRESENT) return `Show ${MOST_PRESENT} values at most as they stand.`;
  if (present.some(({ name }) => name.trim() === '' || name.length > LONGEST_NAME))
    return `Give each value that is shown a name, of ${LONGEST_NAME} characters at most.`;
  if (new Set(present.map(({ series }) => series)).size < present.length) return 'A value stands twice: show it once.';
  if (cadence.cut === 'at once')
    return 'Values as they stand go out by the clock, after each run or by hand: what is told at once is what moved.';
  return split === null ? null : 'Values as they stand are one edition for all: have no edition for each value.';
}

const MOST_PARTS = 200;

function splitFault({ split, cadence }: ReportDefinition): string | null {
  if (split === null) return null;
  if (isOfRules(cadence)) return 'What is told at once is one edition for all: split one that is made by the clock.';
  if (split.parts.length > MOST_PARTS)
    return `Name readers for ${MOST_PARTS} values at most; the others go to those who read the rest.`;
  if (new Set(split.parts.map(({ value }) => value)).size < split.parts.length)
    return 'A value stands twice: name its readers once.';
  const empty = split.parts.find(({ readers }) => readers.length === 0);
  return empty === undefined
    ? null
    : `Say who reads ${empty.value ?? `what has no ${split.by}`}, or take it off: it goes to those who read the rest.`;
}

const isClosed = ({ is }: LeastMove) => is === 'off';

function leastFault(move: LeastMove): string | null {
  const said = move.is === 'amount' ? move.least.amount : move.is === 'percent' ? move.least : null;
  if (said === null) return null;
  const size = decimal(said);
  if (size === null) return 'Write the least move as a number: 5, or 2.5.';
  if (move.is === 'amount' && move.least.kind === 'money' && !isCurrency(move.least.currency))
    return 'Write the currency of a least move as its code: GBP.';
  return compareDecimals(size, '0' as Decimal) <= 0
    ? 'A least move is more than nought: to hear of all, set none.'
    : null;
}
