import type { Body } from '../body';
import type { WatchDefinition } from '../definition';
import { selectElements, type Document } from '../html';
import { proposeMending } from '../mend/mend';
import type { FormerRecord, Mending } from '../mend/mending';
import type { Proposal } from '../mend/propose';
import { numberFound, numbersOf } from '../picking';

/** How a watch that is no longer read could be, with where on the picture each value seems to be. */
export interface MendingShown extends Mending {
  /** Numbers of the elements on the picture where the values seem to be, or the records where those have moved. */
  boxes: number[];
}

/** What to mend of a watch, shown on its picture; null where there is nothing, or another page came. */
export function mendingShown(
  body: Body,
  shown: Document | null,
  definition: WatchDefinition,
  known: FormerRecord[],
  address: string | null,
): MendingShown | null {
  const mending = proposeMending(body, definition, known, address);
  if (mending === null) return null;
  const places =
    shown === null ? [] : mending.fields.map(({ proposal }) => (proposal.ok ? elementOn(shown, proposal.value) : null));
  const rows = shown === null || mending.rows === null ? [] : numbersOf(shown, mending.rows.rows);
  return { ...mending, boxes: mending.rows === null ? places.filter((n) => n !== null) : rows };
}

/** The element on the page as it is shown: by the ways that would find it there too, or by its place. */
function elementOn(document: Document, { selector, locators }: Proposal): number | null {
  const found = selectElements(document, selector);
  return numberFound(document, locators, found.ok ? found.value[0] : undefined);
}
