import type { RunId, SnapshotId } from '#core/id';
import { DAY, nextDue, type Instant } from '#core/when/interval';
import { spreadDue, type ClaimedSource } from '../db/source/sources';
import type { FetchedPage } from '../fetch/fetcher';

/** What is known of a run as soon as its fetch is back. */
export interface RunFacts {
  runId: RunId;
  source: ClaimedSource;
  startedAt: Instant;
  tookMs: number;
  same: boolean;
  status: number | null;
  bytes: number;
}

/** The body that is read: a stored snapshot (with an id), or a page to be stored. */
export interface StoredSnapshot {
  id: SnapshotId | null;
  body: string;
  /** Where it came from, after redirects. */
  address: string;
  page: FetchedPage | null;
}

/** A problem as kept on a run, a watch or a series: which link broke, and why in a sentence. */
export interface StoredProblem {
  link: 'source' | 'value';
  reason: string;
  sentence: string;
}

/** Failed runs that are borne at the usual pace; from then on each doubles the time to the next, up to a day. */
const PATIENCE = 3;

/** When a source that failed so many times in a row is asked again: it slows, then rests, then is tried daily. */
export function dueAfterFailure(
  source: ClaimedSource,
  startedAt: Instant,
  intervalMs: number,
  failures: number,
): Instant {
  if (failures <= PATIENCE) return dueAfter(source, startedAt, intervalMs);
  const slowed = intervalMs * 2 ** Math.min(failures - PATIENCE, 20);
  return startedAt + Math.max(intervalMs, Math.min(slowed, DAY));
}

/** After a baseline the grid starts at the source's own share of the interval. */
export function dueAfter(source: ClaimedSource, startedAt: Instant, intervalMs: number): Instant {
  return source.bodyHash === null
    ? spreadDue(source.id, startedAt, intervalMs)
    : nextDue(source.dueAt, intervalMs, startedAt);
}
