import type { RuleId, WatchId } from '#core/id';
import { useMemo, useState } from 'react';
import { data, Form, Link, redirect, useNavigation, useSubmit } from 'react-router';
import { completePlan, draftOf, unitsByField, type PlanDraft } from '#core/plan/plan';
import { BLANK_RULE, isSaid, toRule, type RuleDraft } from '#core/plan/rule-draft';
import { isAllRecords, withNumber } from '#core/read/all-records';
import { intervalLength } from '#core/when/interval';
import { listOtherWatches } from '#server/db/rule/views/other-watches';
import { listAudiences, type Audience } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { listRecords } from '#server/db/reading/records';
import { findWatch } from '#server/db/watch/views/watch-now';
import { editWatch } from '#server/actions/edit-watch';
import { readForm, textIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import { NOBODY_THERE, tellNobody } from '../../../parts/plan/audience.server';
import { MOST_ELSEWHERE } from '../../../parts/plan/related-item';
import { relatedItem } from '../../../parts/plan/related-item.server';
import { AudienceEditor, audienceNames } from '../../../parts/plan/audience';
import { ConditionEditor, conditionWords, termWords } from '../../../parts/plan/condition';
import { readRule } from '../../../parts/plan/shape.server';
import { lastDayOfNew } from '../../../parts/plan/last-day.server';
import { presentOf } from '../../../parts/plan/present';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { PageHead, Section, Where } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import { LeaveGuard } from '../../../parts/leave-guard';
import type { Route } from './+types/route';
import { draftFrom } from './filled';
import { OpenByHand } from './open-by-hand';
import { pretendedOf } from './pretended.server';
import { Rehearsal } from './rehearsal';
import { Trying } from './trying';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  {
    title:
      `${loaderData?.kept === null ? 'A new rule' : 'A rule'} of ` +
      `${loaderData?.watch.definition.subject ?? 'a watch'} · Shrike`,
  },
];

const MOST_RECORDS = 200;

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  const kept =
    params.rule === 'new' ? null : (watch?.rules.find(({ id }) => id === readId<RuleId>(params.rule)) ?? undefined);
  if (watch === null || kept === undefined) throw data('There is no such rule.', { status: 404 });
  const [audiences, found] = await Promise.all([
    listAudiences(pool),
    listRecords(pool, watch.id, { words: '', chosen: watch.allRecords, most: MOST_RECORDS, after: null }),
  ]);
  const records = found.filter((record) => !isAllRecords(record));
  const asked = new URL(request.url).searchParams;
  const draft =
    kept === null
      ? draftFrom(watch, found, asked, lastDayOfNew(person.zone))
      : (draftOf(watch).rules.find(({ id }) => id === kept.id) ?? BLANK_RULE);
  return {
    watch,
    kept: kept === null ? null : kept.id,
    draft,
    audiences,
    records: records.map(({ identity, name, labels }) => ({ identity, name: name ?? identity, labels })),
    pretended: pretendedOf(watch, records),
    elsewhere: await listOtherWatches(pool, watch.id, MOST_ELSEWHERE),
    present: presentOf(watch),
    units: unitsByField(records.flatMap((record) => record.series)),
    beside: await relatedItem(
      pool,
      watch,
      records.find(({ goneSince }) => goneSince === null)?.identity ?? null,
      clock(),
    ),
  };
}

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

export default function Rule(props: Route.ComponentProps) {
  // Another rule is another page: nothing of the one before may stay behind.
  const { watch, kept, draft } = props.loaderData;
  return <RulePage key={`${watch.id} ${kept ?? `new from ${draft.from?.id ?? 'nothing'}`}`} {...props} />;
}

