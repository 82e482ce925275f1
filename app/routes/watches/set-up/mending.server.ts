import type { MendingShown } from '#core/read/inspect/mending';
import { keepFrames } from '#core/read/frame/take';
import { listKnown } from '#server/db/reading/records';
import { findWatch } from '#server/db/watch/views/watch-now';
import type { PlanDraft } from '#core/plan/plan';
import type { PresentValues } from '#core/plan/rule-draft';
import { services } from '../../../services.server';
import { presentIn, readAsked, type OpenDraft } from './draft.server';

/** What to mend of the watch that a draft is an edit of; null where there is nothing, or another page came. */
export async function mendingOf(open: OpenDraft, plan: PlanDraft): Promise<MendingShown | null> {
  const { draft, shown, text } = open;
  if (draft.watchId === null) return null;
  const { pool, reading } = services();
  const { body, definition: said } = readAsked(open, plan);
  const watch = await findWatch(pool, draft.watchId);
  const definition = watch === null ? said : keepFrames(said, watch.definition);
  const asked = {
    body,
    definition,
    address: draft.finalAddress,
    shown: shown?.body ?? null,
    known: await listKnown(pool, draft.watchId),
  };
  const done = await reading.run('mend', asked, shown === null ? [text] : [text, shown.text]);
  return done.ok ? done.value : null;
}

/** What a plan reads now; of a watch that is changed, what is not read stands at its last good value. */
export async function presentOf(open: OpenDraft, plan: PlanDraft): Promise<PresentValues> {
  const { draft } = open;
  const read = await presentIn(open, plan);
  const [known] = draft.watchId === null ? [] : await listKnown(services().pool, draft.watchId);
  return { ...known?.fields, ...(read.ok ? read.value.present : {}) };
}
