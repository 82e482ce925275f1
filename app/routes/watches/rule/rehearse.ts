import type { WatchId } from '#core/id';
import { withNumber } from '#core/read/all-records';
import { isRelated, type IsRelated } from '#core/judge/related';
import { PastAround } from '#core/judge/past';
import { askedRelated, isWide, type RuleDefinition } from '#core/judge/rule';
import { courseOf } from '#core/plan/pretended';
import { toRule } from '#core/plan/rule-draft';
import { fail, ok, type Result } from '#core/result';
import { DAY, intervalLength } from '#core/when/interval';
import { placeOf, type Person } from '#server/db/person/people';
import { describeTaskProblem } from '#server/reading/pool';
import { listRecords } from '#server/db/reading/records';
import { pastOf } from '#server/db/rule/past-related';
import { findWatch, type WatchNow } from '#server/db/watch/views/watch-now';
import { readForm, textIn } from '../../../form.server';
import { readId } from '../../../ids.server';
import { readRule } from '#server/shapes/plan';
import { rehearsedMail } from '../../../parts/plan/rehearsed-mail';
import { sendToAsker } from '../../../parts/to-asker.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/rehearse';
import { pretendedOf, readLooks } from './pretended.server';

const MOST_RECORDS = 200;
/** What was read longer ago stands beside nothing. */
const LOOKED_BACK = 28 * DAY;

/** Sends the mail of a rehearsal to whoever asks for it, and to nobody else; nothing of it is kept. */
export async function action({
  request,
  params,
  context,
}: Route.ActionArgs): Promise<{ said: string | null; problem: string | null }> {
  const person = asks(context, 'change', { kind: 'watch' });
  const mail = await rehearsed(await readForm(request), readId<WatchId>(params.watch), person);
  if (!mail.ok) return { said: null, problem: mail.error };
  return sendToAsker(person, 'Rehearsal', mail.value);
}

/** The mail that pretended looks at a record end in. */
async function rehearsed(
  form: FormData,
  id: WatchId,
  person: Person,
): Promise<Result<{ subject: string; html: string; text: string }, string>> {
  const { pool } = services();
  const [draft, looks, watch] = [
    readRule(textIn(form, 'rule')),
    readLooks(textIn(form, 'looks')),
    await findWatch(pool, id),
  ];
  if (!draft.ok) return draft;
  if (!looks.ok) return looks;
  if (watch === null) return fail('This watch is gone.');
  const record = pretendedOf(watch, await listRecords(pool, id, { words: '', chosen: null, most: MOST_RECORDS })).find(
    ({ identity }) => identity === textIn(form, 'record'),
  );
  if (record === undefined) return fail('This record is gone. Load the page again.');
  const [place, intervalMs, { subject, records }] = [
    placeOf(person),
    intervalLength(watch.frequency),
    watch.definition,
  ];
  const fields = withNumber(watch.definition);
  const rule = toRule(
    { ...draft.value, whenAlreadyMet: draft.value.whenAlreadyMet ?? 'wait' },
    { present: record.values, fields, ...place },
    intervalMs,
  );
  if (!rule.ok) return rule;
  const course = courseOf(looks.value, record.values, place);
  if (!course.ok) return fail(`Run ${course.error.look + 1}: ${course.error.said}`);
  const beside = await besideNow(watch, rule.value, record.identity);
  const asked = { rule: rule.value, course: course.value, intervalMs, beside };
  const done = await services().reading.run('rehearse', asked, []);
  if (!done.ok) return fail(describeTaskProblem(done.error, 'this rehearsal'));
  const told = done.value;
  if (told === null) return fail('These values tell nobody anything, so there is no mail.');
  const of = {
    subject: records.from === 'page' ? subject : record.name,
    site: watch.site,
    page: watch.address,
    fields,
    rule: rule.value,
    told,
  };
  return ok(
    rehearsedMail({ ...of, report: 'A rehearsal', readerName: person.name, place, now: told.at, apart: intervalMs }),
  );
}

/** What stands beside a record now, where a rule asks that. */
async function besideNow(watch: WatchNow, rule: RuleDefinition, identity: string): Promise<IsRelated | undefined> {
  if (!isWide({ when: rule.when })) return undefined;
  const { pool, clock } = services();
  const now = clock();
  const { histories, beside } = await pastOf(pool, watch, askedRelated(rule), { since: now - LOOKED_BACK, until: now });
  return isRelated(rule, new PastAround(histories, beside).at(now), identity);
}
