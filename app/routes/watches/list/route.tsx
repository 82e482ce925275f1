import type { WatchId } from '#core/id';
import { Link } from 'react-router';
import { sanitiseText } from '#core/value/sanitise';
import { labelOf } from '#core/plan/plan';
import { formatDuration, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { listAudiences, placeOf } from '#server/db/person/people';
import type { After, Filter } from '#server/db/watch/standings';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { ChainBeads } from '../../../parts/chain';
import { neverKnown } from '../../../parts/never.server';
import { useLiveWatches } from '../../../parts/live';
import { ROW_SPARK, SparkLine } from '../../../parts/charts/sparkline';
import { ListAsked, filters, orders } from '../../../parts/bulk/asked';
import { BulkBar } from '../../../parts/bulk/bar';
import { listPage, namesNow, orderedPage, sparksOf, tallyNow } from '../../../parts/watch-list.server';
import { readId, readNumber } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { ButtonLink } from '../../../ui/button';
import { choosingColumn, useChoosing } from '../../../ui/choosing';
import { Empty, PageHead } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import { SearchAndNew } from '../../shell/frame/search';
import type { Route } from './+types/route';
import { MOST_QUERY, readAsked } from './asked.server';
import { groupOf, rowOf, type NeverOf, type Row } from './rows.server';

export const meta: Route.MetaFunction = () => [{ title: 'Watches · Shrike' }];

const NAMES: Record<Filter, string> = { all: 'All', raised: 'Raised', broken: 'Broken', paused: 'Paused' };
const PAGE = 100;

export async function loader({ request, context }: Route.LoaderArgs) {
  const place = placeOf(asks(context, 'see', { kind: 'watch' }));
  const now = services().clock();
  const asked = new URL(request.url).searchParams;
  const { query, filter, order, site, owner, tag, list } = readAsked(asked);
  const group = GROUPS.find((each) => each === asked.get('group')) ?? null;
  const by = group ?? order;
  const after = by === 'name' ? afterIn(asked) : null;
  const page = by === 'name' ? 0 : Math.min(MOST_PAGES, readNumber(asked.get('page')));
  const found =
    by === 'name' ? await listPage(list, after, PAGE) : await orderedPage({ ...list, order: by }, page, PAGE);
  const [sparks, counts, names, audiences] = [
    await sparksOf(found.watches, now),
    await tallyNow(),
    await namesNow(),
    await listAudiences(services().pool),
  ];
  const never = neverOf(found.watches, place);
  return {
    rows: found.watches.map((each) => ({
      ...rowOf(each, sparks, never, now, place),
      group: group === null ? null : groupOf(each, group),
    })),
    counts,
    names,
    audiences,
    asked: { q: query, show: filter, sort: order, group: group ?? '', site, owner, tag },
    begun: after !== null || page > 0,
    next: nextOf(found, page),
  };
}

/** Of each rule of some watches why it could not have been met so far, as far as that is known by now. */
function neverOf(watches: WatchNow[], place: Place): NeverOf {
  const asked = new Map(
    watches.map((watch) => [watch.id, watch.rules.map(({ definition }) => ({ watchId: watch.id, definition }))]),
  );
  const fields = new Map(watches.map((watch) => [watch.id, watch.definition.fields]));
  const never = neverKnown(
    [...asked.values()].flat(),
    ({ watchId }) =>
      (key) =>
        labelOf(fields.get(watchId) ?? [], key),
    place,
  );
  return ({ id }, at) => {
    const rule = asked.get(id)?.[at];
    return rule === undefined ? null : (never.get(rule) ?? null);
  };
}

const GROUPS = ['site', 'source', 'owner', 'tag', 'state'] as const;
const MOST_PAGES = 1_000;

/** Where the next page of a list begins. */
function nextOf(found: { next: After | null } | { more: boolean }, page: number): Record<string, string> | null {
  if ('more' in found) return found.more ? { page: String(page + 1) } : null;
  return found.next === null ? null : { after: found.next.subject, id: String(found.next.id) };
}

function afterIn(asked: URLSearchParams): After | null {
  const [subject, id] = [asked.get('after'), readId<WatchId>(asked.get('id') ?? undefined)];
  return subject === null ? null : { subject: sanitiseText(subject).slice(0, MOST_QUERY), id };
}

export default function Watches({ loaderData }: Route.ComponentProps) {
  useLiveWatches();
  const { rows, counts, names, audiences, asked, begun, next } = loaderData;
  const { q: query, show: filter } = asked;
  const { locale } = useReader();
  const choosing = useChoosing<Row>(rows, ({ id }) => id);
  const to = (more: Record<string, string>) =>
    `?${new URLSearchParams(Object.entries({ ...asked, ...more }).filter(([, value]) => value !== '')).toString()}`;
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
          <ListAsked asked={asked} choices={[...SORTED, ...filters(names)]}>
            <Link className="link" to="/watches/import">
              Import
            </Link>
            <ReportOn asked={asked} ids={choosing.chosen.map(({ id }) => id)} />
            <Exports ids={choosing.chosen.map(({ id }) => id)} />
          </ListAsked>
          <BulkBar
            of="watches"
            chosen={choosing.chosen.map(({ id }) => ({ watch: id }))}
            fitting={choosing.all && (begun || next !== null) ? `/watches/fitting${to({})}` : null}
            audiences={audiences}
            onClear={() => choosing.setAll(false)}
          />
          <Table
            name="watches"
            className="pt-2"
            columns={[choosingColumn(choosing, ({ subject }) => subject), ...COLUMNS]}
            rows={rows}
            keyOf={({ id }) => id}
            {...(asked.group === '' ? {} : { groupOf: ({ group }: Row) => group ?? '' })}
          />
          <Onward first={begun ? to({}) : null} next={next === null ? null : to(next)} size={PAGE} />
        </>
      )}
    </>
  );
}

