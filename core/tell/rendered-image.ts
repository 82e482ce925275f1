import type { AlertId } from '../id';
import { html, type Markup } from './markup';
import type { MoveId } from './edition/move';
import type { Instant } from '../when/interval';

// Pictures that mails bear within them: a mail names what it wants to show, and whoever sends or shows it has that
// drawn. Where it cannot be, the mail goes without.

/**
 * What a picture is of, as a mail names it: the course of a series up to an alert or a moment, or a page at an alert or
 * a move, or before that.
 */
export type RenderedImage =
  | { of: 'alert'; alert: AlertId }
  | { of: 'move'; move: MoveId; until: Instant }
  | { of: 'page'; when: When; alert: AlertId }
  | { of: 'moved page'; when: When; move: MoveId };
type When = 'before' | 'after';

/** The name of a picture within a mail. */
export function renderedImageName(drawn: RenderedImage): string {
  switch (drawn.of) {
    case 'alert':
      return `alert-${drawn.alert}`;
    case 'move':
      return `move-${drawn.move}-${drawn.until}`;
    case 'page':
      return `page-${drawn.when}-${drawn.alert}`;
    case 'moved page':
      return `moved-${drawn.when}-${drawn.move}`;
  }
}

const NAME =
  /^(?:(?<of>alert|move)-(?<id>\d{1,15})(?:-(?<until>\d{1,15}))?|(?<at>page|moved)-(?<when>before|after)-(?<page>\d{1,15}))$/;

/**
 * What a name is of; null of one that is no picture's: `alert-12`, `move-7-1764400000000`, `page-before-12`,
 * `moved-after-7`.
 */
export function renderedImagesOf(name: string): RenderedImage | null {
  const { of, id, until, at, when: side, page } = NAME.exec(name)?.groups ?? {};
  const when = side === 'before' ? 'before' : 'after';
  if (page !== undefined && at === 'moved') return { of: 'moved page', when, move: Number(page) as MoveId };
  if (page !== undefined) return { of: 'page', when, alert: Number(page) as AlertId };
  if (of === 'alert' && until === undefined) return { of, alert: Number(id) as AlertId };
  return of === 'move' && until !== undefined ? { of, move: Number(id) as MoveId, until: Number(until) } : null;
}

/** Where pictures in mails are said to be from. */
const AT = '@shrike';

/** The identity of a picture within its mail (RFC 2392). */
export const contentId = (name: string): string => `${name}${AT}`;

interface Look {
  alt: string;
  width: number;
  height: number;
  style: string;
}

/** A picture within a mail. It stands in a block of `drawnBlock`. */
export const renderedImage = (drawn: RenderedImage, { alt, width, height, style }: Look): Markup =>
  html`<img src="cid:${contentId(renderedImageName(drawn))}" alt="${alt}" width="${width}" height="${height}" style="border:0;${style}">`;

const OPENS = '<!--drawn-->';
const CLOSES = '<!--/drawn-->';

/** What is left out of a mail where one of the pictures in it cannot be drawn. Blocks do not stand in one another. */
export const renderedImageBlock = (content: Markup): Markup => ({ markup: `${OPENS}${content.markup}${CLOSES}` });

// Nothing from outside brings a comment into a mail: all of it is escaped.
const BLOCKS = new RegExp(`${OPENS}([\\s\\S]*?)${CLOSES}`, 'g');
const SOURCES = new RegExp(`(?<=<img src=")cid:([a-z0-9-]+)${AT}(?=")`, 'g');

/** The names of all pictures that a mail would show, each once. */
export function renderedImageNames(mail: string): string[] {
  const blocks = [...mail.matchAll(BLOCKS)].flatMap(([, content = '']) => [...content.matchAll(SOURCES)]);
  return [...new Set(blocks.flatMap(([, name = '']) => name))];
}

/** A mail with its pictures from where they are found; a block of which one is not found anywhere is left out. */
export function withRenderedImages(mail: string, sourceOf: (name: string) => string | null): string {
  return mail.replace(BLOCKS, (_, content: string) => {
    let isWhole = true;
    const shown = content.replace(SOURCES, (__, name: string) => {
      const source = sourceOf(name);
      isWhole &&= source !== null;
      return source ?? '';
    });
    return isWhole ? shown : '';
  });
}

/** A mail without its pictures. */
export const withoutRenderedImages = (mail: string): string => withRenderedImages(mail, () => null);
