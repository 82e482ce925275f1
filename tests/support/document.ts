import { parseHtml, type Document } from '#core/read/html';

/** A page of a test's own, which is none too large to be read. */
export function documentOf(html: string): Document {
  const parsed = parseHtml(html);
  if (!parsed.ok) throw new Error(parsed.error);
  return parsed.value;
}
