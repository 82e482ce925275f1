import { Form, useFetcher } from 'react-router';
import { useState } from 'react';
import { sanitiseText } from '#core/value/sanitise';
import { formatDuration, formatRecent } from '#core/when/format';
import { countOf } from '#core/words';
import { inTransaction } from '#server/db/base/pool';
import {
  holdHost,
  listHosts,
  pauseHost,
  setHost,
  trustHost,
  type HostNow,
  type HostSettings,
} from '#server/db/source/hosts';
import { AsSeen, mayKeep, MEANWHILE } from '../../../parts/as-seen';
import { useLiveWatches } from '../../../parts/live';
import { readForm, writtenIn } from '../../../form.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { TextField, Tick } from '../../../ui/field';
import { Empty, PageHead } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { Popover } from '../../../ui/popover';
import { useReader } from '../../shell/frame/reader';
import { SiteViews } from '../frame/site-views';
import type { Route } from './+types/route';
import { readHostSettings } from './settings.server';

export const meta: Route.MetaFunction = () => [{ title: 'Hosts · Shrike' }];

const PAGE = 100;
const LONGEST_NAME = 260;

export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'host' });
  const after = sanitiseText(new URL(request.url).searchParams.get('after') ?? '').slice(0, LONGEST_NAME);
  const found = await listHosts(services().pool, after, PAGE + 1);
  const hosts = found.slice(0, PAGE);
  return { hosts, begun: after !== '', next: found.length > PAGE ? (hosts.at(-1)?.name ?? null) : null };
}

export async function action({ request, context }: Route.ActionArgs): Promise<{ problem: string | null }> {
  const person = asks(context, 'change', { kind: 'host' });
  const { pool, clock } = services();
  const form = await readForm(request);
  const name = writtenIn(form, 'host');
  switch (form.get('intent')) {
    case 'pause':
      await pauseHost(pool, name, clock());
      break;
    case 'start':
      await pauseHost(pool, name, null);
      break;
    case 'trust':
      await trustHost(pool, name, writtenIn(form, 'fingerprint'), clock());
      break;
    case 'distrust':
      await trustHost(pool, name, null, clock());
      break;
    default: {
      const settings = readHostSettings(form);
      if (!settings.ok) return { problem: settings.error };
      const kept = await inTransaction(pool, async (db) => {
        const now = await holdHost(db, name);
        const may = now !== null && mayKeep(settingsOf(now), settingsOf(settings.value), writtenIn(form, 'was'));
        if (!may) return false;
        await setHost(db, name, settings.value, person);
        return true;
      });
      if (!kept) return { problem: MEANWHILE };
    }
  }
  return { problem: null };
}

const settingsOf = ({ mostAtOnce, pauseMs, robotsHeeded, runsADay }: HostSettings) => [
  mostAtOnce,
  pauseMs,
  robotsHeeded,
  runsADay,
];

export default function Hosts({ loaderData }: Route.ComponentProps) {
  useLiveWatches();
  const { hosts, begun, next } = loaderData;
  return (
    <>
      <PageHead>
        <h1 className="sr-only">Hosts</h1>
        <SiteViews />
        <span className="text-glance text-third">how gently each site is asked, and which of them rest</span>
      </PageHead>
      {hosts.length === 0 ? (
        <Empty title="No host is asked yet">
          <p>The sites of your watches are listed here, with how many things each is asked for at once.</p>
        </Empty>
      ) : (
        <>
          <Table name="hosts" className="relative pt-2" columns={COLUMNS} rows={hosts} keyOf={({ name }) => name} />
          <Onward
            first={begun ? '/hosts' : null}
            next={next === null ? null : `?${new URLSearchParams({ after: next }).toString()}`}
            size={PAGE}
          />
        </>
      )}
    </>
  );
}

const COLUMNS: Column<HostNow>[] = [
  { head: 'Host', className: 'font-medium', cell: ({ name }) => name },
  { head: 'Watches', side: 'right', wide: true, cell: ({ watches }) => watches },
  { head: 'At once', side: 'right', wide: true, cell: ({ pauseMs, mostAtOnce }) => (pauseMs > 0 ? 1 : mostAtOnce) },
  {
    head: 'Pause between',
    side: 'right',
    wide: true,
    cell: ({ pauseMs }) => (pauseMs === 0 ? '–' : formatDuration(pauseMs)),
  },
  {
    head: 'Robots rules',
    wide: true,
    cell: ({ robotsHeeded }) => (robotsHeeded ? 'heeded' : <span className="text-chestnut">not heeded</span>),
  },
  { head: 'Standing', className: 'max-w-md', cell: (host) => <Standing host={host} /> },
  {
    head: <span className="sr-only">What can be done</span>,
    side: 'right',
    className: 'whitespace-nowrap',
    cell: (host) => <Actions host={host} />,
  },
];

