import type { SnapshotId, WatchId } from '#core/id';
import type { Instant } from '#core/when/interval';
import type { Db } from '../base/pool';
import type { SourceWay } from '../../fetch/request';

/** The oldest snapshot that is kept of an address fetched in a way, to try a reading on; null when there is none. */
export async function findEarlierBody(
  db: Db,
  address: string,
  way: SourceWay,
): Promise<{ body: string; address: string; takenAt: Instant } | null> {
  const { rows } = await db.query<{ body: string; address: string; takenAt: Instant }>(
    `SELECT n.body, n.address, n.taken_at AS "takenAt" FROM snapshot n JOIN source s ON s.id = n.source_id
     WHERE s.address = $1 AND s.way = $2 ORDER BY n.id LIMIT 1`,
    [address, way],
  );
  return rows[0] ?? null;
}

/** What a watch's source brought last. */
export interface LatestBody {
  snapshotId: SnapshotId;
  body: string;
  address: string;
  takenAt: Instant;
}

/** What a watch's source brought last, read or not; null before the first. */
export async function findBody(db: Db, watchId: WatchId): Promise<LatestBody | null> {
  const { rows } = await db.query<LatestBody>(
    `SELECT n.id AS "snapshotId", n.body, n.address, n.taken_at AS "takenAt"
      FROM watch w
      JOIN source s ON s.id = w.source_id
      JOIN snapshot n ON n.id = s.snapshot_id
      WHERE w.id = $1`,
    [watchId],
  );
  return rows[0] ?? null;
}
