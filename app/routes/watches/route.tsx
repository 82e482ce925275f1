import { Link } from 'react-router';
import { chainOf, firstBroken, type Link as ChainLink } from '#core/tell/chain';
import { formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import { formatDuration, formatRecent } from '#core/when/format';
import { DAY, type Instant } from '#core/when/interval';
import { placeOf } from '#server/db/people';
import { listReadings } from '#server/db/readings';
import { chainFactsOf, listWatches, type WatchNow } from '#server/db/watch-page';
import { ChainBeads } from '../../parts/chain';
import { Sparkline, type SparkPoint } from '../../parts/sparkline';
import { services } from '../../services.server';
import { signedIn } from '../../session.server';
import { ButtonLink } from '../../ui/button';
import { Empty, PageHead } from '../../ui/page';
import { useReader } from '../shell/reader';
import { SearchAndNew } from '../shell/search';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [{ title: 'Watches · Shrike' }];

/** More than a sparkline has pixels for. */
const SPARK_POINTS = 200;
const SPARK = 28 * DAY;
const FILTERS = [['all', 'All'], ['raised', 'Raised'], ['broken', 'Broken'], ['paused', 'Paused']] as const; // prettier-ignore

interface Row {
  watch: WatchNow;
  chain: ChainLink[];
  points: SparkPoint[];
}

function matches(row: Row, query: string, filter: string): boolean {
  const words = `${row.watch.definition.subject} ${row.watch.site} ${row.watch.address}`.toLowerCase();
  const found = query === '' || words.includes(query) || row.watch.address.toLowerCase().replace(/\/$/, '') === query.replace(/\/$/, '');
  return found && fits(row, filter);
}

function fits({ watch, chain }: Row, filter: string): boolean {
  if (filter === 'raised') return watch.rule?.state === 'raised' && !watch.rule.waiting;
  if (filter === 'broken') return firstBroken(chain) !== null;
  return filter === 'paused' ? watch.state === 'paused' : true;
}

export async function loader({ request, context }: Route.LoaderArgs) {
  const place = placeOf(signedIn(context));
  const { pool, clock } = services();
  const now = clock();
  const asked = new URL(request.url).searchParams;
  const query = (asked.get('q') ?? '').trim().toLowerCase();
  const filter = asked.get('show') ?? 'all';
  const watches = await listWatches(pool);
  const firstSeries = watches.flatMap((watch) => watch.series.find((series) => isMeasure(series.value))?.id ?? []);
  const readings = await listReadings(pool, firstSeries, now - SPARK, SPARK_POINTS);
  const rows = watches.map((watch): Row => ({
    watch,
    chain: chainOf(chainFactsOf(watch, place.locale), now, place),
    points: pointsOf(watch, readings),
  }));
  const counts = Object.fromEntries(FILTERS.map(([key]) => [key, rows.filter((row) => fits(row, key)).length]));
  return { rows: rows.filter((row) => matches(row, query, filter)), all: rows.length, counts, query, filter };
}

function pointsOf(watch: WatchNow, readings: Awaited<ReturnType<typeof listReadings>>): SparkPoint[] {
  const series = watch.series.find((each) => isMeasure(each.value));
  return readings.flatMap((reading) =>
    reading.seriesId === series?.id && isMeasure(reading.value) ? [{ at: reading.firstSeen, height: Number(reading.value.amount) }] : [],
  );
}

export default function Watches({ loaderData }: Route.ComponentProps) {
  const { rows, all, counts, filter, query } = loaderData;
  return (
    <>
      <PageHead actions={<SearchAndNew />}>
        <h1 className="font-serif text-day font-medium">Watches</h1>
        <nav aria-label="Show" className="flex gap-3">
          {FILTERS.map(([key, name]) => (
            <Link
              key={key}
              to={`?${new URLSearchParams({ ...(query === '' ? {} : { q: query }), show: key }).toString()}`}
              aria-current={key === filter ? 'true' : undefined}
              className="border-b-2 border-transparent text-third hover:text-ink aria-[current]:border-chestnut aria-[current]:font-semibold aria-[current]:text-ink"
            >
              {name} {counts[key]}
            </Link>
          ))}
        </nav>
      </PageHead>
      {all === 0 ? (
        <Empty title="Nothing is watched yet">
          <p>Paste the address of a page, say what matters on it, and who should hear.</p>
          <ButtonLink to="/watches/new" weight="strong" className="mt-4">
            Start the first watch
          </ButtonLink>
        </Empty>
      ) : rows.length === 0 ? (
        <Empty title="No watch fits">
          Nothing{' '}
          {query === '' ? (
            'is in this state'
          ) : (
            <>
              goes by “{query}”{filter === 'all' ? '' : ' in this state'}
            </>
          )}
          .{' '}
          <Link className="link" to="/watches">
            Show all {all}
          </Link>
        </Empty>
      ) : (
        <List rows={rows} />
      )}
    </>
  );
}

function List({ rows }: { rows: Row[] }) {
  const { locale, now } = useReader();
  return (
    <div className="overflow-x-auto pt-2">
      <table className="w-full min-w-[720px]" data-watches>
        <thead>
          <tr>
            <th className="head-cell text-left">Watch</th>
            <th className="head-cell text-left">Where</th>
            <th className="head-cell text-right">Now</th>
            <th className="head-cell pl-6 text-left">Four weeks</th>
            <th className="head-cell pl-6 text-left">Chain</th>
            <th className="head-cell pl-6 text-left">Standing</th>
            <th className="head-cell pl-4 text-right">Next look</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ watch, chain, points }) => (
            <tr key={watch.id}>
              <td className="cell max-w-60 truncate pr-4">
                <Link className="font-medium hover:underline" to={`/watches/${watch.id}`}>
                  {watch.definition.subject}
                </Link>
              </td>
              <td className="cell pr-4 whitespace-nowrap text-second">{watch.site}</td>
              <td className={`cell max-w-44 truncate text-right whitespace-nowrap ${watch.problem === null ? '' : 'text-third'}`}>
                {presentWords(watch, locale)}
              </td>
              <td className="cell pl-6">
                <Sparkline points={points} width={110} height={20} until={now} label={`${watch.definition.subject} over four weeks`} />
              </td>
              <td className="cell pl-6 align-middle">
                <ChainBeads links={chain} />
              </td>
              <td className="cell max-w-72 truncate pl-6 text-glance text-second">
                <Standing watch={watch} chain={chain} />
              </td>
              <td className="cell pl-4 text-right text-glance whitespace-nowrap text-third">{nextWords(watch, now)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function presentWords(watch: WatchNow, locale: string): string {
  const shown = watch.series.filter((series) => watch.definition.fields.some((field) => field.key === series.field));
  const [first] = shown;
  if (watch.recordCount > 1) return `${watch.recordCount} records${watch.problem === null ? '' : ', stale'}`;
  return first === undefined ? '–' : `${formatValue(first.value, locale)}${watch.problem === null ? '' : ', stale'}`;
}

function Standing({ watch, chain }: { watch: WatchNow; chain: ChainLink[] }) {
  const { place, now } = useReader();
  const broken = firstBroken(chain);
  if (watch.state === 'paused') return <>paused</>;
  if (broken !== null) {
    return (
      <span className="text-chestnut" title={broken.said}>
        {broken.said}
      </span>
    );
  }
  if (watch.rule === null) return <>only recorded</>;
  if (watch.rule.state === 'raised' && !watch.rule.waiting)
    return <strong className="font-semibold text-ink">raised since {formatRecent(watch.rule.since ?? now, now, place)}</strong>;
  return <>{watch.rule.waiting ? 'met already, waiting' : (watch.rule.state ?? 'undecided')}</>;
}

function nextWords(watch: WatchNow, now: Instant): string {
  if (watch.nextDue === null) return '–';
  return watch.nextDue <= now ? 'now' : `in ${formatDuration(watch.nextDue - now)}`;
}
