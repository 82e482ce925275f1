import type { AlertId, ChangeId, PersonId, QuestionId, RecordId, WatchId } from '#core/id';
import { useEffect, useState } from 'react';
import { data, Form, Link, redirect, useFetcher, useSubmit } from 'react-router';
import { chainOf } from '#core/tell/chain';
import { sanitiseText } from '#core/value/sanitise';
import { formatRecent, type Place } from '#core/when/format';
import { DAY, type Instant } from '#core/when/interval';
import { listAudiences } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { listReadings } from '#server/db/reading/views/readings';
import { chainFactsOf, findWatch, type WatchNow } from '#server/db/watch/views/watch-now';
import { countChanges, findTrail, listChanges } from '#server/db/reading/views/changes';
import {
  findOtherTrail,
  isOther,
  listOtherNews,
  type OtherNews,
  type OtherTrail,
} from '#server/db/reading/views/other-news';
import { reportTrailOf } from '#server/pipeline/report/trail';
import { findPunctuality, listEpisodes, listRuns } from '#server/db/watch/views/history';
import { listOffered, listRecords, type AfterRecord, type RecordNow } from '#server/db/reading/records';
import { askForRun, editWatch, setWatchState } from '#server/actions/edit-watch';
import { useLive } from '../../../parts/live';
import type { BulkAnswer } from '../../../parts/bulk/answer';
import { Chain } from '../../../parts/chain';
import { neverSaid } from '../../../parts/never.server';
import { framed } from '../../../parts/plan/frames.server';
import { NOBODY_THERE, tellNobody } from '../../../parts/plan/audience.server';
import { copyName } from '#core/plan/bulk';
import { isAllRecords } from '#core/read/all-records';
import { completePlan, draftOf, labelOf, unitsByField, type PlanDraft } from '#core/plan/plan';
import { readPlan } from '../../../parts/plan/shape.server';
import { readForm, textIn } from '../../../form.server';
import { readId, readInstant, readLongId, readNumber } from '../../../ids.server';
import { presentOf } from '../../../parts/plan/present';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { Menu } from '../../../ui/menu';
import { PageHead } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { confirmWays, decideOffered, openOnPage } from './actions.server';
import { BeforeAfter } from './before-after';
import { beforeAfter } from './before-after.server';
import { OfferOfItem } from './item-of';
import { itemsSeen } from './items.server';
import { LeaveGuard } from '../../../parts/leave-guard';
import { EditableSentence } from './edit';
import { Changes } from './changes';
import { OtherNewsOf, OtherTrailOf } from './other-news';
import { Questions } from './questions';
import { questionsShown, sayInstead, sayNo, sayYes, type Answer } from './questions.server';
import { timestampViewOf, type TimestampView } from './timestamp.server';
import { Offered, Records } from './records';
import { SeriesPart } from './series';
import { TrailOf } from './trail';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.watch.definition.subject ?? 'Watch'} · Shrike` },
];

const RANGES = { day: DAY, week: 7 * DAY, weeks: 28 * DAY, quarter: 91 * DAY } as const;
const MOST_CHANGES = 50;
/** Of each sort of other news. */
const MOST_OTHERS = 12;

function windowOf(range: string, watch: WatchNow, now: Instant): Instant {
  const length = Object.hasOwn(RANGES, range) ? RANGES[range as keyof typeof RANGES] : RANGES.weeks;
  // What is younger than the stretch is shown from its beginning, so that it fills the chart.
  const young = Math.min(watch.createdAt, now - RANGES.day);
  return range === 'all' ? young : Math.max(now - length, young);
}

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  if (watch === null) throw data('There is no such watch.', { status: 404 });
  const asked = new URL(request.url).searchParams;
  const now = clock();
  const range = asked.get('range') ?? 'weeks';
  const from = windowOf(range, watch, now);
  const words = sanitiseText(asked.get('among') ?? '').slice(0, MOST_WORDS);
  const recordAsked = readLongId<RecordId>(asked.get('record'));
  const after = afterIn(asked);
  const found = await listRecords(pool, watch.id, {
    words,
    chosen: recordAsked || null,
    most: MOST_RECORDS + 1,
    after,
  });
  const record = found.find((each) => each.id === recordAsked) ?? found[0] ?? null;
  const records = found.filter((each) => !isAllRecords(each)).slice(0, MOST_RECORDS);
  const [readings, changes, changeCount, runs, episodes, audiences, offered, punctuality] = await Promise.all([
    listReadings(
      pool,
      (record?.series ?? watch.series).map((series) => series.id),
      from,
    ),
    listChanges(pool, watch.id, MOST_CHANGES),
    countChanges(pool, watch.id),
    listRuns(pool, watch.id, from),
    listEpisodes(pool, watch.id, from),
    listAudiences(pool),
    watch.offeredCount === 0 ? [] : listOffered(pool, watch.id, MOST_OFFERED),
    findPunctuality(pool, watch.id, from),
  ]);
  const questions = await questionsShown(watch);
  const moment = record === null ? null : await timestampAsked(watch, record, asked);
  return {
    watch,
    facts: await factsOf(watch, person),
    range,
    from,
    to: now,
    readings,
    changes,
    changeCount,
    runs,
    episodes,
    audiences,
    ...(await trailsAsked(watch.id, asked, changes[0]?.id)),
    records,
    record,
    words,
    page: { begun: after !== null, more: found.length > MOST_RECORDS, size: MOST_RECORDS },
    offered,
    punctuality,
    questions,
    moment,
    items: await itemsSeen(watch, records),
  };
}

/**
 * What else there is to tell than changes, and the trail of what is asked for: else of the latest change, or of the
 * latest of the rest.
 */
async function trailsAsked(watch: WatchId, asked: URLSearchParams, latest: ChangeId | undefined) {
  const { pool } = services();
  const chosen = readLongId<ChangeId>(asked.get('change')) || latest;
  const trail = chosen === undefined ? null : await findTrail(pool, watch, chosen);
  const others = await listOtherNews(pool, watch, MOST_OTHERS);
  const other = await otherAsked(watch, asked.get('news'), trail === null ? others[0] : undefined);
  const passages = await reportTrailOf(
    pool,
    other?.news ?? (trail === null ? null : { of: 'change', id: trail.change.id }),
  );
  const pictures = trail === null || other !== null ? null : await beforeAfter(watch, trail.change.id);
  return { trail, others, other, passages, pictures };
}

/** The trail of other news than a change: of what is asked for as `alert-12`, else of what is said. */
async function otherAsked(
  watch: WatchId,
  word: string | null,
  otherwise: OtherNews | undefined,
): Promise<OtherTrail | null> {
  const [of = '', id = ''] = word?.split('-') ?? [otherwise?.of, String(otherwise?.id)];
  return isOther(of) ? findOtherTrail(services().pool, watch, of, readLongId<AlertId>(id)) : null;
}

/** What was made of the reading that she asks about, by its field and a moment; null where she asks about none. */
function timestampAsked(
  watch: WatchNow,
  record: RecordNow,
  asked: URLSearchParams,
): Promise<TimestampView | null> | null {
  const [field, at] = [asked.get('field') ?? '', readInstant(asked.get('at'))];
  return at <= 0 || field === '' ? null : timestampViewOf(watch, record, field, at);
}

/** What the chain says of a watch, and of each rule whether anything that was read so far could have met it. */
async function factsOf(watch: WatchNow, place: Place) {
  const facts = chainFactsOf(watch, place.locale);
  const asked = watch.rules.map(({ definition }) => ({ watchId: watch.id, definition }));
  const never = await neverSaid(asked, () => (key) => labelOf(watch.definition.fields, key), place);
  return {
    ...facts,
    rules: facts.rules.map((rule, at) => ({ ...rule, never: never.get(asked[at] as (typeof asked)[number]) ?? null })),
  };
}

const MOST_RECORDS = 200;
/** `after=12` and `after=gone-12`: where a page of records begins. */
function afterIn(asked: URLSearchParams): AfterRecord | null {
  const [, gone, id] = /^(gone-)?(\d{1,16})$/.exec(asked.get('after') ?? '') ?? [];
  return id === undefined ? null : { gone: gone !== undefined, id: readLongId<RecordId>(id) };
}

const MOST_WORDS = 200;
const MOST_OFFERED = 50;

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

const sameDraft = (a: PlanDraft, b: PlanDraft) => JSON.stringify(a) === JSON.stringify(b);

export default function Watch({ loaderData }: Route.ComponentProps) {
  // A watch of another number is another page: nothing of the one before may stay behind.
  return <WatchPage key={loaderData.watch.id} {...loaderData} />;
}

type Loaded = Route.ComponentProps['loaderData'];

function WatchPage(loaded: Loaded) {
  const { watch, facts, audiences } = loaded;
  const { place, now } = useReader();
  const saving = useFetcher<typeof action>();
  const { draft, setDraft, unsaved } = useEdits(watch, saving.data?.savedVersion ?? null);
  const present = presentOf(watch);
  const complete = completePlan(draft, present, place);
  return (
    <>
      <WatchHead watch={watch} />
      <LeaveGuard unsaved={unsaved} what="this watch" />
      <div className="pt-3.5 pb-4">
        <EditableSentence
          watch={watch.id}
          draft={draft}
          site={watch.site}
          posted={watch.way === 'posted'}
          present={present}
          units={unitsByField(loaded.records.flatMap((record) => record.series))}
          records={loaded.records.map(({ identity, name }) => ({ identity, name: name ?? identity }))}
          place={place}
          audiences={audiences}
          problems={complete.ok ? {} : complete.error}
          tryAt={`/watches/${watch.id}/try`}
          onChange={(change) => setDraft({ ...draft, ...change })}
        />
      </div>
      {unsaved || saving.data?.problem ? (
        <saving.Form
          method="post"
          className="mb-4 flex flex-wrap items-center gap-3 border-y border-ink py-2"
          data-unsaved
        >
          <input type="hidden" name="plan" value={JSON.stringify(draft)} />
          <input type="hidden" name="version" value={watch.version} />
          <p role="status" className="grow font-medium">
            {saving.data?.problem ??
              (complete.ok
                ? 'Edited, not saved yet. Saving runs it at once.'
                : Object.values(complete.error).join(' '))}
          </p>
          <Button onClick={() => setDraft(draftOf(watch))}>Discard</Button>
          <Button
            type="submit"
            name="intent"
            value="save"
            weight="strong"
            disabled={!complete.ok || saving.state !== 'idle'}
          >
            Save as version {watch.version + 1}
          </Button>
        </saving.Form>
      ) : null}
      <Questions watch={watch} {...loaded.questions} />
      <Chain
        links={chainOf(facts, now, place)}
        remedies={{
          Source: <RunAgain label="Run again" />,
          Value: <ValueRemedy watch={watch} />,
          Inbox: (
            <Link className="link" to="/outbox">
              See the outbox
            </Link>
          ),
        }}
      />
      <Offered offered={loaded.offered} count={watch.offeredCount} />
      <SeriesPart {...loaded} />
      {watch.definition.records.from === 'page' ? (
        <OfferOfItem record={loaded.record} items={loaded.items} />
      ) : (
        <Records
          watch={watch}
          records={loaded.records}
          chosen={loaded.record}
          words={loaded.words}
          page={loaded.page}
          items={loaded.items}
        />
      )}
      <div className="mt-4 grid gap-x-9 gap-y-8 border-t border-rule pt-3 lg:grid-cols-[minmax(0,1.45fr)_minmax(0,1fr)]">
        <div className="flex min-w-0 flex-col gap-8">
          <Changes {...loaded} />
          <OtherNewsOf {...loaded} />
        </div>
        {loaded.other !== null ? (
          <OtherTrailOf trail={loaded.other} passages={loaded.passages} watch={watch} />
        ) : loaded.trail === null ? null : (
          <div>
            <TrailOf
              trail={loaded.trail}
              passages={loaded.passages}
              watch={watch.id}
              labelOf={(key) => labelOf(watch.definition.fields, key)}
            />
            {loaded.pictures === null ? null : <BeforeAfter watchId={watch.id} {...loaded.pictures} />}
          </div>
        )}
      </div>
    </>
  );
}

/** The edits on screen; when they are saved the saved watch takes their place. */
function useEdits(watch: WatchNow, savedVersion: number | null) {
  const [draft, setDraft] = useState(() => draftOf(watch));
  const [base, setBase] = useState(watch);
  const unsaved = !sameDraft(draft, draftOf(base));
  useEffect(() => {
    if (watch.version === base.version) return;
    if (!unsaved || watch.version === savedVersion) {
      setDraft(draftOf(watch));
      setBase(watch);
    }
  }, [watch, base.version, unsaved, savedVersion]);
  return { draft, setDraft, unsaved };
}

const EVERY_MS = 400;

function WatchHead({ watch }: { watch: WatchNow }) {
  const { place, now } = useReader();
  const [deleting, setDeleting] = useState(false);
  const acting = useFetcher<typeof action>();
  const submit = useSubmit();
  const looking = watch.askedAt !== null && watch.state === 'running';
  // A mail that goes out in good time moves nothing of the watch.
  const mailed = watch.rules.some(
    ({ lastDelivery }) => lastDelivery?.state === 'queued' || lastDelivery?.state === 'sending',
  );
  useLive([`watch:${watch.id}`, `source:${watch.sourceId}`, ...(mailed ? (['outbox'] as const) : [])], EVERY_MS);
  const copying = useFetcher<BulkAnswer>();
  const copy = () =>
    void copying.submit({ intent: 'do', do: 'copy', watch: String(watch.id) }, { method: 'post', action: '/bulk' });
  const act = (intent: string) => void acting.submit({ intent }, { method: 'post' });
  return (
    <PageHead
      actions={
        <>
          <span role="status">
            {copying.data?.said == null ? null : (
              <Link
                className="link text-glance"
                to={`/watches?${new URLSearchParams({ q: copyName(watch.definition.subject) }).toString()}`}
              >
                Its copy rests until it is started
              </Link>
            )}
          </span>
          <span className="text-glance text-third" title={watch.note ?? undefined} data-version>
            version {watch.version} by {watch.madeBy.split(' ')[0]}, {formatRecent(watch.madeAt, now, place)}
          </span>
          <Button onClick={() => act('look')} disabled={watch.state !== 'running' || looking}>
            {looking ? 'Running …' : 'Run now'}
          </Button>
          <Button onClick={() => act(watch.state === 'running' ? 'pause' : 'start')}>
            {watch.state === 'running' ? 'Pause' : 'Start'}
          </Button>
          <Menu
            label="More"
            items={[
              {
                label: 'Change what is read, on the page',
                onSelect: () => void submit({ intent: 'open' }, { method: 'post' }),
              },
              { label: 'Copy it with its rules', onSelect: copy },
              { label: 'Delete this watch', onSelect: () => setDeleting(true) },
            ]}
          />
          <Confirm
            open={deleting}
            title="Delete this watch?"
            go="Delete it"
            stay="Keep it"
            onGo={() => act('delete')}
            onStay={() => setDeleting(false)}
          >
            It stops looking and telling, and leaves every list. To stop it for a while, pause it instead.
          </Confirm>
        </>
      }
    >
      <Link className="link text-third" to="/watches">
        Watches
      </Link>
      <span className="text-third">/</span>
      <h1 className="min-w-0 truncate">
        {watch.site}, {watch.definition.subject}
      </h1>
      {watch.way === 'posted' ? null : (
        <a className="link text-glance text-third" href={watch.address} target="_blank" rel="noreferrer">
          open the page
        </a>
      )}
      {watch.state === 'paused' ? <span className="font-semibold">Paused</span> : null}
    </PageHead>
  );
}

/**
 * What mends a value that is not read, or that was found another way; a sensor that is silent or bad is mended
 * elsewhere.
 */
function ValueRemedy({ watch }: { watch: WatchNow }) {
  const confirming = watch.problem === null && watch.lost !== null;
  const away = watch.problem === null ? 'See what is read' : 'Mend it';
  return (
    <Form method="post" navigate={!confirming} className="flex gap-3">
      {confirming ? (
        <button name="intent" value="confirm" className="link font-semibold">
          Confirm the new way
        </button>
      ) : null}
      <button name="intent" value="open" className="link">
        {confirming ? 'See it on the page' : away}
      </button>
    </Form>
  );
}

function RunAgain({ label }: { label: string }) {
  return (
    <Form method="post" navigate={false}>
      <button name="intent" value="look" className="link">
        {label}
      </button>
    </Form>
  );
}
