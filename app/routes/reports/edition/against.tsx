import { Link } from 'react-router';
import type { Against } from '#core/tell/edition/against';
import type { Row } from '#core/tell/edition/groups';
import { movedWords } from '#core/tell/edition/words';
import { formatValue } from '#core/value/format';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';

/** What moved in an edition and in the one before it, side by side. */
export function AgainstBefore({ before, now, rows }: { before: number | null; now: number; rows: Against[] }) {
  const { locale } = useReader();
  if (before === null) return <p className="py-4 text-second">There is none before it to hold it against.</p>;
  const told = (row: Row | null) =>
    row === null ? <span className="text-third">–</span> : <Told row={row} locale={locale} />;
  const columns: Column<Against>[] = [
    { head: 'What', cell: ({ now: own, before: then }) => <Name row={own ?? then} /> },
    { head: `Edition ${before}`, side: 'right', cell: ({ before: then }) => told(then) },
    { head: `Edition ${now}`, side: 'right', cell: ({ now: own }) => told(own) },
  ];
  const groupOf = ({ before: then, now: own }: Against) =>
    then === null ? 'Moved in this one alone' : own === null ? `Moved in edition ${before} alone` : 'Moved in both';
  if (rows.length === 0) return <p className="py-4 text-second">Nothing that moved stands in either of them.</p>;
  return <Table name="against" columns={columns} rows={rows} keyOf={({ key }) => key} groupOf={groupOf} />;
}

function Name({ row }: { row: Row | null }) {
  if (row === null) return null;
  const { record, site, field } = row;
  const label = field === null || field.role === 'price' ? '' : `, ${field.label}`;
  if (record === null) return <>{site.name}</>;
  return (
    <>
      <Link className="link" to={`/watches/${record.watch}`}>
        {record.name}
      </Link>
      <span className="text-second">
        {label}, {site.name}
      </span>
    </>
  );
}

function Told({ row, locale }: { row: Row; locale: string }) {
  const { was, now } = row;
  const [from, to] = [was, now].map((value) =>
    value === null || value.kind === 'absent' ? '' : formatValue(value, locale).slice(0, LONGEST),
  );
  return (
    <>
      <span className="text-third">{from}</span> {to}
      <span className="block text-second">{movedWords(row, locale)}</span>
    </>
  );
}

const LONGEST = 60;
