import type { WatchDefinition } from '#core/read/definition';
import { asksOf, type LatestValue } from '#core/read/formula';
import type { Db } from '../base/pool';

const LATEST = `
SELECT asked.watch, asked.field, s.value FROM jsonb_to_recordset($1) AS asked(watch text, field text)
JOIN LATERAL (
  SELECT w.id, v.definition FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
  WHERE w.state <> 'deleted' AND lower(w.subject) = lower(asked.watch) ORDER BY w.id LIMIT 1
) w ON true
JOIN LATERAL (SELECT f->>'key' AS key FROM jsonb_array_elements(w.definition->'fields') f
WHERE lower(f->>'label') = lower(asked.field) LIMIT 1) f ON true
JOIN series s ON s.watch_id = w.id AND s.field = f.key AND s.problem IS NULL`;

/**
 * Loads what the formulas of these definitions ask of others; one whose watch has several records has no single latest
 * value.
 */
export async function latestOf(db: Db, definitions: Pick<WatchDefinition, 'fields'>[]): Promise<LatestValue[]> {
  const asked = definitions.flatMap(asksOf);
  if (asked.length === 0) return [];
  const { rows } = await db.query<LatestValue>(LATEST, [JSON.stringify(asked)]);
  return rows;
}
