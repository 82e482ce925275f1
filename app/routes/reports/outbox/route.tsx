import { useState } from 'react';
import type { DeliveryId, PersonId, ReportId } from '#core/id';
import { Form, Link, useSearchParams, useSubmit } from 'react-router';
import { DELIVERY_STATES, describeReasonOf } from '#core/tell/delivery';
import { byChannel } from '#core/tell/channels';
import { formatDuration, formatInstant, formatRecent, type Place } from '#core/when/format';
import { MINUTE } from '#core/when/interval';
import { isDay, windowOfDay } from '#core/when/wall-clock';
import {
  countWaiting,
  listDeliveries,
  type AfterDelivery,
  type DeliveryFilter,
  type OutboxRow,
} from '#server/db/delivery/deliveries';
import { findReaderNow, readerNames } from '#server/db/person/readers';
import { reportNames } from '#server/db/report/reports';
import { notNotifiedBy } from '#server/db/delivery/views/not-notified';
import { placeOf } from '#server/db/person/people';
import { useLive } from '../../../parts/live';
import { readId, readInstant, readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { DateField } from '../../../ui/date-field';
import { SelectField } from '../../../ui/field';
import { Empty, PageHead, Section } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import { SearchAndNew } from '../../shell/frame/search';
import type { Route } from './+types/route';
import { notNotifiedWords } from './not-notified';

const EVERY_MS = 1_000;

export const meta: Route.MetaFunction = () => [{ title: 'Outbox · Shrike' }];

const PAGE = 100;
/** Of those that have not gone out so many stand before all others. */
const MOST_UNSENT = 50;
const MOST_NAMED = 500;
const UNSENT = DELIVERY_STATES.filter((state) => state !== 'sent');

export async function loader({ request, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'outbox' });
  const asked = new URL(request.url).searchParams;
  const after = afterIn(asked);
  const said = saidIn(asked);
  const filter = filterOf(said, placeOf(person));
  const { pool } = services();
  const isPlain = Object.keys(filter).length === 0;
  const [found, unsent, waiting, people, reports] = await Promise.all([
    listDeliveries(pool, isPlain ? { states: ['sent'] } : filter, PAGE + 1, after),
    isPlain && after === null ? listDeliveries(pool, { states: UNSENT }, MOST_UNSENT + 1) : [],
    countWaiting(pool),
    readerNames(pool, MOST_NAMED),
    reportNames(pool, MOST_NAMED),
  ]);
  const reader = filter.person === undefined ? null : await findReaderNow(pool, filter.person);
  const explained = reader !== null && filter.day !== undefined;
  const shown = found.slice(0, PAGE);
  return {
    rows: [...unsent.slice(0, MOST_UNSENT), ...shown],
    moreUnsent: unsent.length > MOST_UNSENT,
    said,
    isPlain,
    waiting,
    people: people.map(({ id, name }) => ({ value: String(id), label: name })),
    reports: reports.map(({ id, name }) => ({ value: String(id), label: name })),
    why: explained
      ? { reader, reports: await notNotifiedBy(pool, reader.id, filter.day ?? ALL, filter.report ?? null) }
      : null,
    begun: after !== null,
    next: found.length > PAGE ? (shown.at(-1) ?? null) : null,
  };
}

const ALL = { from: 0, until: 0 };

function afterIn(asked: URLSearchParams): AfterDelivery | null {
  const [orderedAt, id] = [readInstant(asked.get('before')), readLongId<DeliveryId>(asked.get('id'))];
  return orderedAt === 0 ? null : { orderedAt, id };
}

/** What the address asks for, as it is shown in the fields. */
interface Said {
  reader: string;
  report: string;
  state: string;
  day: string;
}

function saidIn(asked: URLSearchParams): Said {
  const [reader, report] = [readId<PersonId>(asked.get('reader')), readId<ReportId>(asked.get('report'))];
  const [state, day] = [asked.get('state') ?? '', asked.get('day') ?? ''];
  const isKnown = state === 'unsent' || DELIVERY_STATES.some((each) => each === state);
  return {
    reader: reader === 0 ? '' : String(reader),
    report: report === 0 ? '' : String(report),
    state: isKnown ? state : '',
    day: isDay(day) ? day : '',
  };
}

function filterOf({ reader, report, state, day }: Said, { zone }: Place): DeliveryFilter {
  const states = state === 'unsent' ? UNSENT : DELIVERY_STATES.filter((each) => each === state);
  return {
    ...(reader === '' ? {} : { person: readId<PersonId>(reader) }),
    ...(report === '' ? {} : { report: readId<ReportId>(report) }),
    ...(states.length === 0 ? {} : { states }),
    ...(day === '' ? {} : { day: windowOfDay(day, zone) }),
  };
}

