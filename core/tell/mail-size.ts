import type { Markup } from './markup';

/** Beyond some 100 kB programs cut a mail off; so many bytes of HTML are kept to, and what has no room is linked. */
const MOST_HTML = 88_000;

/** So many bytes of them are left to what stands around the news. */
const AROUND = 12_000;
const MOST_OF_NEWS = MOST_HTML - AROUND;

/** How many bytes a text takes in UTF-8 (RFC 3629). */
export function utf8Length(text: string): number {
  let bytes = 0;
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    // Each half of a pair of surrogates stands for two of its four bytes.
    bytes += code < 0x80 ? 1 : code < 0x800 || (code >= 0xd800 && code < 0xe000) ? 2 : 3;
  }
  return bytes;
}

const sizeOf = (blocks: readonly Markup[]): number => blocks.reduce((sum, { markup }) => sum + utf8Length(markup), 0);

/** Of blocks, in order, those that a mail has room for. */
export function withinSize(blocks: readonly Markup[]): Markup[] {
  let size = 0;
  return blocks.filter(({ markup }) => (size += utf8Length(markup)) <= MOST_OF_NEWS);
}

/** Renders as many of some things as a mail has room for, the first ones. */
export function asManyAsFit(count: number, render: (most: number) => Markup[]): Markup[] {
  for (let most = count; ;) {
    const blocks = render(most);
    const size = sizeOf(blocks);
    if (size <= MOST_OF_NEWS || most === 0) return blocks;
    most = Math.min(most - 1, Math.floor((most * MOST_OF_NEWS) / size));
  }
}
