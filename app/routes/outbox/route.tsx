import { Link } from 'react-router';
import { formatDuration, formatRecent } from '#core/when/format';
import { countDeliveries, listDeliveries, type OutboxRow } from '#server/db/deliveries';
import { useLive } from '../../parts/live';
import { services } from '../../services.server';
import { signedIn } from '../../session.server';
import { Empty, PageHead } from '../../ui/page';
import { useReader } from '../shell/reader';
import { SearchAndNew } from '../shell/search';
import type { Route } from './+types/route';

const LIVE_MS = 2_000;

export const meta: Route.MetaFunction = () => [{ title: 'Outbox · Shrike' }];

const MOST = 200;

export async function loader({ context }: Route.LoaderArgs) {
  signedIn(context);
  const { pool } = services();
  const [rows, count] = await Promise.all([listDeliveries(pool, MOST), countDeliveries(pool)]);
  return { rows, count };
}

export default function Outbox({ loaderData }: Route.ComponentProps) {
  useLive(LIVE_MS);
  const { rows, count } = loaderData;
  const { place, now } = useReader();
  return (
    <>
      <PageHead actions={<SearchAndNew />}>
        <h1 className="font-serif text-day font-medium">Outbox</h1>
        <span className="text-glance text-third">
          {count.all > rows.length ? `the latest ${rows.length} of ${count.all}` : `${count.all} in all`}, {count.waiting} waiting
        </span>
      </PageHead>
      {rows.length === 0 ? (
        <Empty title="Nothing has gone out">The first mail is ordered when a rule is raised and a report tells of it.</Empty>
      ) : (
        <div className="overflow-x-auto pt-2">
          <table className="w-full min-w-[720px]" data-outbox>
            <thead>
              <tr>
                <th className="head-cell text-left">Mail</th>
                <th className="head-cell pl-4 text-left">To</th>
                <th className="head-cell pl-4 text-left">Edition</th>
                <th className="head-cell pl-4 text-left">State</th>
                <th className="head-cell pl-4 text-right">Ordered</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.id}>
                  <td className="cell max-w-[32rem] truncate">
                    <Link className="hover:underline" to={`/outbox/${row.id}`}>
                      {row.subject}
                    </Link>
                  </td>
                  <td className="cell pl-4 whitespace-nowrap text-second">{row.person}</td>
                  <td className="cell pl-4 text-glance whitespace-nowrap text-second">
                    {row.report}, {row.edition}
                  </td>
                  <td className="cell max-w-72 truncate pl-4 text-glance">
                    <DeliveryState row={row} now={now} />
                  </td>
                  <td className="cell pl-4 text-right text-glance whitespace-nowrap text-third">{formatRecent(row.orderedAt, now, place)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
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
