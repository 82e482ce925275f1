import { selectElements, type Document } from '#core/read/html';
import { proposeMending, type Mending } from '#core/read/mend';
import { numberFound } from '#core/read/picking';
import type { Proposal } from '#core/read/propose';
import { findWatch } from '#server/db/watch-page';
import type { Value } from '#core/value/value';
import type { PlanDraft, PresentValues } from '../../parts/plan/plan';
import { services } from '../../services.server';
import { presentIn, type OpenDraft } from './draft.server';

/** How a watch that is no longer read could be, with where on the picture each value seems to be. */
export interface MendingShown extends Mending {
  /** Numbers of the elements on the picture, by field; null where it is not to be seen. */
  boxes: Record<string, number | null>;
}

/** What to mend of the watch that a draft is an edit of; null where there is nothing, or another page came. */
export async function mendingOf({ draft, body, shown }: OpenDraft, plan: PlanDraft): Promise<MendingShown | null> {
  if (draft.watchId === null) return null;
  const mending = proposeMending(body, plan, await lastGood(draft.watchId), draft.finalAddress);
  if (mending === null) return null;
  const boxes = mending.fields.map(({ key, proposal }) => {
    const place = proposal.ok && shown !== null ? elementOn(shown.document, proposal.value) : null;
    return [key, place] as const;
  });
  return { ...mending, boxes: Object.fromEntries(boxes) };
}

/** What a plan reads now; of a watch that is changed, what is not read stands at its last good value. */
export async function presentOf({ draft, body }: OpenDraft, plan: PlanDraft): Promise<PresentValues> {
  const read = Object.entries(presentIn(body, plan, draft.finalAddress ?? draft.address).present).filter(([, value]) => value !== undefined);
  const last = draft.watchId === null ? {} : await lastGood(draft.watchId);
  return { ...last, ...Object.fromEntries(read) };
}

async function lastGood(watchId: number): Promise<Record<string, Value>> {
  const watch = await findWatch(services().pool, watchId);
  return Object.fromEntries((watch?.series ?? []).map((series) => [series.field, series.value]));
}

/** The element on the page as it is shown: by the ways that would find it there too, or by its place. */
function elementOn(document: Document, { selector, locators }: Proposal): number | null {
  const found = selectElements(document, selector);
  return numberFound(document, locators, found.ok ? found.value[0] : undefined);
}