/** A report of those that are chosen, or of a tag or a site that the list is held to. */
function ReportOn({ asked: { tag, site }, ids }: { asked: { tag: string; site: string }; ids: number[] }) {
  const held = [
    ['tag', tag],
    ['site', site],
  ].filter(([, value]) => value !== '');
  const of = ids.length > 0 ? ids.map((id) => ['watch', String(id)]) : held;
  if (of.length === 0) return null;
  return (
    <Link className="link" to={`/reports/new?${new URLSearchParams(of).toString()}`}>
      {ids.length > 0 ? `Report on ${ids.length}` : 'Report on these'}
    </Link>
  );
}

/** Those that are chosen, or all, as a file. */
function Exports({ ids }: { ids: number[] }) {
  const to = (as: string) =>
    `/watches/export?${new URLSearchParams([['as', as], ...ids.map((id) => ['watch', String(id)])]).toString()}`;
  return (
    <span className="text-third">
      {ids.length === 0 ? 'Export all as' : `Export ${ids.length} as`}{' '}
      <Link className="link" to={to('json')} reloadDocument>
        JSON
      </Link>
      ,{' '}
      <Link className="link" to={to('csv')} reloadDocument>
        CSV
      </Link>
    </span>
  );
}

/** What the list can be sorted, grouped and held to. */
const SORTED = orders(
  [
    ['name', 'name'],
    ['moved', 'last moved'],
    ['next', 'next run'],
    ['site', 'site'],
    ['source', 'source'],
    ['owner', 'owner'],
    ['tag', 'tag'],
    ['state', 'state'],
  ],
  GROUPS,
);

const COLUMNS: Column<Row>[] = [
  {
    head: 'Watch',
    className: 'truncate',
    cell: ({ id, subject, tags }) => (
      <>
        <Link className="hover:underline" to={`/watches/${id}`}>
          {subject}
        </Link>
        {tags.length === 0 ? null : <span className="ml-2 text-glance text-third">{tags.join(', ')}</span>}
      </>
    ),
  },
  { head: 'Where', wide: true, cell: ({ site }) => site },
  {
    head: 'Now',
    side: 'right',
    className: ({ stale }) => (stale ? 'truncate text-third' : 'truncate'),
    cell: ({ present }) => present,
  },
  {
    head: 'Four weeks',
    wide: true,
    cell: ({ spark, subject }) =>
      spark === null ? null : <SparkLine shape={spark} {...ROW_SPARK} label={`${subject} over four weeks`} />,
  },
  { head: 'Chain', wide: true, cell: ({ beads, chain }) => <ChainBeads states={beads} words={chain} /> },
  {
    head: 'Standing',
    className: ({ tone }) => `truncate ${STANDINGS[tone]}`,
    title: ({ tone, standing }) => (tone === 'broken' ? standing : undefined),
    cell: ({ standing }) => standing,
  },
  { head: 'Next run', side: 'right', wide: true, cell: ({ nextDue }) => <NextRun at={nextDue} /> },
];

/** It comes nearer while the list is on screen. */
function NextRun({ at }: { at: Instant | null }) {
  const { now } = useReader();
  if (at === null) return '–';
  return at <= now ? 'now' : `in ${formatDuration(at - now)}`;
}

const STANDINGS: Record<Row['tone'], string> = {
  usual: 'text-second',
  raised: 'font-semibold text-ink',
  broken: 'text-chestnut',
};
