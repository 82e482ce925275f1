import { nextDue, type Instant } from '#core/when/interval';
import { spreadDue, type ClaimedSource } from '../../db/sources';
import type { FetchedPage } from '../../fetch/fetcher';
import type { DueWatch } from '../context';
import type { GoodField } from '../judge';

/** What is known of a run as soon as its fetch is back. */
export interface RunFacts {
  runId: number;
  source: ClaimedSource;
  startedAt: Instant;
  tookMs: number;
  same: boolean;
  status: number | null;
  bytes: number;
}

/** The body that is read: a stored snapshot (with an id), or a page to be stored. */
export interface StoredSnapshot {
  id: number | null;
  body: string;
  page: FetchedPage | null;
}

/** A problem as kept on a run, a watch or a series: which link broke, and why in a sentence. */
export interface StoredProblem {
  link: 'source' | 'value';
  reason: string;
  sentence: string;
}

/** A read field with the ids its rows have. */
export interface StoredField {
  watch: DueWatch;
  good: GoodField;
  seriesId: number;
}

/** After a baseline the grid starts at the source's own share of the interval. */
export function dueAfter(source: ClaimedSource, startedAt: Instant, intervalMs: number): Instant {
  return source.bodyHash === null ? spreadDue(source.id, startedAt, intervalMs) : nextDue(source.dueAt, intervalMs, startedAt);
}
