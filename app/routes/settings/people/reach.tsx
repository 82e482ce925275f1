import { formatRecent } from '#core/when/format';
import type { ReaderNow } from '#server/db/person/readers';
import { useReader } from '../../shell/frame/reader';

/** Whether somebody can be reached, and if not, why. */
export function Reach({ reader: { confirmedAt, askedAt, pausedAt, pausedBecause, keptBack } }: { reader: ReaderNow }) {
  const { now, place } = useReader();
  const kept = keptBack === 0 ? '' : `; ${keptBack === 1 ? 'one mail' : `${keptBack} mails`} kept back`;
  if (pausedAt !== null)
    return (
      <span className="text-chestnut">
        paused {formatRecent(pausedAt, now, place)}: “{pausedBecause}”{kept}
      </span>
    );
  if (confirmedAt === null)
    return (
      <span className="text-chestnut">
        not confirmed, {askedAt === null ? 'not asked yet' : `asked ${formatRecent(askedAt, now, place)}`}
        {kept}
      </span>
    );
  return <span className="text-second">confirmed{kept}</span>;
}
