import type { SnapshotId } from '#core/id';
import type { Picture } from '../../fetch/rendered/picture';
import { moment, type Statement } from '../../db/base/pool';
import type { RunFacts } from '../facts';

/**
 * Stores the picture of a rendered run, and lets go of those that nobody needs: of runs that changed the latest few are
 * kept, of the others the last good one.
 */
export function storePicture(
  facts: RunFacts,
  snapshotId: SnapshotId,
  picture: Picture | undefined,
  most: number,
): Statement[] {
  if (picture === undefined) return [];
  const { image, width, height, boxes } = picture;
  const { id } = facts.source;
  return [
    { text: STORE, values: [snapshotId, id, moment(facts.startedAt), image, width, height, JSON.stringify(boxes)] },
    { text: LET_GO, values: [id, snapshotId, most + 1] },
  ];
}

const STORE = `
INSERT INTO picture (snapshot_id, source_id, taken_at, image, width, height, boxes) VALUES ($1, $2, $3, $4, $5, $6, $7)
ON CONFLICT (snapshot_id) DO UPDATE
SET image = excluded.image, boxes = excluded.boxes, height = excluded.height, taken_at = excluded.taken_at`;

const LET_GO = `
DELETE FROM picture p WHERE p.source_id = $1 AND p.snapshot_id <> $2 AND (
  NOT EXISTS (SELECT FROM snapshot n WHERE n.id = p.snapshot_id)
  OR p.snapshot_id NOT IN (SELECT q.snapshot_id FROM picture q WHERE q.source_id = $1 ORDER BY q.taken_at DESC
  LIMIT $3))`;
