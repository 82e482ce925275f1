import type { EditId } from '#core/id';
import { Link, useFetcher } from 'react-router';
import { formatInstant } from '#core/when/format';
import { listEdits, type EditNow } from '#server/db/watch/edits';
import { readLongId } from '../../../ids.server';
import type { BulkAnswer } from '../../../parts/bulk/answer';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Empty, PageHead } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [{ title: 'History of edits · Shrike' }];

const PAGE = 100;

export async function loader({ request, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'history' });
  const before = readLongId<EditId>(new URL(request.url).searchParams.get('before')) || null;
  const found = await listEdits(services().pool, { of: null, before, most: PAGE + 1 });
  const edits = found.slice(0, PAGE);
  return {
    edits,
    begun: before !== null,
    next: found.length > PAGE ? (edits.at(-1)?.id ?? null) : null,
    me: person.id,
  };
}

const PAGES = { item: '/items', watch: '/watches', stencil: '/stencils' } as const;

export default function Edits({ loaderData }: Route.ComponentProps) {
  const { edits, begun, next, me } = loaderData;
  const { place } = useReader();
  const columns: Column<EditNow>[] = [
    {
      head: 'When',
      className: 'text-glance whitespace-nowrap text-third align-top',
      cell: ({ at }) => formatInstant(at, 'moment', place),
    },
    { head: 'Who', className: 'whitespace-nowrap align-top', cell: ({ by }) => by },
    {
      head: 'What',
      className: 'max-w-52 truncate font-medium align-top',
      cell: ({ kind: of, thing, name }) =>
        of === 'offer' ? (
          name
        ) : (
          <Link className="hover:underline" to={`${PAGES[of]}/${thing}`}>
            {name}
          </Link>
        ),
    },
    {
      head: 'How it was changed',
      cell: ({ what, undone, more }) => (
        <span className={undone ? 'text-third line-through' : ''}>
          {what.map((each, at) => (
            <span key={at} className="block">
              {each}
            </span>
          ))}
          {more === 0 ? null : (
            <span className="block text-third">and the like of {more === 1 ? 'one other' : `${more} others`}</span>
          )}
        </span>
      ),
    },
    {
      head: <span className="sr-only">Undo</span>,
      side: 'right',
      className: 'align-top',
      cell: (edit) => <Undo edit={edit} mine={edit.person === me} />,
    },
  ];
  return (
    <>
      <PageHead>
        <h1 className="font-serif text-day font-medium">History of edits</h1>
        <span className="text-glance text-third">who changed what, and when</span>
      </PageHead>
      {edits.length === 0 ? (
        <Empty title="Nothing was changed yet">
          Whatever anybody changes of watches, rules and items is written down here.
        </Empty>
      ) : (
        <>
          <Table name="edits" className="pt-2" columns={columns} rows={edits} keyOf={({ id }) => id} />
          <Onward first={begun ? '/edits' : null} next={next === null ? null : `?before=${next}`} size={PAGE} />
        </>
      )}
    </>
  );
}

/** Whoever did something undoes it, with all that was done with it. */
function Undo({ edit, mine }: { edit: EditNow; mine: boolean }) {
  const fetcher = useFetcher<BulkAnswer>();
  // A stencil says what it says from now on: it is said otherwise again, and not undone.
  if (!mine || edit.undone || edit.kind === 'stencil')
    return edit.undone ? <span className="text-glance text-third">undone</span> : null;
  const of = edit.kind === 'watch' ? '/bulk' : '/items';
  return (
    <>
      <button
        type="button"
        className="link"
        disabled={fetcher.state !== 'idle'}
        aria-label={`Undo what was done to ${edit.name}`}
        onClick={() =>
          void fetcher.submit({ intent: 'undo', batch: String(edit.batch) }, { method: 'post', action: of })
        }
      >
        Undo
      </button>
      {fetcher.data?.problem == null ? null : (
        <span role="status" className="block text-glance text-chestnut">
          {fetcher.data.problem}
        </span>
      )}
    </>
  );
}
