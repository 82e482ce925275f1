import { data } from 'react-router';
import { readPlan } from '#server/shapes/plan';
import { readForm, writtenIn } from '../../../form.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { fetchAgain, newSecret, setSource, tryElsewhere, trySteps } from './actions.server';
import { openDraft } from './draft.server';
import { keep, mend, save } from './save.server';

export async function action({ request, params, context }: Route.ActionArgs) {
  const person = asks(context, 'change', { kind: 'draft', maker: null });
  const form = await readForm(request);
  if (form.get('intent') === 'keep') return keep(person.id, params.draft, form);
  const open = await openDraft(person.id, params.draft);
  const { draft } = open;
  switch (form.get('intent')) {
    case 'secret':
      return newSecret(draft);
    case 'mend':
      asks(context, 'change', { kind: 'watch' });
      return mend(person, open, form);
    case 'source':
      return { problem: await setSource(person.id, draft, form) };
    case 'again':
      return { problem: await fetchAgain(draft) };
    case 'steps':
      return { problem: await trySteps(draft, form) };
    case 'other':
      return { problem: await tryElsewhere(draft, writtenIn(form, 'address')) };
  }
  const plan = readPlan(form.get('plan'));
  if (!plan.ok) return data({ problem: plan.error }, { status: 400 });
  asks(context, draft.watchId === null ? 'make' : 'change', { kind: 'watch' });
  return save(person, open, plan.value, null, form);
}
