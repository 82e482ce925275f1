import { selectElements, type Document } from '#core/read/html';
import { proposeMending, type Mending } from '#core/read/mend';
import { placesOf } from '#core/read/locator';
import { elementsInOrder } from '#core/read/picking';
import { findWatch } from '#server/db/watch-page';
import type { PlanDraft } from '../../parts/plan/plan';
import { services } from '../../services.server';
import type { OpenDraft } from './draft.server';

/** How a watch that is no longer read could be, with where on the picture each value seems to be. */
export interface MendingShown extends Mending {
  /** Numbers of the elements on the picture, by field; null where it is not to be seen. */
  boxes: Record<string, number | null>;
}

/** What to mend of the watch that a draft is an edit of; null where there is nothing, or another page came. */
export async function mendingOf({ draft, body, shown }: OpenDraft, plan: PlanDraft): Promise<MendingShown | null> {
  if (draft.watchId === null) return null;
  const watch = await findWatch(services().pool, draft.watchId);
  const last = Object.fromEntries((watch?.series ?? []).map((series) => [series.field, series.value]));
  const mending = proposeMending(body, plan, last, draft.finalAddress);
  if (mending === null) return null;
  const boxes = mending.fields.map(({ key, proposal }) => {
    const place = proposal.ok && shown !== null ? elementOn(shown.document, proposal.value.selector, proposal.value.locators) : null;
    return [key, place] as const;
  });
  return { ...mending, boxes: Object.fromEntries(boxes) };
}

/** The element on the page as it is shown: by its place, or by the ways that would find it there too. */
function elementOn(document: Document, selector: string, locators: Parameters<typeof placesOf>[1][]): number | null {
  const found = selectElements(document, selector);
  const places = locators.map((locator) => placesOf(document, locator));
  const byWay = places.flatMap((each) => (each.ok && each.value.length === 1 && each.value[0]?.element ? each.value[0].element : []));
  const element = byWay[0] ?? (found.ok ? found.value[0] : undefined);
  const n = element === undefined ? -1 : elementsInOrder(document).indexOf(element);
  return n < 0 ? null : n;
}
