import type { NewsSort, Split, SplitBy } from '../definition';
import { SORT_WORDS, sortOf } from './choose';
import type { Bearing, Gathered } from './gathered';
import type { MoveId, EditionRecord } from './move';

// One edition for each value that the news of a cut bears (14).

/** Which part of a cut's news an edition has. */
export type Share =
  /** Null is news that bears no value. `because` says why it goes to those who read the rest, where it does. */
  | { of: 'value'; by: SplitBy; value: string | null; because: 'nobody named' | 'all left' | 'all paused' | null }
  /** Of values that nobody is named for, those beyond what can be editions of their own. */
  | { of: 'others'; by: SplitBy; values: (string | null)[] }
  | { of: 'broken' };

/** The values that news bears; null where it bears none. */
export function valuesBorne(by: SplitBy, bearing: Bearing): (string | null)[] {
  const borne = BORNE[by](bearing);
  const said = [...new Set(borne.filter((value) => value !== ''))];
  return said.length === 0 ? [null] : said;
}

const BORNE: Record<SplitBy, (bearing: Bearing) => string[]> = {
  tag: ({ tags }) => tags,
  site: ({ site }) => [site.name],
  channel: ({ site }) => channelOf(site),
  brand: ({ items }) => items.map(({ brand }) => brand),
  category: ({ items }) => items.map(({ category }) => category),
  supplier: ({ items }) => items.map(({ supplier }) => supplier),
  news: ({ sort }) => (sort === undefined ? [] : [sort]),
};

/** What news is called that bears no value. */
export const WITHOUT: Record<SplitBy, string> = {
  tag: 'without a tag',
  site: 'without a site',
  channel: 'at none of our channels',
  brand: 'without a brand',
  category: 'without a category',
  supplier: 'without a supplier',
  news: 'of no kind',
};

/** What a value is called; null is news that bears none. */
export const valueWords = (by: SplitBy, value: string | null): string =>
  value === null
    ? WITHOUT[by]
    : by === 'news'
      ? ((SORT_WORDS as Partial<Record<string, string>>)[value] ?? value)
      : value;

const channelOf = ({ name, kind }: Bearing['site']): string[] => (kind === 'channel' || kind === 'own' ? [name] : []);

/** What a record's news bears. */
export const bearingOf = ({ tags, site, item }: EditionRecord): Bearing => ({
  tags,
  site,
  items: item === null ? [] : [item.properties],
});

type Sharable = Pick<Gathered, 'moves' | 'alerts' | 'broken'>;

/** A cut's news by the values that it bears, in the order of their names; what bears none comes last. */
export function sharesOf<Found extends Sharable>({ by }: Pick<Split, 'by'>, found: Found): Map<string | null, Found> {
  const shares = new Map<string | null, Found>();
  const shareFor = (value: string | null) => {
    const share = shares.get(value) ?? { ...found, moves: [], alerts: [], broken: [] };
    shares.set(value, share);
    return share;
  };
  // What is first read goes with the moves of its field, and an alert with the move that raised it, where that is told.
  const sorts = new Map<MoveId, NewsSort>(found.moves.map(({ id, field }) => [id, sortOf({ field })]));
  for (const move of found.moves)
    for (const value of valuesBorne(by, { ...bearingOf(move.record), sort: sorts.get(move.id) }))
      shareFor(value).moves.push(move);
  for (const alert of found.alerts)
    for (const value of valuesBorne(by, {
      ...bearingOf(alert.record),
      sort: (alert.move === null ? undefined : sorts.get(alert.move)) ?? 'alerts',
    }))
      shareFor(value).alerts.push(alert);
  for (const each of found.broken)
    for (const value of valuesBorne(by, { ...each.of, sort: 'failures' })) shareFor(value).broken.push(each);
  return new Map(
    [...shares].sort(([one], [other]) =>
      one === null || other === null ? (one === null ? 1 : -1) : byWords(one, other),
    ),
  );
}

const byWords = new Intl.Collator('en').compare;

/** What of a cut's news is in a share of it. */
export function shareOf<Found extends Sharable>(share: Share, found: Found): Found {
  if (share.of === 'broken') return { ...found, moves: [], alerts: [] };
  const shares = sharesOf(share, found);
  if (share.of === 'value') return shares.get(share.value) ?? { ...found, moves: [], alerts: [], broken: [] };
  const values = new Set(share.values);
  return together(
    found,
    [...shares].flatMap(([value, own]) => (values.has(value) ? [own] : [])),
  );
}

/** Several shares as one, each piece of news once. */
export function together<Found extends Sharable>(found: Found, shares: readonly Found[]): Found {
  const moves = new Set(shares.flatMap((share) => share.moves));
  const alerts = new Set(shares.flatMap((share) => share.alerts));
  const broken = new Set(shares.flatMap((share) => share.broken));
  return {
    ...found,
    moves: found.moves.filter((move) => moves.has(move)),
    alerts: found.alerts.filter((alert) => alerts.has(alert)),
    broken: found.broken.filter((each) => broken.has(each)),
  };
}
