import { useState } from 'react';
import { data, Form, Link, useNavigation } from 'react-router';
import { formatRecent } from '#core/when/format';
import { listAudiences, placeOf } from '#server/db/person/people';
import { useLive } from '../../../parts/live';
import { audienceNames } from '../../../parts/plan/audience';
import { completePlan, type PlanProblems } from '#core/plan/plan';
import { isSaid } from '#core/plan/rule-draft';
import { addRule, removeRule } from '../../../parts/plan/rules';
import { Sentence, type Part } from '../../../parts/plan/sentence';
import { readPlan } from '../../../parts/plan/shape.server';
import { readNumber } from '../../../ids.server';
import { readForm, writtenIn } from '../../../form.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { TextField } from '../../../ui/field';
import { PageHead } from '../../../ui/page';
import { Popover } from '../../../ui/popover';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { fetchAgain, newSecret, setSource, tryElsewhere, trySteps } from './actions.server';
import { openDraft } from './draft.server';
import { InboxStep } from './inbox-step';
import { mendingOf, presentOf } from './mending.server';
import { rowsOn, shownPage, sourceFacts, takenOn, wallBefore } from './page.server';
import { previewRecords, trialsOf, volatileIn } from './previews.server';
import { ReportStep } from './report-step';
import { RuleStep } from './rule-step';
import { keep, mend, save } from './save.server';
import { SourceStep } from './source/source-step';
import type { DraftOnScreen, Loaded, StepProps } from './step-props';
import { StepNav, type Step } from './step-nav';
import { useDraft } from './use-draft';
import { useSource } from './use-source';
import { ValueStep } from './value/value-step';

export const meta: Route.MetaFunction = () => [{ title: 'New watch · Shrike' }];

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'draft', maker: null });
  const open = await openDraft(person.id, params.draft);
  const { draft, offer, site, shown } = open;
  const plan = draft.content;
  const many = plan.records.from !== 'page';
  const place = placeOf(person);
  const mending = await mendingOf(open, plan);
  const rowsPage = readNumber(new URL(request.url).searchParams.get('rows'));
  const [facts, present, preview, trials, volatile, rows, wall, taken, audiences] = await Promise.all([
    sourceFacts(open),
    presentOf(open, plan),
    // Where nothing is read any more, what the mending would read.
    many ? previewRecords(open, { ...plan, ...mending?.definition }, rowsPage, place) : null,
    trialsOf(open, plan, place),
    volatileIn(open, plan),
    rowsOn(open, plan),
    wallBefore(open),
    takenOn(open, plan),
    listAudiences(services().pool),
  ]);
  return {
    id: draft.id,
    edited: draft.watchId === null ? null : { watch: draft.watchId, version: draft.watchVersion ?? 0 },
    mending,
    address: draft.address,
    plan,
    updatedAt: draft.updatedAt,
    revision: draft.revision,
    facts,
    site,
    many,
    isPage: offer.format === 'html',
    unread: offer.problem,
    readerName: person.name,
    present,
    candidates: many ? [] : offer.candidates,
    listings: offer.listings,
    preview,
    trials,
    volatile,
    words: offer.words,
    shown: shownPage(open, place),
    rows,
    wall,
    taken,
    ofMany: offer.many,
    title: offer.facts.title,
    rendered: shown !== null,
    audiences,
  };
}

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

function startWords(edited: Loaded['edited']): string {
  return edited === null ? 'Start watching' : `Save as version ${edited.version + 1}`;
}

function firstStep({ plan, edited, facts }: Loaded): Step {
  if (facts.fetchedAt === null) return 'Source';
  const unseen = plan.records.from !== 'page' && plan.rules.some((rule) => !isSaid(rule));
  return plan.fields.length === 0 || edited !== null || unseen ? 'Value' : 'Rule';
}

const STEP_OF: Record<Exclude<Part, 'subject'>, Step> = {
  frequency: 'Source',
  fields: 'Value',
  condition: 'Rule',
  audiences: 'Report',
};

