import type { WatchId } from '#core/id';
import { ITEM_PROPERTIES, type ReportDefinition } from '#core/tell/definition';
import type { Db } from '../base/pool';

// Which watches a report follows: no others are read through for it.

/** Watches whose own news it takes, or one of whose records, fields or rules it asks for. */
const FOLLOWED = `
SELECT w.id FROM watch w JOIN source s ON s.id = w.source_id JOIN site t ON t.id = s.site_id
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
WHERE w.state <> 'deleted'
  AND (cardinality($1::int[]) = 0 OR w.id = ANY($1))
  AND (cardinality($2::int[]) = 0 OR s.site_id = ANY($2))
  AND (cardinality($3::text[]) = 0 OR t.kind = ANY($3))
  AND (cardinality($4::text[]) = 0 OR w.tags && $4)
  AND NOT w.id = ANY($5) AND NOT s.site_id = ANY($6) AND NOT ($7 AND t.kind IS NOT DISTINCT FROM 'own')
  AND (cardinality($8::text[]) = 0 OR EXISTS (
    SELECT FROM jsonb_array_elements(v.definition->'fields') f
    WHERE lower(btrim(f->>'label')) = ANY($8) OR f->>'role' = ANY($8)))
  AND (cardinality($9::int[]) = 0 OR EXISTS (SELECT FROM rule u WHERE u.watch_id = w.id AND u.id = ANY($9)))
  AND (cardinality($10::text[]) = 0 OR EXISTS (
    SELECT FROM rule u JOIN rule_version d ON d.rule_id = u.id AND d.version = u.version
    WHERE u.watch_id = w.id AND u.ended_at IS NULL AND coalesce(d.definition->>'weight', 'usual') = ANY($10)))
  AND (NOT $11 OR EXISTS (
    SELECT FROM record o JOIN item i ON i.id = o.item_id WHERE o.watch_id = w.id
      AND (cardinality($12::int[]) = 0 OR i.id = ANY($12))
      AND (cardinality($13::text[]) = 0 OR i.brand = ANY($13))
      AND (cardinality($14::text[]) = 0 OR i.category = ANY($14))
      AND (cardinality($15::text[]) = 0 OR i.supplier = ANY($15))))
  AND ($16::int[] IS NULL OR w.id = ANY($16))`;

/** The watches that a report follows, of all or of some; null where it follows all. */
export async function followedBy(
  db: Db,
  { takes: { only, not } }: Pick<ReportDefinition, 'takes'>,
  among: WatchId[] | null = null,
): Promise<WatchId[] | null> {
  const asked: readonly (readonly unknown[])[] = Object.values(only);
  const asksAll = asked.every(({ length }) => length === 0) && not.watches.length + not.sites.length === 0 && !not.ours;
  if (asksAll) return null;
  const properties = ITEM_PROPERTIES.map((of) => only[of]);
  const asksItems = [only.items, ...properties].some(({ length }) => length > 0);
  const fields = only.fields.map((label) => label.trim().toLowerCase());
  const { rows } = await db.query<{ id: WatchId }>(FOLLOWED, [
    only.watches,
    only.sites,
    only.kinds,
    only.tags,
    not.watches,
    not.sites,
    not.ours,
    fields,
    only.rules,
    only.weights,
    asksItems,
    only.items,
    ...properties,
    among,
  ]);
  return rows.map(({ id }) => id);
}
