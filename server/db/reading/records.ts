import type { ItemId, RecordId, SeriesId, WatchId } from '#core/id';
import { ALL_RECORDS } from '#core/read/all-records';
import type { FormerRecord } from '#core/read/mend/mending';
import type { Instant } from '#core/when/interval';
import type { Db } from '../base/pool';
import { seriesWhere, type SeriesNow } from './series-now';

/** One record as it stands, with its series. */
export interface RecordNow {
  id: RecordId;
  identity: string;
  name: string;
  variant: string | null;
  labels: Record<string, string>;
  firstSeen: Instant;
  goneSince: Instant | null;
  /** The item that it is an offer of. */
  item: { id: ItemId; reference: string; name: string } | null;
  series: SeriesNow[];
}

/** Where a page of records begins: after one, of those that are there or of those that went. */
export interface AfterRecord {
  gone: boolean;
  id: RecordId;
}

/** Those that are there before those that went. */
const ORDER = '(r.gone_since IS NOT NULL), r.id';

/** One of them, and not all of them together. */
const NAMED = `r.identity <> '${ALL_RECORDS}' AND ($2 = '' OR strpos(lower(coalesce(r.name, r.identity)), $2) > 0)`;

/** A page, or the first one with a chosen record at its head. */
const pageOf = (first: boolean): string =>
  first
    ? `(SELECT r.* FROM record r WHERE r.watch_id = $1 AND r.id = $4)
       UNION ALL (SELECT r.* FROM record r WHERE r.watch_id = $1 AND r.id <> $4 AND ${NAMED} ORDER BY ${ORDER}
       LIMIT $3)`
    : `SELECT r.*
      FROM record r
      WHERE r.watch_id = $1 AND ${NAMED} AND ((r.gone_since IS NOT NULL), r.id) > ($5, $4)
      ORDER BY ${ORDER}
      LIMIT $3`;

const recordsOn = (first: boolean): string => `
SELECT r.id, r.identity, coalesce(r.name, r.identity) AS name, r.variant, r.labels, r.first_seen AS "firstSeen",
  r.gone_since AS "goneSince",
  (SELECT jsonb_build_object('id', i.id, 'reference', i.reference, 'name', i.name) FROM item i
  WHERE i.id = r.item_id AND i.ended_at IS NULL) AS item,
  coalesce((${seriesWhere('s.record_id = r.id')}), '[]') AS series
FROM (${pageOf(first)}) r
JOIN watch w ON w.id = r.watch_id
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
ORDER BY ${first ? 'r.id = $4 DESC, ' : ''}${ORDER}`;

/**
 * Records of a watch, those that are there first; of those whose name holds some words. On the first page a chosen one
 * in any case.
 */
export async function listRecords(
  db: Db,
  watchId: WatchId,
  {
    words,
    chosen,
    most,
    after = null,
  }: { words: string; chosen: RecordId | null; most: number; after?: AfterRecord | null },
): Promise<RecordNow[]> {
  const values = [watchId, words.toLowerCase(), most, ...(after === null ? [chosen ?? 0] : [after.id, after.gone])];
  return (await db.query<RecordNow>(recordsOn(after === null), values)).rows;
}

const MOST_KNOWN = 2000;

/**
 * The records that a watch knows and that have not gone, with the last good values of their fields; the first 2,000.
 */
export async function listKnown(db: Db, watchId: WatchId): Promise<FormerRecord[]> {
  const { rows } = await db.query<FormerRecord>(
    `SELECT r.identity, jsonb_object_agg(s.field, s.value) AS fields FROM record r JOIN series s ON s.record_id = r.id
     WHERE r.watch_id = $1 AND r.gone_since IS NULL GROUP BY r.id ORDER BY r.id LIMIT ${MOST_KNOWN}`,
    [watchId],
  );
  return rows;
}

/** Records that turned up on a watch which follows chosen ones, the latest first. */
export async function listOffered(
  db: Db,
  watchId: WatchId,
  most: number,
): Promise<{ identity: string; name: string; firstSeen: Instant }[]> {
  const { rows } = await db.query<{ identity: string; name: string; firstSeen: Instant }>(
    `SELECT identity, name, first_seen AS "firstSeen"
      FROM offered_record
      WHERE watch_id = $1
      ORDER BY first_seen DESC, identity
      LIMIT $2`,
    [watchId, most],
  );
  return rows;
}

/** Ends the offer of records that were taken or left out. */
export async function endOffer(db: Db, watchId: WatchId, identities: string[]): Promise<void> {
  await db.query('DELETE FROM offered_record WHERE watch_id = $1 AND identity = ANY($2)', [watchId, identities]);
}

/** The text of a series as it stands, whole; null where there is none. */
export async function findValueText(db: Db, watchId: WatchId, seriesId: SeriesId): Promise<string | null> {
  const { rows } = await db.query<{ text: string | null }>(
    `SELECT value->>'text' AS text FROM series WHERE watch_id = $1 AND id = $2`,
    [watchId, seriesId],
  );
  return rows[0]?.text ?? null;
}
