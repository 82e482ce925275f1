import { proposerOf, type Proposal } from '#core/items/proposals';
import { wordsOf } from '#core/value/value';
import { countItems, itemsSaying } from '#server/db/item/items';
import type { RecordNow } from '#server/db/reading/records';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { services } from '../../../services.server';
import type { ItemsSeen } from './item-of';

/** Whether there are items, and which of them records say that they are offers of. */
export async function itemsSeen({ definition }: WatchNow, records: RecordNow[]): Promise<ItemsSeen> {
  const { pool } = services();
  if ((await countItems(pool)) === 0) return { known: false, proposals: {} };
  const saying = new Set(definition.fields.filter(({ role }) => role === 'identifier').map(({ key }) => key));
  const offered = records
    .filter(({ item, goneSince }) => item === null && goneSince === null)
    .map(({ id, identity, series }) => ({
      id,
      identity,
      identifiers: series
        .filter(({ field }) => saying.has(field))
        .flatMap(({ value }) => wordsOf(value) ?? ('amount' in value ? value.amount : [])),
    }));
  const propose = proposerOf(
    await itemsSaying(pool, [...new Set(offered.flatMap(({ identity, identifiers }) => [identity, ...identifiers]))]),
  );
  const proposals: Record<number, Proposal> = {};
  for (const record of offered) {
    const found = propose(record);
    if (found !== null) proposals[record.id] = found;
  }
  return { known: true, proposals };
}
