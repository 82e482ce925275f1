import type { WatchId } from '#core/id';
import type { Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../base/pool';

/** A watch that reads the same fields as another one, and has a history. */
export interface LikeWatch {
  id: WatchId;
  subject: string;
  site: string;
  /** Since when it is read. */
  since: Instant;
  /** It reads at the same site. */
  near: boolean;
}

/** So many watches are looked at, those of the same site and then the latest, and so many are offered. */
const MOST_COMPARED = 2_000;
const MOST_OFFERED = 8;

/**
 * Watches are like where they read fields of the same name and kind; the same site comes first, then the longest
 * history.
 */
const LIKE = `
WITH own AS (
  SELECT w.id, s.site_id FROM watch w JOIN source s ON s.id = w.source_id WHERE w.id = $1
), looked AS (
  (SELECT w.id, w.subject, s.site_id FROM own JOIN source s ON s.site_id = own.site_id
  JOIN watch w ON w.source_id = s.id
   WHERE w.state <> 'deleted' AND w.id <> own.id ORDER BY w.id DESC LIMIT ${MOST_COMPARED / 2})
  UNION (SELECT w.id, w.subject, s.site_id FROM watch w JOIN source s ON s.id = w.source_id
   WHERE w.state <> 'deleted' AND w.id <> $1 ORDER BY w.id DESC LIMIT ${MOST_COMPARED})
), like_it AS (
  SELECT l.id, l.subject, l.site_id, min(r.first_seen) AS since
  FROM looked l
  JOIN series q ON q.watch_id = l.id
  JOIN record r ON r.id = q.record_id
  JOIN jsonb_to_recordset($2) AS asked(field text, kind text) ON asked.field = q.field AND asked.kind = q.value->>'kind'
  GROUP BY l.id, l.subject, l.site_id
  HAVING count(DISTINCT q.field) = jsonb_array_length($2) AND bool_or(r.first_seen < $3::timestamptz - interval '1 day')
)
SELECT k.id, k.subject, t.name AS site, k.since, k.site_id = own.site_id AS near
FROM like_it k JOIN site t ON t.id = k.site_id, own
ORDER BY near DESC, k.since, k.id LIMIT ${MOST_OFFERED}`;

/** Watches on whose history a rule can be tried that asks some fields, each of a kind of value. */
export async function likeWatches(
  db: Db,
  id: WatchId,
  fields: { field: string; kind: Value['kind'] }[],
  now: Instant,
): Promise<LikeWatch[]> {
  if (fields.length === 0) return [];
  return (await db.query<LikeWatch>(LIKE, [id, JSON.stringify(fields), moment(now)])).rows;
}