/** What can be done to a host. */
function Actions({ host }: { host: HostNow }) {
  const paused = host.pausedAt !== null;
  return (
    <span data-host={host.name}>
      <Form method="post" navigate={false} className="inline">
        <input type="hidden" name="host" value={host.name} />
        <button
          name="intent"
          value={paused ? 'start' : 'pause'}
          className="link mr-4"
          aria-label={`${paused ? 'Start' : 'Pause'} ${host.name}`}
        >
          {paused ? 'Start' : 'Pause'}
        </button>
      </Form>
      <Popover
        label={`How ${host.name} is asked`}
        trigger={
          <button type="button" className="link" aria-label={`Change how ${host.name} is asked`}>
            Change
          </button>
        }
      >
        <Settings host={host} />
      </Popover>
    </span>
  );
}

function Standing({ host }: { host: HostNow }) {
  const { place, now } = useReader();
  return (
    <>
      {host.pausedAt !== null ? (
        <p className="font-semibold">paused as a whole since {formatRecent(host.pausedAt, now, place)}</p>
      ) : null}
      {host.nextAt !== null && host.nextAt > now ? (
        <p>asked us to wait, until {formatRecent(host.nextAt, now, place)}</p>
      ) : null}
      {host.runsADay === null ? null : (
        <RunsSpent runsADay={host.runsADay} made={host.runsMade} until={host.runsUntil} />
      )}
      {host.failing > 0 ? (
        <p className="text-chestnut">
          {host.failing} of {host.sources} {host.sources === 1 ? 'source does' : 'sources do'} not answer
        </p>
      ) : null}
      <Certificate host={host} />
      {host.pausedAt === null && host.failing === 0 && host.refusedCertificate === null ? (
        <span className="text-third">answers</span>
      ) : null}
    </>
  );
}

/** How much of what a host allows in a day is used. */
function RunsSpent({ runsADay, made, until }: { runsADay: number; made: number; until: number | null }) {
  const { place, now } = useReader();
  const used = until !== null && until > now ? made : 0;
  return used < runsADay || until === null ? (
    <p className="text-second">
      {used} of {countOf(runsADay, 'run')} today
    </p>
  ) : (
    <p className="font-semibold">
      its {countOf(runsADay, 'run')} of today are made: the next is {formatRecent(until, now, place)}
    </p>
  );
}

/**
 * A certificate that no authority vouches for may be trusted by its fingerprint: that one, on this host, and no other.
 */
function Certificate({ host }: { host: HostNow }) {
  const { submit } = useFetcher();
  const [asking, setAsking] = useState(false);
  const send = (intent: string) =>
    void submit({ intent, host: host.name, fingerprint: host.refusedCertificate ?? '' }, { method: 'post' });
  return (
    <>
      {host.trustedCertificate === null ? null : (
        <p className="text-glance break-all text-third">
          trusted by fingerprint {host.trustedCertificate}{' '}
          <button type="button" className="link" onClick={() => send('distrust')}>
            Withdraw
          </button>
        </p>
      )}
      {host.refusedCertificate === null ? null : (
        <p className="text-chestnut">
          its certificate is not trusted{' '}
          <button type="button" className="link" onClick={() => setAsking(true)}>
            Show it
          </button>
        </p>
      )}
      <Confirm
        open={asking}
        title={`Trust this certificate of ${host.name}?`}
        go="Trust it"
        stay="Do not"
        onGo={() => {
          setAsking(false);
          send('trust');
        }}
        onStay={() => setAsking(false)}
      >
        No authority vouches for it. Compare its SHA-256 fingerprint with one that you were given another way:{' '}
        <span className="font-mono break-all">{host.refusedCertificate}</span>
      </Confirm>
    </>
  );
}

function Settings({ host }: { host: HostNow }) {
  const fetcher = useFetcher<typeof action>();
  const [robots, setRobots] = useState(host.robotsHeeded);
  return (
    <fetcher.Form method="post">
      <h2 className="mb-2 font-serif text-head font-medium">How {host.name} is asked</h2>
      <input type="hidden" name="host" value={host.name} />
      <input type="hidden" name="robots" value={robots ? 'heeded' : 'not'} />
      <AsSeen state={settingsOf(host)} fetcher={fetcher} />
      <TextField
        label="At most at once"
        name="mostAtOnce"
        type="number"
        min={1}
        max={50}
        defaultValue={host.mostAtOnce}
      />
      <TextField
        label="Pause after each request, in seconds"
        name="pause"
        type="number"
        min={0}
        step="any"
        className="mt-2"
        defaultValue={host.pauseMs / 1000}
        hint="With a pause it is asked one thing at a time."
      />
      <TextField
        label="Runs a day at most; empty for no bound"
        name="runsADay"
        inputMode="numeric"
        className="mt-2"
        defaultValue={host.runsADay ?? ''}
        hint="By your clock. Beyond it its watches wait for the next day; you are told at eight tenths."
      />
      <div className="mt-2">
        <Tick checked={robots} onChange={setRobots}>
          Heed its robots rules
        </Tick>
      </div>
      {fetcher.data?.problem ? (
        <p role="alert" className="mt-1 font-medium text-chestnut">
          {fetcher.data.problem}
        </p>
      ) : null}
      <p className="mt-3 flex items-center justify-between gap-3">
        <span role="status" className="text-glance text-third">
          {fetcher.state === 'idle' && fetcher.data?.problem === null ? 'Kept.' : ''}
        </span>
        <Button type="submit" weight="strong" name="intent" value="set">
          Keep
        </Button>
      </p>
    </fetcher.Form>
  );
}
