import { Form, NavLink, Outlet } from 'react-router';
import { formatDuration } from '#core/when/format';
import { MINUTE, type Instant } from '#core/when/interval';
import { countWaiting } from '#server/db/deliveries';
import { placeOf } from '#server/db/people';
import { readTally } from '#server/db/standings';
import { readPulse, type Pulse } from '#server/db/workers';
import { atMostEvery } from '../../recent.server';
import { services } from '../../services.server';
import { asks, sessionMiddleware } from '../../session.server';
import { useLive } from '../../parts/live';
import type { Route } from './+types/route';

export const middleware: Route.MiddlewareFunction[] = [sessionMiddleware];

/** What stands beside every view, or stood a second ago. */
const shellNow = atMostEvery(1_000, async () => {
  const { pool, clock } = services();
  const [pulse, tally, waiting] = await Promise.all([readPulse(pool, clock()), readTally(pool), countWaiting(pool)]);
  return { pulse, watches: tally.all, waiting };
});

export async function loader({ context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'briefing' });
  const { clock, config } = services();
  const now = clock();
  const shell = await shellNow();
  return { name: person.name, mayLeave: config.signInAs === null, place: placeOf(person), now, ...shell };
}

const LIVE_MS = 10_000;

export default function Shell({ loaderData }: Route.ComponentProps) {
  useLive(LIVE_MS);
  return (
    <div className="min-h-screen md:grid md:grid-cols-[184px_minmax(0,1fr)]">
      <a href="#main" className="sr-only focus:not-sr-only focus:fixed focus:z-50 focus:bg-page focus:p-3">
        Skip to the page
      </a>
      <Sidebar data={loaderData} />
      <main id="main" className="mx-auto w-full max-w-[1240px] px-4 pb-16 md:px-8">
        <NoWorker pulse={loaderData.pulse} now={loaderData.now} />
        <Outlet />
      </main>
    </div>
  );
}

function Sidebar({ data }: { data: Route.ComponentProps['loaderData'] }) {
  return (
    <div className="border-rule bg-paper md:sticky md:top-0 md:flex md:h-screen md:flex-col md:border-r">
      <a href="/" className="flex items-center gap-2.5 px-[18px] pt-3 pb-2 font-serif text-day font-medium md:pb-4">
        <img src="/favicon.svg" alt="" width="27" height="20" />
        Shrike
      </a>
      <nav aria-label="Views" className="flex gap-1 overflow-x-auto px-2 pb-2 md:flex-col md:px-0">
        <NavItem to="/" label="Briefing" />
        <NavItem to="/watches" label="Watches" count={data.watches} />
        <NavItem to="/outbox" label="Outbox" count={data.waiting} hint="waiting" />
        <div className="mx-[18px] my-2 hidden border-t border-rule md:block" />
        <NavItem to="/hosts" label="Hosts" />
      </nav>
      <div className="mt-auto hidden px-[18px] pb-4 text-glance text-third md:block">
        <PulseWords pulse={data.pulse} now={data.now} />
        <p className="mt-4 text-second">{data.name}</p>
        {data.mayLeave ? (
          <Form method="post" action="/sign-out">
            <button className="link mt-1">Sign out</button>
          </Form>
        ) : null}
      </div>
    </div>
  );
}

function NavItem({ to, label, count, hint }: { to: string; label: string; count?: number; hint?: string }) {
  return (
    <NavLink
      to={to}
      end={to === '/'}
      className="flex items-baseline justify-between gap-2 border-l-[3px] border-transparent px-[15px] py-[6px] text-second hover:text-ink aria-[current=page]:border-chestnut aria-[current=page]:font-semibold aria-[current=page]:text-ink"
    >
      {label}
      {count === undefined || (count === 0 && hint !== undefined) ? null : (
        <span className="text-glance font-normal text-third">
          {count}
          {hint === undefined ? null : <span className="sr-only"> {hint}</span>}
        </span>
      )}
    </NavLink>
  );
}

function PulseWords({ pulse, now }: { pulse: Pulse; now: Instant }) {
  const late = pulse.overdue === 0 ? 'All runs on time' : pulse.overdue === 1 ? 'One source is late' : `${pulse.overdue} sources are late`;
  const next = pulse.nextDue === null ? 'Nothing due' : pulse.nextDue <= now ? 'Next now' : `Next in ${formatDuration(pulse.nextDue - now)}`;
  const workers = pulse.workers === 1 ? '1 worker' : `${pulse.workers} workers`;
  return (
    <p>
      {pulse.workers === 0 ? 'Not running' : `${late}, ${workers}`}
      <br />
      {next}
    </p>
  );
}

const WORRY_AFTER = 2 * MINUTE;

function NoWorker({ pulse, now }: { pulse: Pulse; now: Instant }) {
  if (pulse.workers > 0 || (pulse.lastSeen !== null && now - pulse.lastSeen < WORRY_AFTER)) return null;
  return (
    <p role="alert" className="border-b border-chestnut py-2 font-medium text-chestnut">
      {pulse.lastSeen === null ? 'No worker is running' : `No worker has run for ${formatDuration(now - pulse.lastSeen)}`}: nothing is fetched and
      nobody will hear. Start a worker to go on.
    </p>
  );
}
