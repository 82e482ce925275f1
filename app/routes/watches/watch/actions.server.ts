import type { PersonId, WatchId } from '#core/id';
import { redirect } from 'react-router';
import type { WatchDefinition } from '#core/read/definition';
import { beginEdit } from '#server/db/watch/drafts';
import { orderPreview } from '#server/db/source/previews';
import { previewFromPicture } from '#server/db/source/views/pictures';
import { inTransaction } from '#server/db/base/pool';
import { findBody } from '#server/db/source/snapshots';
import { findWatch, type WatchNow } from '#server/db/watch/views/watch-now';
import { listKnown, endOffer } from '#server/db/reading/records';
import { editWatch, type WatchPlan } from '#server/actions/edit-watch';
import { bodyOf, describeTaskProblem } from '#server/reading/pool';
import { draftOf } from '#core/plan/plan';
import { services } from '../../../services.server';

/** Opens the set-up on a watch, with what its source brought last; the picture is the run's own, or is taken now. */
export async function openOnPage(watchId: WatchId, personId: PersonId) {
  const { pool, clock, jobs, reading } = services();
  const [watch, latest] = [await findWatch(pool, watchId), await findBody(pool, watchId)];
  if (watch === null || latest === null)
    return 'Nothing has been fetched for this watch yet. Run it now, then open it here.';
  const edit = {
    watchId,
    version: watch.version,
    content: draftOf(watch),
    body: latest.body,
    finalAddress: latest.address,
    takenAt: latest.takenAt,
  };
  const text = bodyOf(latest.body);
  const offered = await reading.run('offer', { body: { key: text.key, receivedAt: latest.takenAt } }, [text]);
  const isPage = offered.ok && offered.value.format === 'html';
  const { draft, look } = await inTransaction(pool, async (db) => {
    const id = await beginEdit(db, personId, edit, clock());
    const pictured = await previewFromPicture(db, id, latest.snapshotId);
    const wanted = !pictured && isPage;
    return {
      draft: id,
      look: wanted
        ? await orderPreview(db, { draftId: id, purpose: 'page', address: watch.address, request: {} }, clock())
        : null,
    };
  });
  if (look !== null) await (await jobs()).enqueueLook(look);
  return redirect(`/watches/new/${draft}`);
}

/** Takes the way in which a value was found over into the watch, with the other ways that find it now. */
export async function confirmWays(watchId: WatchId, personId: PersonId): Promise<string | null> {
  const { pool, reading } = services();
  const [watch, latest] = [await findWatch(pool, watchId), await findBody(pool, watchId)];
  if (watch === null || latest === null) return 'This watch is gone.';
  const text = bodyOf(latest.body);
  const body = { key: text.key, receivedAt: latest.takenAt };
  const known = await listKnown(pool, watchId);
  const done = await reading.run(
    'mend',
    { body, definition: watch.definition, address: latest.address, shown: null, known },
    [text],
  );
  if (!done.ok) return describeTaskProblem(done.error, 'mending this page');
  const mending = done.value;
  if (mending === null || mending.definition === null)
    return 'There is nothing to confirm any more: the page has moved on. Run it again.';
  return change(watch, personId, mending.definition, mending.said.join(' '));
}

/** Takes records that turned up, or leaves them out for good. */
export async function decideOffered(
  watchId: WatchId,
  personId: PersonId,
  take: boolean,
  identities: string[],
): Promise<string | null> {
  const { pool } = services();
  const watch = await findWatch(pool, watchId);
  if (watch === null) return 'This watch is gone.';
  const { definition } = watch;
  const known = new Set(take ? definition.chosen : definition.leftOut);
  // Pressed once more: it is done already.
  if (identities.every((identity) => known.has(identity))) return null;
  const next: WatchDefinition = take
    ? { ...definition, chosen: [...new Set([...(definition.chosen ?? []), ...identities])] }
    : { ...definition, leftOut: [...new Set([...definition.leftOut, ...identities])] };
  const few = identities.length > 3 ? `${identities.length} records` : identities.join(', ');
  const problem = await change(watch, personId, next, `${few} ${take ? 'taken' : 'left out'}.`);
  if (problem === null) await endOffer(pool, watchId, identities);
  return problem;
}

async function change(
  watch: WatchNow,
  editor: PersonId,
  definition: WatchDefinition,
  note: string,
): Promise<string | null> {
  const { pool, clock } = services();
  const plan: WatchPlan = { definition, frequency: watch.frequency, rules: watch.rules };
  const edited = await inTransaction(pool, (db) =>
    editWatch(db, watch.id, plan, { basedOn: watch.version, editor, note }, clock()),
  );
  if (edited.ok) return null;
  return edited.error === 'gone'
    ? 'This watch is gone.'
    : 'Somebody changed this watch meanwhile. Load the page again and see.';
}
