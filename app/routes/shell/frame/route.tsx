import { useEffect, useRef, useState } from 'react';
import { Form, Link, Outlet, useLocation } from 'react-router';
import { formatDuration } from '#core/when/format';
import { MINUTE, type Instant } from '#core/when/interval';
import { placeOf } from '#server/db/person/people';
import type { Pulse } from '#server/db/base/workers';
import { services } from '../../../services.server';
import { asks, sessionMiddleware } from '../../../session.server';
import { Following, FollowingContext } from '../../../parts/live';
import { LocaleContext } from '../../../ui/locale';
import { NowContext, useNow } from '../../../parts/now';
import { relatedNow, type RelatedNow } from '../../../parts/related.server';
import { isUnderSettings } from '../../settings/frame/places';
import type { Route } from './+types/route';
import { CommandBox } from './command-box';

export const middleware: Route.MiddlewareFunction[] = [sessionMiddleware];

export async function loader({ context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'briefing' });
  const { clock, config, followers } = services();
  const [now, movedAt] = [clock(), followers.at];
  return {
    name: person.name,
    mayLeave: config.signInAs === null,
    place: placeOf(person),
    now,
    movedAt,
    beside: await relatedNow(),
  };
}

export default function Shell({ loaderData }: Route.ComponentProps) {
  const { following, beside } = useFollowing(loaderData);
  const now = useNow(loaderData.now);
  return (
    <FollowingContext value={following}>
      <NowContext value={now}>
        <LocaleContext value={loaderData.place.locale}>
          <div className="min-h-screen md:grid md:grid-cols-[184px_minmax(0,1fr)]">
            <a href="#main" className="sr-only focus:not-sr-only focus:fixed focus:z-50 focus:bg-page focus:p-3">
              Skip to the page
            </a>
            <Sidebar data={loaderData} beside={beside} now={now} />
            <main id="main" className="mx-auto w-full max-w-[1240px] px-4 pb-16 md:px-8">
              <NoWorker pulse={beside.pulse} now={now} />
              <NoRoom pulse={beside.pulse} now={now} />
              <Outlet />
            </main>
          </div>
        </LocaleContext>
      </NowContext>
    </FollowingContext>
  );
}

type Loaded = Route.ComponentProps['loaderData'];

/** Follows what moves, from what was loaded on; what stands beside the views comes with it. */
function useFollowing({ movedAt, beside: loaded }: Loaded) {
  const [following, setFollowing] = useState<Following | null>(null);
  const [told, setTold] = useState(loaded);
  const firstAt = useRef(movedAt);
  useEffect(() => {
    const opened = new Following(firstAt.current, setTold);
    setFollowing(opened);
    return () => opened.close();
  }, []);
  useEffect(() => following?.loaded(movedAt), [following, movedAt]);
  return { following, beside: told.now > loaded.now ? told : loaded };
}

function Sidebar({ data, beside, now }: { data: Loaded; beside: RelatedNow; now: Instant }) {
  return (
    <div className="border-rule bg-paper md:sticky md:top-0 md:flex md:h-screen md:flex-col md:border-r">
      <a href="/" className="flex items-center gap-2.5 px-[18px] pt-3 pb-2 font-serif text-day font-medium md:pb-4">
        <img src="/favicon.svg" alt="" width="27" height="20" />
        Shrike
      </a>
      <CommandBox />
      <nav aria-label="Views" className="flex gap-1 overflow-x-auto px-2 pb-2 md:flex-col md:px-0">
        <NavItem to="/" label="Briefing" />
        <NavItem to="/raised" label="Raised" count={beside.raised} hint="raised now" />
        <NavItem to="/watches" label="Watches" count={beside.watches} />
        <NavItem to="/rules" label="Rules" />
        <NavItem to="/reports" label="Reports" />
        <NavItem to="/outbox" label="Outbox" count={beside.waiting} hint="waiting" />
        <NavItem to="/items" label="Items" />
        <div className="mx-[18px] my-2 hidden border-t border-rule md:block" />
        <NavItem to="/people" label="Settings" isAt={isUnderSettings} />
      </nav>
      <div className="mt-auto hidden px-[18px] pb-4 text-glance text-third md:block">
        <PulseWords pulse={beside.pulse} now={now} />
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

interface NavItemProps {
  to: string;
  label: string;
  /** Which paths it is open for; where none are said, its own and those below. */
  isAt?: (path: string) => boolean;
  count?: number;
  hint?: string;
}

function NavItem({ to, label, isAt, count, hint }: NavItemProps) {
  const path = useLocation().pathname;
  const isOpen = isAt?.(path) ?? (path === to || (to !== '/' && path.startsWith(`${to}/`)));
  return (
    <Link
      to={to}
      aria-current={isOpen ? 'page' : undefined}
      className="flex items-baseline justify-between gap-2 border-l-[3px] border-transparent px-[15px] py-[6px] text-second hover:text-ink aria-[current=page]:border-chestnut aria-[current=page]:font-semibold aria-[current=page]:text-ink"
    >
      {label}
      {count === undefined || (count === 0 && hint !== undefined) ? null : (
        <span className="text-glance font-normal text-third">
          {count}
          {hint === undefined ? null : <span className="sr-only"> {hint}</span>}
        </span>
      )}
    </Link>
  );
}

function PulseWords({ pulse, now }: { pulse: Pulse; now: Instant }) {
  const late =
    pulse.overdue === 0
      ? 'All runs on time'
      : pulse.overdue === 1
        ? 'One source is late'
        : `${pulse.overdue} sources are late`;
  const next =
    pulse.fullSince !== null
      ? 'Goes on once there is room'
      : pulse.nextDue === null
        ? 'Nothing due'
        : pulse.nextDue <= now
          ? 'Next now'
          : `Next in ${formatDuration(pulse.nextDue - now)}`;
  const workers = pulse.workers === 1 ? '1 worker' : `${pulse.workers} workers`;
  return (
    <p>
      {pulse.workers === 0 ? 'Not running' : pulse.fullSince === null ? `${late}, ${workers}` : 'Nothing can be stored'}
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
      {pulse.lastSeen === null
        ? 'No worker is running'
        : `No worker has run for ${formatDuration(now - pulse.lastSeen)}`}
      : nothing is fetched and nobody will hear. Start a worker to go on.
    </p>
  );
}

function NoRoom({ pulse, now }: { pulse: Pulse; now: Instant }) {
  if (pulse.fullSince === null) return null;
  return (
    <p role="alert" className="border-b border-chestnut py-2 font-medium text-chestnut">
      The disk of the database has been full for {formatDuration(now - pulse.fullSince)}: nothing can be stored, so
      nothing is fetched and nobody will hear. Make room; it goes on by itself.
    </p>
  );
}