function RulePage({ loaderData, actionData }: Route.ComponentProps) {
  const { watch, kept, audiences, records, pretended, elsewhere, present, units, beside } = loaderData;
  const { place } = useReader();
  const [draft, setDraft] = useState(loaderData.draft);
  const change = (said: Partial<RuleDraft>) => setDraft((known) => ({ ...known, ...said }));
  const saving = useNavigation().state !== 'idle';
  const fields = useMemo(() => withNumber(watch.definition), [watch.definition]);
  const intervalMs = intervalLength(watch.frequency);
  const said = useMemo(() => ({ present, fields, ...place }), [present, fields, place]);
  const rule = useMemo(() => toRule(draft, said, intervalMs), [draft, said, intervalMs]);
  // What is met already is tried as if it had to be left first, until she says.
  const tried = useMemo(
    () => toRule({ ...draft, whenAlreadyMet: draft.whenAlreadyMet ?? 'wait' }, said, intervalMs),
    [draft, said, intervalMs],
  );
  const unsaved = JSON.stringify(draft) !== JSON.stringify(loaderData.draft) && !saving;
  const problem = rule.ok ? (draft.audiences.length === 0 ? 'Say who should hear.' : null) : rule.error;
  return (
    <>
      <LeaveGuard unsaved={unsaved} what="this rule" />
      <RuleHead watch={watch} kept={kept} draft={draft} ready={problem === null && !saving} />
      <h1 className="pt-3.5 pb-2 font-serif text-[22px] leading-[31px] text-pretty md:text-sentence" data-said>
        Tell {audienceNames(audiences, draft.audiences) || '____'} at once when{' '}
        {conditionWords(fields, draft, present, place) ?? '____'}
        {tried.ok && termWords(tried.value) !== '' ? (
          <span className="font-sans text-glance text-third"> ({termWords(tried.value)})</span>
        ) : null}
        .
      </h1>
      <p className="min-h-5 text-glance font-medium text-chestnut" role="status">
        {actionData?.problem ?? (isSaid(draft) ? problem : null)}
      </p>
      {draft.from === undefined ? null : (
        <p className="pb-1 text-glance text-third" data-from>
          Made from the {draft.from.kind} “{draft.from.name}”.
        </p>
      )}
      <div className="grid gap-x-10 gap-y-6 pt-1 lg:grid-cols-[300px_minmax(0,1fr)]">
        <div>
          <Section title="What matters">
            <div className="mt-2">
              <ConditionEditor
                fields={fields}
                rule={draft}
                present={present}
                units={units}
                records={records}
                beside={beside}
                elsewhere={elsewhere}
                audiences={audiences}
                place={place}
                problem={tried.ok ? null : tried.error}
                onChange={change}
                onNever={() => change({ clauses: [], kept: undefined })}
                opened
              />
            </div>
          </Section>
          <Section title="Who should hear" className="mt-5">
            <AudienceEditor
              audiences={audiences}
              chosen={draft.audiences}
              onChange={(chosen) => change({ audiences: chosen })}
            />
          </Section>
        </div>
        <div className="min-w-0">
          <Trying
            watch={watch.id}
            fields={fields}
            rule={tried.ok ? tried.value : null}
            draft={draft}
            savedAt={watch.createdAt}
            intervalMs={intervalMs}
            readers={readersIn(audiences, draft.audiences).length}
            onChange={change}
          />
          <Rehearsal
            rule={tried.ok ? tried.value : null}
            draft={draft}
            records={pretended}
            intervalMs={intervalMs}
            watch={watch}
            readers={readersIn(audiences, draft.audiences)}
          />
          <OpenByHand watch={watch.id} rule={kept} records={pretended} />
        </div>
      </div>
    </>
  );
}

/** Who hears, each once, through whatever list. */
const readersIn = (audiences: Audience[], chosen: string[]): Audience['members'] => [
  ...new Map(
    audiences
      .filter(({ key }) => chosen.includes(key))
      .flatMap(({ members }) => members.map((member) => [member.email, member] as const)),
  ).values(),
];

type HeadProps = Pick<Route.ComponentProps['loaderData'], 'watch' | 'kept'> & { draft: RuleDraft; ready: boolean };

/** Where she is, and what saves or ends the rule. */
function RuleHead({ watch, kept, draft, ready }: HeadProps) {
  return (
    <PageHead
      actions={
        <>
          {kept === null ? null : (
            <>
              <Link className="link text-second" to={`/watches/${watch.id}/rules/new?copy=${kept}`}>
                Copy
              </Link>
              <Link className="link text-second" to={`/reports/new?rule=${kept}`}>
                Report on it
              </Link>
              <Form method="post" action="/stencils">
                <input type="hidden" name="watch" value={watch.id} />
                <input type="hidden" name="rule" value={kept} />
                <button className="link text-second">Make a stencil of it</button>
              </Form>
              <EndRule version={watch.version} draft={draft} />
            </>
          )}
          <Form method="post">
            <input type="hidden" name="rule" value={JSON.stringify(draft)} />
            <input type="hidden" name="version" value={watch.version} />
            <Button type="submit" weight="strong" disabled={!ready}>
              Save the rule
            </Button>
          </Form>
        </>
      }
    >
      <Where
        within={[
          { name: 'Watches', to: '/watches' },
          { name: watch.definition.subject, to: `/watches/${watch.id}` },
        ]}
      >
        {kept === null ? 'a new rule' : 'a rule'}
      </Where>
    </PageHead>
  );
}

/** Ends a rule, once she said so twice. */
function EndRule({ version, draft }: { version: number; draft: RuleDraft }) {
  const submit = useSubmit();
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Button weight="quiet" onClick={() => setAsking(true)}>
        End this rule
      </Button>
      <Confirm
        open={asking}
        title="End this rule?"
        go="End it"
        stay="Keep it"
        onGo={() =>
          void submit({ rule: JSON.stringify(draft), version: String(version), end: 'yes' }, { method: 'post' })
        }
        onStay={() => setAsking(false)}
      >
        It is judged no more, and what it has raised is closed. Switch it off instead to keep it for later.
      </Confirm>
    </>
  );
}
