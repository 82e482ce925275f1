import { add, compareDecimals, subtract, type Decimal } from '../../value/decimal';
import { alike, isMeasure, type Measure, type Money, type Value } from '../../value/value';
import type { Instant } from '../../when/interval';
import type { Cause } from '../failure';
import type { EditionRecord } from './move';

/** Who offers an item, as it stood at a cut: read from a record, or typed by us. */
export interface OfferNow {
  /** Null of a typed price. */
  record: EditionRecord | null;
  site: EditionRecord['site'];
  price: Value | null;
  shipping: Value | null;
  stock: Value | null;
  /** When one of these moved last. */
  movedAt: Instant | null;
  /** That it is not read at the cut: what stands here is its last good. */
  stale?: Stale | null;
}

/** Since when something is not read, and why, where that was told. */
export interface Stale {
  since: Instant;
  cause: Cause | null;
}

/** A price with what comes on top of it, where that is known. */
export interface Landed {
  value: Value;
  /** Shipping is in it. */
  shipped: boolean;
}

/** The landed price of an offer: with its shipping, where both are counted alike. */
export function landed(price: Value | null, shipping: Value | null): Landed | null {
  if (price === null || price.kind === 'absent') return null;
  if (shipping === null || !isMeasure(price) || !isMeasure(shipping) || !alike(price, shipping))
    return { value: price, shipped: false };
  if (compareDecimals(shipping.amount, '0' as Decimal) === 0) return { value: price, shipped: false };
  return { value: { ...price, amount: add(price.amount, shipping.amount) } as Money, shipped: true };
}

/** How far a price is from ours; null where the two are not counted alike. */
export function toOurs(price: Value | null, ours: Value | null): Measure | null {
  if (price === null || ours === null || !isMeasure(price) || !isMeasure(ours) || !alike(price, ours)) return null;
  return { ...price, amount: subtract(price.amount, ours.amount) };
}

/** The place of ours among prices that are counted like it, the lowest being the first; equal ones share a place. */
export function placeAmong(
  ours: Value | null,
  others: readonly (Value | null)[],
): { place: number; of: number } | null {
  if (ours === null || !isMeasure(ours)) return null;
  const like = others.filter((each): each is Measure => each !== null && isMeasure(each) && alike(each, ours));
  if (like.length === 0) return null;
  return {
    place: 1 + like.filter(({ amount }) => compareDecimals(amount, ours.amount) < 0).length,
    of: like.length + 1,
  };
}
