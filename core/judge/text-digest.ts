import { digestOf } from '../value/digest';
import { cut } from '../value/sanitise';
import { sameValue, type Value } from '../value/value';

/** Texts up to here are remembered whole, in characters. */
const MOST_WHOLE = 400;
const BEGINNING = 200;

/**
 * A value as a rule remembers it: of a long text its beginning, its length and a mark of the whole, so that a memory
 * stays small and two texts that differ anywhere still differ. Pressing what is pressed changes nothing.
 */
export function textDigest(value: Value): Value {
  if (value.kind !== 'text' || value.text.length <= MOST_WHOLE) return value;
  return { kind: 'text', text: `${cut(value.text, BEGINNING)}… [${value.text.length} ${digestOf(value.text)}]` };
}

/**
 * Whether a value is another than the last one before it, absences passed over (2): what left and came back as it was
 * did not move.
 */
export const hasMoved = (last: Value | null, value: Value): boolean =>
  value.kind !== 'absent' && last !== null && !sameValue(last, textDigest(value));

/** The last value of a series that is remembered, pressed, once another came: an absence is none. */
export const lastOf = (last: Value | null, value: Value): Value | null =>
  value.kind === 'absent' || (last !== null && sameValue(last, textDigest(value))) ? last : textDigest(value);
