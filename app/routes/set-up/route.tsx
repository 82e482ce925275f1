import { useCallback, useEffect, useRef, useState } from 'react';
import { data, Form, Link, redirect, useFetcher, useNavigation } from 'react-router';
import { candidates as findCandidates } from '#core/read/candidates';
import type { Field } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import type { Value } from '#core/value/value';
import { pageFacts, parseHtml } from '#core/read/html';
import { formatRecent } from '#core/when/format';
import { dropDraft, findDraft, keepDraft } from '#server/db/drafts';
import { listAudiences } from '#server/db/people';
import { inTransaction } from '#server/db/pool';
import { createWatch } from '#server/db/watches';
import { AudienceEditor, audienceNames } from '../../parts/plan/audience';
import { ConditionEditor } from '../../parts/plan/condition';
import { FrequencyEditor } from '../../parts/plan/frequency';
import { MailPreview } from '../../parts/plan/mail-preview';
import { completePlan, type PlanDraft, type PlanProblems } from '../../parts/plan/plan';
import { presentOn } from '../../parts/plan/present.server';
import { Sentence, type Part } from '../../parts/plan/sentence';
import { readPlan } from '../../parts/plan/shape.server';
import { services } from '../../services.server';
import { signedIn } from '../../session.server';
import { Button } from '../../ui/button';
import { TextField } from '../../ui/field';
import { PageHead, Section } from '../../ui/page';
import { useReader } from '../shell/reader';
import type { Route } from './+types/route';
import { Onward, ValuesStep } from './values';

export const meta: Route.MetaFunction = () => [{ title: 'New watch · Shrike' }];

async function loadDraft(personId: number, id: string) {
  const draft = await findDraft<PlanDraft>(services().pool, personId, Number(id));
  if (draft?.body == null) throw data('There is no such draft.', { status: 404 });
  const document = parseHtml(draft.body);
  const facts = pageFacts(document);
  const host = new URL(draft.address).host;
  return { draft, document, facts, host, site: facts.siteName ?? host.replace(/^www\./, '') };
}

export async function loader({ params, context }: Route.LoaderArgs) {
  const person = signedIn(context);
  const { draft, document, facts, site } = await loadDraft(person.id, params.draft);
  return {
    id: draft.id,
    address: draft.address,
    plan: draft.content,
    updatedAt: draft.updatedAt,
    fetchedAt: draft.fetchedAt,
    size: draft.body?.length ?? 0,
    facts,
    site,
    readerName: person.name.split(' ')[0] ?? person.name,
    present: presentOn(document, draft.content.fields),
    candidates: findCandidates(document),
    audiences: await listAudiences(services().pool),
  };
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const person = signedIn(context);
  const { pool, clock, config } = services();
  const form = await request.formData();
  const plan = readPlan(form.get('plan'));
  if (!plan.ok) return data({ problem: plan.error }, { status: 400 });
  if (form.get('intent') === 'keep') {
    await keepDraft(pool, person.id, Number(params.draft), plan.value, clock());
    return { problem: null };
  }
  const { draft, document, host, site } = await loadDraft(person.id, params.draft);
  const complete = completePlan(plan.value, presentOn(document, plan.value.fields), person.locale);
  if (!complete.ok) return data({ problem: Object.values(complete.error).join(' ') }, { status: 400 });
  const watchId = await inTransaction(pool, async (db) => {
    const id = await createWatch(db, { address: draft.address, host, site, mostAtOnce: config.hostMostAtOnce }, complete.value, person.id, clock());
    await dropDraft(db, person.id, draft.id);
    return id;
  });
  return redirect(`/watches/${watchId}`);
}

type Loaded = Route.ComponentProps['loaderData'];
type DraftOnScreen = ReturnType<typeof useDraft>;

const STEPS = ['Source', 'Value', 'Rule', 'Report', 'Inbox'] as const;
type Step = (typeof STEPS)[number];

const STEP_OF: Record<Part, Step> = { frequency: 'Source', fields: 'Value', subject: 'Value', condition: 'Rule', audiences: 'Report' };
const KEEP_AFTER_MS = 600;

