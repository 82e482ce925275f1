import { cut } from '../value/sound';
import type { Value } from '../value/value';

/** Texts up to here are remembered whole, in characters. */
const MOST_WHOLE = 400;
const BEGINNING = 200;

/**
 * A value as a rule remembers it: of a long text its beginning, its length and a mark of the whole, so that a memory stays small and two
 * texts that differ anywhere still differ. Pressing what is pressed changes nothing.
 */
export function pressed(value: Value): Value {
  if (value.kind !== 'text' || value.text.length <= MOST_WHOLE) return value;
  return { kind: 'text', text: `${cut(value.text, BEGINNING)}… [${value.text.length} ${markOf(value.text)}]` };
}

/** A mark of a text of 64 bits: FNV-1a twice, from two offsets (Fowler, Noll, Vo). */
function markOf(text: string): string {
  let [one, other] = [0x811c9dc5, 0x050c5d1f];
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    one = Math.imul(one ^ code, 0x01000193) >>> 0;
    other = Math.imul(other ^ (code + at), 0x01000193) >>> 0;
  }
  return `${one.toString(16).padStart(8, '0')}${other.toString(16).padStart(8, '0')}`;
}
