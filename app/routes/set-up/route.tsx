import { useCallback, useEffect, useRef, useState } from 'react';
import { data, Form, Link, redirect, useFetcher, useNavigation, useRevalidator } from 'react-router';
import { FORMAT_NAMES, openBody, sniffFormat } from '#core/read/body';
import { candidates as findCandidates, wholeText } from '#core/read/candidates';
import type { Field } from '#core/read/definition';
import type { Guard } from '#core/read/guard';
import { listingsOf, type Listing } from '#core/read/preview';
import { wayNeeded } from '#core/read/ways';
import { fail, ok, type Result } from '#core/result';
import { formatValue } from '#core/value/format';
import type { Value } from '#core/value/value';
import { formatInstant, formatRecent, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { dropDraft, keepDraft, type Draft } from '#server/db/drafts';
import { listLookSteps } from '#server/db/looks';
import { listAudiences, placeOf } from '#server/db/people';
import { inTransaction, type Db } from '#server/db/pool';
import { createWatch, editWatch, type WatchSource } from '#server/db/watches';
import { PICTURE_WIDTH } from '#server/fetch/rendered/picture';
import { AudienceEditor, audienceNames } from '../../parts/plan/audience';
import { ConditionEditor } from '../../parts/plan/condition';
import { MailPreview } from '../../parts/plan/mail-preview';
import { completePlan, unitsByField, type CompletePlan, type PlanDraft, type PlanProblems } from '../../parts/plan/plan';
import { Sentence, type Part } from '../../parts/plan/sentence';
import { readPlan } from '../../parts/plan/shape.server';
import { services } from '../../services.server';
import { signedIn } from '../../session.server';
import { Button } from '../../ui/button';
import { TextField } from '../../ui/field';
import { PageHead, Section } from '../../ui/page';
import { Popover } from '../../ui/popover';
import { useReader } from '../shell/reader';
import type { Route } from './+types/route';
import { fetchAgain, hasSecret, newSecret, setSource, tryElsewhere, trySteps } from './actions.server';
import { openDraft, type OpenDraft } from './draft.server';
import { mendingOf, presentOf } from './mending.server';
import { previewRecords, trialsOf, volatileIn } from './previews.server';
import { RecordsStep, type RecordsPreview } from './records';
import { SourceStep, type SourceFacts } from './source';
import { TryIt } from './try-it';
import { Onward, ValuesStep, type Shown } from './values';

export const meta: Route.MetaFunction = () => [{ title: 'New watch · Shrike' }];

export async function loader({ params, context }: Route.LoaderArgs) {
  const person = signedIn(context);
  const open = await openDraft(person.id, params.draft);
  const { draft, body, facts, site, shown } = open;
  const plan = draft.content;
  const many = plan.records.from !== 'page';
  const isPage = body.format === 'html';
  return {
    id: draft.id,
    edited: draft.watchId === null ? null : { watch: draft.watchId, version: draft.watchVersion ?? 0 },
    mending: await mendingOf(open, plan),
    address: draft.address,
    plan,
    updatedAt: draft.updatedAt,
    facts: await sourceFacts(open),
    site,
    many,
    isPage,
    readerName: person.name.split(' ')[0] ?? person.name,
    present: await presentOf(open, plan),
    candidates: isPage && !many ? findCandidates(body.document) : [],
    listings: listingsOf(body),
    preview: many ? previewRecords(open, plan, placeOf(person)) : null,
    trials: await trialsOf(open, plan, placeOf(person)),
    volatile: volatileIn(open, plan),
    words: isPage ? wholeText(body.document) : null,
    shown: shownPage(open, placeOf(person)),
    title: facts.title,
    rendered: shown !== null,
    audiences: await listAudiences(services().pool),
  };
}

async function sourceFacts({ draft, body, facts, site, looks, shown, text }: OpenDraft): Promise<SourceFacts> {
  const page = looks.find((look) => look.purpose === 'page');
  const plain = openBody(draft.body ?? '', 'html', 0);
  const comparable = plain.ok && plain.value.format === 'html' && sniffFormat(draft.body ?? '') === 'html' && shown !== null;
  return {
    address: draft.address, site, title: facts.title, locale: facts.locale, format: FORMAT_NAMES[body.format], isPage: body.format === 'html',
    fetchedAt: draft.fetchedAt, size: text.length, way: draft.way, request: draft.request, hasSecret: await hasSecret(draft),
    needed: comparable && plain.value.format === 'html' ? wayNeeded(plain.value.document, shown.document) : null,
    rendering: page?.state ?? 'none', renderProblem: page?.problem ?? null,
    tried: await triedSteps(looks),
  }; // prettier-ignore
}

async function triedSteps(looks: OpenDraft['looks']): Promise<SourceFacts['tried']> {
  const look = looks.find((each) => each.purpose === 'steps');
  if (look === undefined) return null;
  return { lookId: look.id, pending: look.state === 'asked', problem: look.problem, steps: await listLookSteps(services().pool, look.id) };
}

function shownPage({ looks, shown }: OpenDraft, place: Place): Shown {
  const asked = looks.find((look) => look.purpose === 'page');
  if (asked?.state === 'asked' || shown === null) {
    return { state: asked?.state ?? 'none', problem: asked?.problem ?? null, lookId: null, width: 0, height: 0, boxes: [], takenWords: null };
  }
  const { look } = shown;
  const taken = look.takenAt === null ? '' : `Seen ${formatInstant(look.takenAt, 'exact', place)}, rendered, ${PICTURE_WIDTH} wide`;
  return {
    state: 'done',
    problem: null,
    lookId: look.id,
    width: PICTURE_WIDTH,
    height: look.height ?? 1,
    boxes: look.boxes ?? [],
    takenWords: taken,
  };
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const person = signedIn(context);
  const form = await request.formData();
  if (form.get('intent') === 'keep') return keep(person.id, params.draft, form);
  const open = await openDraft(person.id, params.draft);
  const { draft } = open;
  switch (form.get('intent')) {
    case 'secret':
      return newSecret(draft);
    case 'mend':
      return mend(person, open);
    case 'source':
      return { problem: await setSource(person.id, draft, form) };
    case 'again':
      return { problem: await fetchAgain(draft) };
    case 'steps':
      return { problem: await trySteps(draft, form) };
    case 'other':
      return { problem: await tryElsewhere(draft, String(form.get('address') ?? '')) };
  }
  const plan = readPlan(form.get('plan'));
  if (!plan.ok) return data({ problem: plan.error }, { status: 400 });
  return save(person, open, plan.value, null);
}

/** Keeps what has been said so far. A draft that became a watch meanwhile needs keeping no more. */
async function keep(personId: number, draft: string, form: FormData) {
  const { pool, clock } = services();
  const plan = readPlan(form.get('plan'));
  if (!plan.ok) return data({ problem: plan.error }, { status: 400 });
  await keepDraft(pool, personId, Number(draft) || 0, plan.value, clock());
  return { problem: null };
}

/** Does all that is proposed to read a watch again, and says so in its new version. */
async function mend(person: Editor, open: OpenDraft) {
  const mending = await mendingOf(open, open.draft.content);
  if (mending === null || mending.definition === null)
    return data({ problem: 'There is nothing left to accept: the page has moved on.' }, { status: 409 });
  return save(person, open, { ...open.draft.content, ...mending.definition }, mending.said.join(' '));
}

type Editor = { id: number; locale: string };

/** Starts the watch that a draft says, or edits the one it is of, if it says everything and reads something. */
async function save(person: Editor, open: OpenDraft, plan: PlanDraft, note: string | null) {
  const { pool, clock, config } = services();
  const { draft, host, site } = open;
  const complete = completePlan(plan, await presentOf(open, plan), person.locale);
  if (!complete.ok) return data({ problem: Object.values(complete.error).join(' ') }, { status: 400 });
  const source = {
    address: draft.address,
    host,
    site,
    mostAtOnce: config.hostMostAtOnce,
    way: draft.way,
    request: draft.request,
    ...(draft.way === 'posted' ? { postedTo: draft.id } : {}),
  };
  const saved = await inTransaction(pool, (db) => store(db, person, draft, source, complete.value, note, clock()));
  return saved.ok ? redirect(`/watches/${saved.value}`) : data({ problem: saved.error }, { status: 409 });
}

async function store(
  db: Db,
  person: Editor,
  draft: Draft<PlanDraft>,
  source: WatchSource,
  plan: CompletePlan,
  note: string | null,
  now: Instant,
): Promise<Result<number, string>> {
  if (draft.watchId === null) {
    const made = await createWatch(db, source, plan, person.id, now);
    await dropDraft(db, person.id, draft.id);
    return ok(made);
  }
  const edit = { basedOn: draft.watchVersion ?? 0, editor: person.id, source, ...(note === null ? {} : { note }) };
  const edited = await editWatch(db, draft.watchId, plan, edit, now);
  if (!edited.ok) {
    return fail(
      edited.error === 'gone'
        ? 'This watch is gone.'
        : 'Somebody changed this watch meanwhile. Open it anew to see how; what you did here is kept until then.',
    );
  }
  await dropDraft(db, person.id, draft.id);
  return ok(draft.watchId);
}

type Loaded = Route.ComponentProps['loaderData'];
function startWords(edited: Loaded['edited']): string {
  return edited === null ? 'Start watching' : `Save as version ${edited.version + 1}`;
}

type DraftOnScreen = ReturnType<typeof useDraft>;

const STEPS = ['Source', 'Value', 'Rule', 'Report', 'Inbox'] as const;
type Step = (typeof STEPS)[number];

function firstStep({ plan, edited, facts }: Loaded): Step {
  if (facts.fetchedAt === null) return 'Source';
  const unseen = plan.records.from !== 'page' && plan.condition === null && !plan.onlyRecord;
  return plan.fields.length === 0 || edited !== null || unseen ? 'Value' : 'Rule';
}

const STEP_OF: Record<Exclude<Part, 'subject'>, Step> = { frequency: 'Source', fields: 'Value', condition: 'Rule', audiences: 'Report' };
const KEEP_AFTER_MS = 600;

export default function SetUp({ loaderData, actionData }: Route.ComponentProps) {
  const draft = useDraft(loaderData);
  const { plan, present, keptAt } = draft;
  const [step, setStep] = useState<Step>(() => firstStep(loaderData));
  const { place, locale, now } = useReader();
  const starting = useNavigation().state === 'submitting';
  const complete = completePlan(plan, present, locale);
  const problems: PlanProblems = complete.ok ? {} : complete.error;
  useFollowed(isPending(loaderData));

  return (
    <>
      <PageHead
        actions={
          <Form method="post" onSubmit={draft.settle}>
            <input type="hidden" name="plan" value={JSON.stringify(plan)} />
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
          posted={loaderData.facts.way === 'posted'}
          present={present}
          locale={locale}
          audienceNames={audienceNames(loaderData.audiences, plan.audiences)}
          editable={(part, said, blank) =>
            part === 'subject' ? (
              <Subject key={part} said={said} blank={blank} draft={draft} />
            ) : (
              <button type="button" className="said" data-blank={blank || undefined} onClick={() => setStep(STEP_OF[part])}>
                {said}
              </button>
            )
          }
        />
      </div>
      <Steps step={step} problems={problems} onStep={setStep} />
      <div className="pt-5" role="region" aria-label={step}>
        <StepBody step={step} page={loaderData} draft={draft} complete={complete} onStep={setStep} />
      </div>
    </>
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
      <TextField label="What is followed" value={draft.plan.subject} onChange={(event) => draft.change({ subject: event.target.value })} />
    </Popover>
  );
}

const FOLLOW_MS = 800;

const isPending = ({ shown, facts, trials, volatile }: Loaded) =>
  shown.state === 'asked' ||
  volatile.state === 'asked' ||
  (facts.way === 'posted' && facts.fetchedAt === null) ||
  facts.tried?.pending === true ||
  trials.some((trial) => trial.pending);

/** Looks again while a worker's browser is on its way. */
function useFollowed(pending: boolean) {
  const { revalidate } = useRevalidator();
  useEffect(() => {
    if (!pending) return;
    const timer = setInterval(() => void revalidate(), FOLLOW_MS);
    return () => clearInterval(timer);
  }, [pending, revalidate]);
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

function ValueStep({ page, draft, complete, onStep }: StepProps) {
  const { locale } = useReader();
  const readAll = (listing: Listing) =>
    draft.change({
      records: listing.records,
      fields: listing.fields,
      identity: listing.identity,
      variant: null,
      chosen: null,
      leftOut: [],
      guards: [],
    });
  const shared = { draftId: page.id, draft: draft.plan, listings: page.listings, locale, onChange: draft.change, onRecords: readAll };
  return (
    <>
      {draft.plan.records.from !== 'page' ? (
        <RecordsStep
          {...shared}
          preview={page.preview ?? { count: 0, rows: [], problems: [] }}
          pending={draft.keptAt === null || page.preview === null}
          isPage={page.isPage}
          onPage={() => draft.change({ records: { from: 'page' }, fields: [], identity: [], variant: null, chosen: null, leftOut: [], guards: [] })}
        />
      ) : page.isPage ? (
        <ValuesStep
          {...shared}
          candidates={page.candidates}
          shown={page.shown}
          present={draft.present}
          mending={page.mending}
          volatile={page.volatile}
          words={page.words}
          onTake={draft.take}
        />
      ) : (
        <Found listings={page.listings} onRecords={readAll} />
      )}
      {draft.plan.fields.length === 0 ? null : <TryIt trials={page.trials} locale={locale} />}
      <Onward to="On to the rule" ready={complete.ok || complete.error.value === undefined} onGo={() => onStep('Rule')} />
    </>
  );
}

/** What a data source holds, to choose from. */
function Found({ listings, onRecords }: { listings: Listing[]; onRecords: (listing: Listing) => void }) {
  if (listings.length === 0) return <p className="text-second">Nothing in it looks like records. Check the address and the request, under Source.</p>;
  return (
    <Section title="What is in it" className="max-w-3xl">
      <ul>
        {listings.map((listing) => (
          <li key={JSON.stringify(listing.records)} className="cell flex items-baseline justify-between gap-4">
            <span className="min-w-0">
              <span className="font-medium">{listing.said}</span>
              <span className="block truncate text-glance text-third">{listing.fields.map((field) => field.label).join(', ')}</span>
            </span>
            <Button aria-label={`Read ${listing.said}`} onClick={() => onRecords(listing)}>
              Read these
            </Button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

const cellsOf = (preview: RecordsPreview | null) =>
  (preview?.rows ?? []).flatMap(({ cells }) => Object.entries(cells).map(([field, { value }]) => ({ field, value })));

function RuleStep({ page, draft, complete, onStep }: StepProps) {
  const { locale } = useReader();
  const problem = complete.ok ? undefined : complete.error.rule;
  if (draft.plan.fields.length === 0) return <p className="text-second">First say what to read.</p>;
  return (
    <div className="grid gap-10 lg:grid-cols-[minmax(0,1fr)_372px]">
      <Section title="What matters" className="max-w-lg">
        <div className="mt-2">
          <ConditionEditor
            draft={draft.plan}
            present={draft.present}
            units={unitsByField(cellsOf(page.preview))}
            locale={locale}
            problem={problem}
            onChange={draft.change}
          />
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
  const take = (field: Field, value: Value, guards: Guard[]) => {
    setPresent({ ...present, [field.key]: value });
    const known = plan.guards.map((guard) => JSON.stringify(guard));
    const more = guards.filter((guard) => !known.includes(JSON.stringify(guard)));
    change({ fields: [...plan.fields, field], guards: [...plan.guards, ...more] });
  };
  // What the server reads by the plan it keeps is truer than what was taken from a list.
  useEffect(() => {
    if (unkept.current === null) setPresent(loaded.present);
  }, [loaded.present]);
  const settle = () => {
    clearTimeout(timer.current);
    unkept.current = null;
  };
  return { plan, present, change, take, settle, keptAt: pending || state !== 'idle' ? null : loaded.updatedAt };
}

/** A change that was not yet sent when she left the page is sent after her. */
function keepOnLeaving(id: number, timer: ReturnType<typeof setTimeout> | undefined, plan: PlanDraft | null): void {
  clearTimeout(timer);
  if (plan === null) return;
  navigator.sendBeacon(`/watches/new/${id}`, new URLSearchParams({ intent: 'keep', plan: JSON.stringify(plan) }));
}
