import { foldText } from '../value/parse';
import { cut, sanitiseText, withoutDirections } from '../value/sanitise';

/** In UTF-16 units; what a list has room for. */
export const LONGEST_SITE_NAME = 120;

/**
 * What a site is to be called, as somebody says it or its pages do: one line, of what is seen. Null where nothing is
 * left of it.
 */
export function siteNameOf(said: string): string | null {
  return cut(foldText(sanitiseText(withoutDirections(said))), LONGEST_SITE_NAME).trim() || null;
}
