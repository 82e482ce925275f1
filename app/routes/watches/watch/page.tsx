import { useEffect, useState } from 'react';
import { Form, Link, useFetcher, useSubmit } from 'react-router';
import { chainOf } from '#core/tell/chain';
import { formatRecent } from '#core/when/format';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { useLive } from '../../../parts/live';
import type { BulkAnswer } from '../../../parts/bulk/answer';
import { Chain } from '../../../parts/chain';
import { copyName } from '#core/plan/bulk';
import { completePlan, draftOf, labelOf, unitsByField, type PlanDraft } from '#core/plan/plan';
import { presentOf } from '../../../parts/plan/present';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { Menu } from '../../../ui/menu';
import { PageHead } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { action } from './act.server';
import type { Route } from './+types/route';
import { BeforeAfter } from './before-after';
import { OfferOfItem } from './item-of';
import { LeaveGuard } from '../../../parts/leave-guard';
import { EditableSentence } from './edit';
import { Changes } from './changes';
import { OtherNewsOf, OtherTrailOf } from './other-news';
import { Questions } from './questions';
import { Offered, Records } from './records';
import { SeriesPart } from './series';
import { TrailOf } from './trail';

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

const sameDraft = (a: PlanDraft, b: PlanDraft) => JSON.stringify(a) === JSON.stringify(b);
