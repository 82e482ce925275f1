import { Link } from 'react-router';
import { namesOf } from '#core/judge/words';
import { describeCondition, describeTerms } from '#core/judge/describe';
import { formatRecent } from '#core/when/format';
import { listAudiences } from '#server/db/person/people';
import { countRules, listRules, ruleTags, type RuleFilter, type RuleRow } from '#server/db/rule/views/rules';
import { ListAsked, filters, orders } from '../../../parts/bulk/asked';
import { BulkBar } from '../../../parts/bulk/bar';
import { useLiveWatches } from '../../../parts/live';
import { neverSaid } from '../../../parts/never.server';
import { namesNow } from '../../../parts/watch-list.server';
import { readNumber } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { ButtonLink } from '../../../ui/button';
import { choosingColumn, useChoosing } from '../../../ui/choosing';
import { Empty, PageHead } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { readAsked } from './asked.server';

export const meta: Route.MetaFunction = () => [{ title: 'Rules · Shrike' }];

const PAGE = 100;
const MOST_PAGES = 1_000;
const MOST_TAGS = 200;
const GROUPS = ['watch', 'site', 'owner', 'tag', 'state'] as const;

export async function loader({ request, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const said = new URL(request.url).searchParams;
  const group = GROUPS.find((each) => each === said.get('group')) ?? null;
  const page = Math.min(MOST_PAGES, readNumber(said.get('page')));
  const { sort, ...asked } = readAsked(said, clock());
  const [found, count, names, tags, audiences] = await Promise.all([
    listRules(pool, { ...asked, order: group ?? sort, skip: page * PAGE, most: PAGE + 1 }),
    countRules(pool, asked),
    namesNow(),
    ruleTags(pool, MOST_TAGS),
    listAudiences(pool),
  ]);
  const { filter, words, site, owner, tag } = asked;
  const rows = found.slice(0, PAGE);
  const never = await neverSaid(
    rows,
    ({ labels }) =>
      (key) =>
        labels[key] ?? key,
    person,
  );
  return {
    rows: rows.map((row) => ({ ...row, never: never.get(row) ?? null })),
    count,
    page,
    more: found.length > PAGE,
    audiences,
    asked: { q: words, show: filter, sort, group: group ?? '', site, owner, tag },
    names: { ...names, tags },
  };
}

/** A rule with why nothing that was read so far could have met it. */
type Row = RuleRow & { never: string | null };

const SHOWN: Record<RuleFilter, string> = {
  all: 'All',
  raised: 'Raised',
  off: 'Switched off',
  'ends soon': 'Ends soon',
};

export default function Rules({ loaderData }: Route.ComponentProps) {
  useLiveWatches();
  const { rows, count, page, more, audiences, asked, names } = loaderData;
  const { locale, place, now } = useReader();
  const choosing = useChoosing<Row>(rows, ({ id }) => id);
  const to = (change: Record<string, string>) =>
    `?${new URLSearchParams(Object.entries({ ...asked, ...change }).filter(([, value]) => value !== '')).toString()}`;
  return (
    <>
      <PageHead
        actions={
          <>
            <Find words={asked.q} />
            <ButtonLink to="/stencils">Stencils</ButtonLink>
          </>
        }
      >
        <h1 className="font-serif text-day font-medium">Rules</h1>
        <nav aria-label="Show" className="flex gap-3">
          {(Object.keys(SHOWN) as RuleFilter[]).map((key) => (
            <Link
              key={key}
              to={to({ show: key })}
              aria-current={key === asked.show ? 'true' : undefined}
              className="border-b-2 border-transparent text-third hover:text-ink aria-[current]:border-chestnut aria-[current]:font-semibold aria-[current]:text-ink"
            >
              {SHOWN[key]}
              {key === asked.show ? ` ${count.toLocaleString(locale)}` : ''}
            </Link>
          ))}
        </nav>
      </PageHead>
      <ListAsked asked={asked} choices={[...SORTED, ...filters(names)]} />
      {rows.length === 0 ? (
        <Empty title="No rule fits">
          A rule says what matters on a watch. It is made on the page of the watch, or where the watch is set up.{' '}
          <Link className="link" to="/rules">
            Show all rules
          </Link>
        </Empty>
      ) : (
        <>
          <BulkBar
            of="rules"
            chosen={choosing.chosen.map(({ id, watchId }) => ({ watch: watchId, rule: id }))}
            fitting={choosing.all && count > rows.length ? `/rules/fitting${to({})}` : null}
            audiences={audiences}
            onClear={() => choosing.setAll(false)}
          />
          <Table
            name="rules"
            className="pt-2"
            columns={[choosingColumn(choosing, ({ id }) => `rule ${id}`), ...columns({ locale, place, now })]}
            rows={rows}
            keyOf={({ id }) => id}
            {...(asked.group === ''
              ? {}
              : { groupOf: (row: RuleRow) => groupOf(row, asked.group as (typeof GROUPS)[number]) })}
          />
          <Onward
            first={page > 0 ? to({ page: '' }) : null}
            next={more ? to({ page: String(page + 1) }) : null}
            size={PAGE}
          />
        </>
      )}
    </>
  );
}

const SORTED = orders(
  [
    ['watch', 'watch'],
    ['told', 'last told'],
    ['ends', 'last day'],
    ['site', 'site'],
    ['owner', 'owner'],
    ['tag', 'tag'],
    ['state', 'state'],
  ],
  GROUPS,
);

function groupOf(row: RuleRow, by: (typeof GROUPS)[number]): string {
  switch (by) {
    case 'watch':
      return row.subject;
    case 'site':
      return row.site;
    case 'owner':
      return row.owner;
    case 'tag':
      return row.definition.tags?.[0] ?? 'no tag';
    case 'state':
      return stateWords(row);
  }
}

function stateWords({ raised, paused, definition }: RuleRow): string {
  if (definition.off === true) return 'switched off';
  if (raised > 0) return raised === 1 ? 'raised' : `raised ${raised >= 100 ? 'on 100 or more' : `on ${raised}`}`;
  return paused ? 'paused with its watch' : 'calm';
}

type Reader = Pick<ReturnType<typeof useReader>, 'locale' | 'place' | 'now'>;

const nameOf = ({ definition, labels }: RuleRow, locale: string) =>
  definition.name ??
  describeCondition(
    definition.when,
    namesOf((key) => labels[key] ?? key, locale),
  );

function columns({ locale, place, now }: Reader): Column<Row>[] {
  return [
    {
      head: 'Rule',
      className: 'max-w-96',
      cell: (row) => (
        <>
          <Link className="font-medium hover:underline" to={`/watches/${row.watchId}/rules/${row.id}`}>
            {nameOf(row, locale)}
          </Link>
          {row.definition.weight === undefined ? null : (
            <span className="ml-2 text-glance text-third">{row.definition.weight} weight</span>
          )}
          <span className="block text-glance text-third">
            {[...describeTerms(row.definition), ...(row.definition.tags ?? [])].join(' · ')}
          </span>
          {row.never === null || row.raised > 0 || row.definition.off === true ? null : (
            <span className="block text-glance text-second" data-never>
              {row.never}
            </span>
          )}
          {row.choice === null ? null : (
            <span className="block text-glance text-third">now: {row.choice.in.join(', ')}</span>
          )}
        </>
      ),
    },
    {
      head: 'Watch',
      className: 'max-w-56 truncate',
      cell: ({ watchId, subject, site }) => (
        <>
          <Link className="hover:underline" to={`/watches/${watchId}`}>
            {subject}
          </Link>
          <span className="ml-2 text-glance text-third">{site}</span>
        </>
      ),
    },
    {
      head: 'Standing',
      className: (row) => (row.raised > 0 ? 'font-semibold whitespace-nowrap' : 'text-second whitespace-nowrap'),
      cell: stateWords,
    },
    {
      head: 'Tells',
      wide: true,
      className: 'max-w-40 truncate',
      cell: ({ readers }) => readers.join(', ') || <span className="text-chestnut">nobody</span>,
    },
    { head: 'Owner', wide: true, className: 'whitespace-nowrap', cell: ({ owner }) => owner },
    {
      head: 'Last told',
      side: 'right',
      wide: true,
      className: 'text-glance whitespace-nowrap text-third',
      cell: ({ lastAlertAt }) => (lastAlertAt === null ? 'never' : formatRecent(lastAlertAt, now, place)),
    },
    {
      head: 'Last day',
      side: 'right',
      wide: true,
      className: 'text-glance whitespace-nowrap text-third',
      cell: ({ definition }) => definition.ends?.date ?? '–',
    },
  ];
}

function Find({ words }: { words: string }) {
  return (
    <form role="search">
      <input
        name="q"
        type="search"
        aria-label="Find a rule by its name or watch"
        placeholder="Find a rule or a watch"
        defaultValue={words}
        className="h-[30px] w-[220px] border-b border-rule bg-transparent placeholder:text-third focus:border-ink focus:outline-none"
      />
    </form>
  );
}
