import type { WatchId } from '#core/id';
import { definitionOf, type WatchDefinition } from '#core/read/definition';
import { keepFrames } from '#core/read/frame/take';
import { findWatch } from '#server/db/watch/views/watch-now';
import type { BodyAsked, TextBody } from '#server/reading/tasks';
import { services } from '../../services.server';

/** What was fetched, as a task is asked for it. */
interface Fetched {
  body: BodyAsked;
  text: TextBody;
}

/**
 * A definition as it is to be kept: what stands around its values is what was known of the watch before, for what is
 * found as it was, and else what stands there in what was fetched. It is never taken from a browser.
 */
export async function framed<Plan extends WatchDefinition>(
  plan: Plan,
  watchId: WatchId | null,
  fetched: Fetched | null,
): Promise<Plan> {
  const { pool, reading } = services();
  const watch = watchId === null ? null : await findWatch(pool, watchId);
  const kept = watch === null ? plan : { ...plan, ...keepFrames(plan, watch.definition) };
  if (fetched === null) return kept;
  const done = await reading.run('frame', { body: fetched.body, definition: definitionOf(kept) }, [fetched.text]);
  return done.ok ? { ...kept, ...done.value } : kept;
}
