import type { PersonId, ReportId } from '#core/id';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../base/pool';

/**
 * What a report did for a reader in a stretch besides the mails that it ordered: why she heard nothing of it, or not
 * more.
 */
export interface NotNotified {
  report: ReportId;
  name: string;
  cadence: string;
  /** When she left it, where she had by the end of the stretch. */
  leftAt: Instant | null;
  /** When it was made, where that was after the stretch began. */
  madeAt: Instant | null;
  /** Mails of it that were ordered for her. */
  mails: number;
  cuts: number;
  /** Cuts that brought nothing which it tells. */
  quiet: number;
  /** Cuts whose edition is not made yet. */
  open: number;
  /** Alerts of which another report told her, and which. */
  stoodBack: number;
  inFavourOf: string[];
  dueAt: Instant | null;
}

const NOT_NOTIFIED = `
SELECT r.id AS report, r.name, v.definition->'cadence'->>'cut' AS cadence, r.due_at AS "dueAt",
  (SELECT max(l.left_at) FROM reader_left l
  WHERE l.report_id = r.id AND l.person_id = $1 AND l.left_at < $3
    AND (l.back_at IS NULL OR l.back_at > $2)) AS "leftAt",
  CASE WHEN r.made_at > $2 THEN r.made_at END AS "madeAt",
  (SELECT count(*)::int FROM delivery d
  WHERE d.report_id = r.id AND d.person_id = $1 AND d.ordered_at >= $2 AND d.ordered_at < $3) AS mails,
  c.cuts, c.quiet, c.open, t."stoodBack", t."inFavourOf"
FROM report r JOIN report_version v ON v.report_id = r.id AND v.version = r.version
CROSS JOIN LATERAL (
  SELECT count(*)::int AS cuts, count(*) FILTER (WHERE c.composed_at IS NULL)::int AS open,
    count(*) FILTER (WHERE c.lines IS NOT NULL AND NOT EXISTS (SELECT FROM edition e WHERE e.cut_id = c.id))::int AS
      quiet
  FROM cut c WHERE c.report_id = r.id AND c.made_at >= $2 AND c.made_at < $3
) c
CROSS JOIN LATERAL (
  SELECT count(*)::int AS "stoodBack",
    coalesce(array_agg(DISTINCT o.name) FILTER (WHERE o.name IS NOT NULL), '{}') AS "inFavourOf"
  FROM notification t JOIN alert a ON a.id = t.alert_id LEFT JOIN report o ON o.id = t.in_favour_of
  WHERE t.report_id = r.id AND t.person_id = $1 AND t.decision = 'stood back' AND a.seen_at >= $2 AND a.seen_at < $3
) t
WHERE (r.ended_at IS NULL OR r.ended_at > $2) AND r.made_at < $3 AND ($4::int IS NULL OR r.id = $4)
  AND (EXISTS (SELECT FROM report_reader rr LEFT JOIN list_member m ON m.list_id = rr.list_id
  WHERE rr.report_id = r.id AND coalesce(rr.person_id, m.person_id) = $1)
    OR EXISTS (SELECT FROM delivery d
    WHERE d.report_id = r.id AND d.person_id = $1 AND d.ordered_at >= $2 AND d.ordered_at < $3))
ORDER BY r.name, r.id LIMIT 200`;

/** What each report that reaches a reader did for her in a stretch, its end not included. */
export async function notNotifiedBy(
  db: Db,
  person: PersonId,
  stretch: { from: Instant; until: Instant },
  report: ReportId | null,
): Promise<NotNotified[]> {
  return (await db.query<NotNotified>(NOT_NOTIFIED, [person, moment(stretch.from), moment(stretch.until), report]))
    .rows;
}
