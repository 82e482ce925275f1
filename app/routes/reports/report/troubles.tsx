import { unreachedWords } from '#core/tell/reach';
import { listed } from '#core/words';
import type { ReportNow } from '#server/db/report/reports';

/** What keeps somebody from hearing. */
export function Troubles({ report: { hearing, left, problem } }: { report: ReportNow }) {
  const troubles = [
    hearing.length === 0 ? 'Nobody reads it.' : '',
    left.length > 0 ? `${listed(left, 3)} left it.` : '',
    ...unreachedWords(hearing).map((said) => `${said}.`),
    problem ?? '',
  ].filter(Boolean);
  return troubles.length === 0 ? null : (
    <span className="block text-glance font-medium text-chestnut">{troubles.join(' ')}</span>
  );
}
