import type { WatchId } from '#core/id';
import { Link } from 'react-router';
import { soundText } from '#core/value/sound';
import { formatDuration } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { placeOf } from '#server/db/people';
import { FILTERS, type After, type Filter } from '#server/db/standings';
import { ChainBeads } from '../../parts/chain';
import { useLiveWatches } from '../../parts/live';
import { ROW_SPARK, SparkLine } from '../../parts/sparkline';
import { listPage, sparksOf, tallyNow } from '../../parts/watch-list.server';
import { readId } from '../../ids.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { ButtonLink } from '../../ui/button';
import { Empty, PageHead } from '../../ui/page';
import { Onward } from '../../ui/pager';
import { Table, type Column } from '../../ui/table';
import { useReader } from '../shell/reader';
import { SearchAndNew } from '../shell/search';
import type { Route } from './+types/route';
import { rowOf, type Row } from './rows.server';

export const meta: Route.MetaFunction = () => [{ title: 'Watches · Shrike' }];

const NAMES: Record<Filter, string> = { all: 'All', raised: 'Raised', broken: 'Broken', paused: 'Paused' };
const MOST_QUERY = 500;
const PAGE = 100;

export async function loader({ request, context }: Route.LoaderArgs) {
  const place = placeOf(asks(context, 'see', { kind: 'watch' }));
  const now = services().clock();
  const asked = new URL(request.url).searchParams;
  const query = soundText(asked.get('q') ?? '')
    .slice(0, MOST_QUERY)
    .trim();
  const filter = FILTERS.find((each) => each === asked.get('show')) ?? 'all';
  const after = afterIn(asked);
  // A pasted address may end in a slash, or not.
  const { watches, next } = await listPage(filter, query.replace(/(?<=.)\/$/, ''), after, PAGE);
  const [sparks, counts] = [await sparksOf(watches, now), await tallyNow()];
  return { rows: watches.map((each) => rowOf(each, sparks, now, place)), counts, query, filter, begun: after !== null, next };
}

function afterIn(asked: URLSearchParams): After | null {
  const [subject, id] = [asked.get('after'), readId<WatchId>(asked.get('id') ?? undefined)];
  return subject === null ? null : { subject: soundText(subject).slice(0, MOST_QUERY), id };
}

export default function Watches({ loaderData }: Route.ComponentProps) {
  useLiveWatches();
  const { rows, counts, filter, query, begun, next } = loaderData;
  const { locale } = useReader();
  const to = (more: Record<string, string>) => `?${new URLSearchParams({ ...(query === '' ? {} : { q: query }), show: filter, ...more }).toString()}`;
  return (
    <>
      <PageHead actions={<SearchAndNew />}>
        <h1 className="font-serif text-day font-medium">Watches</h1>
        <nav aria-label="Show" className="flex gap-3">
          {Object.entries(NAMES).map(([key, name]) => (
            <Link
              key={key}
              to={to({ show: key })}
              aria-current={key === filter ? 'true' : undefined}
              className="border-b-2 border-transparent text-third hover:text-ink aria-[current]:border-chestnut aria-[current]:font-semibold aria-[current]:text-ink"
            >
              {name} {counts[key as Filter].toLocaleString(locale)}
            </Link>
          ))}
        </nav>
      </PageHead>
      {counts.all === 0 ? (
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
            Show all {counts.all.toLocaleString(locale)}
          </Link>
        </Empty>
      ) : (
        <>
          <List rows={rows} />
          <Onward first={begun ? to({}) : null} next={next === null ? null : to({ after: next.subject, id: String(next.id) })} size={PAGE} />
        </>
      )}
    </>
  );
}

const COLUMNS: Column<Row>[] = [
  {
    head: 'Watch',
    className: 'truncate',
    cell: ({ id, subject }) => (
      <Link className="hover:underline" to={`/watches/${id}`}>
        {subject}
      </Link>
    ),
  },
  { head: 'Where', wide: true, cell: ({ site }) => site },
  { head: 'Now', side: 'right', className: ({ stale }) => (stale ? 'truncate text-third' : 'truncate'), cell: ({ present }) => present },
  {
    head: 'Four weeks',
    wide: true,
    cell: ({ spark, subject }) => (spark === null ? null : <SparkLine shape={spark} {...ROW_SPARK} label={`${subject} over four weeks`} />),
  },
  { head: 'Chain', wide: true, cell: ({ beads, chain }) => <ChainBeads states={beads} words={chain} /> },
  {
    head: 'Standing',
    className: ({ tone }) => `truncate ${STANDINGS[tone]}`,
    title: ({ tone, standing }) => (tone === 'broken' ? standing : undefined),
    cell: ({ standing }) => standing,
  },
  { head: 'Next look', side: 'right', wide: true, cell: ({ nextDue }) => <NextLook at={nextDue} /> },
];

/** It comes nearer while the list is on screen. */
function NextLook({ at }: { at: Instant | null }) {
  const { now } = useReader();
  if (at === null) return '–';
  return at <= now ? 'now' : `in ${formatDuration(at - now)}`;
}

const List = ({ rows }: { rows: Row[] }) => <Table name="watches" className="pt-2" columns={COLUMNS} rows={rows} keyOf={({ id }) => id} />;

const STANDINGS: Record<Row['tone'], string> = { usual: 'text-second', raised: 'font-semibold text-ink', broken: 'text-chestnut' };
