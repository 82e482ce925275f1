import type { Instant } from '#core/when/interval';
import type { Db } from './pool';
import type { SourceWay } from './sources';

/** The oldest snapshot that is kept of an address fetched in a way, to try a reading on; null when there is none. */
export async function findEarlierBody(db: Db, address: string, way: SourceWay): Promise<{ body: string; address: string; takenAt: Instant } | null> {
  const { rows } = await db.query<{ body: string; address: string; takenAt: Instant }>(
    `SELECT n.body, n.address, n.taken_at AS "takenAt" FROM snapshot n JOIN source s ON s.id = n.source_id
     WHERE s.address = $1 AND s.way = $2 ORDER BY n.id LIMIT 1`,
    [address, way],
  );
  return rows[0] ?? null;
}
