import { quietAfter, type Instant } from '#core/when/interval';
import type { WatchNow } from '#server/db/watch-page';

/** Since when a point of a sensor or metric stands unconfirmed while others are read; null where it is heard of. */
export function unheardSince({ definition, frequency }: WatchNow, { quality, heardAt, lastGoodAt }: WatchNow['series'][number]): Instant | null {
  if (definition.records.from !== 'senml' && definition.records.from !== 'metrics') return null;
  return quality === 'bad' || lastGoodAt - heardAt > quietAfter(frequency) ? heardAt : null;
}
