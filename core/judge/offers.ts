import { DateTime } from 'luxon';
import { minimumOn, type Item } from '../items/item';
import type { SiteId, WatchId } from '../id';
import { compareDecimals } from '../value/decimal';
import { ABSENT, alike, isMeasure, type Money, type Value } from '../value/value';
import type { Instant } from '../when/interval';
import { dayAt } from '../when/wall-clock';
import type { Asked } from './asked';
import { freshFor, type Latest } from './observation';

/** Whose an offer is: our own shop's, another channel's of ours, or somebody else's. */
type Whose = 'own' | 'channel' | 'other';

/**
 * A record that is an offer of an item, with the latest of its fields by what they are; a typed price has no record.
 */
export interface Offer {
  watch: WatchId | null;
  identity: string;
  site: SiteId;
  whose: Whose;
  /** How often its watch looks, in ms: an older reading is leant on no more. */
  intervalMs: number;
  values: ReadonlyMap<string, Latest>;
}

/** The item that a record is an offer of, with all offers of it, ours with the others. */
export interface KnownItem {
  item: Pick<Item, 'reference' | 'name' | 'brand' | 'category' | 'supplier' | 'gtin' | 'minimums'>;
  /** Whose days those of its minimums are. */
  zone: string;
  offers: readonly Offer[];
}

/** A record whose item is asked: which it is, and which role each of its fields has. */
interface Asking {
  watch: WatchId | null;
  identity: string;
  roleOf: (field: string) => string;
  now: Instant;
}

const NOTHING = (at: Instant): Latest => ({ value: ABSENT, at });

/**
 * What an item says that a rule asks of it, as heard now; absent where it says nothing, or nothing that is not too old.
 */
export function askedOf(known: KnownItem | undefined, asked: Asked, asking: Asking): Latest {
  const { now } = asking;
  if (known === undefined) return NOTHING(now);
  if (asked.item === 'minimum') return heard(minimumOn(known.item, dayAt(now, known.zone)), now);
  const role = asking.roleOf(asked.field);
  if (asked.item === 'ours') return heard(ourValue(known, role, asked.channel, now), now);
  return heard(cheapest(othersOf(known, role, asking).map(({ value }) => value)), now);
}

/** When the agreed minimums of an item begin and end: with a day in their zone. */
export function minimumMoves(known: KnownItem | undefined): Instant[] {
  if (known === undefined) return [];
  const day = (date: string | null, more: number) =>
    date === null ? [] : [DateTime.fromISO(date, { zone: known.zone }).plus({ days: more }).toMillis()];
  return known.item.minimums.flatMap(({ from, until }) => [...day(from, 0), ...day(until, 1)]);
}

const heard = (value: Value | null, at: Instant): Latest => ({ value: value ?? ABSENT, at });

/**
 * The others among which a record's offer has its place: of ours one at most stands there, and none beside another of
 * ours.
 */
export function othersOf(known: KnownItem, role: string, { watch, identity, now }: Asking): Latest[] {
  const self = known.offers.find((offer) => offer.watch === watch && offer.identity === identity);
  const isOurs = self !== undefined && self.whose !== 'other';
  const rivals = known.offers
    .filter((offer) => offer.whose === 'other' && offer !== self)
    .map((offer) => fresh(offer, role, now));
  const ours = isOurs ? null : ourValue(known, role, undefined, now);
  // What is fresh by its own pace is as good as read now.
  return [...rivals, ours].flatMap((value) => (value !== null && isMeasure(value) ? { value, at: now } : []));
}

/**
 * What ours is, by what it is: at a channel that is named, else at our own shop, else at the first channel where there
 * is one.
 */
function ourValue({ offers }: KnownItem, role: string, channel: number | undefined, now: Instant): Value | null {
  const ours = offers.filter(({ whose, site }) => (channel === undefined ? whose !== 'other' : site === channel));
  const inOrder = [...ours].sort((one, other) => rankOf(one) - rankOf(other) || one.site - other.site);
  for (const offer of inOrder) {
    const value = fresh(offer, role, now);
    if (value !== null) return value;
  }
  return null;
}

/** Our own shop before other channels, what is read before what is typed. */
const rankOf = ({ whose, watch }: Offer) => (whose === 'own' ? 0 : 2) + (watch === null ? 1 : 0);

function fresh({ values, intervalMs, watch }: Offer, role: string, now: Instant): Value | null {
  const latest = values.get(role);
  if (latest === undefined || latest.value.kind === 'absent') return null;
  return watch !== null && now - latest.at > freshFor({ intervalMs }) ? null : latest.value;
}

/** The lowest of values that are counted alike; null where there is none, or they are not. */
function cheapest(values: Value[]): Value | null {
  const [first, ...rest] = values.filter(isMeasure);
  if (first === undefined || rest.some((each) => !alike(each, first))) return null;
  return rest.reduce((low, each) => (compareDecimals(each.amount, low.amount) < 0 ? each : low), first);
}

/** The role by which the like of a typed price is known. */
const PRICE_ROLE = 'price';

/** A typed price of ours at a channel, as an offer without a record. */
export const typedOffer = (site: SiteId, whose: Whose, price: Money, now: Instant): Offer => ({
  watch: null,
  identity: '',
  site,
  whose,
  intervalMs: 0,
  values: new Map([[PRICE_ROLE, { value: price, at: now }]]),
});
