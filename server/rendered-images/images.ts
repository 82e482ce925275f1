import sharp from 'sharp';
import type { Box } from '#core/read/inspect/wall';
import { ACCENT, FINER, PAGE_SIZE } from '#core/tell/drawing';
import type { StoredImage } from '../db/delivery/rendered-images';

/** A drawing as a PNG. */
export async function pngOf(svg: string): Promise<StoredImage> {
  return {
    type: 'image/png',
    body: await sharp(Buffer.from(svg), { density: 72 * FINER })
      .png({ compressionLevel: 9 })
      .toBuffer(),
  };
}

/** How much of a page is shown around a value, in px of the page. */
const VIEW = { width: PAGE_SIZE.width * FINER, height: PAGE_SIZE.height * FINER };
/** What stands before a value says what it is of. */
const LEFT_OF_IT = 160;

/** What of a page stands around a place on it, which is outlined; the top of it where the place is not known. */
export async function clipOf(
  image: Buffer,
  page: { width: number; height: number },
  place: Box | null,
): Promise<StoredImage> {
  const width = Math.min(VIEW.width, page.width);
  const height = Math.min(VIEW.height, page.height);
  // What is wider than the clip begins at its left, where its words do.
  const left = place === null || place.x < width / 2 ? 0 : within(place.x - LEFT_OF_IT, page.width - width);
  const top = within(place === null ? 0 : place.y + Math.min(place.h, height) / 2 - height / 2, page.height - height);
  const clip = sharp(image).extract({ left, top, width, height });
  const outline =
    place === null ? [] : [{ input: Buffer.from(outlineOf(place, { left, top, width, height })), left: 0, top: 0 }];
  return { type: 'image/jpeg', body: await clip.composite(outline).jpeg({ quality: 78 }).toBuffer() };
}

const within = (at: number, most: number): number => Math.round(Math.min(Math.max(0, at), Math.max(0, most)));

function outlineOf(
  { x, y, w, h }: Box,
  { left, top, width, height }: { left: number; top: number; width: number; height: number },
): string {
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><rect x="${x - left - 3}" ` +
    `y="${y - top - 3}" width="${w + 6}" height="${h + 6}" fill="none" stroke="${ACCENT}" stroke-width="2"/></svg>`
  );
}