export default function Outbox({ loaderData }: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  const { rows, moreUnsent, said, isPlain, waiting, why, begun, next } = loaderData;
  const { place } = useReader();
  const given = Object.fromEntries(Object.entries(said).filter(([, value]) => value !== ''));
  const to = (more: Record<string, string>) => `?${new URLSearchParams({ ...given, ...more }).toString()}`;
  return (
    <>
      <PageHead actions={<SearchAndNew />}>
        <h1 className="font-serif text-day font-medium">Outbox</h1>
        <span className="text-glance text-third">
          {waiting === 0 ? 'nothing waits' : `${waiting.toLocaleString(place.locale)} waiting`}
        </span>
        <Link className="link text-glance" to="/told">
          told to me
        </Link>
      </PageHead>
      <Filters data={loaderData} />
      {why === null ? null : <Why why={why} day={said.day} />}
      {rows.length === 0 ? (
        isPlain ? (
          <Empty title="Nothing has gone out">The first mail is ordered when a report has something to tell.</Empty>
        ) : (
          <p className="py-6 text-second">
            No delivery is of this sort.{' '}
            <Link className="link" to="/outbox">
              See all
            </Link>
          </p>
        )
      ) : (
        <>
          {moreUnsent ? (
            <p className="pt-2 text-second">
              More than {MOST_UNSENT} have not gone out.{' '}
              <Link className="link" to="?state=unsent">
                See all that have not
              </Link>
            </p>
          ) : null}
          <Deliveries rows={rows} />
          <Onward
            first={begun ? to({}) : null}
            next={next === null ? null : to({ before: String(next.orderedAt), id: String(next.id) })}
            size={PAGE}
          />
        </>
      )}
    </>
  );
}

type Loaded = Route.ComponentProps['loaderData'];

const STATES = [
  { value: '', label: 'any state' },
  { value: 'unsent', label: 'not sent' },
  ...DELIVERY_STATES.map((value) => ({ value, label: value })),
];

/**
 * Who, which report, how it stands and which day: each is asked for as soon as it is chosen, and stays in the address.
 */
function Filters({ data: { said, people, reports, isPlain } }: { data: Loaded }) {
  const submit = useSubmit();
  return (
    <Form
      key={JSON.stringify(said)}
      role="search"
      aria-label="Deliveries"
      className="flex flex-wrap items-end gap-x-5 gap-y-2 border-b border-rule py-2.5"
      onChange={(event) => void submit(askedIn(event.currentTarget), { replace: true })}
    >
      <SelectField
        label="Reader"
        name="reader"
        className="w-44"
        defaultValue={said.reader}
        options={[{ value: '', label: 'anybody' }, ...people]}
      />
      <SelectField
        label="Report"
        name="report"
        className="w-52"
        defaultValue={said.report}
        options={[{ value: '', label: 'any report' }, ...reports]}
      />
      <SelectField label="State" name="state" className="w-32" defaultValue={said.state} options={STATES} />
      <DaySaid said={said.day} />
      {isPlain ? null : (
        <Link className="link pb-1.5" to="/outbox">
          Show all
        </Link>
      )}
    </Form>
  );
}

/** On which day, in the form. */
function DaySaid({ said }: { said: string }) {
  const [day, setDay] = useState(said);
  const [, ask] = useSearchParams();
  const say = (next: string) => {
    setDay(next);
    ask(
      (asked) => {
        asked.delete('page');
        if (next === '') asked.delete('day');
        else asked.set('day', next);
        return asked;
      },
      { replace: true },
    );
  };
  // What is only half typed asks for nothing.
  return (
    <div onChange={(event) => event.stopPropagation()}>
      <DateField label="Day" name="day" className="w-40" value={day} onChange={say} />
    </div>
  );
}

/** What is asked for, without what is not. */
const askedIn = (form: HTMLFormElement) =>
  new URLSearchParams(
    [...new FormData(form)].flatMap(([name, value]) =>
      typeof value === 'string' && value !== '' ? [[name, value]] : [],
    ),
  );

