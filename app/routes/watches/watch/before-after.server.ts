import type { ChangeId, SnapshotId, WatchId } from '#core/id';
import type { WatchDefinition } from '#core/read/definition';
import type { Instant } from '#core/when/interval';
import { findChangePictures, findPictures, type StoredPicture } from '#server/db/source/views/pictures';
import type { OpenQuestion } from '#server/actions/questions';
import type { Box } from '#core/read/inspect/wall';
import { placeOn } from '#server/rendered-images/place';
import { services } from '../../../services.server';

/** A page as a run saw it, with where on it the value stood; null where it cannot be told. */
export interface SeenThen {
  snapshotId: SnapshotId;
  takenAt: Instant;
  width: number;
  height: number;
  place: Box | null;
}

/** How the page looked before and after a change; null where it was not rendered, or the picture is no longer kept. */
export async function beforeAfter(
  watchId: WatchId,
  changeId: ChangeId,
): Promise<{ before: SeenThen | null; after: SeenThen } | null> {
  const pictures = await findChangePictures(services().pool, watchId, changeId);
  if (pictures === null) return null;
  const { definition, field, before, after } = pictures;
  const seen = (picture: StoredPicture) => seenThen(picture, definition, field);
  return { before: before === null ? null : await seen(before), after: await seen(after) };
}

/**
 * How the page looked when something was asked, and before; null each where it was not rendered, or the picture is no
 * longer kept.
 */
export async function asked(
  watchId: WatchId,
  definition: WatchDefinition,
  question: OpenQuestion,
): Promise<{ before: SeenThen | null; now: SeenThen | null }> {
  const { snapshotBefore, snapshotId, field } = question;
  const pictures = await findPictures(
    services().pool,
    watchId,
    [snapshotBefore, snapshotId].flatMap((id) => id ?? []),
  );
  const seen = async (id: SnapshotId | null) => {
    const picture = pictures.find((each) => each.snapshotId === id);
    return picture === undefined ? null : await seenThen(picture, definition, field);
  };
  return { before: await seen(snapshotBefore), now: await seen(snapshotId) };
}

async function seenThen(picture: StoredPicture, definition: WatchDefinition, key: string): Promise<SeenThen> {
  const { snapshotId, takenAt, width, height } = picture;
  return { snapshotId, takenAt, width, height, place: await placeOn(services().reading, picture, definition, key) };
}
