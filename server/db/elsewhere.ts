import type { WatchId } from '#core/id';
import type { Db } from './pool';

/** Another watch, with those of its fields that are numbers. */
interface WatchElsewhere {
  id: WatchId;
  name: string;
  site: string;
  fields: { key: string; label: string }[];
}

/** Watches beside one, on pages of their own, that read numbers which others can be held against; the first so many by name. */
export async function listElsewhere(db: Db, beside: WatchId, most: number): Promise<WatchElsewhere[]> {
  const { rows } = await db.query<WatchElsewhere>(
    `SELECT w.id, w.subject AS name, t.name AS site, f.fields
     FROM watch w
     JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
     JOIN source s ON s.id = w.source_id
     JOIN site t ON t.id = s.site_id
     CROSS JOIN LATERAL (
       SELECT jsonb_agg(jsonb_build_object('key', f->>'key', 'label', f->>'label')) AS fields
       FROM jsonb_array_elements(v.definition->'fields') f WHERE f->'type'->>'kind' IN ('money', 'number', 'computed')
     ) f
     WHERE w.state = 'running' AND w.id <> $1 AND v.definition->'records'->>'from' = 'page' AND f.fields IS NOT NULL
     ORDER BY lower(w.subject), w.id LIMIT $2`,
    [beside, most],
  );
  return rows;
}
