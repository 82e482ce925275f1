import { Link, useSearchParams } from 'react-router';
import { formatAgo } from '#core/tell/chain';
import { formatValue } from '#core/value/format';
import { formatRecent } from '#core/when/format';
import type { ChangeRow, Trail, WatchNow } from '#server/db/watch-page';
import { Difference } from '../../parts/difference';
import { labelOf } from '../../parts/plan/plan';
import { Section } from '../../ui/page';
import { useReader } from '../shell/reader';

interface ChangesProps {
  watch: WatchNow;
  changes: ChangeRow[];
  changeCount: number;
  trail: Trail | null;
}

function withChange(asked: URLSearchParams, id: number): string {
  const next = new URLSearchParams(asked);
  next.set('change', String(id));
  return next.toString();
}

/** The changes of a watch, the latest first; each leads to its trail. */
export function Changes({ watch, changes, changeCount, trail }: ChangesProps) {
  const { place, locale, now } = useReader();
  const [asked] = useSearchParams();
  if (changes.length === 0) {
    return (
      <Section title="Changes">
        <p className="mt-2 text-second">
          None so far. {watch.lastRunAt === null ? 'The first look is a baseline.' : `The last look was ${formatAgo(watch.lastRunAt, now)}.`}
        </p>
      </Section>
    );
  }
  return (
    <Section title="Changes" aside={changeCount > changes.length ? `the latest ${changes.length} of ${changeCount}` : `${changeCount} in all`}>
      <div className="max-h-[300px] overflow-auto">
        <table className="w-full" data-changes>
          <thead className="sticky top-0 bg-page">
            <tr>
              <th className="head-cell text-left">Seen</th>
              <th className="head-cell text-left">Field</th>
              <th className="head-cell text-right">Was</th>
              <th className="head-cell pl-3 text-right">Now</th>
              <th className="head-cell pl-3 text-right">Difference</th>
              <th className="head-cell pl-3 text-right">Told</th>
            </tr>
          </thead>
          <tbody>
            {changes.map((change) => (
              <tr key={change.id} aria-current={change.id === trail?.change.id ? 'true' : undefined} className="aria-[current]:bg-paper">
                <td className="cell text-glance whitespace-nowrap">
                  <Link
                    className="link text-second"
                    to={`?${withChange(asked, change.id)}`}
                    preventScrollReset
                    replace
                    aria-label={`Trail of the change of ${formatRecent(change.seenAt, now, place)}`}
                  >
                    {formatRecent(change.seenAt, now, place)}
                  </Link>
                </td>
                <td className="cell">
                  {change.record === null || watch.definition.records.from === 'page' ? null : (
                    <span className="block max-w-44 truncate" title={change.record}>
                      {change.record}
                    </span>
                  )}
                  <span className={watch.definition.records.from === 'page' ? '' : 'text-glance text-third'}>
                    {labelOf(watch.definition.fields, change.field)}
                  </span>
                </td>
                <td className="cell max-w-40 truncate text-right text-third">{formatValue(change.from, locale)}</td>
                <td className="cell max-w-40 truncate pl-3 text-right">{formatValue(change.to, locale)}</td>
                <td className="cell pl-3 text-right">
                  <Difference change={change} locale={locale} />
                </td>
                <td className="cell pl-3 text-right text-glance whitespace-nowrap text-third">
                  {change.alerts === 0 ? 'not raised' : `${change.told} told`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Section>
  );
}
