import type { Split, SplitBy } from '../standing-order';
import type { Bearing, Gathered, ToldAlert } from './gathered';
import type { ToldRecord } from './move';

// One edition for each value that the news of a cut bears (14).

/** Which part of a cut's news an edition has. */
export type Share =
  /** Null is news that bears no value. `because` says why it goes to those who read the rest, where it does. */
  { of: 'value'; by: SplitBy; value: string | null; because: 'nobody named' | 'all left' | 'all paused' | null } | { of: 'broken' };

/** The values that news bears; null where it bears none. */
export function valuesBorne(by: SplitBy, { tags, site, items }: Bearing): (string | null)[] {
  const borne = by === 'tag' ? tags : by === 'site' ? [site.name] : by === 'channel' ? channelOf(site) : items.map((item) => item[by]);
  const said = [...new Set(borne.filter((value) => value !== ''))];
  return said.length === 0 ? [null] : said;
}

const channelOf = ({ name, kind }: Bearing['site']): string[] => (kind === 'channel' || kind === 'own' ? [name] : []);

/** What a record's news bears. */
const bearingOf = ({ tags, site, item }: ToldRecord): Bearing => ({ tags, site, items: item === null ? [] : [item.properties] });

const byWords = new Intl.Collator('en').compare;

/** The values that the news of a cut bears, in the order of their names; what bears none comes last. */
export function valuesIn({ by }: Pick<Split, 'by'>, { moves, alerts, broken }: Pick<Gathered, 'moves' | 'alerts' | 'broken'>): (string | null)[] {
  const of = [...moves.map(({ record }) => bearingOf(record)), ...alerts.map(({ record }) => bearingOf(record)), ...broken.map((each) => each.of)];
  const values = new Set(of.flatMap((bearing) => valuesBorne(by, bearing)));
  return [...values].sort((one, other) => (one === null || other === null ? (one === null ? 1 : -1) : byWords(one, other)));
}

/** What of a cut's news bears a value. */
export function shareOf<Found extends Pick<Gathered, 'moves' | 'alerts' | 'broken'>>(
  { by }: Pick<Split, 'by'>,
  value: string | null,
  found: Found,
): Found {
  const bears = (bearing: Bearing) => valuesBorne(by, bearing).includes(value);
  const alerts: ToldAlert[] = found.alerts.filter(({ record }) => bears(bearingOf(record)));
  return {
    ...found,
    moves: found.moves.filter(({ record }) => bears(bearingOf(record))),
    alerts,
    broken: found.broken.filter(({ of }) => bears(of)),
  };
}
