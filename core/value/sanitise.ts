const ESCAPES = /\\(?:u[dD][89abAB][\da-fA-F]{2}\\u[dD][c-fC-F][\da-fA-F]{2}|u(0000|[dD][89a-fA-F][\da-fA-F]{2})|[^])/g;

/**
 * JSON text whose strings hold whole characters alone: an escaped NUL or half of a surrogate pair becomes U+FFFD, as
 * decoders do with what is no character (Unicode 15, 3.9). RFC 8259, 8.2, leaves open what such strings mean, and no
 * database keeps them.
 */
export function sanitiseEscapes(json: string): string {
  return json.includes('\\u')
    ? json.replace(ESCAPES, (escape, broken?: string) => (broken === undefined ? escape : '\\ufffd'))
    : json;
}

/** The first `most` UTF-16 units of a text, or one less where that would cut a character in half. */
export function cut(text: string, most: number): string {
  const last = text.charCodeAt(most - 1);
  return text.slice(0, text.length > most && last >= 0xd800 && last <= 0xdbff ? most - 1 : most);
}

const BROKEN = /\0|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/**
 * A text that holds whole characters alone: a NUL or half of a surrogate pair becomes U+FFFD, since no database keeps
 * them.
 */
export function sanitiseText(text: string): string {
  return text.replace(BROKEN, '\ufffd');
}

/** Marks that turn the direction of what follows them (UAX #9), and others that are not seen. */
const UNSEEN = /[\u061c\u200b\u200e\u200f\u202a-\u202e\u2060\u2066-\u2069\ufeff]/g;

/** A text without marks that turn its direction: what stands in it is shown in the order in which it is. */
export function withoutDirections(text: string): string {
  return text.replace(UNSEEN, '');
}

const BREAKS = /[\u0000-\u001f\u007f\u0085\u2028\u2029]+/g;

/** A text as it stands on one line: nothing in it begins another, or turns its direction. */
export const flat = (text: string): string => withoutDirections(text).replace(BREAKS, ' ');
