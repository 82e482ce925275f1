import type { PresentValues } from '#core/plan/rule-draft';
import { isList, NUMBER_OF_RECORDS, numberOf } from '#core/read/all-records';
import type { WatchNow } from '#server/db/watch/views/watch-now';

/** The present values of a watch, as a rule is said on them: of a list with how many records there are. */
export function presentOf({ series, definition, recordCount }: WatchNow): PresentValues {
  const read = series.map(({ field, value }) => [field, value] as const);
  const number =
    isList(definition.records) && recordCount > 0 ? [[NUMBER_OF_RECORDS, numberOf(recordCount)] as const] : [];
  return Object.fromEntries([...read, ...number]);
}