/** Why a reader heard, or did not, on a day. */
function Why({ why: { reader, reports }, day }: { why: NonNullable<Loaded['why']>; day: string }) {
  const { place, now } = useReader();
  const first = reader.name.split(' ')[0] ?? reader.name;
  const reach =
    reader.confirmedAt === null
      ? `${first} has not confirmed the address: all of it is kept back.`
      : reader.pausedAt === null
        ? null
        : `The address refused mail for good ${formatInstant(reader.pausedAt, 'moment', place)} ` +
          `(“${reader.pausedBecause ?? ''}”): since then all of it is kept back.`;
  return (
    <Section
      title={`What ${first} would have heard on ${formatInstant(windowOfDay(day, place.zone).from, 'date', place)}`}
      className="pt-4"
    >
      <div data-unheard>
        {reach === null ? null : <p className="mt-1 font-medium text-chestnut">{reach}</p>}
        {reports.length === 0 ? <p className="mt-1 text-second">No report reached {first} then.</p> : null}
        <dl className="mt-1 grid grid-cols-1 gap-x-6 sm:grid-cols-[max-content_minmax(0,1fr)]">
          {reports.map((each) => (
            <div key={each.report} className="contents">
              <dt className="font-medium">
                <Link className="hover:underline" to={`/reports/${each.report}`}>
                  {each.name}
                </Link>
              </dt>
              <dd className="text-second">{notNotifiedWords(each, first, now, place)}</dd>
            </div>
          ))}
        </dl>
      </div>
    </Section>
  );
}

function Deliveries({ rows }: { rows: OutboxRow[] }) {
  const { place, now } = useReader();
  const columns: Column<OutboxRow>[] = [
    {
      head: 'Mail',
      className: 'max-w-[26rem] truncate',
      cell: (row) => (
        <Link className="hover:underline" to={`/outbox/${row.id}`}>
          {row.subject ?? 'gathers what is kept back'}
        </Link>
      ),
    },
    {
      head: 'To',
      className: 'whitespace-nowrap text-second',
      cell: ({ person, personId, number, route }) => (
        <>
          <Link className="hover:underline" to={`/people/${personId}`}>
            {person}
          </Link>
          {number === null ? null : <span className="wide text-glance text-third">, mail {number}</span>}
          <span className="text-glance text-third"> {byChannel(route)}</span>
        </>
      ),
    },
    {
      head: 'State',
      className: 'max-w-72 truncate text-glance',
      cell: (row) => <DeliveryState row={row} now={now} place={place} />,
    },
    {
      head: 'Ordered',
      side: 'right',
      wide: true,
      className: 'text-glance whitespace-nowrap text-third',
      cell: (row) => formatRecent(row.orderedAt, now, place),
    },
  ];
  return (
    <Table name="outbox" columns={columns} rows={rows} keyOf={({ id }) => id} groupOf={editionWords} quietGroups />
  );
}

/** What a mail of no report is for. */
const LETTERS: Record<OutboxRow['purpose'], string> = {
  edition: 'An edition',
  confirmation: 'To confirm an address',
  invitation: 'To sign in',
  warning: 'What is nearly spent',
};

/** Of which edition a delivery is: `Pricing, daily, edition 12`. */
export function editionWords({
  report,
  editions,
  purpose,
}: Pick<OutboxRow, 'report' | 'editions' | 'purpose'>): string {
  if (report === null) return LETTERS[purpose];
  if (editions === null) return report.name;
  const { first, last, count } = editions;
  return `${report.name}, ${count === 1 ? `edition ${last}` : `${count} editions, ${first} to ${last}`}`;
}

/** What goes out so long after it was ordered says when it did. */
const LATER = 5 * MINUTE;

/** A delivery's state in words, with the server's own where it objected. */
export function DeliveryState({ row, now, place }: { row: OutboxRow; now: number; place: Place }) {
  if (row.state === 'sent')
    return (
      <span className="text-second">
        sent
        {row.sentAt !== null && row.sentAt - row.orderedAt > LATER ? ` ${formatRecent(row.sentAt, now, place)}` : ''}
        {row.attempts > 1 ? ` at attempt ${row.attempts}` : ''}
        {row.sentAgain ? ', sent again' : ''}
      </span>
    );
  const again =
    row.nextAttemptAt === null
      ? ''
      : `, again ${row.nextAttemptAt <= now ? 'now' : `in ${formatDuration(row.nextAttemptAt - now)}`}`;
  const held = row.heldUntil === null ? '' : ` until ${formatRecent(row.heldUntil, now, place)}`;
  const why = row.reason === null ? row.response : describeReasonOf(row.reason);
  return (
    <span className={row.heldUntil === null ? 'font-medium text-chestnut' : 'text-second'} title={why ?? undefined}>
      {row.state}
      {again}
      {held}
      {why === null ? '' : `: ${why}`}
    </span>
  );
}
