import type { WatchId } from '#core/id';
import { redirect } from 'react-router';
import { completePlan, draftOf, type PlanDraft } from '#core/plan/plan';
import type { RuleDraft } from '#core/plan/rule-draft';
import { inTransaction } from '#server/db/base/pool';
import { findWatch } from '#server/db/watch/views/watch-now';
import { editWatch } from '#server/actions/edit-watch';
import { readForm, textIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import { NOBODY_THERE, tellNobody } from '../../../parts/plan/audience.server';
import { readRule } from '#server/shapes/plan';
import { presentOf } from '../../../parts/plan/present';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';

export async function action({ request, params, context }: Route.ActionArgs) {
  const person = asks(context, 'change', { kind: 'watch' });
  const { pool, clock } = services();
  const form = await readForm(request);
  const rule = readRule(textIn(form, 'rule'));
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  if (!rule.ok || watch === null) return { problem: rule.ok ? 'This watch is gone.' : rule.error };
  const plan = withRule(draftOf(watch), rule.value, form.has('end'));
  const complete = completePlan(plan, presentOf(watch), person);
  if (!complete.ok) return { problem: Object.values(complete.error).join(' ') };
  if (await tellNobody(complete.value.rules)) return { problem: NOBODY_THERE };
  const edit = { basedOn: readNumber(form.get('version')), editor: person.id };
  const edited = await inTransaction(pool, (db) => editWatch(db, watch.id, complete.value, edit, clock()));
  if (edited.ok) return redirect(`/watches/${watch.id}`);
  return {
    problem:
      edited.error === 'gone'
        ? 'This watch is gone.'
        : 'Somebody changed this watch meanwhile. Load the page again to see how.',
  };
}

/** A plan with one of its rules said otherwise, one more, or one less. */
function withRule(plan: PlanDraft, rule: RuleDraft, ends: boolean): PlanDraft {
  const others = plan.rules.filter(({ id }) => id === null || id !== rule.id);
  if (ends) return { ...plan, rules: others };
  return {
    ...plan,
    rules: rule.id === null ? [...plan.rules, rule] : plan.rules.map((each) => (each.id === rule.id ? rule : each)),
  };
}
