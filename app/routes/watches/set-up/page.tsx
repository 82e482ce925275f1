import { useState } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import { formatRecent } from '#core/when/format';
import { useLive } from '../../../parts/live';
import { audienceNames } from '../../../parts/plan/audience';
import { completePlan, type PlanProblems } from '#core/plan/plan';
import { isSaid } from '#core/plan/rule-draft';
import { addRule, removeRule } from '../../../parts/plan/rules';
import { Sentence, type Part } from '../../../parts/plan/sentence';
import { Button } from '../../../ui/button';
import { TextField } from '../../../ui/field';
import { PageHead } from '../../../ui/page';
import { Popover } from '../../../ui/popover';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { InboxStep } from './inbox-step';
import { ReportStep } from './report-step';
import { RuleStep } from './rule-step';
import { SourceStep } from './source/source-step';
import type { DraftOnScreen, Loaded, StepProps } from './step-props';
import { StepNav, type Step } from './step-nav';
import { useDraft } from './use-draft';
import { useSource } from './use-source';
import { ValueStep } from './value/value-step';

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