export default function SetUp({ loaderData, actionData }: Route.ComponentProps) {
  const draft = useDraft(loaderData);
  const { plan, present, keptAt } = draft;
  const [step, setStep] = useState<Step>(() => firstStep(loaderData));
  const { place, now } = useReader();
  const starting = useNavigation().state === 'submitting';
  const complete = completePlan(plan, present, place);
  const problems: PlanProblems = complete.ok ? {} : complete.error;
  // A worker's browser may be on its way.
  useLive([`draft:${loaderData.id}`], EVERY_MS);

  return (
    <>
      <PageHead
        actions={
          <Form method="post" onSubmit={draft.stopKeeping}>
            <input type="hidden" name="plan" value={JSON.stringify(plan)} />
            <input type="hidden" name="revision" value={draft.keeping.revision} />
            <input type="hidden" name="tab" value={draft.keeping.tab} />
            <Button type="submit" weight="strong" disabled={!complete.ok || starting}>
              {starting ? 'Saving …' : startWords(loaderData.edited)}
            </Button>
          </Form>
        }
      >
        <Link className="link text-third" to="/watches">
          Watches
        </Link>
        <span className="text-third">/</span>
        {loaderData.edited === null ? null : (
          <>
            <Link className="link text-third" to={`/watches/${loaderData.edited.watch}`}>
              {plan.subject || 'Watch'}
            </Link>
            <span className="text-third">/</span>
          </>
        )}
        <h1>{loaderData.edited === null ? 'New watch' : 'Reading'}</h1>
        <span className="text-glance text-third">
          {keptAt === null ? 'keeping the draft …' : `draft kept ${formatRecent(keptAt, now, place)}`}
        </span>
      </PageHead>
      {draft.elsewhere ? <ChangedElsewhere draft={draft} /> : null}
      {loaderData.unread === null ? null : (
        <p role="status" className="mt-3 font-medium text-chestnut" data-unread>
          {loaderData.unread}
        </p>
      )}
      {actionData?.problem ? (
        <p role="alert" className="mt-3 font-medium text-chestnut">
          {actionData.problem}
        </p>
      ) : null}
      <div className="pt-3 pb-2">
        <Sentence
          draft={plan}
          site={loaderData.site}
          posted={loaderData.facts.way === 'posted'}
          present={present}
          place={place}
          namesOf={(chosen) => audienceNames(loaderData.audiences, chosen)}
          onAdd={() => {
            draft.change(addRule(plan));
            setStep('Rule');
          }}
          onRemove={(at) => draft.change(removeRule(plan, at))}
          editable={(part, said, { isBlank = false }) =>
            part === 'subject' ? (
              <Subject key={part} said={said} blank={isBlank} draft={draft} />
            ) : (
              <button
                type="button"
                className="said"
                data-blank={isBlank || undefined}
                onClick={() => setStep(STEP_OF[part])}
              >
                {said}
              </button>
            )
          }
        />
      </div>
      <SourceSet />
      <StepNav step={step} problems={problems} onStep={setStep} />
      <div className="pt-5" role="region" aria-label={step}>
        <StepBody step={step} page={loaderData} draft={draft} complete={complete} onStep={setStep} />
      </div>
    </>
  );
}

/** How far the fetching of the source is, and what came in its way. */
function SourceSet() {
  const { busy, problem } = useSource();
  if (busy)
    return (
      <p role="status" className="mb-2 text-second">
        Fetching it …
      </p>
    );
  return problem === null ? null : (
    <p role="alert" className="mb-2 font-medium text-chestnut">
      {problem}
    </p>
  );
}

/** Two tabs on one draft: neither silently wins. */
function ChangedElsewhere({ draft }: { draft: DraftOnScreen }) {
  return (
    <p role="alert" className="mt-3 flex flex-wrap items-baseline gap-x-4 font-medium text-chestnut" data-elsewhere>
      This draft was changed in another tab meanwhile; what you say here is not kept.
      <button type="button" className="link" onClick={() => location.reload()}>
        Load what was said there
      </button>
      <button type="button" className="link" onClick={draft.insist}>
        Keep what stands here instead
      </button>
    </p>
  );
}

/** What is followed, as she calls it: the one part of the sentence that has no step of its own. */
function Subject({ said, blank, draft }: { said: string; blank: boolean; draft: DraftOnScreen }) {
  return (
    <Popover
      label="What it is called"
      trigger={
        <button type="button" className="said" data-blank={blank || undefined}>
          {said}
        </button>
      }
    >
      <TextField
        label="What is followed"
        value={draft.plan.subject}
        onChange={(event) => draft.change({ subject: event.target.value })}
      />
    </Popover>
  );
}

const EVERY_MS = 300;

function StepBody({ step, ...props }: StepProps & { step: Step }) {
  const { page, draft, complete, onStep } = props;
  switch (step) {
    case 'Source':
      return (
        <SourceStep
          draftId={page.id}
          facts={page.facts}
          plan={draft.plan}
          problem={complete.ok ? undefined : complete.error.source}
          onChange={draft.change}
          onGo={() => onStep('Value')}
        />
      );
    case 'Value':
      return <ValueStep {...props} />;
    case 'Rule':
      return <RuleStep {...props} />;
    case 'Report':
      return <ReportStep {...props} />;
    case 'Inbox':
      return <InboxStep {...props} />;
  }
}
