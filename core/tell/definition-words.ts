import { formatAmount } from '../value/format';
import { describeCadence, isAtOnce, type Cadence } from '../when/cadence';
import { capital, listed } from '../words';
import { SORT_WORDS } from './edition/choose';
import {
  ITEM_PROPERTIES,
  NEWS_SORTS,
  USUAL_SORTS,
  SITE_KINDS,
  type Grouping,
  type ItemProperty,
  type LeastMove,
  type SiteKind,
  type Split,
  type SplitBy,
  type ReportDefinition,
} from './definition';

// A standing order in words: the parts of its sentence, each of which can be said otherwise.

/** What a standing order names by number. */
type Named = 'sites' | 'watches' | 'items' | 'rules';

/** What those are called, by their numbers. */
export type OrderNames = Record<Named, ReadonlyMap<number, string>>;

/** Names as a page carries them, to be looked up. */
export const orderNames = (names: Record<Named, [number, string][]>): OrderNames => ({
  sites: new Map(names.sites),
  watches: new Map(names.watches),
  items: new Map(names.items),
  rules: new Map(names.rules),
});

/** `each weekday at 07:30`. */
export const cadenceWords = ({ cadence }: ReportDefinition, zone: string): string => describeCadence(cadence, zone);

/** `what moved`, or `prices and stock out and back`. */
export function takesWords({ takes: { sorts }, present }: Pick<ReportDefinition, 'takes' | 'present'>): string {
  if (present.length > 0) {
    const besides = (['alerts', 'failures'] as const)
      .filter((sort) => sorts.includes(sort))
      .map((sort) => SORT_WORDS[sort]);
    return `${presentNames(present)}${besides.length === 0 ? '' : `, with ${listed(besides)}`}`;
  }
  if (USUAL_SORTS.every((sort) => sorts.includes(sort))) {
    return ['what moved', ...sorts.filter((sort) => !USUAL_SORTS.includes(sort)).map((sort) => SORT_WORDS[sort])].join(
      ' and ',
    );
  }
  return listed(NEWS_SORTS.filter((sort) => sorts.includes(sort)).map((sort) => SORT_WORDS[sort])) || '____';
}

const MOST_SAID = 2;

/** `how Copper smoker: price and Copper hive: price stand`. */
function presentNames(present: ReportDefinition['present']): string {
  const names = present.slice(0, MOST_SAID).map(({ name }) => name);
  const more = present.length - names.length;
  return (
    `how ${listed([...names, ...(more === 0 ? [] : [`${more} more`])])} ` +
    `${present.length === 1 ? 'stands' : 'stand'}`
  );
}

/** Whose sites, in words. */
export const KIND_WORDS: Record<SiteKind, string> = { rival: 'rivals', own: 'our own shop', channel: 'our channels' };

/** Of what an item of a property is, in words. */
const PROPERTY_WORDS: Record<ItemProperty, string> = { brand: 'of', category: 'in', supplier: 'supplied by' };

const MOST_NAMED = 3;
const called = (numbers: readonly number[], names: ReadonlyMap<number, string>) =>
  listed(
    numbers.map((id) => names.get(id) ?? `no. ${id}`),
    MOST_NAMED,
  );

/**
 * Where it looks: `everywhere`, `at Skepwright and Nectarine Row`, `on watches tagged smokers, but at our own shop`.
 */
export function scopeWords({ takes: { only, not } }: Pick<ReportDefinition, 'takes'>, names: OrderNames): string {
  const parts = [
    only.kinds.length > 0
      ? `at ${listed(SITE_KINDS.filter((kind) => only.kinds.includes(kind)).map((kind) => KIND_WORDS[kind]))}`
      : '',
    only.sites.length > 0 ? `at ${called(only.sites, names.sites)}` : '',
    only.tags.length > 0 ? `on watches tagged ${listed(only.tags, MOST_NAMED)}` : '',
    only.watches.length > 0 ? `of ${called(only.watches, names.watches)}` : '',
    only.items.length > 0 ? `of ${called(only.items, names.items)}` : '',
    ...ITEM_PROPERTIES.map((of) =>
      only[of].length > 0 ? `${PROPERTY_WORDS[of]} ${listed(only[of], MOST_NAMED)}` : '',
    ),
    only.fields.length > 0 ? `in ${listed(only.fields, MOST_NAMED)}` : '',
    only.weights.length > 0 ? `of ${listed(only.weights)} weight` : '',
    only.rules.length > 0 ? `under ${called(only.rules, names.rules)}` : '',
  ].filter(Boolean);
  const left = [
    ...(not.ours ? ['our own shop'] : []),
    ...(not.sites.length > 0 ? [called(not.sites, names.sites)] : []),
    ...(not.watches.length > 0 ? [called(not.watches, names.watches)] : []),
  ];
  const where = parts.length === 0 ? 'everywhere' : parts.join(' ');
  return left.length === 0 ? where : `${where} but ${listed(left)}`;
}

