import { useMemo, useState } from 'react';
import { Form, Link, useNavigation, useSubmit } from 'react-router';
import { isSaid, toRule, type RuleDraft } from '#core/plan/rule-draft';
import { withNumber } from '#core/read/all-records';
import { intervalLength } from '#core/when/interval';
import type { Audience } from '#server/db/person/people';
import { AudienceEditor, audienceNames } from '../../../parts/plan/audience';
import { ConditionEditor, conditionWords, termWords } from '../../../parts/plan/condition';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { PageHead, Section, Where } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import { LeaveGuard } from '../../../parts/leave-guard';
import type { Route } from './+types/route';
import { OpenByHand } from './open-by-hand';
import { Rehearsal } from './rehearsal';
import { Resting } from './resting';
import { Trying } from './trying';

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
          <Resting watch={watch.id} rule={kept} count={loaderData.resting} several={records.length > 1} />
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
