import type { ItemId, RecordId } from '../../id';
import { compareDecimals } from '../../value/decimal';
import { alike, isMeasure, type Money, type Value } from '../../value/value';
import { landed, toOurs, type OfferNow } from './offers';
import type { EditionRecord } from './move';

/** A move of what an offer costs: what it was before, at a place in the order of commits. */
export interface PriceMove {
  part: 'price' | 'shipping';
  seq: number;
  was: Value;
}

/**
 * What the offers of items cost at any place within a stretch: as they stood at its end, and the moves of each within
 * it, in their order.
 */
export interface Prices {
  offers: ReadonlyMap<ItemId, readonly OfferNow[]>;
  moves: ReadonlyMap<RecordId, readonly PriceMove[]>;
}

/**
 * What an offer costs after a place in the order of commits, landed: what the first move behind it found, else what
 * stands at the end.
 */
function costAt({ moves }: Prices, { record, price, shipping }: OfferNow, seq: number): Value | null {
  const own = record?.id == null ? [] : (moves.get(record.id) ?? []);
  const before = (part: PriceMove['part']) => own.find((move) => move.part === part && move.seq > seq)?.was;
  return landed(before('price') ?? price, before('shipping') ?? shipping)?.value ?? null;
}

/** Whether an offer costs less than ours did then, the two landed (2). What has no price is below nothing. */
export function isBelowOurs(prices: Prices, { id, item }: EditionRecord, seq: number): boolean {
  const own = (item === null ? undefined : prices.offers.get(item.id)) ?? [];
  const ours = own.find(({ site }) => site.kind === 'own') ?? own.find(({ site }) => site.kind === 'channel');
  const offer = own.find(({ record }) => record !== null && record.id === id);
  if (ours === undefined || offer === undefined || offer === ours) return false;
  return toOurs(costAt(prices, offer, seq), costAt(prices, ours, seq))?.amount.startsWith('-') === true;
}

/** Whether a price is under the agreed minimum. */
export const isUnder = (value: Value, minimum: Money | null): boolean =>
  minimum !== null && isMeasure(value) && alike(value, minimum) && compareDecimals(value.amount, minimum.amount) < 0;
