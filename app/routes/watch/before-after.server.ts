import { parseHtml } from '#core/read/html';
import { numberFound } from '#core/read/picking';
import type { WatchDefinition } from '#core/read/definition';
import type { Instant } from '#core/when/interval';
import { findChangePictures, type KeptPicture } from '#server/db/pictures';
import type { Box } from '#server/fetch/rendered/picture';
import { services } from '../../services.server';

/** A page as a run saw it, with where on it the value stood; null where it cannot be told. */
export interface SeenThen {
  snapshotId: number;
  takenAt: Instant;
  width: number;
  height: number;
  place: Box | null;
}

/** How the page looked before and after a change; null where it was not rendered, or the picture is no longer kept. */
export async function beforeAfter(watchId: number, changeId: number): Promise<{ before: SeenThen | null; after: SeenThen } | null> {
  const pictures = await findChangePictures(services().pool, watchId, changeId);
  if (pictures === null) return null;
  const { definition, field, before, after } = pictures;
  const seen = (picture: KeptPicture) => seenThen(picture, definition, field);
  return { before: before === null ? null : seen(before), after: seen(after) };
}

function seenThen({ snapshotId, takenAt, width, height, boxes, body }: KeptPicture, definition: WatchDefinition, key: string): SeenThen {
  const locators = definition.records.from === 'page' ? (definition.fields.find((field) => field.key === key)?.locators ?? []) : [];
  const n = numberFound(parseHtml(body), locators);
  return { snapshotId, takenAt, width, height, place: boxes.find((box) => box.n === n) ?? null };
}
