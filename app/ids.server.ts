import { LARGEST } from '#core/id';
import { LATEST } from '#core/when/interval';

const LARGEST_LONG = Number.MAX_SAFE_INTEGER;

/** No row has this id: what is asked for by it is not there. */
const NO_ID = 0;

/** An id as it stands in an address or a form; anything that is none finds nothing. */
export function readId<Id extends number>(text: unknown): Id {
  return (whole(text, LARGEST) ?? NO_ID) as Id;
}

/** An id of what runs bring forth, of which there are more. */
export function readLongId<Id extends number>(text: unknown): Id {
  return (whole(text, LARGEST_LONG) ?? NO_ID) as Id;
}

/** A whole number from nought in an address; nought where it is none. */
export function readNumber(text: unknown): number {
  return whole(text, LARGEST) ?? 0;
}

/** A moment as the address says it, in ms since 1970; 0 where it says none. */
export function readInstant(text: unknown): number {
  return whole(text, LATEST) ?? 0;
}

function whole(text: unknown, largest: number): number | null {
  if (typeof text !== 'string' || !/^\d{1,16}$/.test(text)) return null;
  const number = Number(text);
  return number <= largest ? number : null;
}
