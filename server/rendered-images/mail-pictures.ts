import type { ChangeId, SeriesId, WatchId } from '#core/id';
import { ALERT_SIZE, DRAWN_DAYS, MOVE_SIZE, drawSeries } from '#core/tell/drawing';
import {
  contentId,
  renderedImageNames,
  renderedImagesOf,
  withRenderedImages,
  type RenderedImage,
} from '#core/tell/rendered-image';
import { limitOf } from '#core/tell/news';
import { DAY, type Instant } from '#core/when/interval';
import {
  alertsToDraw,
  findRenderedImages,
  storeRenderedImage,
  pagedMoves,
  seriesOfMoves,
  type AlertImage,
  type StoredImage,
} from '../db/delivery/rendered-images';
import { findChangePictures, findPictureImage, type StoredPicture } from '../db/source/views/pictures';
import type { Pool } from '../db/base/pool';
import { listSparks } from '../db/reading/views/sparks';
import type { Log } from '../log';
import type { ReadingPool } from '../reading/pool';
import { clipOf, pngOf } from './images';
import { placeOn } from './place';

/** A picture as a mail bears it. */
interface Inline {
  name: string;
  type: string;
  body: Buffer;
  cid: string;
}

/** A course is drawn with so many steps at most. */
const STRETCHES = 300;
/** A mail waits no longer for its pictures: what is not drawn by then it goes without. */
const LONGEST_MS = 5_000;
/** No mail bears more. */
const MOST = 100;
/** Of its lines no mail shows more pages, of which each is one picture of two. */
const MOST_PAGES = 6;

/** What is known of what is to be drawn. */
interface Known {
  alerts: ReadonlyMap<number, AlertImage>;
  series: ReadonlyMap<number, SeriesId>;
  paged: Awaited<ReturnType<typeof pagedMoves>>;
}

const isMovedPage = (drawn: RenderedImage | null): boolean => drawn?.of === 'moved page';

/** Draws what mails show of series and pages, once; a mail of which something cannot be drawn goes without it. */
export class MailPictures {
  constructor(private readonly of: { pool: Pool; reading: ReadingPool; log: Log; clock: () => Instant }) {}

  /**
   * A mail as it goes out: what it shows is named in its page, and borne beside it. What is sent under no number is not
   * kept.
   */
  async borneBy(html: string, isSent = true): Promise<{ html: string; pictures: Inline[] }> {
    const drawn = await this.#drawn(html, isSent);
    const pictures = [...drawn].map(([name, { type, body }]) => ({
      name: `${name}.${type.split('/')[1]}`,
      type,
      body,
      cid: contentId(name),
    }));
    return { html: withRenderedImages(html, (name) => (drawn.has(name) ? `cid:${contentId(name)}` : null)), pictures };
  }

  /** A mail as a page of its own. Of one that is not sent yet what is drawn is not kept. */
  async pageOf(html: string, isSent = true): Promise<string> {
    const drawn = await this.#drawn(html, isSent);
    return withRenderedImages(html, (name) => {
      const image = drawn.get(name);
      return image === undefined ? null : `data:${image.type};base64,${image.body.toString('base64')}`;
    });
  }

  /** What of a mail's pictures can be drawn; a fault costs the pictures and not the mail. */
  async #drawn(html: string, keep: boolean): Promise<Map<string, NonNullable<StoredImage>>> {
    const names = renderedImageNames(html).slice(0, MOST);
    if (names.length === 0) return new Map();
    try {
      const kept = await findRenderedImages(this.of.pool, names);
      const missing = names.filter((name) => !kept.has(name));
      const fresh =
        missing.length === 0
          ? new Map<string, StoredImage>()
          : await this.#draw(
              missing,
              [...kept].filter(([name, image]) => image !== null && isMovedPage(renderedImagesOf(name))).length,
            );
      if (keep && fresh.size > 0) await storeRenderedImage(this.of.pool, fresh, this.of.clock());
      return new Map([...kept, ...fresh].flatMap(([name, image]) => (image === null ? [] : [[name, image]])));
    } catch (error) {
      this.of.log.error({ err: error }, 'the pictures of a mail could not be drawn');
      return new Map();
    }
  }

  async #draw(names: string[], pagesKept: number): Promise<Map<string, StoredImage>> {
    const asked = names.map((name) => ({ name, drawn: renderedImagesOf(name) }));
    const alerts = new Map(
      (
        await alertsToDraw(
          this.of.pool,
          asked.flatMap(({ drawn }) => (drawn !== null && 'alert' in drawn ? [drawn.alert] : [])),
        )
      ).map((alert) => [alert.id, alert]),
    );
    const series = await seriesOfMoves(
      this.of.pool,
      asked.flatMap(({ drawn }) => (drawn?.of === 'move' ? [drawn.move] : [])),
    );
    const paged = await pagedMoves(
      this.of.pool,
      asked.flatMap(({ drawn }) => (drawn?.of === 'moved page' ? [drawn.move] : [])),
    );
    const images = new Map<string, StoredImage>();
    let pages = pagesKept;
    const until = Date.now() + LONGEST_MS;
    for (const { name, drawn } of asked) {
      if (Date.now() >= until) break;
      try {
        if (isMovedPage(drawn) && pages >= MOST_PAGES) continue;
        const image = drawn === null ? null : await this.#one(drawn, { alerts, series, paged });
        if (isMovedPage(drawn) && image !== null) pages += 1;
        images.set(name, image);
      } catch (error) {
        // It costs the others nothing, and is tried again for the next mail.
        this.of.log.error({ err: error, picture: name }, 'a picture of a mail could not be drawn');
      }
    }
    return images;
  }

  async #one(drawn: RenderedImage, { alerts, series, paged }: Known): Promise<StoredImage> {
    if (drawn.of === 'moved page') {
      const move = paged.get(drawn.move);
      return move === undefined ? null : this.#page(move.watch, move.id, drawn.when);
    }
    if (drawn.of === 'move') return this.#series(series.get(drawn.move) ?? null, drawn.until, MOVE_SIZE, null);
    const alert = alerts.get(drawn.alert);
    if (alert === undefined) return null;
    if (drawn.of === 'page') return alert.change === null ? null : this.#page(alert.watch, alert.change, drawn.when);
    const limit = limitOf(alert.news);
    return this.#series(alert.series, alert.at, ALERT_SIZE, limit === null ? null : Number(limit.amount));
  }

  async #series(
    id: SeriesId | null,
    until: Instant,
    size: typeof ALERT_SIZE,
    limit: number | null,
  ): Promise<StoredImage> {
    if (id === null) return null;
    const from = until - DRAWN_DAYS * DAY;
    const course = (await listSparks(this.of.pool, [id], from, until + 1, Math.min(STRETCHES, size.width))).get(id);
    const svg = course === undefined ? null : drawSeries(course, { from, until, ...size, limit });
    return svg === null ? null : pngOf(svg);
  }

  async #page(watch: WatchId, change: ChangeId, when: 'before' | 'after'): Promise<StoredImage> {
    const { pool, reading } = this.of;
    const pictures = await findChangePictures(pool, watch, change);
    const picture: StoredPicture | null = pictures?.[when] ?? null;
    if (pictures === null || picture === null) return null;
    const image = await findPictureImage(pool, watch, picture.snapshotId);
    return image === null
      ? null
      : clipOf(image, picture, await placeOn(reading, picture, pictures.definition, pictures.field));
  }
}
