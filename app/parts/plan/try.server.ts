import { tryLocator, type LocatorTrial } from '#core/read/candidates';
import type { FieldType } from '#core/read/definition';
import { parseHtml } from '#core/read/html';

/** Tries the selector a request names on a page. */
export function tryOn(body: string, request: Request): LocatorTrial {
  const asked = new URL(request.url).searchParams;
  const kind = asked.get('kind');
  const type: FieldType = kind === 'text' || kind === 'number' ? { kind } : { kind: 'money', currency: null };
  return tryLocator(parseHtml(body), { way: 'css', selector: asked.get('selector') ?? '' }, type);
}
