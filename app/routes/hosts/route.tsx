import { Form, useFetcher } from 'react-router';
import { useState } from 'react';
import { formatDuration, formatRecent } from '#core/when/format';
import { listHosts, pauseHost, setHost, trustHost, type HostNow } from '#server/db/hosts';
import { readForm } from '../../form.server';
import { services } from '../../services.server';
import { Button } from '../../ui/button';
import { Confirm } from '../../ui/confirm';
import { TextField, Tick } from '../../ui/field';
import { Empty, PageHead } from '../../ui/page';
import { Popover } from '../../ui/popover';
import { useReader } from '../shell/reader';
import type { Route } from './+types/route';
import { readHostSettings } from './settings.server';

export const meta: Route.MetaFunction = () => [{ title: 'Hosts · Shrike' }];

export async function loader() {
  return { hosts: await listHosts(services().pool) };
}

export async function action({ request }: Route.ActionArgs): Promise<{ problem: string | null }> {
  const { pool, clock } = services();
  const form = await readForm(request);
  const name = String(form.get('host') ?? '');
  switch (form.get('intent')) {
    case 'pause':
      await pauseHost(pool, name, clock());
      break;
    case 'start':
      await pauseHost(pool, name, null);
      break;
    case 'trust':
      await trustHost(pool, name, String(form.get('fingerprint') ?? ''), clock());
      break;
    case 'distrust':
      await trustHost(pool, name, null, clock());
      break;
    default: {
      const settings = readHostSettings(form);
      if (!settings.ok) return { problem: settings.error };
      await setHost(pool, name, settings.value);
    }
  }
  return { problem: null };
}

export default function Hosts({ loaderData }: Route.ComponentProps) {
  const { hosts } = loaderData;
  return (
    <>
      <PageHead>
        <h1 className="font-serif text-day font-medium">Hosts</h1>
        <span className="text-glance text-third">how gently each site is asked, and which of them rest</span>
      </PageHead>
      {hosts.length === 0 ? (
        <Empty title="No host is asked yet">
          <p>The sites of your watches are listed here, with how many things each is asked for at once.</p>
        </Empty>
      ) : (
        <div className="relative overflow-x-auto pt-2">
          <table className="w-full min-w-[760px]" data-hosts>
            <thead>
              <tr>
                <th className="head-cell text-left">Host</th>
                <th className="head-cell text-right">Watches</th>
                <th className="head-cell pl-6 text-right">At once</th>
                <th className="head-cell pl-6 text-right">Pause between</th>
                <th className="head-cell pl-6 text-left">Robots rules</th>
                <th className="head-cell pl-6 text-left">Standing</th>
                <th className="head-cell">
                  <span className="sr-only">What can be done</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {hosts.map((host) => (
                <Row key={host.name} host={host} />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}

function Row({ host }: { host: HostNow }) {
  return (
    <tr data-host={host.name}>
      <td className="cell pr-4 font-medium">{host.name}</td>
      <td className="cell text-right">{host.watches}</td>
      <td className="cell pl-6 text-right">{host.pauseMs > 0 ? 1 : host.mostAtOnce}</td>
      <td className="cell pl-6 text-right">{host.pauseMs === 0 ? '–' : formatDuration(host.pauseMs)}</td>
      <td className="cell pl-6">{host.robotsHeeded ? 'heeded' : <span className="text-chestnut">not heeded</span>}</td>
      <td className="cell max-w-md pl-6">
        <Standing host={host} />
      </td>
      <td className="cell pl-6 text-right whitespace-nowrap">
        <Form method="post" navigate={false} className="inline">
          <input type="hidden" name="host" value={host.name} />
          <button
            name="intent"
            value={host.pausedAt === null ? 'pause' : 'start'}
            className="link mr-4"
            aria-label={`${host.pausedAt === null ? 'Pause' : 'Start'} ${host.name}`}
          >
            {host.pausedAt === null ? 'Pause' : 'Start'}
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
      </td>
    </tr>
  );
}

function Standing({ host }: { host: HostNow }) {
  const { place, now } = useReader();
  return (
    <>
      {host.pausedAt !== null ? <p className="font-semibold">paused as a whole since {formatRecent(host.pausedAt, now, place)}</p> : null}
      {host.nextAt !== null && host.nextAt > now ? <p>asked us to wait, until {formatRecent(host.nextAt, now, place)}</p> : null}
      {host.failing > 0 ? (
        <p className="text-chestnut">
          {host.failing} of {host.sources} {host.sources === 1 ? 'source does' : 'sources do'} not answer
        </p>
      ) : null}
      <Certificate host={host} />
      {host.pausedAt === null && host.failing === 0 && host.refusedCertificate === null ? <span className="text-third">answers</span> : null}
    </>
  );
}

/** A certificate that no authority vouches for may be trusted by its fingerprint: that one, on this host, and no other. */
function Certificate({ host }: { host: HostNow }) {
  const { submit } = useFetcher();
  const [asking, setAsking] = useState(false);
  const send = (intent: string) => void submit({ intent, host: host.name, fingerprint: host.refusedCertificate ?? '' }, { method: 'post' });
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
            Look at it
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
      <TextField label="At most at once" name="mostAtOnce" type="number" min={1} max={50} defaultValue={host.mostAtOnce} />
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
