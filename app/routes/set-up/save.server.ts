import { data, redirect } from 'react-router';
import { fail, ok, type Result } from '#core/result';
import type { Instant } from '#core/when/interval';
import { dropDraft, keepDraft, type Draft } from '#server/db/drafts';
import { inTransaction, type Db } from '#server/db/pool';
import { createWatch, editWatch, type WatchSource } from '#server/db/watches';
import { completePlan, type CompletePlan, type PlanDraft } from '../../parts/plan/plan';
import { readPlan } from '../../parts/plan/shape.server';
import { services } from '../../services.server';
import type { OpenDraft } from './draft.server';
import { mendingOf, presentOf } from './mending.server';

/** Keeps what has been said so far. A draft that became a watch meanwhile needs keeping no more. */
export async function keep(personId: number, draft: string, form: FormData) {
  const { pool, clock } = services();
  const plan = readPlan(form.get('plan'));
  if (!plan.ok) return data({ problem: plan.error }, { status: 400 });
  await keepDraft(pool, personId, Number(draft) || 0, plan.value, clock());
  return { problem: null };
}

/** Does all that is proposed to read a watch again, and says so in its new version. */
export async function mend(person: Editor, open: OpenDraft) {
  const mending = await mendingOf(open, open.draft.content);
  if (mending === null || mending.definition === null)
    return data({ problem: 'There is nothing left to accept: the page has moved on.' }, { status: 409 });
  return save(person, open, { ...open.draft.content, ...mending.definition }, mending.said.join(' '));
}

type Editor = { id: number; locale: string };

/** Starts the watch that a draft says, or edits the one it is of, if it says everything and reads something. */
export async function save(person: Editor, open: OpenDraft, plan: PlanDraft, note: string | null) {
  const { pool, clock, config } = services();
  const { draft, host, site } = open;
  const complete = completePlan(plan, await presentOf(open, plan), person.locale);
  if (!complete.ok) return data({ problem: Object.values(complete.error).join(' ') }, { status: 400 });
  const source = {
    address: draft.address,
    host,
    site,
    mostAtOnce: config.hostMostAtOnce,
    way: draft.way,
    request: draft.request,
    ...(draft.way === 'posted' ? { postedTo: draft.id } : {}),
  };
  const saved = await inTransaction(pool, (db) => store(db, person, draft, source, complete.value, note, clock()));
  return saved.ok ? redirect(`/watches/${saved.value}`) : data({ problem: saved.error }, { status: 409 });
}

async function store(
  db: Db,
  person: Editor,
  draft: Draft<PlanDraft>,
  source: WatchSource,
  plan: CompletePlan,
  note: string | null,
  now: Instant,
): Promise<Result<number, string>> {
  if (draft.watchId === null) {
    const made = await createWatch(db, source, plan, person.id, now);
    await dropDraft(db, person.id, draft.id);
    return ok(made);
  }
  const edit = { basedOn: draft.watchVersion ?? 0, editor: person.id, source, ...(note === null ? {} : { note }) };
  const edited = await editWatch(db, draft.watchId, plan, edit, now);
  if (!edited.ok) {
    return fail(
      edited.error === 'gone'
        ? 'This watch is gone.'
        : 'Somebody changed this watch meanwhile. Open it anew to see how; what you did here is kept until then.',
    );
  }
  await dropDraft(db, person.id, draft.id);
  return ok(draft.watchId);
}
