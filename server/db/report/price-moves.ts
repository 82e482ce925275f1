import type { ItemId, RecordId } from '#core/id';
import type { PriceMove } from '#core/tell/edition/prices';
import type { Db } from '../base/pool';
import type { Span } from './window';

const MOVES = `
SELECT o.id AS record, CASE f->>'role' WHEN 'price' THEN 'price' ELSE 'shipping' END AS part, c.seq, c.was
FROM record o
JOIN watch w ON w.id = o.watch_id AND w.state <> 'deleted'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN series s ON s.record_id = o.id
JOIN LATERAL jsonb_array_elements(v.definition->'fields') f ON f->>'key' = s.field
  AND f->>'role' IN ('price', 'shipping cost')
JOIN change c ON c.series_id = s.id
WHERE o.item_id = ANY($1) AND c.seq > $2 AND c.seq <= $3 ORDER BY c.seq LIMIT 200000`;

/**
 * The moves of what offers of items cost within a stretch, in their order: so that what they cost at any place in it
 * can be told.
 */
export async function priceMovesIn(
  db: Db,
  items: ItemId[],
  { fromSeq, toSeq }: Span,
): Promise<Map<RecordId, PriceMove[]>> {
  const { rows } = await db.query<PriceMove & { record: RecordId }>(MOVES, [items, fromSeq, toSeq]);
  const found = new Map<RecordId, PriceMove[]>();
  for (const { record, ...move } of rows) found.set(record, [...(found.get(record) ?? []), move]);
  return found;
}