export default function SetUp({ loaderData, actionData }: Route.ComponentProps) {
  const draft = useDraft(loaderData);
  const { plan, present, keptAt } = draft;
  const [step, setStep] = useState<Step>(plan.fields.length === 0 ? 'Value' : 'Rule');
  const { place, locale, now } = useReader();
  const starting = useNavigation().state === 'submitting';
  const complete = completePlan(plan, present, locale);
  const problems: PlanProblems = complete.ok ? {} : complete.error;

  return (
    <>
      <PageHead
        actions={
          <Form method="post">
            <input type="hidden" name="plan" value={JSON.stringify(plan)} />
            <Button type="submit" weight="strong" disabled={!complete.ok || starting}>
              {starting ? 'Starting …' : 'Start watching'}
            </Button>
          </Form>
        }
      >
        <Link className="link text-third" to="/watches">
          Watches
        </Link>
        <span className="text-third">/</span>
        <h1>New watch</h1>
        <span className="text-glance text-third">{keptAt === null ? 'keeping the draft …' : `draft kept ${formatRecent(keptAt, now, place)}`}</span>
      </PageHead>
      {actionData?.problem ? (
        <p role="alert" className="mt-3 font-medium text-chestnut">
          {actionData.problem}
        </p>
      ) : null}
      <div className="pt-3 pb-2">
        <Sentence
          draft={plan}
          site={loaderData.site}
          present={present}
          locale={locale}
          audienceNames={audienceNames(loaderData.audiences, plan.audiences)}
          editable={(part, said, blank) => (
            <button type="button" className="said" data-blank={blank || undefined} onClick={() => setStep(STEP_OF[part])}>
              {said}
            </button>
          )}
        />
      </div>
      <Steps step={step} problems={problems} onStep={setStep} />
      <div className="pt-5" role="region" aria-label={step}>
        <StepBody step={step} page={loaderData} draft={draft} complete={complete} onStep={setStep} />
      </div>
    </>
  );
}

interface StepProps {
  page: Loaded;
  draft: DraftOnScreen;
  complete: ReturnType<typeof completePlan>;
  onStep: (step: Step) => void;
}

