import { selectElements, type Document } from '#core/read/html';
import { proposeMending } from '#core/read/mend/mend';
import type { Mending } from '#core/read/mend/mending';
import { numberFound, numbersOf } from '#core/read/picking';
import type { Proposal } from '#core/read/mend/propose';
import { listKnown } from '#server/db/watch-page';
import type { PlanDraft, PresentValues } from '../../parts/plan/plan';
import { services } from '../../services.server';
import { presentIn, type OpenDraft } from './draft.server';

/** How a watch that is no longer read could be, with where on the picture each value seems to be. */
export interface MendingShown extends Mending {
  /** Numbers of the elements on the picture where the values seem to be, or the records where those have moved. */
  boxes: number[];
}

/** What to mend of the watch that a draft is an edit of; null where there is nothing, or another page came. */
export async function mendingOf({ draft, body, shown }: OpenDraft, plan: PlanDraft): Promise<MendingShown | null> {
  if (draft.watchId === null) return null;
  const mending = proposeMending(body, plan, await listKnown(services().pool, draft.watchId), draft.finalAddress);
  if (mending === null) return null;
  const places = shown === null ? [] : mending.fields.map(({ proposal }) => (proposal.ok ? elementOn(shown.document, proposal.value) : null));
  const rows = shown === null || mending.rows === null ? [] : numbersOf(shown.document, mending.rows.rows);
  return { ...mending, boxes: mending.rows === null ? places.filter((n) => n !== null) : rows };
}

/** What a plan reads now; of a watch that is changed, what is not read stands at its last good value. */
export async function presentOf(open: OpenDraft, plan: PlanDraft): Promise<PresentValues> {
  const read = Object.entries(presentIn(open, plan).present).filter(([, value]) => value !== undefined);
  const { draft } = open;
  const [known] = draft.watchId === null ? [] : await listKnown(services().pool, draft.watchId);
  return { ...known?.fields, ...Object.fromEntries(read) };
}

/** The element on the page as it is shown: by the ways that would find it there too, or by its place. */
function elementOn(document: Document, { selector, locators }: Proposal): number | null {
  const found = selectElements(document, selector);
  return numberFound(document, locators, found.ok ? found.value[0] : undefined);
}
