import type { DeliveryId, EditionId, WatchId } from '#core/id';
import { Link, useFetcher } from 'react-router';
import { countOf } from '#core/words';
import { formatRecent } from '#core/when/format';
import { placeOf } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { listNotified, setDealt, type NotifiedMail, type NotifiedNow } from '#server/db/report/views/notified';
import { askForRun } from '#server/actions/edit-watch';
import { readForm, writtenIn } from '../../../form.server';
import { readId, readInstant, readLongId } from '../../../ids.server';
import { useLive } from '../../../parts/live';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Empty, PageHead } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [{ title: 'Told to me · Shrike' }];

/** Mails a page. */
const PAGE = 25;
const EVERY_MS = 2_000;
const LONGEST_KEY = 80;

/** Everything that whoever asks was told, by whatever report. */
export async function loader({ request, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'outbox' });
  const asked = new URL(request.url).searchParams;
  const delivery = readLongId<DeliveryId>(asked.get('delivery'));
  const after = delivery === 0 ? null : { orderedAt: readInstant(asked.get('at')), delivery };
  const found = await listNotified(services().pool, person.id, after, PAGE + 1, placeOf(person));
  const mails = found.slice(0, PAGE);
  const last = mails.at(-1);
  return {
    rows: mails.flatMap(rowsOf),
    begun: after !== null,
    next: found.length > PAGE && last !== undefined ? { at: last.orderedAt, delivery: last.delivery } : null,
  };
}

export async function action({
  request,
  context,
}: Route.ActionArgs): Promise<{ problem: string | null; said: string | null }> {
  const person = asks(context, 'see', { kind: 'outbox' });
  const form = await readForm(request);
  const { pool, clock } = services();
  if (form.get('intent') === 'look') {
    asks(context, 'change', { kind: 'watch' });
    const watch = readId<WatchId>(form.get('watch'));
    const looks = await inTransaction(pool, (db) => askForRun(db, watch, clock()));
    return looks
      ? { problem: null, said: 'It runs now.' }
      : { problem: 'This watch does not run: start it first.', said: null };
  }
  const [delivery, key] = [readLongId<DeliveryId>(form.get('delivery')), writtenIn(form, 'key').slice(0, LONGEST_KEY)];
  const known = await setDealt(pool, person.id, { delivery, key }, form.get('intent') === 'dealt' ? clock() : null);
  return known ? { problem: null, said: null } : { problem: 'You were not told of this.', said: null };
}

/** A line of a mail; or, after its last, where the rest of it is read. */
interface ToldRow extends Pick<NotifiedMail, 'delivery' | 'reportName' | 'sentAt'> {
  /** By what mail and when is said beside its first line alone. */
  first: boolean;
  line: NotifiedNow | null;
  more: { edition: EditionId; lines: number } | null;
}

function rowsOf({ delivery, reportName, sentAt, lines, more }: NotifiedMail): ToldRow[] {
  const rows = [...lines.map((line) => ({ line, more: null })), ...(more === null ? [] : [{ line: null, more }])];
  return rows.map((row, at) => ({ delivery, reportName, sentAt, first: at === 0, ...row }));
}

export default function Told({ loaderData: { rows, begun, next } }: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  const { place, now } = useReader();
  const columns: Column<ToldRow>[] = [
    { head: 'What', cell: (row) => <What row={row} /> },
    {
      head: 'By',
      wide: true,
      className: 'text-glance',
      cell: ({ delivery, reportName, first }) =>
        first ? (
          <Link className="link text-second" to={`/outbox/${delivery}`}>
            {reportName}
          </Link>
        ) : null,
    },
    {
      head: 'Sent',
      side: 'right',
      className: 'text-glance whitespace-nowrap text-third',
      cell: ({ sentAt, first }) => (first ? formatRecent(sentAt, now, place) : null),
    },
    {
      head: '',
      side: 'right',
      className: 'whitespace-nowrap',
      cell: ({ delivery, line }) => (line === null ? null : <Actions delivery={delivery} line={line} />),
    },
  ];
  return (
    <>
      <PageHead>
        <h1 className="font-serif text-day font-medium">Told to me</h1>
        <span className="text-glance text-third">line by line; each alert once, by the mail that told it first</span>
      </PageHead>
      {rows.length === 0 ? (
        <Empty title="Nothing was told to you yet">
          What a report tells you stands here, with what you are done with.
        </Empty>
      ) : (
        <Table
          name="told"
          className="pt-2"
          columns={columns}
          rows={rows}
          keyOf={({ delivery, line }) => `${delivery} ${line?.key ?? 'more'}`}
        />
      )}
      <Onward
        first={begun ? '/told' : null}
        next={
          next === null
            ? null
            : `?${new URLSearchParams({ at: String(next.at), delivery: String(next.delivery) }).toString()}`
        }
        size={PAGE}
        of="mails"
      />
    </>
  );
}

function What({ row: { line, more } }: { row: ToldRow }) {
  if (line !== null) {
    const trail = line.trail === null ? '' : `?${new URLSearchParams(line.trail).toString()}`;
    return (
      <Link
        className={`hover:underline ${line.dealtAt === null ? '' : 'text-third'}`}
        to={`/watches/${line.watch}${trail}`}
      >
        {line.said}
      </Link>
    );
  }
  if (more === null) return null;
  return (
    <Link className="link text-second" to={`/editions/${more.edition}?lines`}>
      {more.lines === 0
        ? 'What it told is read in its edition'
        : `and ${countOf(more.lines, 'line')} more, in its edition`}
    </Link>
  );
}

function Actions({ delivery, line: { key, watch, runs, dealtAt } }: { delivery: DeliveryId; line: NotifiedNow }) {
  const { place, now } = useReader();
  const fetcher = useFetcher<typeof action>();
  const post = (intent: string) =>
    void fetcher.submit({ intent, delivery: String(delivery), key, watch: String(watch) }, { method: 'post' });
  const busy = fetcher.state !== 'idle';
  return (
    <span className="flex justify-end gap-4 text-glance">
      <span role="status" className="text-third empty:hidden">
        {fetcher.data?.problem ?? fetcher.data?.said}
      </span>
      {runs ? (
        <button type="button" className="link" disabled={busy} onClick={() => post('look')}>
          Run now
        </button>
      ) : null}
      {dealtAt === null ? (
        <button type="button" className="link" disabled={busy} onClick={() => post('dealt')}>
          Dealt with
        </button>
      ) : (
        <button
          type="button"
          className="link text-third"
          disabled={busy}
          onClick={() => post('not dealt')}
          title="Take that back"
        >
          dealt with {formatRecent(dealtAt, now, place)}
        </button>
      )}
    </span>
  );
}
