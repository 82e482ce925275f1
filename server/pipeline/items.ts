import type { RecordId, RuleId, WatchId } from '#core/id';
import type { KnownWatch } from '#core/judge/known';
import type { KnownItem, Offer } from '#core/judge/offers';
import { isInTime } from '#core/judge/placing';
import type { Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import type { ItemsOf } from '../db/item/known-items';
import { inOneTurn, type Db } from '../db/base/pool';
import type { JudgedWatch } from './store/judged';

// The items that rules ask, as they stand with what a run has read.

/** Items as they stand with what was read now, by one or several watches of a run. */
export function withReadings(items: ItemsOf, judged: readonly JudgedWatch[], now: Instant): ItemsOf {
  const read = new Map<string, Map<string, Value>>();
  for (const { watch, outcome } of judged) {
    for (const { field, identity, value } of outcome.good.filter(isInTime)) {
      const key = `${watch.id} ${identity}`;
      const own = read.get(key) ?? new Map<string, Value>();
      const role = field.role ?? field.key;
      if (!own.has(role)) own.set(role, value);
      read.set(key, own);
    }
  }
  const fresh = new Map<KnownItem, KnownItem>();
  const renewed = (item: KnownItem): KnownItem => {
    const known = fresh.get(item) ?? {
      ...item,
      offers: item.offers.map((offer) => withRead(offer, read.get(`${offer.watch} ${offer.identity}`), now)),
    };
    fresh.set(item, known);
    return known;
  };
  return new Map(
    [...items].map(([id, { watch, of }]) => [
      id,
      { watch, of: new Map([...of].map(([identity, item]) => [identity, renewed(item)])) },
    ]),
  );
}

function withRead(offer: Offer, read: ReadonlyMap<string, Value> | undefined, now: Instant): Offer {
  if (read === undefined) return offer;
  return {
    ...offer,
    values: new Map([...offer.values, ...[...read].map(([role, value]) => [role, { value, at: now }] as const)]),
  };
}

/** The records of a watch whose items have an offer among those that were read now. */
export function touchedBy(
  items: NonNullable<KnownWatch['items']> | undefined,
  judged: readonly JudgedWatch[],
): Set<string> {
  const read = new Set(
    judged.flatMap(({ watch, outcome }) => outcome.good.map(({ identity }) => `${watch.id} ${identity}`)),
  );
  return new Set(
    [...(items?.of ?? [])]
      .filter(([, { offers }]) => offers.some(({ watch, identity }) => read.has(`${watch} ${identity}`)))
      .map(([identity]) => identity),
  );
}

const RELATED = `
SELECT x.id FROM record mine CROSS JOIN LATERAL (SELECT o.id FROM record o WHERE o.item_id = mine.item_id OFFSET 0) x
WHERE mine.watch_id = ANY($1) AND mine.item_id IS NOT NULL`;

const ASKS_WATCHES = 'SELECT FROM rule_asks WHERE rule_id = ANY($1) LIMIT 1';

/**
 * The records that rules of other watches are to be judged on, since an offer of the same item was read: of a large
 * watch these are few. All are meant (null) where one of the rules asks a watch as such.
 */
export async function relatedRecords(
  db: Db,
  asking: readonly RuleId[],
  read: readonly WatchId[],
): Promise<RecordId[] | null> {
  const [asks, beside] = await inOneTurn(db, [
    { name: 'asks watches', text: ASKS_WATCHES, values: [asking] },
    { name: 'records beside', text: RELATED, values: [read] },
  ]);
  return (asks?.rows.length ?? 0) > 0 ? null : ((beside?.rows ?? []) as { id: RecordId }[]).map(({ id }) => id);
}
