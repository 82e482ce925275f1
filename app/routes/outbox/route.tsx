import type { DeliveryId } from '#core/id';
import { Link } from 'react-router';
import { formatDuration, formatRecent } from '#core/when/format';
import { countWaiting, listDeliveries, type AfterDelivery, type OutboxRow } from '#server/db/deliveries';
import { useLive } from '../../parts/live';
import { readInstant, readLongId } from '../../ids.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { Empty, PageHead } from '../../ui/page';
import { Onward } from '../../ui/pager';
import { Table, type Column } from '../../ui/table';
import { useReader } from '../shell/reader';
import { SearchAndNew } from '../shell/search';
import type { Route } from './+types/route';

const EVERY_MS = 1_000;

export const meta: Route.MetaFunction = () => [{ title: 'Outbox · Shrike' }];

const PAGE = 100;
/** Of those that have not gone out so many stand before all others. */
const MOST_UNSENT = 50;

export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'outbox' });
  const asked = new URL(request.url).searchParams;
  const after = afterIn(asked);
  const unsentAlone = asked.get('show') === 'unsent';
  const { pool } = services();
  const [found, unsent, waiting] = await Promise.all([
    listDeliveries(pool, !unsentAlone, PAGE + 1, after),
    after === null && !unsentAlone ? listDeliveries(pool, false, MOST_UNSENT + 1) : [],
    countWaiting(pool),
  ]);
  const shown = found.slice(0, PAGE);
  return {
    rows: [...unsent.slice(0, MOST_UNSENT), ...shown],
    moreUnsent: unsent.length > MOST_UNSENT,
    unsentAlone,
    waiting,
    begun: after !== null,
    next: found.length > PAGE ? (shown.at(-1) ?? null) : null,
  };
}

function afterIn(asked: URLSearchParams): AfterDelivery | null {
  const [orderedAt, id] = [readInstant(asked.get('before')), readLongId<DeliveryId>(asked.get('id'))];
  return orderedAt === 0 ? null : { orderedAt, id };
}

export default function Outbox({ loaderData }: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  const { rows, moreUnsent, unsentAlone, waiting, begun, next } = loaderData;
  const { place, now } = useReader();
  const to = (more: Record<string, string>) => `?${new URLSearchParams({ ...(unsentAlone ? { show: 'unsent' } : {}), ...more }).toString()}`;
  const columns: Column<OutboxRow>[] = [
    {
      head: 'Mail',
      className: 'max-w-[26rem] truncate',
      cell: (row) => (
        <Link className="hover:underline" to={`/outbox/${row.id}`}>
          {row.subject}
        </Link>
      ),
    },
    { head: 'To', wide: true, className: 'whitespace-nowrap text-second', cell: (row) => row.person },
    { head: 'Edition', wide: true, className: 'text-glance whitespace-nowrap text-second', cell: (row) => `${row.report}, ${row.edition}` },
    { head: 'State', className: 'max-w-72 truncate text-glance', cell: (row) => <DeliveryState row={row} now={now} /> },
    {
      head: 'Ordered',
      side: 'right',
      wide: true,
      className: 'text-glance whitespace-nowrap text-third',
      cell: (row) => formatRecent(row.orderedAt, now, place),
    },
  ];
  return (
    <>
      <PageHead actions={<SearchAndNew />}>
        <h1 className="font-serif text-day font-medium">Outbox</h1>
        <span className="text-glance text-third">
          {unsentAlone ? 'only what has not gone out; ' : ''}
          {waiting === 0 ? 'nothing waits' : `${waiting.toLocaleString(place.locale)} waiting`}
        </span>
      </PageHead>
      {rows.length === 0 ? (
        <Empty title="Nothing has gone out">The first mail is ordered when a rule is raised and a report tells of it.</Empty>
      ) : (
        <>
          {moreUnsent ? (
            <p className="pt-2 text-second">
              More than {MOST_UNSENT} have not gone out.{' '}
              <Link className="link" to="?show=unsent">
                See all that have not
              </Link>
            </p>
          ) : null}
          <Table name="outbox" className="pt-2" columns={columns} rows={rows} keyOf={({ id }) => id} />
          <Onward
            first={begun ? to({}) : null}
            next={next === null ? null : to({ before: String(next.orderedAt), id: String(next.id) })}
            size={PAGE}
          />
        </>
      )}
    </>
  );
}

/** A delivery's state in words, with the server's own where it objected. */
export function DeliveryState({ row, now }: { row: OutboxRow; now: number }) {
  if (row.state === 'sent')
    return (
      <span className="text-second">
        sent{row.attempts > 1 ? ` at attempt ${row.attempts}` : ''}
        {row.sentAgain ? ', sent again' : ''}
      </span>
    );
  const again = row.nextAttemptAt === null ? '' : `, again ${row.nextAttemptAt <= now ? 'now' : `in ${formatDuration(row.nextAttemptAt - now)}`}`;
  const why = row.reason ?? row.response;
  return (
    <span className="font-medium text-chestnut" title={why ?? undefined}>
      {row.state}
      {again}
      {why === null ? '' : `: ${why}`}
    </span>
  );
}