const BY: Record<Grouping, string> = {
  item: 'by item',
  site: 'by site',
  channel: 'by channel of ours',
  tag: 'by tag',
  brand: 'by brand',
  category: 'by category',
  supplier: 'by supplier',
  kind: 'by what happened',
  watch: 'by watch',
  none: 'in one list',
};

/** `by item`. */
export const groupingWords = ({ by }: Pick<ReportDefinition, 'by'>): string => BY[by];

/** `net moves`, or `each move`. */
export const showsWords = ({ shows }: Pick<ReportDefinition, 'shows'>): string =>
  shows === 'net' ? 'net moves' : 'each move';

/** `falls of at least 5%, rises not at all`. */
export function sizeWords(
  { size: { falls, rises, prices, base } }: Pick<ReportDefinition, 'size'>,
  locale: string,
): string {
  const isAny = falls.is === 'any' && rises.is === 'any';
  return [
    isAny ? 'of any size' : `falls ${leastWords(falls, locale)}, rises ${leastWords(rises, locale)}`,
    prices === 'any'
      ? ''
      : `only those that end ${prices === 'below ours' ? 'below ours' : 'under the agreed minimum'}`,
    base === 'told' ? 'counted from what was shown last' : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/** What editions are split by, in words. */
export const SPLIT_WORDS: Record<SplitBy, string> = {
  tag: 'tag',
  site: 'site',
  channel: 'channel of ours',
  brand: 'brand',
  category: 'category',
  supplier: 'supplier',
  news: 'kind of news',
};

/** `one edition for all`, `one edition for each brand`. */
export const splitWords = (split: Split | null): string =>
  split === null ? 'one edition for all' : `one edition for each ${SPLIT_WORDS[split.by]}`;

function leastWords(least: LeastMove, locale: string): string {
  if (least.is === 'any') return 'of any size';
  if (least.is === 'off') return 'not at all';
  return (
    'of at least ' +
    `${least.is === 'percent' ? `${least.least}%` : formatAmount(least.least.amount, least.least, locale)}`
  );
}

/**
 * The order of a report that tells of its rules as soon as they are met: `At once, tell Pricing when one of its 22
 * rules is met.`
 */
export const atOnceSentence = (readers: string, rules: number, cadence: Cadence = { cut: 'at once' }): string =>
  `${capital(describeCadence(cadence, 'UTC'))}, tell ${readers} ` +
  `${rules === 0 ? 'what nobody else is told of' : rules === 1 ? 'when its rule is met' : `when one of its ${rules} rules is met`}.`;

/**
 * Who hears, as a sentence says it: of one edition for all its readers, else those of each value, and who reads the
 * rest.
 */
const readersWords = (split: Split | null, readers: string): string =>
  split === null ? readers : `the readers of each ${SPLIT_WORDS[split.by]}, and ${readers} the rest,`;

/** Since when, and how what moved is ordered; of what stands neither is said. */
function orderedWords(order: ReportDefinition): string {
  if (order.present.length > 0) return '';
  return `${isAtOnce(order.cadence) ? '' : ' since the last edition'}, ${groupingWords(order)}`;
}

/**
 * A standing order as one sentence: `Each weekday at 07:30, tell Pricing what moved everywhere since the last edition,
 * by item.`
 */
export function orderSentence(order: ReportDefinition, readers: string, names: OrderNames, zone: string): string {
  const when = cadenceWords(order, zone);
  return (
    `${when.charAt(0).toUpperCase()}${when.slice(1)}, tell ${readersWords(order.split, readers)} ` +
    `${takesWords(order)} ${scopeWords(order, names)}${orderedWords(order)}.`
  );
}
