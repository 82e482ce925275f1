import type { RuleId, WatchId } from '#core/id';
import { actionWords, type BulkAction } from '#core/plan/bulk';
import { tagsIn } from '#core/plan/rule-draft';
import { intervalLength, LONGEST_INTERVAL, type Interval } from '#core/when/interval';
import { isDay, readLocal } from '#core/when/wall-clock';
import { calledIn, doBulk, tryBulk, undoWatches } from '#server/actions/bulk';
import type { Person } from '#server/db/person/people';
import { inTransaction, inTransactionIfOk } from '#server/db/base/pool';
import { readForm, textIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import { MOST_AT_ONCE, NO_ANSWER, type BulkAnswer } from '../../../parts/bulk/answer';
import { namesNobody, NOBODY_THERE } from '../../../parts/plan/audience.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';

const MOST_NAMED = 12;

/** Tries, does or undoes what is asked of many watches or rules at once. */
export async function action({ request, context }: Route.ActionArgs): Promise<BulkAnswer> {
  const person = asks(context, 'change', { kind: 'watch' });
  const form = await readForm(request);
  if (form.get('intent') === 'undo') return undo(readNumber(form.get('batch')), person);
  const watches = [...new Set(form.getAll('watch').map((id) => readId<WatchId>(id)))].filter((id) => id > 0);
  const rules = form.has('rule') ? form.getAll('rule').map((id) => readId<RuleId>(id)) : null;
  const deed = await actionIn(form, person);
  if (typeof deed === 'string') return { ...NO_ANSWER, problem: deed };
  if (deed.do === 'delete') asks(context, 'end', { kind: 'watch' });
  if (deed.do === 'copy') asks(context, 'make', { kind: 'watch' });
  if (watches.length === 0) return { ...NO_ANSWER, problem: 'Choose some of them first.' };
  if (watches.length > MOST_AT_ONCE) return { ...NO_ANSWER, problem: `At most ${MOST_AT_ONCE} at once: choose fewer.` };
  return form.get('intent') === 'do' ? done(watches, deed, rules, person) : tried(watches, deed, rules, person);
}

/** What a form asks; or what is wrong with it, as a sentence. */
async function actionIn(form: FormData, { zone }: Person): Promise<BulkAction | string> {
  const what = textIn(form, 'do');
  switch (what) {
    case 'start':
    case 'pause':
    case 'delete':
    case 'copy':
    case 'end rules':
      return { do: what };
    case 'tag':
    case 'untag':
      return tagsAsked(what, tagsIn(textIn(form, 'tags')));
    case 'look':
      return runIn(textIn(form, 'count'), textIn(form, 'unit'));
    case 'tell':
      return readersIn(form);
    case 'end on':
      return endIn(textIn(form, 'date'), zone);
    case 'put off':
      return putOffIn(textIn(form, 'until'), zone);
    case 'take up':
      return { do: 'put off', putOff: null };
    case 'off':
    case 'on':
      return { do: 'switch', off: what === 'off' };
    default:
      return 'Say what is to be done.';
  }
}

const tagsAsked = (what: 'tag' | 'untag', tags: string[]): BulkAction | string =>
  tags.length === 0 ? 'Say which tags.' : { do: what, tags };

async function readersIn(form: FormData): Promise<BulkAction | string> {
  const audiences = form
    .getAll('audience')
    .map(String)
    .filter((key) => /^(person|list):\d{1,9}$/.test(key))
    .slice(0, 50);
  if (audiences.length === 0) return 'Say who should hear.';
  return (await namesNobody(audiences)) ? NOBODY_THERE : { do: 'tell', audiences: [...new Set(audiences)] };
}

function endIn(date: string, zone: string): BulkAction | string {
  if (date === '') return { do: 'end on', ends: null };
  return isDay(date) ? { do: 'end on', ends: { date, zone } } : 'Say the last day as 2026-12-31.';
}

function putOffIn(local: string, zone: string): BulkAction | string {
  const until = readLocal(local, zone);
  if (until === null) return 'Say until when: a day and a time.';
  return until <= services().clock()
    ? 'That is over already: say a moment that is to come.'
    : { do: 'put off', putOff: { until, zone } };
}

const UNITS: readonly Interval['unit'][] = ['minute', 'hour', 'day'];

function runIn(count: string, unit: string): BulkAction | string {
  const known = UNITS.find((each) => each === unit);
  if (!/^\d{1,5}$/.test(count) || Number(count) < 1 || known === undefined)
    return 'Say how often to look: a whole number of minutes, hours or days.';
  const every: Interval = { count: Number(count), unit: known };
  return intervalLength(every) > LONGEST_INTERVAL
    ? 'A run a year is the least often that can be asked.'
    : { do: 'look', every };
}

async function tried(ids: WatchId[], deed: BulkAction, rules: RuleId[] | null, person: Person): Promise<BulkAnswer> {
  const { pool } = services();
  const steps = await tryBulk(pool, ids, deed, rules, person.locale);
  const changed = steps.filter(({ said }) => said.length > 0);
  const words = actionWords(deed, await calledIn(pool, person.locale));
  const some = changed.slice(0, MOST_NAMED).map(({ name, said }) => ({ name, said }));
  return { ...NO_ANSWER, effect: { words, changed: changed.length, same: ids.length - changed.length, some } };
}

async function done(ids: WatchId[], deed: BulkAction, rules: RuleId[] | null, person: Person): Promise<BulkAnswer> {
  const { pool, clock, signals } = services();
  const did = await inTransaction(pool, (db) => doBulk(db, ids, deed, rules, { person: person.id, at: clock() }));
  signals.say('watches', ...ids.map((id) => `watch:${id}` as const));
  if (did === null) return { ...NO_ANSWER, said: 'Nothing was left to do.' };
  const words = actionWords(deed, await calledIn(pool, person.locale));
  return {
    ...NO_ANSWER,
    said: `${words}: ${did.changed === 1 ? 'one watch' : `${did.changed} watches`} changed`,
    batch: did.batch,
  };
}

const NOT_UNDONE = {
  'undone already': 'This was undone already, or somebody else did it.',
  'changed since': 'Something of it was changed since, so that it is not undone.',
};

async function undo(batch: number, person: Person): Promise<BulkAnswer> {
  const { pool, clock, signals } = services();
  const undone = await inTransactionIfOk(pool, (db) => undoWatches(db, batch, { person: person.id, at: clock() }));
  signals.say('watches');
  return undone.ok
    ? { ...NO_ANSWER, said: 'Undone', batch: undone.value }
    : { ...NO_ANSWER, problem: NOT_UNDONE[undone.error] };
}
