import type { WatchId } from '#core/id';
import type { Field, FieldType } from '#core/read/definition';
import type { Value } from '#core/value/value';
import type { Db } from '../../base/pool';

/** Another watch, with its fields and what they are now. */
interface OtherWatch {
  id: WatchId;
  name: string;
  site: string;
  fields: {
    key: string;
    label: string;
    mode: Field['mode'];
    kind: FieldType['kind'];
    scale: string[] | null;
    now: Value | null;
  }[];
}

/** Watches beside one, on pages of their own, that rules of that one can ask; the first so many by name. */
export async function listOtherWatches(db: Db, beside: WatchId, most: number): Promise<OtherWatch[]> {
  const { rows } = await db.query<OtherWatch>(
    `SELECT w.id, w.subject AS name, t.name AS site, f.fields
     FROM watch w
     JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
     JOIN source s ON s.id = w.source_id
     JOIN site t ON t.id = s.site_id
     CROSS JOIN LATERAL (
       SELECT
         jsonb_agg(jsonb_build_object('key', f->>'key', 'label', f->>'label', 'mode', f->>'mode', 'kind',
         f->'type'->>'kind',
           'scale', f->'type'->'scale', 'now', CASE WHEN n.value->>'kind' = 'text' THEN NULL ELSE n.value
             END)) AS fields
       FROM jsonb_array_elements(v.definition->'fields') f
       LEFT JOIN LATERAL (
         SELECT x.value FROM record r JOIN series x ON x.record_id = r.id AND x.field = f->>'key'
         WHERE r.watch_id = w.id ORDER BY r.id LIMIT 1
       ) n ON true
       WHERE f->'type'->>'kind' <> 'picture'
     ) f
     WHERE w.state = 'running' AND w.id <> $1 AND v.definition->'records'->>'from' = 'page' AND f.fields IS NOT NULL
     ORDER BY lower(w.subject), w.id LIMIT $2`,
    [beside, most],
  );
  return rows;
}
