import { Link } from 'react-router';
import { formatInstant } from '#core/when/format';
import { Pager } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { LineRow, LinesPage } from './lines.server';

const GONE = 'The changes that it told are older than changes are kept; it still reads as it was made.';

/** Every line of an edition, also those that its mails have no room for. */
export function EveryLine({ lines: { rows, page, size, count, gone } }: { lines: LinesPage }) {
  const { place, locale } = useReader();
  if (count === 0) return <p className="py-4 text-second">{gone ? GONE : 'Nothing moved in its stretch.'}</p>;
  const columns: Column<LineRow>[] = [
    { head: 'What', cell: (row) => <Name row={row} /> },
    { head: 'How it moved', cell: (row) => <Moves row={row} /> },
    {
      head: 'Seen',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap text-third',
      cell: ({ at }) => formatInstant(at, 'moment', place),
    },
  ];
  return (
    <>
      <Table name="lines" columns={columns} rows={rows} keyOf={({ key }) => key} groupOf={({ group }) => group} />
      <Pager param="page" page={page} size={size} count={count} locale={locale} />
    </>
  );
}

function Name({ row: { watch, name, site } }: { row: LineRow }) {
  return (
    <>
      <Link className="link" to={`/watches/${watch}`}>
        {name}
      </Link>
      <span className="text-second">, {site}</span>
    </>
  );
}

function Moves({ row: { kind, fields } }: { row: LineRow }) {
  return (
    <>
      <span className="font-medium">{kind}</span>
      {fields.map(({ label, said }) => (
        <span key={label} className="block text-second">
          {label}: {said}
        </span>
      ))}
    </>
  );
}
