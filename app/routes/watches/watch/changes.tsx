import { Link, useSearchParams } from 'react-router';
import { formatAgo } from '#core/tell/chain';
import { formatValue } from '#core/value/format';
import { formatRecent } from '#core/when/format';
import type { ChangeRow, Trail } from '#server/db/reading/views/changes';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { Difference } from '../../../parts/difference';
import { labelOf } from '#core/plan/plan';
import { Section } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';

interface ChangesProps {
  watch: WatchNow;
  changes: ChangeRow[];
  changeCount: number;
  trail: Trail | null;
  /** The trail of other news, where that is shown instead. */
  other: object | null;
}

function withChange(asked: URLSearchParams, id: number): string {
  const next = new URLSearchParams(asked);
  next.set('change', String(id));
  next.delete('news');
  return next.toString();
}

/** The changes of a watch, the latest first; each leads to its trail. */
export function Changes({ watch, changes, changeCount, trail, other }: ChangesProps) {
  const { place, locale, now } = useReader();
  const [asked] = useSearchParams();
  if (changes.length === 0) {
    return (
      <Section title="Changes">
        <p className="mt-2 text-second">
          None so far.{' '}
          {watch.lastRunAt === null
            ? 'The first run is a baseline.'
            : `The last run was ${formatAgo(watch.lastRunAt, now)}.`}
        </p>
      </Section>
    );
  }
  const single = watch.definition.records.from === 'page';
  const columns: Column<ChangeRow>[] = [
    {
      head: 'Seen',
      className: 'text-glance whitespace-nowrap',
      cell: (change) => (
        <Link
          className="link text-second"
          to={`?${withChange(asked, change.id)}`}
          preventScrollReset
          replace
          aria-label={`Trail of the change of ${formatRecent(change.seenAt, now, place)}`}
        >
          {formatRecent(change.seenAt, now, place)}
        </Link>
      ),
    },
    {
      head: 'Field',
      cell: (change) => (
        <>
          {change.record === null || single ? null : (
            <span className="block max-w-44 truncate" title={change.record}>
              {change.record}
            </span>
          )}
          <span className={single ? '' : 'text-glance text-third'}>
            {labelOf(watch.definition.fields, change.field)}
          </span>
        </>
      ),
    },
    {
      head: 'Was',
      side: 'right',
      wide: true,
      className: 'max-w-40 truncate text-third',
      cell: (change) => formatValue(change.from, locale),
    },
    { head: 'Now', side: 'right', className: 'max-w-40 truncate', cell: (change) => formatValue(change.to, locale) },
    { head: 'Difference', side: 'right', cell: (change) => <Difference change={change} locale={locale} /> },
    {
      head: 'Told',
      side: 'right',
      wide: true,
      className: 'text-glance whitespace-nowrap text-third',
      cell: (change) => (change.alerts === 0 ? 'not raised' : `${change.told} told`),
    },
  ];
  return (
    <Section
      title="Changes"
      aside={changeCount > changes.length ? `the latest ${changes.length} of ${changeCount}` : `${changeCount} in all`}
    >
      <Table
        name="changes"
        most="max-h-[300px]"
        columns={columns}
        rows={changes}
        keyOf={({ id }) => id}
        isCurrent={({ id }) => other === null && id === trail?.change.id}
      />
    </Section>
  );
}
