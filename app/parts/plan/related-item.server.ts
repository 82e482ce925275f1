import type { WatchId } from '#core/id';
import { ITEM_SIDES } from '#core/judge/asked';
import { askedOf } from '#core/judge/offers';
import type { WatchDefinition } from '#core/read/definition';
import type { Instant } from '#core/when/interval';
import { listChannels } from '#server/db/item/items';
import type { Db } from '#server/db/base/pool';
import { loadItemsOf } from '#server/db/item/known-items';
import type { RelatedItem } from './related-item';

/** What the item of a record says beside each of its fields now. */
export async function relatedItem(
  db: Db,
  watch: { id: WatchId; definition: WatchDefinition },
  identity: string | null,
  now: Instant,
): Promise<RelatedItem> {
  const [items, channels] = [await loadItemsOf(db, [watch.id], now), await listChannels(db)];
  const known = identity === null ? undefined : items.get(watch.id)?.of.get(identity);
  if (known === undefined || identity === null) return { item: null, says: {}, channels };
  const { fields } = watch.definition;
  const asking = {
    watch: watch.id,
    identity,
    now,
    roleOf: (key: string) => fields.find((field) => field.key === key)?.role ?? key,
  };
  const says = fields.map(({ key }) => [
    key,
    Object.fromEntries(ITEM_SIDES.map((item) => [item, askedOf(known, { field: key, item }, asking).value])),
  ]);
  const { reference, name } = known.item;
  return { item: { reference, name }, says: Object.fromEntries(says) as RelatedItem['says'], channels };
}
