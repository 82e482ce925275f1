import { useState } from 'react';
import { Form, Link, useSearchParams, useSubmit } from 'react-router';
import { DELIVERY_STATES } from '#core/tell/delivery';
import { byChannel } from '#core/tell/channels';
import { formatInstant, formatRecent } from '#core/when/format';
import { windowOfDay } from '#core/when/wall-clock';
import type { OutboxRow } from '#server/db/delivery/deliveries';
import { useLive } from '../../../parts/live';
import { DateField } from '../../../ui/date-field';
import { SelectField } from '../../../ui/field';
import { Empty, PageHead, Section } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import { SearchAndNew } from '../../shell/frame/search';
import type { Route } from './+types/route';
import { notNotifiedWords } from './not-notified';
import { DeliveryState, editionWords } from '../../../parts/delivery';
import { MOST_UNSENT, PAGE } from './bounds';

const EVERY_MS = 1_000;

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
      cell: ({ person, personId, number, channel }) => (
        <>
          <Link className="hover:underline" to={`/people/${personId}`}>
            {person}
          </Link>
          {number === null ? null : <span className="wide text-glance text-third">, mail {number}</span>}
          <span className="text-glance text-third"> {byChannel(channel)}</span>
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
