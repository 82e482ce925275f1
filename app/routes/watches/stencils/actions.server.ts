import type { RuleId, StencilId, WatchId } from '#core/id';
import { isDeepStrictEqual } from 'node:util';
import { redirect } from 'react-router';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import { labelOf } from '#core/plan/plan';
import { toRule, type RuleDraft } from '#core/plan/rule-draft';
import { percentIn, unfit, type Stencil } from '#core/plan/stencil';
import { percentOf, rounded, subtract, type Decimal } from '#core/value/decimal';
import { isMeasure } from '#core/value/value';
import { HOUR } from '#core/when/interval';
import { clausesOf } from '#core/judge/clause';
import { limitsOn } from '#core/judge/rule';
import { bulkOf, takeSteps } from '#server/actions/bulk';
import { lockSourcesOf } from '#server/db/source/sources';
import type { Person } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { addStencil, changeStencil, findStencil, type StencilNow } from '#server/db/watch/stencils';
import { findWatch, watchesOf } from '#server/db/watch/views/watch-now';
import { textIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import { NO_ANSWER, type BulkAnswer } from '../../../parts/bulk/answer';
import { NOBODY_THERE, tellNobody } from '../../../parts/plan/audience.server';
import { readRule } from '#server/shapes/plan';
import { services } from '../../../services.server';
import { hasOne, kept, made } from './pressed.server';

const problem = (said: string): BulkAnswer => ({ ...NO_ANSWER, problem: said });
const GONE = 'This stencil is gone. Load the page again to see what there is.';
const MEANWHILE = 'Somebody changed this stencil meanwhile. Load the page again to see how.';

/** Makes a stencil of a rule: its limit as far from the present value as it is on that watch. */
export async function makeOf(form: FormData, person: Person): Promise<BulkAnswer | Response> {
  const { pool, clock } = services();
  const watch = await findWatch(pool, readId<WatchId>(form.get('watch')));
  const rule = watch?.rules.find(({ id }) => id === readId<RuleId>(form.get('rule')));
  if (watch == null || rule === undefined) return problem('This rule is gone.');
  const { from: _from, ...definition } = rule.definition;
  const wrong = unfit(definition);
  if (wrong !== null) return problem(wrong);
  const { fields } = watch.definition;
  const name =
    definition.name ??
    describeCondition(
      definition.when,
      namesOf((key) => labelOf(fields, key), person.locale),
    );
  const stencil: Stencil = {
    name: name.slice(0, LONGEST_NAME),
    rule: definition,
    fields: fields.map(({ key, label, type, role, mode }) => ({
      key,
      label,
      type,
      mode,
      ...(role === undefined ? {} : { role }),
    })),
    present: Object.fromEntries(
      watch.series.flatMap(({ field, value }) => (isMeasure(value) ? [[field, value] as const] : [])),
    ),
    limits: { as: 'said' },
    readers: { are: 'named', audiences: rule.audiences },
  };
  const percent = percentNow(stencil);
  const whole: Stencil = percent === null ? stencil : { ...stencil, limits: { as: 'present', percent } };
  const id = await inTransaction(pool, (db) => addStencil(db, whole, { person: person.id, at: clock() }));
  return redirect(`/stencils/${id}`);
}

const LONGEST_NAME = 120;

const USUAL = '8';

/** How far the limit lies from the present value, in percent of that; null where it has none. */
function percentNow({ rule, fields, present }: Stencil): Decimal | null {
  for (const { key } of fields) {
    const [limit] = limitsOn(rule, key);
    const value = present[key];
    if (limit === undefined || value === undefined) continue;
    const percent = percentOf(subtract(limit.amount, value.amount), value.amount);
    if (percent === null) return null;
    // A limit that is passed already says nothing of how far the others are to lie.
    const passed = clausesOf(rule.when).some(
      (clause) => 'limits' in clause && clause.limits.is === (percent.startsWith('-') ? 'above' : 'below'),
    );
    return passed ? ((percent.startsWith('-') ? USUAL : `-${USUAL}`) as Decimal) : rounded(percent, 1);
  }
  return null;
}

/** Says a stencil otherwise. */
export async function change(form: FormData, id: StencilId, person: Person): Promise<BulkAnswer> {
  const { pool, clock } = services();
  const stencil = await findStencil(pool, id);
  if (stencil === null) return problem(GONE);
  const draft = readRule(textIn(form, 'rule'));
  if (!draft.ok) return problem(draft.error);
  const next = stencilIn(stencil, draft.value, form, person);
  if (typeof next === 'string') return problem(next);
  const audiences = next.readers.are === 'named' ? next.readers.audiences : [];
  if (await tellNobody([{ audiences, definition: next.rule }])) return problem(NOBODY_THERE);
  const what = differences(stencil, next, person.locale);
  if (what.length === 0) return { ...NO_ANSWER, said: 'It says that already' };
  const based = { id, version: readNumber(form.get('version')) };
  const changed = await inTransaction(pool, (db) =>
    changeStencil(db, based, next, what, { person: person.id, at: clock() }),
  );
  return changed ? { ...NO_ANSWER, said: 'Kept' } : problem(MEANWHILE);
}

function stencilIn(stencil: Stencil, draft: RuleDraft, form: FormData, person: Person): Stencil | string {
  const rule = toRule(
    { ...draft, whenAlreadyMet: draft.whenAlreadyMet ?? 'wait' },
    { present: stencil.present, fields: stencil.fields, locale: person.locale, zone: person.zone },
    HOUR,
  );
  if (!rule.ok) return rule.error;
  const wrong = unfit(rule.value);
  if (wrong !== null) return wrong;
  const percent = percentIn(textIn(form, 'percent'));
  const asPresent = form.get('limits') === 'present';
  if (asPresent && percent === null)
    return 'Say how far the limit lies from the present value, in percent: −8 is eight percent below it.';
  const name = textIn(form, 'name').slice(0, LONGEST_NAME);
  if (name === '') return 'A stencil needs a name.';
  const named = form.get('readers') !== 'those of the watch';
  if (named && draft.audiences.length === 0) return 'Say who should hear, or leave that to each watch.';
  return {
    name,
    rule: rule.value,
    fields: stencil.fields,
    present: stencil.present,
    limits: asPresent && percent !== null ? { as: 'present', percent } : { as: 'said' },
    readers: named ? { are: 'named', audiences: draft.audiences } : { are: 'those of the watch' },
  };
}

function differences(before: Stencil, after: Stencil, locale: string): string[] {
  const say = ({ rule, fields }: Stencil) =>
    describeCondition(
      rule.when,
      namesOf((key) => fields.find((field) => field.key === key)?.label ?? key, locale),
    );
  const limits = ({ limits: how }: Stencil) =>
    how.as === 'said' ? 'as it is said' : `${how.percent}% from the present value`;
  const moved = (of: string, was: string, is: string) => (was === is ? [] : [`${of}: ${was} → ${is}`]);
  const said = [
    ...moved('name', before.name, after.name),
    ...moved('when', say(before), say(after)),
    ...moved('limit', limits(before), limits(after)),
    ...(JSON.stringify(before.readers) === JSON.stringify(after.readers) ? [] : ['told to others']),
  ];
  return said.length > 0 || JSON.stringify(before.rule) === JSON.stringify(after.rule)
    ? said
    : ['judged or told otherwise'];
}

const MOST_AT_ONCE = 500;

const watchesIn = (form: FormData): WatchId[] =>
  [...new Set(form.getAll('watch').map((id) => readId<WatchId>(id)))].filter((id) => id > 0);

/** Puts a stencil on watches: each that has none of it yet has one rule more. */
export async function putOn(form: FormData, id: StencilId, person: Person): Promise<BulkAnswer> {
  return onWatches(form, id, person, (stencil, watch) => {
    const rule = made(stencil, watch);
    return rule.ok && !hasOne(stencil, watch) ? [...bulkOf(watch).rules, rule.value] : null;
  });
}

/** Takes a change of a stencil over to rules that it made. */
export async function bringUp(form: FormData, id: StencilId, person: Person): Promise<BulkAnswer> {
  const meant = new Set(form.getAll('rule').map((rule) => readId<RuleId>(rule)));
  return onWatches(form, id, person, (stencil, watch) => {
    const rule = made(stencil, watch);
    if (!rule.ok) return null;
    return bulkOf(watch).rules.map((each) =>
      each.id !== null && meant.has(each.id)
        ? { ...rule.value, id: each.id, audiences: kept(stencil, each.audiences, rule.value.audiences) }
        : each,
    );
  });
}

type Rules = ReturnType<typeof bulkOf>['rules'];

async function onWatches(
  form: FormData,
  id: StencilId,
  person: Person,
  rulesFor: (stencil: StencilNow, watch: Awaited<ReturnType<typeof watchesOf>>[number]) => Rules | null,
): Promise<BulkAnswer> {
  const { pool, clock, signals } = services();
  const ids = watchesIn(form);
  if (ids.length === 0) return problem('Choose some watches first.');
  if (ids.length > MOST_AT_ONCE) return problem(`At most ${MOST_AT_ONCE} at once: choose fewer.`);
  const did = await inTransaction(pool, async (db) => {
    const stencil = await findStencil(db, id);
    if (stencil === null) return 'gone' as const;
    await lockSourcesOf(db, ids);
    const steps = (await watchesOf(db, ids)).flatMap((watch) => {
      const rules = rulesFor(stencil, watch);
      const { state, tags, frequency } = bulkOf(watch);
      return rules === null || isDeepStrictEqual(rules, bulkOf(watch).rules)
        ? []
        : [{ watch: watch.id, state, tags, frequency, rules }];
    });
    return takeSteps(db, steps, { person: person.id, at: clock() });
  });
  if (did === 'gone') return problem(GONE);
  signals.say('watches', ...ids.map((each) => `watch:${each}` as const));
  if (did === null) return { ...NO_ANSWER, said: 'It makes nothing on any of them' };
  return {
    ...NO_ANSWER,
    said: did.changed === 1 ? 'Done on one watch' : `Done on ${did.changed} watches`,
    batch: did.batch,
  };
}
