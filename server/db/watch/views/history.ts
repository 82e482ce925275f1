import type { RecordId, WatchId } from '#core/id';
import type { Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../base/pool';

/** How punctual a watch has been since a moment: its runs, and how late they began, in milliseconds. */
export interface Punctuality {
  runs: number;
  usualMs: number;
  mostMs: number;
}

/** How late the runs of a watch began since a moment; null where there was none. */
export async function findPunctuality(db: Db, watchId: WatchId, from: Instant): Promise<Punctuality | null> {
  const { rows } = await db.query<Punctuality>(
    `SELECT count(*) AS runs, percentile_disc(0.5) WITHIN GROUP (ORDER BY r.late_ms) AS "usualMs",
      max(r.late_ms) AS "mostMs"
     FROM watch_run w JOIN run r ON r.id = w.run_id AND r.started_at = w.started_at
     WHERE w.watch_id = $1 AND w.started_at >= $2 AND r.started_at >= $2`,
    [watchId, moment(from)],
  );
  return rows[0] === undefined || rows[0].runs === 0 ? null : rows[0];
}

/** One run as the ribbon shows it. */
export interface RunTick {
  at: Instant;
  outcome: 'first' | 'same' | 'changed' | 'failed';
  sentence: string | null;
}

const MOST_TICKS = 2000;

/** The runs of a watch since a moment, the oldest first. */
export async function listRuns(db: Db, watchId: WatchId, from: Instant): Promise<RunTick[]> {
  const { rows } = await db.query<RunTick>(
    `SELECT started_at AS at, outcome, problem->>'sentence' AS sentence FROM watch_run
     WHERE watch_id = $1 AND started_at >= $2 ORDER BY started_at DESC LIMIT ${MOST_TICKS}`,
    [watchId, moment(from)],
  );
  return rows.reverse();
}

/** A stretch through which a rule stayed met. */
export interface EpisodeRow {
  id: number;
  recordId: RecordId;
  /** The field that its rule looks at; null of one that asks none. */
  field: string | null;
  openedAt: Instant;
  closedAt: Instant | null;
  /** The value furthest beyond its limit; null of a rule that has none to be beyond. */
  peak: Value | null;
}

/** The episodes of a watch's rules that reach into a window. */
export async function listEpisodes(db: Db, watchId: WatchId, from: Instant): Promise<EpisodeRow[]> {
  const { rows } = await db.query<EpisodeRow>(
    `SELECT e.id, e.record_id AS "recordId", r.field, e.opened_at AS "openedAt", e.closed_at AS "closedAt", CASE
      WHEN v.definition->'when' ? 'limits' THEN shown(e.peak) END AS peak
     FROM episode e JOIN rule r ON r.id = e.rule_id JOIN rule_version v ON v.rule_id = r.id AND v.version = r.version
     WHERE r.watch_id = $1 AND (e.closed_at IS NULL OR e.closed_at >= $2) ORDER BY e.opened_at`,
    [watchId, moment(from)],
  );
  return rows;
}
