import type { DraftId, PersonId, WatchId } from '#core/id';
import { data, redirect } from 'react-router';
import { fail, ok, type Result } from '#core/result';
import type { Instant } from '#core/when/interval';
import { claimDraft, endDraft, findDraft, keepDraft, type Draft, type Keeping } from '#server/db/watch/drafts';
import { inTransaction, type Db } from '#server/db/base/pool';
import { createWatch, editWatch, type WatchSource } from '#server/actions/edit-watch';
import { framed } from '../../../parts/plan/frames.server';
import { NOBODY_THERE, tellNobody } from '../../../parts/plan/audience.server';
import { completePlan, type CompletePlan, type PlanDraft } from '#core/plan/plan';
import { readPlan } from '#server/shapes/plan';
import { textIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import { services } from '../../../services.server';
import type { OpenDraft } from './draft.server';
import { mendingOf, presentOf } from './mending.server';

/** On which state of a draft a form builds, and from which tab it comes. */
function keepingOf(form: FormData): Keeping {
  return { revision: readNumber(form.get('revision')), tab: textIn(form, 'tab').slice(0, 40) };
}

const ANOTHER_TAB = 'This draft was changed in another tab meanwhile, and nothing of that was overwritten.';

/** Keeps what has been said so far. A draft that became a watch meanwhile needs keeping no more. */
export async function keep(personId: PersonId, draft: string, form: FormData) {
  const { pool, clock } = services();
  const plan = readPlan(form.get('plan'));
  if (!plan.ok) return data({ problem: plan.error, revision: null, theirs: null }, { status: 400 });
  const id = readId<DraftId>(draft);
  const revision = await keepDraft(pool, { id, person: personId }, plan.value, keepingOf(form), clock());
  if (revision !== null) return { problem: null, revision, theirs: null };
  const kept = await findDraft(pool, personId, id);
  if (kept === null) return { problem: null, revision: null, theirs: null };
  return data({ problem: ANOTHER_TAB, revision: null, theirs: kept.revision }, { status: 409 });
}

/** Does all that is proposed to read a watch again, and says so in its new version. */
export async function mend(person: Editor, open: OpenDraft, form: FormData) {
  const mending = await mendingOf(open, open.draft.content);
  if (mending === null || mending.definition === null)
    return data({ problem: 'There is nothing left to accept: the page has moved on.' }, { status: 409 });
  return save(person, open, { ...open.draft.content, ...mending.definition }, mending.said.join(' '), form);
}

type Editor = { id: PersonId; locale: string; zone: string };

/** Starts the watch that a draft says, or edits the one it is of, if it says everything and reads something. */
export async function save(person: Editor, open: OpenDraft, said: PlanDraft, note: string | null, form: FormData) {
  const { pool, clock, config } = services();
  const { draft, host, site } = open;
  const plan = await framed(said, draft.watchId, open);
  const complete = completePlan(plan, await presentOf(open, plan), person);
  if (!complete.ok) return data({ problem: Object.values(complete.error).join(' ') }, { status: 400 });
  if (await tellNobody(complete.value.rules)) return data({ problem: NOBODY_THERE }, { status: 400 });
  const source = {
    address: draft.address,
    host,
    site,
    mostAtOnce: config.hostMostAtOnce,
    way: draft.way,
    request: draft.request,
    ...(draft.way === 'posted' ? { postedTo: draft.id } : {}),
  };
  const saved = await inTransaction(pool, (db) =>
    store(db, { person, draft, source, note, keeping: keepingOf(form) }, complete.value, clock()),
  );
  return saved.ok ? redirect(`/watches/${saved.value}`) : data({ problem: saved.error }, { status: 409 });
}

interface Saving {
  person: Editor;
  draft: Draft;
  source: WatchSource;
  note: string | null;
  keeping: Keeping;
}

/** One draft makes one watch, however often it is asked for: the others are answered with it. */
async function store(
  db: Db,
  { person, draft, source, note, keeping }: Saving,
  plan: CompletePlan,
  now: Instant,
): Promise<Result<WatchId, string>> {
  const claimed = await claimDraft(db, person.id, draft.id, keeping);
  if (claimed === 'gone') return fail('This draft is gone: it was thrown away in another tab.');
  if (claimed === 'kept by another tab') return fail(`${ANOTHER_TAB} Load this page again and go on from there.`);
  if (claimed !== 'ours') return ok(claimed.watch);
  const watch =
    draft.watchId === null
      ? ok(await createWatch(db, source, plan, { person: person.id, at: now }))
      : await edit(db, draft, draft.watchId);
  if (watch.ok) await endDraft(db, person.id, draft.id, watch.value, now);
  return watch;

  async function edit(inside: Db, { watchVersion }: Draft, watchId: WatchId): Promise<Result<WatchId, string>> {
    const made = { basedOn: watchVersion ?? 0, editor: person.id, source, ...(note === null ? {} : { note }) };
    const edited = await editWatch(inside, watchId, plan, made, now);
    if (edited.ok) return ok(watchId);
    return fail(
      edited.error === 'gone'
        ? 'This watch is gone.'
        : 'Somebody changed this watch meanwhile. Open it anew to see how; what you did here is kept until then.',
    );
  }
}
