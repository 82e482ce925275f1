import { Link } from 'react-router';
import { placeOf } from '#server/db/people';
import { ChainBeads } from '../../parts/chain';
import { ROW_SPARK, SparkLine } from '../../parts/sparkline';
import { sparksOf, watchesNow } from '../../parts/watch-list.server';
import { services } from '../../services.server';
import { signedIn } from '../../session.server';
import { ButtonLink } from '../../ui/button';
import { Empty, PageHead } from '../../ui/page';
import { SearchAndNew } from '../shell/search';
import type { Route } from './+types/route';
import { matches, rowOf, standOf, type Row } from './rows.server';

export const meta: Route.MetaFunction = () => [{ title: 'Watches · Shrike' }];

const FILTERS = [['all', 'All'], ['raised', 'Raised'], ['broken', 'Broken'], ['paused', 'Paused']] as const; // prettier-ignore
const MOST_QUERY = 500;

type Filter = (typeof FILTERS)[number][0];

export async function loader({ request, context }: Route.LoaderArgs) {
  const place = placeOf(signedIn(context));
  const now = services().clock();
  const asked = new URL(request.url).searchParams;
  const query = (asked.get('q') ?? '').slice(0, MOST_QUERY).trim().toLowerCase();
  const filter = asked.get('show') ?? 'all';
  const watches = (await watchesNow()).map((watch) => standOf(watch, now, place));
  const shown = watches.filter((each) => matches(each, query) && each.filters.includes(filter as Filter));
  const sparks = await sparksOf(
    shown.map(({ watch }) => watch),
    now,
  );
  const counts = Object.fromEntries(FILTERS.map(([key]) => [key, watches.filter(({ filters }) => filters.includes(key)).length]));
  return { rows: shown.map((each) => rowOf(each, sparks, now, place)), all: watches.length, counts, query, filter };
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
          {rows.map((row) => (
            <tr key={row.id}>
              <td className="cell truncate">
                <Link className="hover:underline" to={`/watches/${row.id}`}>
                  {row.subject}
                </Link>
              </td>
              <td className="cell">{row.site}</td>
              <td className={row.stale ? 'cell truncate text-third' : 'cell truncate'}>{row.present}</td>
              <td className="cell">
                {row.spark === null ? null : <SparkLine shape={row.spark} {...ROW_SPARK} label={`${row.subject} over four weeks`} />}
              </td>
              <td className="cell">
                <ChainBeads states={row.beads} words={row.chain} />
              </td>
              <td className={`cell truncate ${STANDINGS[row.tone]}`} title={row.tone === 'broken' ? row.standing : undefined}>
                {row.standing}
              </td>
              <td className="cell">{row.next}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const STANDINGS: Record<Row['tone'], string> = { usual: 'text-second', raised: 'font-semibold text-ink', broken: 'text-chestnut' };