function StepBody({ step, ...props }: StepProps & { step: Step }) {
  const { page, draft, complete, onStep } = props;
  switch (step) {
    case 'Source':
      return (
        <SourceStep
          page={page}
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

function ValueStep({ page, draft, complete, onStep }: StepProps) {
  const { locale } = useReader();
  return (
    <>
      <div className="mb-6 max-w-md">
        <TextField label="What is followed" value={draft.plan.subject} onChange={(event) => draft.change({ subject: event.target.value })} />
      </div>
      <ValuesStep
        draft={draft.plan}
        candidates={page.candidates}
        present={draft.present}
        tryAt={`/watches/new/${page.id}/try`}
        locale={locale}
        onChange={draft.change}
        onTake={draft.take}
      />
      <Onward to="On to the rule" ready={complete.ok || complete.error.value === undefined} onGo={() => onStep('Rule')} />
    </>
  );
}

function RuleStep({ draft, complete, onStep }: StepProps) {
  const { locale } = useReader();
  const problem = complete.ok ? undefined : complete.error.rule;
  if (draft.plan.fields.length === 0) return <p className="text-second">First say what to read.</p>;
  return (
    <div className="grid gap-10 lg:grid-cols-[minmax(0,1fr)_372px]">
      <Section title="What matters" className="max-w-lg">
        <div className="mt-2">
          <ConditionEditor draft={draft.plan} present={draft.present} locale={locale} problem={problem} onChange={draft.change} />
          <Onward to="On to who should hear" ready={problem === undefined} onGo={() => onStep('Report')} />
        </div>
      </Section>
      <Section title="What is read now">
        {draft.plan.fields.map((field) => (
          <p key={field.key} className="cell flex items-baseline justify-between gap-4">
            <span className="text-second">{field.label}</span>
            <span className="truncate font-serif text-day">{formatPresent(draft.present[field.key], locale)}</span>
          </p>
        ))}
        <p className="mt-3 text-glance text-third">
          There is no history yet to try a rule on: the first look is a baseline, and each one after it is judged.
        </p>
      </Section>
    </div>
  );
}

function formatPresent(value: Value | undefined, locale: string): string {
  return value === undefined ? 'not read' : formatValue(value, locale);
}

function ReportStep({ page, draft, complete, onStep }: StepProps) {
  return (
    <Section title="Who should hear" className="max-w-lg">
      {draft.plan.onlyRecord ? (
        <p className="mt-2 text-second">It is only recorded; nobody is told. Change that under Rule.</p>
      ) : (
        <AudienceEditor audiences={page.audiences} chosen={draft.plan.audiences} onChange={(audiences) => draft.change({ audiences })} />
      )}
      <Onward to="On to the mail" ready={complete.ok || complete.error.report === undefined} onGo={() => onStep('Inbox')} />
    </Section>
  );
}

function InboxStep({ page, draft, complete }: StepProps) {
  const { place, now } = useReader();
  const present = draft.present[draft.plan.condition?.field ?? draft.plan.fields[0]?.key ?? ''];
  return (
    <Section title="The mail as it would arrive" className="max-w-3xl">
      {complete.ok && present !== undefined ? (
        <MailPreview
          plan={complete.value}
          present={present}
          site={page.site}
          address={page.address}
          readerName={page.readerName}
          report={`${audienceNames(page.audiences, draft.plan.audiences)}, at once`}
          place={place}
          now={now}
        />
      ) : (
        <ul className="mt-2 text-second">
          {Object.values(complete.ok ? {} : complete.error).map((problem) => (
            <li key={problem}>{problem}</li>
          ))}
        </ul>
      )}
    </Section>
  );
}

function Steps({ step, problems, onStep }: { step: Step; problems: PlanProblems; onStep: (step: Step) => void }) {
  return (
    <nav aria-label="Steps" className="mt-1 flex gap-6 overflow-x-auto border-b border-rule">
      {STEPS.map((each) => {
        const missing = each === 'Inbox' ? Object.keys(problems).length > 0 : problems[each.toLowerCase() as keyof PlanProblems] !== undefined;
        return (
          <button
            key={each}
            type="button"
            aria-current={each === step ? 'step' : undefined}
            onClick={() => onStep(each)}
            className="-mb-px border-b-2 border-transparent py-2 text-third hover:text-ink aria-[current=step]:border-chestnut aria-[current=step]:font-semibold aria-[current=step]:text-ink data-[done]:text-ink"
            data-done={missing ? undefined : true}
          >
            {each}
            <span className="sr-only">{missing ? ', not yet said' : ', said'}</span>
          </button>
        );
      })}
    </nav>
  );
}

function SourceStep({
  page,
  plan,
  problem,
  onChange,
  onGo,
}: {
  page: Loaded;
  plan: PlanDraft;
  problem?: string;
  onChange: (change: Partial<PlanDraft>) => void;
  onGo: () => void;
}) {
  const { place, now } = useReader();
  const facts: [string, string][] = [
    ['Address', page.address],
    ['Site', page.site],
    ['Says of itself', page.facts.title ?? '–'],
    ['Language', page.facts.locale ?? 'not stated; ambiguous numbers are refused'],
    ['Fetched', `${page.fetchedAt === null ? '–' : formatRecent(page.fetchedAt, now, place)}, ${Math.max(1, Math.round(page.size / 1000))} kB`],
  ];
  return (
    <div className="grid gap-10 lg:grid-cols-[minmax(0,1fr)_372px]">
      <Section title="The page">
        <table className="mt-1 w-full">
          <tbody>
            {facts.map(([name, said]) => (
              <tr key={name}>
                <th className="cell w-36 text-left font-normal text-third">{name}</th>
                <td className="cell break-all">
                  {name === 'Address' ? (
                    <a className="link" href={said} target="_blank" rel="noreferrer">
                      {said}
                    </a>
                  ) : (
                    said
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Section>
      <Section title="How often to look">
        <FrequencyEditor value={plan.frequency} problem={problem} onChange={(frequency) => onChange({ frequency })} />
        <Onward to="On to the value" ready={problem === undefined} onGo={onGo} />
      </Section>
    </div>
  );
}

/** The draft on screen, kept on the server a moment after each change. */
function useDraft(loaded: Loaded) {
  const [plan, setPlanState] = useState(loaded.plan);
  const [present, setPresent] = useState(loaded.present);
  const [pending, setPending] = useState(false);
  const { submit, state } = useFetcher();
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const unkept = useRef<PlanDraft | null>(null);
  const setPlan = useCallback(
    (next: PlanDraft) => {
      setPlanState(next);
      setPending(true);
      unkept.current = next;
      clearTimeout(timer.current);
      timer.current = setTimeout(() => {
        setPending(false);
        unkept.current = null;
        void submit({ intent: 'keep', plan: JSON.stringify(next) }, { method: 'post' });
      }, KEEP_AFTER_MS);
    },
    [submit],
  );
  useEffect(() => () => keepOnLeaving(loaded.id, timer.current, unkept.current), [loaded.id]);
  const change = (part: Partial<PlanDraft>) => setPlan({ ...plan, ...part });
  const take = (field: Field, value: Value) => {
    setPresent({ ...present, [field.key]: value });
    change({ fields: [...plan.fields, field] });
  };
  return { plan, present, change, take, keptAt: pending || state !== 'idle' ? null : loaded.updatedAt };
}

/** A change that was not yet sent when she left the page is sent after her. */
function keepOnLeaving(id: number, timer: ReturnType<typeof setTimeout> | undefined, plan: PlanDraft | null): void {
  clearTimeout(timer);
  if (plan === null) return;
  navigator.sendBeacon(`/watches/new/${id}`, new URLSearchParams({ intent: 'keep', plan: JSON.stringify(plan) }));
}
