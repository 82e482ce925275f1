import type { ChangeId, DraftId, SnapshotId, SourceId, WatchId } from '#core/id';
import { storedDefinition, type WatchDefinition } from '#core/read/definition';
import type { Instant } from '#core/when/interval';
import type { Box } from '#core/read/inspect/wall';
import { moment, type Db } from '../../base/pool';

/** A picture of a rendered page with what it was a picture of. */
export interface StoredPicture {
  snapshotId: SnapshotId;
  takenAt: Instant;
  width: number;
  height: number;
  boxes: Box[];
  body: string;
}

const COLUMNS = 'p.snapshot_id AS "snapshotId", p.taken_at AS "takenAt", p.width, p.height, p.boxes, n.body';

/** The pictures of the runs before and after a change, as far as they are kept, with what the watch read by then. */
export async function findChangePictures(
  db: Db,
  watchId: WatchId,
  changeId: ChangeId,
): Promise<{ field: string; definition: WatchDefinition; before: StoredPicture | null; after: StoredPicture } | null> {
  const change = await db.query<StoredPicture & { field: string; sourceId: SourceId; definition: WatchDefinition }>(
    `SELECT c.field, p.source_id AS "sourceId", v.definition, ${COLUMNS} FROM change c
      JOIN run r ON r.id = c.run_id AND r.started_at = c.seen_at
     JOIN picture p ON p.snapshot_id = r.snapshot_id JOIN snapshot n ON n.id = p.snapshot_id
     JOIN watch_version v ON v.watch_id = c.watch_id AND v.version = c.watch_version
     WHERE c.watch_id = $1 AND c.id = $2`,
    [watchId, changeId],
  );
  const [row] = change.rows;
  if (row === undefined) return null;
  const { field, sourceId, definition, ...after } = row;
  const before = await db.query<StoredPicture>(
    `SELECT ${COLUMNS} FROM picture p JOIN snapshot n ON n.id = p.snapshot_id
     WHERE p.source_id = $1 AND p.taken_at < $2 ORDER BY p.taken_at DESC LIMIT 1`,
    [sourceId, moment(after.takenAt)],
  );
  return { field, definition: storedDefinition.read(definition), before: before.rows[0] ?? null, after };
}

/** The pictures of some snapshots of a watch's source, as far as they are kept. */
export async function findPictures(db: Db, watchId: WatchId, snapshots: SnapshotId[]): Promise<StoredPicture[]> {
  if (snapshots.length === 0) return [];
  const { rows } = await db.query<StoredPicture>(
    `SELECT ${COLUMNS} FROM picture p JOIN snapshot n ON n.id = p.snapshot_id JOIN watch w ON w.source_id = p.source_id
     WHERE w.id = $1 AND p.snapshot_id = ANY($2)`,
    [watchId, snapshots],
  );
  return rows;
}

/** The image of a picture of a watch's source; null when it is not kept. */
export async function findPictureImage(db: Db, watchId: WatchId, snapshotId: SnapshotId): Promise<Buffer | null> {
  const { rows } = await db.query<{ image: Buffer }>(
    'SELECT p.image FROM picture p JOIN watch w ON w.source_id = p.source_id WHERE w.id = $1 AND p.snapshot_id = $2',
    [watchId, snapshotId],
  );
  return rows[0]?.image ?? null;
}

/** Takes the picture of a snapshot over as the look of a draft; false when there is none. */
export async function previewFromPicture(db: Db, draftId: DraftId, snapshotId: SnapshotId): Promise<boolean> {
  const { rowCount } = await db.query(
    `INSERT INTO preview (draft_id, purpose, address, request, state, asked_at, taken_at, body, final_address, image,
      height, boxes)
     SELECT $1, 'page', n.address, '{}', 'done', p.taken_at, p.taken_at, n.body, n.address, p.image, p.height, p.boxes
     FROM picture p JOIN snapshot n ON n.id = p.snapshot_id WHERE p.snapshot_id = $2`,
    [draftId, snapshotId],
  );
  return rowCount === 1;
}
