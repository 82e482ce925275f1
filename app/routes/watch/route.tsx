import { useEffect, useState } from 'react';
import { data, Form, Link, redirect, useFetcher, useRevalidator } from 'react-router';
import { chainOf, formatAgo } from '#core/tell/chain';
import { formatUnit, formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import { formatDuration, formatRecent } from '#core/when/format';
import { DAY, type Instant } from '#core/when/interval';
import { listAudiences } from '#server/db/people';
import { inTransaction } from '#server/db/pool';
import {
  chainFactsOf,
  countChanges,
  findTrail,
  findWatch,
  listChanges,
  listEpisodes,
  listReadings,
  listRuns,
  type WatchNow,
} from '#server/db/watch-page';
import { askForLook, editWatch, setWatchState } from '#server/db/watches';
import { Chain } from '../../parts/chain';
import { Difference } from '../../parts/difference';
import { completePlan, conditionDraftOf, labelOf, type PlanDraft, type PresentValues } from '../../parts/plan/plan';
import { readPlan } from '../../parts/plan/shape.server';
import { Ribbon } from '../../parts/ribbon';
import { SeriesChart } from '../../parts/series-chart';
import { services } from '../../services.server';
import { signedIn } from '../../session.server';
import { Button } from '../../ui/button';
import { Confirm } from '../../ui/confirm';
import { Menu } from '../../ui/menu';
import { PageHead, Section } from '../../ui/page';
import { useReader } from '../shell/reader';
import type { Route } from './+types/route';
import { EditableSentence, LeaveGuard } from './edit';
import { TrailOf } from './trail';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.watch.definition.subject ?? 'Watch'} · Shrike` }];

const RANGES = { day: DAY, week: 7 * DAY, weeks: 28 * DAY, quarter: 91 * DAY } as const;
const RANGE_NAMES = [['day', 'Day'], ['week', 'Week'], ['weeks', '4 weeks'], ['quarter', 'Quarter'], ['all', 'All']] as const; // prettier-ignore
const MOST_CHANGES = 50;

function windowOf(range: string, watch: WatchNow, now: Instant): Instant {
  if (range === 'all') return Math.min(watch.createdAt, now - RANGES.day);
  return now - (RANGES[range as keyof typeof RANGES] ?? RANGES.weeks);
}

function presentOf(watch: WatchNow): PresentValues {
  return Object.fromEntries(watch.series.map((series) => [series.field, series.value]));
}

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const person = signedIn(context);
  const { pool, clock } = services();
  const watch = await findWatch(pool, Number(params.watch) || 0);
  if (watch === null) throw data('There is no such watch.', { status: 404 });
  const asked = new URL(request.url).searchParams;
  const now = clock();
  const range = asked.get('range') ?? 'weeks';
  const from = windowOf(range, watch, now);
  const [readings, changes, changeCount, runs, episodes, audiences] = await Promise.all([
    listReadings(pool, watch.series.map((series) => series.id), from),
    listChanges(pool, watch.id, MOST_CHANGES),
    countChanges(pool, watch.id),
    listRuns(pool, watch.id, from),
    listEpisodes(pool, watch.id, from),
    listAudiences(pool),
  ]); // prettier-ignore
  const chosen = Number(asked.get('change')) || changes[0]?.id;
  const trail = chosen === undefined ? null : await findTrail(pool, watch.id, chosen);
  return { watch, facts: chainFactsOf(watch, person.locale), range, from, to: now, readings, changes, changeCount, runs, episodes, audiences, trail };
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const person = signedIn(context);
  const { pool, clock } = services();
  const id = Number(params.watch) || 0;
  const form = await request.formData();
  switch (form.get('intent')) {
    case 'look':
      return answer(await inTransaction(pool, (db) => askForLook(db, id, clock())), 'This watch does not run, so there is nothing to look at.');
    case 'pause':
      return answer(await inTransaction(pool, (db) => setWatchState(db, id, 'paused', clock())), 'This watch is gone.');
    case 'start':
      return answer(await inTransaction(pool, (db) => setWatchState(db, id, 'running', clock())), 'This watch is gone.');
    case 'delete':
      await inTransaction(pool, (db) => setWatchState(db, id, 'deleted', clock()));
      return redirect('/watches');
    default:
      return save(id, person, form);
  }
}

function answer(done: boolean, otherwise: string) {
  return { problem: done ? null : otherwise, savedVersion: null };
}

async function save(id: number, person: { id: number; locale: string }, form: FormData) {
  const { pool, clock } = services();
  const plan = readPlan(form.get('plan'));
  const watch = await findWatch(pool, id);
  if (!plan.ok || watch === null) return { problem: plan.ok ? 'This watch is gone.' : plan.error, savedVersion: null };
  const complete = completePlan(plan.value, presentOf(watch), person.locale);
  if (!complete.ok) return { problem: Object.values(complete.error).join(' '), savedVersion: null };
  const edited = await inTransaction(pool, (db) => editWatch(db, id, Number(form.get('version')), complete.value, person.id, clock()));
  if (edited.ok) return { problem: null, savedVersion: edited.value };
  return {
    problem:
      edited.error === 'gone'
        ? 'This watch is gone.'
        : 'Somebody changed this watch meanwhile. Load the page again to see how; your edits are still here until you do.',
    savedVersion: null,
  };
}

function draftOf(watch: WatchNow): PlanDraft {
  return {
    ...watch.definition,
    frequency: watch.frequency,
    condition: watch.rule === null ? null : conditionDraftOf(watch.rule.definition.condition),
    onlyRecord: watch.rule === null,
    audiences: watch.rule?.audiences ?? [],
    whenAlreadyMet: watch.rule?.definition.whenAlreadyMet ?? null,
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
  const { place, locale, now } = useReader();
  const saving = useFetcher<typeof action>();
  const { draft, setDraft, unsaved } = useEdits(watch, saving.data?.savedVersion ?? null);
  const present = presentOf(watch);
  const complete = completePlan(draft, present, locale);
  return (
    <>
      <WatchHead watch={watch} />
      <LeaveGuard unsaved={unsaved} />
      <div className="pt-3.5 pb-4">
        <EditableSentence
          draft={draft}
          site={watch.site}
          present={present}
          locale={locale}
          audiences={audiences}
          problems={complete.ok ? {} : complete.error}
          tryAt={`/watches/${watch.id}/try`}
          onChange={(change) => setDraft({ ...draft, ...change })}
        />
      </div>
      {unsaved || saving.data?.problem ? (
        <saving.Form method="post" className="mb-4 flex flex-wrap items-center gap-3 border-y border-ink py-2" data-unsaved>
          <input type="hidden" name="plan" value={JSON.stringify(draft)} />
          <input type="hidden" name="version" value={watch.version} />
          <p role="status" className="grow font-medium">
            {saving.data?.problem ?? (complete.ok ? 'Edited, not saved yet. Saving looks at once.' : Object.values(complete.error).join(' '))}
          </p>
          <Button onClick={() => setDraft(draftOf(watch))}>Discard</Button>
          <Button type="submit" name="intent" value="save" weight="strong" disabled={!complete.ok || saving.state !== 'idle'}>
            Save as version {watch.version + 1}
          </Button>
        </saving.Form>
      ) : null}
      <Chain
        links={chainOf(facts, now, place)}
        remedies={{
          Source: <LookAgain label="Look again" />,
          Value: <p className="text-second">Open what is read, above, to point at its new place.</p>,
          Inbox: (
            <Link className="link" to="/outbox">
              See the outbox
            </Link>
          ),
        }}
      />
      <SeriesPart {...loaded} />
      <div className="mt-4 grid gap-x-9 gap-y-8 border-t border-rule pt-3 lg:grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)]">
        <Changes {...loaded} />
        {loaded.trail === null ? null : <TrailOf trail={loaded.trail} labelOf={(key) => labelOf(watch.definition.fields, key)} />}
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

const LOOKING_MS = 700;
/** For a while after a look its mails are on their way: the page keeps up with them. */
const FOLLOWED_MS = 10_000;

function WatchHead({ watch }: { watch: WatchNow }) {
  const { place, now } = useReader();
  const [deleting, setDeleting] = useState(false);
  const acting = useFetcher<typeof action>();
  const { revalidate } = useRevalidator();
  const looking = watch.askedAt !== null && watch.state === 'running';
  const followed = looking || (watch.lastRunAt !== null && now - watch.lastRunAt < FOLLOWED_MS);
  useEffect(() => {
    if (!followed) return;
    const timer = setInterval(() => void revalidate(), LOOKING_MS);
    return () => clearInterval(timer);
  }, [followed, revalidate]);
  const act = (intent: string) => void acting.submit({ intent }, { method: 'post' });
  return (
    <PageHead
      actions={
        <>
          <span className="text-glance text-third">
            version {watch.version} by {watch.madeBy.split(' ')[0]}, {formatRecent(watch.madeAt, now, place)}
          </span>
          <Button onClick={() => act('look')} disabled={watch.state !== 'running' || looking}>
            {looking ? 'Looking …' : 'Look now'}
          </Button>
          <Button onClick={() => act(watch.state === 'running' ? 'pause' : 'start')}>{watch.state === 'running' ? 'Pause' : 'Start'}</Button>
          <Menu label="More" items={[{ label: 'Delete this watch', onSelect: () => setDeleting(true) }]} />
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
      <a className="link text-glance text-third" href={watch.address} target="_blank" rel="noreferrer">
        open the page
      </a>
      {watch.state === 'paused' ? <span className="font-semibold">Paused</span> : null}
    </PageHead>
  );
}

function LookAgain({ label }: { label: string }) {
  return (
    <Form method="post" navigate={false}>
      <button name="intent" value="look" className="link">
        {label}
      </button>
    </Form>
  );
}

function SeriesPart({ watch, readings, from, to, range, runs, episodes }: Loaded) {
  const { place, locale } = useReader();
  const charted = watch.definition.fields
    .map((field) => ({ field, series: watch.series.find((series) => series.field === field.key) }))
    .find(({ series }) => series !== undefined && isMeasure(series.value));
  const condition = watch.rule?.definition.condition;
  const limit = condition === undefined || condition.kind === 'change' || condition.field !== charted?.field.key ? null : condition.limit;
  return (
    <section className="mt-4 border-t border-rule pt-2.5">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="font-serif text-head font-medium">
          <span className="capitalize">{charted?.field.label ?? 'Runs'}</span>
          {charted?.series === undefined ? null : (
            <span className="ml-1.5 font-sans text-glance font-normal text-third">{formatUnit(charted.series.value, locale)}</span>
          )}
        </h2>
        <nav aria-label="Stretch of time" className="flex gap-3">
          {RANGE_NAMES.map(([key, name]) => (
            <Link
              key={key}
              to={`?range=${key}`}
              preventScrollReset
              replace
              aria-current={key === range ? 'true' : undefined}
              className="border-b-2 border-transparent text-third hover:text-ink aria-[current]:border-chestnut aria-[current]:font-semibold aria-[current]:text-ink"
            >
              {name}
            </Link>
          ))}
        </nav>
      </div>
      {charted?.series === undefined ? (
        <p className="py-4 text-second">
          {watch.series.length === 0
            ? 'Nothing has been read yet; the first look is a baseline and sends nothing.'
            : 'There is no number among what is read, so there is no line to draw.'}
        </p>
      ) : (
        <SeriesChart
          label={`${charted.field.label} of ${watch.definition.subject}, ${formatValue(charted.series.value, locale)} now`}
          readings={readings
            .filter((reading) => reading.seriesId === charted.series?.id)
            .flatMap(({ value, firstSeen, lastSeen }) => (isMeasure(value) ? [{ at: firstSeen, until: lastSeen, value }] : []))}
          from={from}
          to={to}
          limit={limit === null ? null : { value: limit, name: `limit ${formatValue(limit, locale)}` }}
          episodes={episodes.map((episode) => ({ ...episode, said: episodeWords(episode, to, locale) }))}
          staleSince={charted.series.problem !== null || watch.problem !== null ? charted.series.lastGoodAt : null}
          stepwise={charted.field.mode === 'stepwise'}
          place={place}
        />
      )}
      <div className="mt-2">
        <Ribbon runs={runs} from={from} to={to} place={place} />
      </div>
    </section>
  );
}

function episodeWords(episode: Loaded['episodes'][number], now: Instant, locale: string): string {
  const length = formatDuration((episode.closedAt ?? now) - episode.openedAt);
  return `${episode.closedAt === null ? 'raised' : 'was raised'}, ${length}, furthest ${formatValue(episode.peak, locale)}`;
}

function Changes({ watch, changes, changeCount, trail, range }: Loaded) {
  const { place, locale, now } = useReader();
  if (changes.length === 0) {
    return (
      <Section title="Changes">
        <p className="mt-2 text-second">
          None so far. {watch.lastRunAt === null ? 'The first look is a baseline.' : `The last look was ${formatAgo(watch.lastRunAt, now)}.`}
        </p>
      </Section>
    );
  }
  return (
    <Section title="Changes" aside={changeCount > changes.length ? `the latest ${changes.length} of ${changeCount}` : `${changeCount} in all`}>
      <div className="max-h-[300px] overflow-auto">
        <table className="w-full" data-changes>
          <thead className="sticky top-0 bg-page">
            <tr>
              <th className="head-cell text-left">Seen</th>
              <th className="head-cell text-left">Field</th>
              <th className="head-cell text-right">Was</th>
              <th className="head-cell pl-3 text-right">Now</th>
              <th className="head-cell pl-3 text-right">Difference</th>
              <th className="head-cell pl-3 text-right">Told</th>
            </tr>
          </thead>
          <tbody>
            {changes.map((change) => (
              <tr key={change.id} aria-current={change.id === trail?.change.id ? 'true' : undefined} className="aria-[current]:bg-paper">
                <td className="cell text-glance whitespace-nowrap">
                  <Link
                    className="link text-second"
                    to={`?range=${range}&change=${change.id}`}
                    preventScrollReset
                    replace
                    aria-label={`Trail of the change of ${formatRecent(change.seenAt, now, place)}`}
                  >
                    {formatRecent(change.seenAt, now, place)}
                  </Link>
                </td>
                <td className="cell">{labelOf(watch.definition.fields, change.field)}</td>
                <td className="cell text-right text-third">{formatValue(change.from, locale)}</td>
                <td className="cell pl-3 text-right">{formatValue(change.to, locale)}</td>
                <td className="cell pl-3 text-right">
                  <Difference change={change} locale={locale} />
                </td>
                <td className="cell pl-3 text-right text-glance text-third">{change.alerts === 0 ? 'not raised' : `${change.told} told`}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Section>
  );
}
