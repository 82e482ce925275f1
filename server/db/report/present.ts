import type { RecordId, SeriesId, WatchId } from '#core/id';
import type { PresentValue } from '#core/tell/edition/gathered';
import type { Present } from '#core/tell/definition';
import { ALL_RECORDS } from '#core/read/all-records';
import type { Db } from '../base/pool';
import { movedBefore, stoodAt, type Span } from './window';

// Values as they stand, instead of what moved (15).

/** Long texts are shown by their beginning. */
const VALUE = `(SELECT CASE WHEN octet_length(v.value::text) < 4000 THEN v.value ELSE shown(v.value) END
FROM (SELECT ${stoodAt('$3')} AS value) v)`;

const STOOD = `
SELECT n.name, s.watch_id AS watch,
  coalesce(w.failing_since, CASE WHEN s.problem IS NOT NULL THEN s.last_good_at END) AS "staleSince",
  coalesce(${VALUE}, '{"kind": "absent"}') AS value, ${movedBefore('$3')} AS "movedAt"
FROM unnest($1::bigint[], $2::text[]) WITH ORDINALITY AS n(series, name, place)
LEFT JOIN (series s JOIN watch w ON w.id = s.watch_id AND w.state <> 'deleted') ON s.id = n.series
ORDER BY n.place`;

/**
 * The values that are asked for as they stood at the end of a stretch, in their order; those of watches that were
 * deleted since have none.
 */
export async function presentAt(db: Db, present: readonly Present[], { toSeq }: Span): Promise<PresentValue[]> {
  const values = [present.map(({ series }) => series), present.map(({ name }) => name), toSeq];
  return (await db.query<PresentValue>(STOOD, values)).rows;
}

/** A value that can be shown as it stands. */
export interface ChoosableSeries {
  id: SeriesId;
  record: RecordId;
  /** `Copper smoker, large: price`. */
  name: string;
}

const OF_WATCH = `
SELECT s.id, s.record_id AS record,
  left(CASE WHEN o.identity = '${ALL_RECORDS}' OR v.definition->'records'->>'from' = 'page'
    THEN v.definition->>'subject' ELSE coalesce(o.name, o.identity) END, 80)
    || ': ' ||
      left(coalesce((SELECT f->>'label' FROM jsonb_array_elements(v.definition->'fields') f WHERE f->>'key' = s.field
    LIMIT 1), s.field), 38) AS name
FROM series s JOIN record o ON o.id = s.record_id AND o.gone_since IS NULL
JOIN watch w ON w.id = s.watch_id AND w.state <> 'deleted'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
WHERE s.watch_id = $1 ORDER BY o.id, s.id LIMIT $2`;

/** The series of a watch, at most so many. */
export async function seriesOf(db: Db, watch: WatchId, most: number): Promise<ChoosableSeries[]> {
  return (await db.query<ChoosableSeries>(OF_WATCH, [watch, most])).rows;
}
