import type { Box } from '#core/read/inspect/wall';

/** A picture of a rendered page with the boxes of its elements, measured in the same page load. */
export interface Picture {
  /** JPEG. */
  image: Buffer;
  width: number;
  height: number;
  boxes: Box[];
}

/** The one width at which pages are rendered and shown. */
export const PICTURE_WIDTH = 1280;
/** Pages are pictured down to here. */
export const PICTURE_HEIGHT = 4000;
