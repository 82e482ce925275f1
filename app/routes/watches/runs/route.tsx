import type { RunId, WatchId } from '#core/id';
import { data } from 'react-router';
import { FILE_FORMS } from '#core/tell/definition';
import { formatDuration, formatRecent } from '#core/when/format';
import { formatBytes } from '#core/retention';
import { findWatch } from '#server/db/watch/views/watch-now';
import { listWatchRuns, type WatchRun } from '#server/db/watch/views/runs';
import { readId, readInstant, readLongId } from '../../../ids.server';
import { useLive } from '../../../parts/live';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Empty, PageHead, Where } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `Runs of ${loaderData?.subject ?? 'a watch'} · Shrike` },
];

const PAGE = 100;
const EVERY_MS = 5_000;

/** The runs of a watch, with what each brought. */
export async function loader({ params, request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const { pool } = services();
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  if (watch === null) throw data('There is no such watch, or it was deleted.', { status: 404 });
  const asked = new URL(request.url).searchParams;
  const id = readLongId<RunId>(asked.get('run'));
  const before = id === 0 ? null : { id, at: readInstant(asked.get('at')) };
  const found = await listWatchRuns(pool, watch.id, before, PAGE + 1);
  const looks = found.slice(0, PAGE);
  const last = looks.at(-1);
  return {
    watch: watch.id,
    subject: watch.definition.subject,
    site: watch.site,
    looks,
    begun: before !== null,
    next: found.length > PAGE && last !== undefined ? { at: last.at, run: last.id } : null,
  };
}

export default function Runs({ loaderData: { watch, subject, site, looks, begun, next } }: Route.ComponentProps) {
  useLive([`watch:${watch}`], EVERY_MS);
  const { place, now } = useReader();
  const { locale } = place;
  const counted = (count: number) =>
    count === 0 ? <span className="text-third">–</span> : count.toLocaleString(locale);
  const columns: Column<WatchRun>[] = [
    { head: 'Run', className: 'whitespace-nowrap', cell: ({ at }) => formatRecent(at, now, place) },
    {
      head: 'Came of it',
      className: 'max-w-md',
      cell: ({ outcome, sentence }) => (
        <>
          <span className={outcome === 'failed' ? 'font-medium text-chestnut' : ''}>{outcome}</span>
          {sentence === null ? null : <span className="block text-second">{sentence}</span>}
        </>
      ),
    },
    { head: 'Appeared', side: 'right', cell: ({ appeared }) => counted(appeared) },
    { head: 'Vanished', side: 'right', cell: ({ vanished }) => counted(vanished) },
    { head: 'Moved', side: 'right', cell: ({ moved }) => counted(moved) },
    {
      head: 'Took',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap text-second',
      cell: ({ tookMs }) => formatDuration(tookMs),
    },
    {
      head: 'Late',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap text-second',
      cell: ({ lateMs }) => formatDuration(Math.max(0, lateMs)),
    },
    {
      head: 'Brought',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap text-second',
      cell: ({ bytes }) => formatBytes(bytes, locale),
    },
    {
      head: 'Records',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap',
      cell: (look) => <Files watch={watch} look={look} what="records" />,
    },
    {
      head: 'Changes',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap',
      cell: (look) => <Files watch={watch} look={look} what="changes" />,
    },
  ];
  return (
    <>
      <PageHead>
        <Where
          within={[
            { name: 'Watches', to: '/watches' },
            { name: `${subject}, ${site}`, to: `/watches/${watch}` },
          ]}
        >
          runs
        </Where>
        <h1 className="sr-only">Runs of {subject}</h1>
      </PageHead>
      {looks.length === 0 ? (
        <Empty title="It has not run yet">
          <p>The first run is a baseline: it is on its way.</p>
        </Empty>
      ) : (
        <>
          <Table name="runs" className="pt-2" columns={columns} rows={looks} keyOf={({ id }) => id} />
          <Onward
            first={begun ? `/watches/${watch}/runs` : null}
            next={
              next === null
                ? null
                : `?${new URLSearchParams({ at: String(next.at), run: String(next.run) }).toString()}`
            }
            size={PAGE}
          />
        </>
      )}
    </>
  );
}

/** What a run read, or what moved with it, to take along; nothing where there is none. */
function Files({
  watch,
  look: { id, outcome, appeared, vanished, moved },
  what,
}: {
  watch: WatchId;
  look: WatchRun;
  what: 'records' | 'changes';
}) {
  if (outcome === 'failed' || (what === 'changes' && appeared + vanished + moved === 0)) return null;
  return (
    <span className="inline-flex gap-2 text-glance">
      {FILE_FORMS.map((form) => (
        <a
          key={form}
          className="link"
          href={`/watches/${watch}/runs/${id}/${what}/${form}`}
          download
          aria-label={`${what} as ${form.toUpperCase()}`}
        >
          {form.toUpperCase()}
        </a>
      ))}
    </span>
  );
}
