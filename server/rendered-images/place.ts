import type { Box } from '#core/read/inspect/wall';
import type { WatchDefinition } from '#core/read/definition';
import type { StoredPicture } from '../db/source/views/pictures';
import { bodyOf, type ReadingPool } from '../reading/pool';

/** Where on a picture of a page the value of a field stood; null where that cannot be told, as in a list of records. */
export async function placeOn(
  reading: ReadingPool,
  { boxes, body }: StoredPicture,
  { records, fields }: WatchDefinition,
  key: string,
): Promise<Box | null> {
  const locators = records.from === 'page' ? (fields.find((field) => field.key === key)?.locators ?? []) : [];
  const text = bodyOf(body);
  const found = await reading.run('find place', { body: { key: text.key, receivedAt: 0 }, locators }, [text]);
  const n = found.ok ? found.value : null;
  return boxes.find((box) => box.n === n) ?? null;
}
