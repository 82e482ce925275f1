import type { RuleId } from '#core/id';
import { redirect } from 'react-router';
import { openEpisode } from '#server/pipeline/episode-actions';
import { readForm, textIn } from '../../../form.server';
import { readId } from '../../../ids.server';
import { keepingServices, services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/open';

const LONGEST_NOTE = 400;

const PROBLEMS = {
  'not judged': 'This rule is not judged on that record: it is new, switched off or ended, or the record is gone.',
  'open already': 'Its episode on that record is open already.',
} as const;

/** Opens an episode of a rule by hand, and shows what is raised then. */
export async function action({ request, params, context }: Route.ActionArgs) {
  const person = asks(context, 'change', { kind: 'raised' });
  const form = await readForm(request);
  const { clock, signals } = services();
  const opening = {
    rule: readId<RuleId>(params.rule),
    identity: textIn(form, 'record'),
    person,
    note: textIn(form, 'note').slice(0, LONGEST_NOTE),
  };
  const opened = await openEpisode(await keepingServices(), opening, clock());
  if (!opened.ok) return { problem: PROBLEMS[opened.error] };
  signals.say('watches', `watch:${readId(params.watch)}`);
  return redirect('/raised');
}
