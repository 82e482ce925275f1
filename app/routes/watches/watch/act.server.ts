import type { PersonId, QuestionId, WatchId } from '#core/id';
import { redirect } from 'react-router';
import { inTransaction } from '#server/db/base/pool';
import { findWatch } from '#server/db/watch/views/watch-now';
import { askForRun, editWatch, setWatchState } from '#server/actions/edit-watch';
import { framed } from '../../../parts/plan/frames.server';
import { NOBODY_THERE, tellNobody } from '../../../parts/plan/audience.server';
import { completePlan } from '#core/plan/plan';
import { readPlan } from '#server/shapes/plan';
import { readForm, textIn } from '../../../form.server';
import { readId, readLongId, readNumber } from '../../../ids.server';
import { presentOf } from '../../../parts/plan/present';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { confirmWays, decideOffered, openOnPage } from './actions.server';
import { sayInstead, sayNo, sayYes, type Answer } from './questions.server';

export const MOST_WORDS = 200;

export const MOST_OFFERED = 50;

export async function action({ request, params, context }: Route.ActionArgs) {
  const person = asks(context, 'change', { kind: 'watch' });
  const { pool, clock } = services();
  const id = readId<WatchId>(params.watch);
  const form = await readForm(request);
  switch (form.get('intent')) {
    case 'look':
      return answer(
        await inTransaction(pool, (db) => askForRun(db, id, clock())),
        'This watch does not run: start it first.',
      );
    case 'pause':
      return answer(
        await inTransaction(pool, (db) => setWatchState(db, id, 'paused', clock(), { person: person.id })),
        'This watch is gone.',
      );
    case 'start':
      return answer(
        await inTransaction(pool, (db) => setWatchState(db, id, 'running', clock(), { person: person.id })),
        'This watch is gone.',
      );
    case 'open': {
      const opened = await openOnPage(id, person.id);
      return typeof opened === 'string' ? { problem: opened, savedVersion: null } : opened;
    }
    case 'yes':
      return { problem: await sayYes(id, person.id, answerIn(form)), savedVersion: null };
    case 'instead':
      return { problem: await sayInstead(id, person.id, answerIn(form)), savedVersion: null };
    case 'no': {
      const said = await sayNo(id, person.id, answerIn(form));
      const opened = said ?? (await openOnPage(id, person.id));
      return typeof opened === 'string' ? { problem: opened, savedVersion: null } : opened;
    }
    case 'confirm':
      return { problem: await confirmWays(id, person.id), savedVersion: null };
    case 'take':
    case 'leave':
      return {
        problem: await decideOffered(id, person.id, form.get('intent') === 'take', identitiesIn(form)),
        savedVersion: null,
      };
    case 'delete':
      asks(context, 'end', { kind: 'watch' });
      await inTransaction(pool, (db) => setWatchState(db, id, 'deleted', clock(), { person: person.id }));
      return redirect('/watches');
    default:
      return save(id, person, form);
  }
}

const answerIn = (form: FormData): Answer => ({
  question: readLongId<QuestionId>(textIn(form, 'question')),
  elsewhere: form.has('elsewhere'),
  always: form.has('always'),
});

const MOST_IDENTITIES = 1_000;

const LONGEST_IDENTITY = 800;

function identitiesIn(form: FormData): string[] {
  const said = form.getAll('identity').slice(0, MOST_IDENTITIES).map(String);
  return said.filter((identity) => identity !== '' && identity.length <= LONGEST_IDENTITY);
}

function answer(done: boolean, otherwise: string) {
  return { problem: done ? null : otherwise, savedVersion: null };
}

async function save(id: WatchId, person: { id: PersonId; locale: string; zone: string }, form: FormData) {
  const { pool, clock } = services();
  const plan = readPlan(form.get('plan'));
  const watch = await findWatch(pool, id);
  if (!plan.ok || watch === null) return { problem: plan.ok ? 'This watch is gone.' : plan.error, savedVersion: null };
  const complete = completePlan(await framed(plan.value, id, null), presentOf(watch), person);
  if (!complete.ok) return { problem: Object.values(complete.error).join(' '), savedVersion: null };
  if (await tellNobody(complete.value.rules)) return { problem: NOBODY_THERE, savedVersion: null };
  const edit = { basedOn: readNumber(form.get('version')), editor: person.id };
  const edited = await inTransaction(pool, (db) => editWatch(db, id, complete.value, edit, clock()));
  if (edited.ok) return { problem: null, savedVersion: edited.value };
  return {
    problem:
      edited.error === 'gone'
        ? 'This watch is gone.'
        : 'Somebody changed this watch meanwhile. Load the page again to see how; your edits are still here until ' +
          'you do.',
    savedVersion: null,
  };
}
