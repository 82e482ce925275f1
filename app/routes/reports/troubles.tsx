import { listed } from '#core/words';
import type { ReportNow } from '#server/db/reports';

/** What keeps somebody from hearing. */
export function Troubles({ report: { unconfirmed, paused, left, hearing, readers, problem } }: { report: ReportNow }) {
  const troubles = [
    readers.length === 0 || hearing === 0 ? 'Nobody reads it.' : '',
    left.length > 0 ? `${listed(left, 3)} left it.` : '',
    paused.length > 0 ? `${listed(paused, 3)} cannot be reached: the address refused mail for good.` : '',
    unconfirmed.length > 0
      ? `${listed(unconfirmed, 3)} ${unconfirmed.length === 1 ? 'has not confirmed an address' : 'have not confirmed their addresses'}.`
      : '',
    problem ?? '',
  ].filter(Boolean);
  return troubles.length === 0 ? null : <span className="block text-glance font-medium text-chestnut">{troubles.join(' ')}</span>;
}
