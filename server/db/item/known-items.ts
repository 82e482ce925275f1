import type { ItemId, SiteId, WatchId } from '#core/id';
import type { Minimum } from '#core/items/item';
import type { Latest } from '#core/judge/observation';
import type { KnownRule, KnownWatch } from '#core/judge/known';
import { typedOffer, type KnownItem, type Offer } from '#core/judge/offers';
import { asksItems } from '#core/judge/rule';
import type { Money, Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { inOneTurn, type Db } from '../base/pool';

// What rules ask of the items that records are offers of: their properties, their agreed minimum, and their other
// offers, wherever read.

/** A watch whose rules may ask the items of its records. */
interface Asking {
  id: WatchId;
  rules: readonly KnownRule[];
}

/** Items by watch, and by the identity of the record that is an offer of each. */
export type ItemsOf = ReadonlyMap<WatchId, NonNullable<KnownWatch['items']>>;

const JOINED = `SELECT r.watch_id AS watch, r.identity, r.item_id AS item
  FROM record r
  WHERE r.watch_id = ANY($1) AND r.item_id IS NOT NULL`;

const WANTED = `i.ended_at IS NULL
  AND i.id IN (SELECT item_id FROM record WHERE watch_id = ANY($1) AND item_id IS NOT NULL)`;

const ITEMS = `SELECT i.id, i.reference, i.name, i.brand, i.category, i.supplier, i.gtin, i.minimums, i.zone
  FROM item i
  WHERE ${WANTED}`;

const TYPED = `
SELECT l.item_id AS item, l.site_id AS site, t.kind, l.price FROM listing l JOIN site t ON t.id = l.site_id
JOIN item i ON i.id = l.item_id
WHERE ${WANTED} AND l.price IS NOT NULL AND t.kind IN ('own', 'channel')`;

/** The readings of each offer, by what each field is. */
const OFFERS = `
SELECT o.item_id AS item, o.watch_id AS watch, o.identity, w.interval_ms AS "intervalMs", t.id AS site, t.kind,
  coalesce(f->>'role', s.field) AS role, s.value,
  CASE WHEN s.problem IS NULL THEN greatest(s.last_good_at, w.last_good_at) ELSE s.last_good_at END AS at
FROM item i
JOIN record o ON o.item_id = i.id AND o.gone_since IS NULL
JOIN watch w ON w.id = o.watch_id AND w.state = 'running'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN source c ON c.id = w.source_id
JOIN site t ON t.id = c.site_id
JOIN series s ON s.record_id = o.id
JOIN LATERAL jsonb_array_elements(v.definition->'fields') f ON f->>'key' = s.field
WHERE ${WANTED} AND s.value->>'kind' IN ('money', 'number', 'state', 'flag', 'grade', 'absent')
ORDER BY o.id LIMIT ${50_000}`;

/** A field of an offer of an item: which it is, where it is read, and what it is. */
export interface OfferedField {
  item: ItemId;
  watch: WatchId;
  identity: string;
  intervalMs: number;
  site: SiteId;
  kind: 'own' | 'rival' | 'channel' | null;
  role: string;
}

interface OfferRow extends OfferedField {
  value: Value;
  at: Instant;
}

type ItemRow = KnownItem['item'] & { id: ItemId; zone: string; minimums: Minimum[] };

/** Loads what the rules of watches ask of items; where none does, nothing is asked here. */
export async function loadItems(db: Db, watches: readonly Asking[], now: Instant): Promise<ItemsOf> {
  const asking = watches
    .filter(({ rules }) => rules.some(({ definition }) => asksItems(definition)))
    .map(({ id }) => id);
  return asking.length === 0 ? new Map() : loadItemsOf(db, asking, now);
}

/** Loads the items of the records of watches. */
export async function loadItemsOf(db: Db, asking: readonly WatchId[], now: Instant): Promise<ItemsOf> {
  const [joined, items, typed, offers] = await inOneTurn(db, [
    { name: 'records of items', text: JOINED, values: [asking] },
    { name: 'items of watches', text: ITEMS, values: [asking] },
    { name: 'typed prices', text: TYPED, values: [asking] },
    { name: 'offers of items', text: OFFERS, values: [asking] },
  ]);
  const known = new Map(
    ((items?.rows ?? []) as ItemRow[]).map(({ id, zone, ...item }) => [id, { item, zone, offers: [] as Offer[] }]),
  );
  for (const { item, site, kind, price } of (typed?.rows ?? []) as {
    item: ItemId;
    site: SiteId;
    kind: 'own' | 'channel';
    price: Money;
  }[])
    known.get(item)?.offers.push(typedOffer(site, kind, price, now));
  for (const [item, offer] of offersIn((offers?.rows ?? []) as OfferRow[])) known.get(item)?.offers.push(offer);
  const found = new Map<WatchId, { watch: WatchId; of: Map<string, KnownItem> }>();
  for (const { watch, identity, item } of (joined?.rows ?? []) as {
    watch: WatchId;
    identity: string;
    item: ItemId;
  }[]) {
    const own = found.get(watch) ?? { watch, of: new Map<string, KnownItem>() };
    const its = known.get(item);
    if (its !== undefined) own.of.set(identity, its);
    found.set(watch, own);
  }
  return found;
}

function offersIn(rows: OfferRow[]): [ItemId, Offer][] {
  const offers = new Map<string, [ItemId, Offer & { values: Map<string, Latest> }]>();
  for (const { item, watch, identity, intervalMs, site, kind, role, value, at } of rows) {
    const key = `${watch} ${identity}`;
    const whose = kind === 'own' || kind === 'channel' ? kind : 'other';
    const [, offer] = offers.get(key) ?? [
      item,
      { watch, identity, site, whose, intervalMs, values: new Map<string, Latest>() } as const,
    ];
    // Of several fields of one kind the first one counts.
    if (!offer.values.has(role)) offer.values.set(role, { value, at });
    offers.set(key, [item, offer]);
  }
  return [...offers.values()];
}
