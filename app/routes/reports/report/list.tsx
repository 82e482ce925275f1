import { Link } from 'react-router';
import { atOnceSentence, orderNames, orderSentence } from '#core/tell/definition-words';
import { isAtOnce, isOfRules, isPlanned } from '#core/when/cadence';
import { formatRecent } from '#core/when/format';
import { listed } from '#core/words';
import { listReports, type ReportNow } from '#server/db/report/reports';
import { useLive } from '../../../parts/live';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { ButtonLink } from '../../../ui/button';
import { Empty, PageHead } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/list';
import { namesOf } from './names.server';
import { Troubles } from './troubles';

const EVERY_MS = 2_000;
const MOST = 500;

export const meta: Route.MetaFunction = () => [{ title: 'Reports · Shrike' }];

export async function loader({ context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'report' });
  const { pool } = services();
  const reports = await listReports(pool, MOST);
  return {
    reports,
    names: await namesOf(
      pool,
      reports.map(({ order }) => order),
    ),
  };
}

export default function Reports({ loaderData: { reports, names } }: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  const { place, now } = useReader();
  const called = orderNames(names);
  const planned = reports.filter(({ order }) => isPlanned(order.cadence)).length;
  const sentenceOf = ({ order, readers, rules }: ReportNow) => {
    const who = listed(readers, 4) || 'nobody';
    return isOfRules(order.cadence)
      ? atOnceSentence(who, rules, order.cadence)
      : orderSentence(order, who, called, place.zone);
  };
  const columns: Column<ReportNow>[] = [
    {
      head: 'Report',
      cell: (report) => (
        <>
          <Link className="font-serif text-head font-medium hover:underline" to={`/reports/${report.id}`}>
            {report.name}
          </Link>
          <span className="block text-second">{sentenceOf(report)}</span>
          <Troubles report={report} />
        </>
      ),
    },
    {
      head: 'Last edition',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap text-second',
      cell: ({ last }) =>
        last === null ? (
          <span className="text-third">none yet</span>
        ) : (
          <Link className="link" to={`/editions/${last.id}`}>
            edition {last.number}, {formatRecent(last.at, now, place)}
          </Link>
        ),
    },
    {
      head: 'Next',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap text-second',
      cell: ({ dueAt, order }) =>
        dueAt !== null ? formatRecent(dueAt, now, place) : isAtOnce(order.cadence) ? order.cadence.cut : 'by hand',
    },
  ];
  return (
    <>
      <PageHead
        actions={
          <ButtonLink to="/reports/new" weight="strong">
            New report
          </ButtonLink>
        }
      >
        <h1 className="font-serif text-day font-medium">Reports</h1>
        <span className="text-glance text-third">
          {reports.length === 0
            ? 'standing orders: who hears of what, and when'
            : `${planned} by the clock, ${reports.length - planned} at once or by hand`}
        </span>
        <Link className="link text-glance" to="/editions">
          all editions
        </Link>
      </PageHead>
      {reports.length === 0 ? (
        <Empty title="Nobody is told of anything yet">
          <p>
            A report tells people what moved: each morning, each hour, or as soon as a rule is met. ‘Tell Pricing at
            once’ in a watch’s sentence makes one, too.
          </p>
          <ButtonLink to="/reports/new" weight="strong" className="mt-4">
            Make the first report
          </ButtonLink>
        </Empty>
      ) : (
        <Table name="reports" className="pt-2" columns={columns} rows={reports} keyOf={({ id }) => id} />
      )}
    </>
  );
}
