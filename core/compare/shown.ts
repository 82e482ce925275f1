import { cut } from '../value/sanitise';
import type { Value } from '../value/value';

/** Characters of a text that are shown or mailed; whole it is on a page of its own. */
const MOST_SHOWN = 2_000;
/** Of what stayed the same on either side of a difference. */
const CONTEXT = 120;

/** A value as it is shown in passing: of a long text its beginning, with how long it is. */
export function shownValue(value: Value): Value {
  if (value.kind !== 'text' || value.text.length <= MOST_SHOWN) return value;
  return { kind: 'text', text: `${cut(value.text, MOST_SHOWN)}…`, whole: value.text.length };
}

/**
 * Two values as their difference is shown: of texts of which one is long, what stands around the first and the last
 * place in which they differ. The same two values where both are short.
 */
export function shownPair(from: Value, to: Value): [Value, Value] {
  if (from.kind !== 'text' || to.kind !== 'text') return [shownValue(from), shownValue(to)];
  if (from.text.length <= MOST_SHOWN && to.text.length <= MOST_SHOWN) return [from, to];
  const most = Math.min(from.text.length, to.text.length);
  let ahead = 0;
  while (ahead < most && from.text.charCodeAt(ahead) === to.text.charCodeAt(ahead)) ahead += 1;
  let behind = 0;
  while (
    behind < most - ahead &&
    from.text.charCodeAt(from.text.length - 1 - behind) === to.text.charCodeAt(to.text.length - 1 - behind)
  )
    behind += 1;
  return [windowOf(from.text, ahead, behind), windowOf(to.text, ahead, behind)];
}

/** What of a text lies between what it has in common with another at both ends, and a little of that. */
function windowOf(text: string, ahead: number, behind: number): Value {
  const start = whole(text, Math.max(0, ahead - CONTEXT));
  const end = text.length - Math.max(0, behind - CONTEXT);
  const piece = cut(text.slice(start, end), MOST_SHOWN);
  return {
    kind: 'text',
    text: `${start > 0 ? '…' : ''}${piece}${start + piece.length < text.length ? '…' : ''}`,
    whole: text.length,
  };
}

/** The place of the character that a place in a text lies in. */
function whole(text: string, at: number): number {
  const code = text.charCodeAt(at);
  return code >= 0xdc00 && code <= 0xdfff && at > 0 ? at - 1 : at;
}
