import type { Body } from '../body';
import type { WatchDefinition } from '../definition';
import { failedGuard, seemingCause, type GuardedPage } from '../guard';
import { mendListing } from './listing';
import type { FormerRecord, Mending } from './mending';
import { mendOneRecord } from './one-record';
import { rawRecords } from '../records';

/**
 * Proposes how a watch of a page reads it again, given its known records with their last good values. Null where there
 * is nothing to mend, and where another page came: that is waited for, not read.
 */
export function proposeMending(
  body: Body,
  definition: WatchDefinition,
  known: FormerRecord[],
  address: string | null,
): Mending | null {
  const { records } = definition;
  if (body.format !== 'html' || (records.from !== 'page' && records.from !== 'rows')) return null;
  const raw = rawRecords(body, records);
  const page: GuardedPage = { body, address, records: raw.ok ? raw.value.length : 0 };
  const cause = failedGuard(definition.guards, page)?.cause ?? seemingCause(body.document);
  if (cause === 'consent wall' || cause === 'sign-in page' || cause === 'retired page' || cause === 'another address')
    return null;
  return records.from === 'page'
    ? mendOneRecord(body.document, definition, known[0]?.fields ?? {}, page)
    : mendListing(body, definition, known, page);
}
