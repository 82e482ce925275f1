import { describeReasonOf } from '#core/tell/delivery';
import { formatDuration, formatRecent, type Place } from '#core/when/format';
import { MINUTE } from '#core/when/interval';
import type { OutboxRow } from '#server/db/delivery/deliveries';

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
