import type { EditionId, ReportId } from '#core/id';
import { Form, Link } from 'react-router';
import { shareWords } from '#core/tell/edition/words';
import { sanitiseText } from '#core/value/sanitise';
import { formatRecent } from '#core/when/format';
import { countOf } from '#core/words';
import { searchEditions, type FoundEdition } from '#server/db/report/editions';
import { reportNames } from '#server/db/report/reports';
import { readId, readInstant, readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { SelectField, TextField } from '../../../ui/field';
import { PageHead, Where } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [{ title: 'Editions · Shrike' }];

const PAGE = 50;
const LONGEST_WORDS = 200;
const MOST_REPORTS = 500;

/** The editions of all reports, or of one; those whose mails hold some words. */
export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'report' });
  const { pool } = services();
  const asked = new URL(request.url).searchParams;
  const words = sanitiseText(asked.get('words') ?? '')
    .trim()
    .slice(0, LONGEST_WORDS);
  const report = readId<ReportId>(asked.get('report'));
  const id = readLongId<EditionId>(asked.get('id'));
  const after = id === 0 ? null : { id, madeAt: readInstant(asked.get('before')) };
  const found = await searchEditions(pool, { report: report === 0 ? null : report, words }, after, PAGE + 1);
  const editions = found.slice(0, PAGE);
  return {
    editions,
    words,
    report: report === 0 ? '' : String(report),
    reports: await reportNames(pool, MOST_REPORTS),
    begun: after !== null,
    next: found.length > PAGE ? (editions.at(-1) ?? null) : null,
  };
}

export default function Editions({
  loaderData: { editions, words, report, reports, begun, next },
}: Route.ComponentProps) {
  const { place, now } = useReader();
  const asked = { ...(words === '' ? {} : { words }), ...(report === '' ? {} : { report }) };
  const to = (more: Record<string, string>) => `?${new URLSearchParams({ ...asked, ...more }).toString()}`;
  const columns: Column<FoundEdition>[] = [
    {
      head: 'Edition',
      cell: ({ id, name, number, share }) => (
        <Link className="link" to={`/editions/${id}`}>
          {name}, edition {number}
          {share === null ? '' : `, ${shareWords(share)}`}
        </Link>
      ),
    },
    {
      head: 'Lines',
      side: 'right',
      className: 'text-second',
      cell: ({ lines }) => (lines === null ? 'at once' : countOf(lines, 'line')),
    },
    {
      head: 'Sent',
      side: 'right',
      wide: true,
      className: 'text-second',
      cell: ({ sent, deliveries }) => `${sent} of ${deliveries}`,
    },
    {
      head: 'Made',
      side: 'right',
      className: 'whitespace-nowrap text-second',
      cell: ({ madeAt }) => formatRecent(madeAt, now, place),
    },
  ];
  return (
    <>
      <PageHead>
        <Where within={[{ name: 'Reports', to: '/reports' }]}>editions</Where>
        <h1 className="sr-only">Editions</h1>
      </PageHead>
      <Form method="get" className="flex flex-wrap items-end gap-x-5 gap-y-2 pt-3" key={to({})}>
        <TextField
          className="w-64"
          label="With these words in its mail"
          name="words"
          maxLength={LONGEST_WORDS}
          defaultValue={words}
        />
        <SelectField
          label="Of the report"
          name="report"
          defaultValue={report}
          options={[
            { value: '', label: 'all of them' },
            ...reports.map(({ id, name }) => ({ value: String(id), label: name })),
          ]}
        />
        <Button type="submit">Search</Button>
      </Form>
      {editions.length === 0 ? (
        <p className="py-6 text-second">
          {words === '' && report === ''
            ? 'No edition was made yet.'
            : 'No edition is of this sort; words are looked for in the latest 1,000.'}
        </p>
      ) : (
        <>
          <Table name="editions" className="pt-2" columns={columns} rows={editions} keyOf={({ id }) => id} />
          <Onward
            first={begun ? to({}) : null}
            next={next === null ? null : to({ before: String(next.madeAt), id: String(next.id) })}
            size={PAGE}
          />
        </>
      )}
    </>
  );
}
