import type { ReportId, SeriesId } from '#core/id';
import type { MoveId } from '#core/tell/edition/move';
import type { Instant } from '#core/when/interval';
import { moment, type Db, type Statement } from '../base/pool';

// What a report showed last of each series, for one that counts from there (2): every edition adds to it, so that what
// any of them counted from can be told later.

/** Up to where a report showed a series, and when that was. */
export interface LastShown {
  seq: number;
  at: Instant;
}

const LAST = `
SELECT s.id AS series, greatest(coalesce(h.to_seq, 0), r.counts_from_seq) AS seq,
  CASE WHEN h.to_seq > r.counts_from_seq THEN h.shown_at ELSE r.counts_from_at END AS at
FROM report r CROSS JOIN unnest($2::bigint[]) AS s(id)
LEFT JOIN LATERAL (
  SELECT x.to_seq, x.shown_at FROM report_shown x WHERE x.report_id = r.id AND x.series_id = s.id AND x.to_seq <= $3
  ORDER BY x.to_seq DESC LIMIT 1
) h ON true
WHERE r.id = $1 AND r.counts_from_seq IS NOT NULL`;

/** What a report had last shown of series before a place in the order of commits: since it counts so, at the least. */
export async function lastShown(
  db: Db,
  report: ReportId,
  series: SeriesId[],
  before: number,
): Promise<Map<SeriesId, LastShown>> {
  const { rows } = await db.query<LastShown & { series: SeriesId }>(LAST, [report, series, before]);
  return new Map(rows.map(({ series: id, ...shown }) => [id, shown]));
}

const SHOWN = `
INSERT INTO report_shown (report_id, series_id, to_seq, shown_at)
SELECT DISTINCT $1::int, c.series_id, $3::bigint, $4::timestamptz FROM change c
WHERE c.id = ANY($2::bigint[]) AND c.series_id IS NOT NULL
ON CONFLICT (report_id, series_id, to_seq) DO NOTHING`;

/** Keeps that a report showed the series of these changes, up to its cut. */
export const showed = (report: ReportId, changes: MoveId[], toSeq: number, at: Instant): Statement => ({
  text: SHOWN,
  values: [report, changes, toSeq, moment(at)],
});

/** Lets a report count from its last cut on, where it does not yet, or no longer. */
export async function countFromCut(db: Db, report: ReportId, counts: boolean): Promise<void> {
  const set = counts
    ? `counts_from_seq = coalesce(counts_from_seq, cut_seq), counts_from_at = coalesce(counts_from_at, cut_at)`
    : `counts_from_seq = NULL, counts_from_at = NULL`;
  await db.query(`UPDATE report SET ${set} WHERE id = $1`, [report]);
}
