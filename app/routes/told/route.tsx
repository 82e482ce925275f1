import type { AlertId, DeliveryId, WatchId } from '#core/id';
import { Link, useFetcher } from 'react-router';
import { headline } from '#core/tell/news';
import { formatRecent } from '#core/when/format';
import { inTransaction } from '#server/db/pool';
import { listTold, setDealt, type ToldRow } from '#server/db/told';
import { askForLook } from '#server/db/watches';
import { readForm } from '../../form.server';
import { readId, readInstant, readLongId } from '../../ids.server';
import { useLive } from '../../parts/live';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { Empty, PageHead } from '../../ui/page';
import { Onward } from '../../ui/pager';
import { Table, type Column } from '../../ui/table';
import { useReader } from '../shell/reader';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [{ title: 'Told to me · Shrike' }];

const PAGE = 100;
const EVERY_MS = 2_000;

/** Everything that whoever asks was told, by whatever report. */
export async function loader({ request, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'outbox' });
  const asked = new URL(request.url).searchParams;
  const [delivery, alert] = [readLongId<DeliveryId>(asked.get('delivery')), readLongId<AlertId>(asked.get('alert'))];
  const after = delivery === 0 ? null : { orderedAt: readInstant(asked.get('at')), delivery, alert };
  const found = await listTold(services().pool, person.id, after, PAGE + 1);
  const told = found.slice(0, PAGE);
  const last = told.at(-1);
  return {
    told,
    begun: after !== null,
    next: found.length > PAGE && last !== undefined ? { at: last.orderedAt, delivery: last.delivery, alert: last.alert } : null,
  };
}

export async function action({ request, context }: Route.ActionArgs): Promise<{ problem: string | null; said: string | null }> {
  const person = asks(context, 'see', { kind: 'outbox' });
  const form = await readForm(request);
  const { pool, clock } = services();
  if (form.get('intent') === 'look') {
    asks(context, 'change', { kind: 'watch' });
    const watch = readId<WatchId>(form.get('watch'));
    const looks = await inTransaction(pool, (db) => askForLook(db, watch, clock()));
    return looks
      ? { problem: null, said: 'It is looked at now.' }
      : { problem: 'This watch does not run, so there is nothing to look at.', said: null };
  }
  const isDealt = form.get('intent') === 'dealt';
  const known = await setDealt(pool, person.id, readLongId<AlertId>(form.get('alert')), isDealt ? clock() : null);
  return known ? { problem: null, said: null } : { problem: 'You were not told of this.', said: null };
}

export default function Told({ loaderData: { told, begun, next } }: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  const { place, now } = useReader();
  const columns: Column<ToldRow>[] = [
    {
      head: 'What',
      cell: ({ news, watch, dealtAt }) => {
        const { lead, meaning } = headline(news, place.locale);
        return (
          <Link className={`hover:underline ${dealtAt === null ? '' : 'text-third'}`} to={`/watches/${watch}`}>
            {lead}
            {meaning === '' ? '' : `, ${meaning}`}
          </Link>
        );
      },
    },
    {
      head: 'By',
      wide: true,
      className: 'text-glance',
      cell: ({ delivery, reportName }) => (
        <Link className="link text-second" to={`/outbox/${delivery}`}>
          {reportName}
        </Link>
      ),
    },
    { head: 'Sent', side: 'right', className: 'text-glance whitespace-nowrap text-third', cell: ({ sentAt }) => formatRecent(sentAt, now, place) },
    { head: '', side: 'right', className: 'whitespace-nowrap', cell: (row) => <Deeds row={row} /> },
  ];
  return (
    <>
      <PageHead>
        <h1 className="font-serif text-day font-medium">Told to me</h1>
        <span className="text-glance text-third">each alert once, by the mail that told it first</span>
      </PageHead>
      {told.length === 0 ? (
        <Empty title="Nothing was told to you yet">What a report tells you stands here, with what you are done with.</Empty>
      ) : (
        <Table name="told" className="pt-2" columns={columns} rows={told} keyOf={({ alert }) => alert} />
      )}
      <Onward
        first={begun ? '/told' : null}
        next={
          next === null
            ? null
            : `?${new URLSearchParams({ at: String(next.at), delivery: String(next.delivery), alert: String(next.alert) }).toString()}`
        }
        size={PAGE}
      />
    </>
  );
}

function Deeds({ row: { alert, watch, runs, dealtAt } }: { row: ToldRow }) {
  const { place, now } = useReader();
  const fetcher = useFetcher<typeof action>();
  const post = (intent: string) => void fetcher.submit({ intent, alert: String(alert), watch: String(watch) }, { method: 'post' });
  const busy = fetcher.state !== 'idle';
  return (
    <span className="flex justify-end gap-4 text-glance">
      <span role="status" className="text-third empty:hidden">
        {fetcher.data?.problem ?? fetcher.data?.said}
      </span>
      {runs ? (
        <button type="button" className="link" disabled={busy} onClick={() => post('look')}>
          Look now
        </button>
      ) : null}
      {dealtAt === null ? (
        <button type="button" className="link" disabled={busy} onClick={() => post('dealt')}>
          Dealt with
        </button>
      ) : (
        <button type="button" className="link text-third" disabled={busy} onClick={() => post('not dealt')} title="Take that back">
          dealt with {formatRecent(dealtAt, now, place)}
        </button>
      )}
    </span>
  );
}
