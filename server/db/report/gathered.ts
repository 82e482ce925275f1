import type { AlertId, PersonId, ReportId, RuleId, WatchId } from '#core/id';
import { storedNews, type News } from '#core/tell/news';
import type { Instant } from '#core/when/interval';
import { OF_NOTICE, EDITION_NOTICE, type EditionNotice } from './edition-contents';
import { moment, type Db, type Statement } from '../base/pool';

// What reports that gather have taken and not told yet (4).

/** What a report has taken of a commit. */
export interface TakenNews {
  report: ReportId;
  /** For how long it gathers from the first news on, in ms. */
  gather: number;
  alerts: number[];
  notices: number[];
}

const GATHERED = `
WITH news AS (
  SELECT * FROM jsonb_to_recordset($1) AS n(report int, gather bigint, alerts bigint[], notices bigint[])
), due AS (
  UPDATE report r SET due_at = coalesce(r.due_at, $2::timestamptz + n.gather * interval '1 millisecond') FROM news n
  WHERE r.id = n.report
)
INSERT INTO gathered (report_id, alert_id, notice_id)
SELECT report, unnest(alerts), NULL FROM news UNION ALL SELECT report, NULL, unnest(notices) FROM news`;

/** Keeps what reports have taken, to be told when their time is up: it begins with the first of it. */
export const gatherNews = (taken: TakenNews[], at: Instant): Statement[] =>
  taken.length === 0 ? [] : [{ text: GATHERED, values: [JSON.stringify(taken), moment(at)] }];

const ALERTS = `
WITH taken AS (
  DELETE FROM gathered g USING alert a WHERE g.alert_id = a.id AND g.report_id = $1 AND a.seq <= $2
  RETURNING a.id, a.rule_id, a.watch_id, a.news, a.seen_at
)
SELECT id, rule_id AS "ruleId", watch_id AS "watchId", news FROM taken ORDER BY seen_at, id`;

const NOTICES = `
WITH taken AS (
  DELETE FROM gathered g USING notice n WHERE g.notice_id = n.id AND g.report_id = $1 AND n.seq <= $2
  RETURNING n.id, n.watch_id, n.kind, n.cause, n.sentence, n.since, n.made_at
)
SELECT ${EDITION_NOTICE} AS told FROM taken n ${OF_NOTICE} ORDER BY n.made_at, n.id`;

/** An alert that was gathered. */
export interface GatheredAlert {
  id: AlertId;
  ruleId: RuleId;
  watchId: WatchId;
  news: News;
}

/** Takes what a report has gathered up to a place in the order of commits: it is told now. */
export async function takeGathered(
  db: Db,
  report: ReportId,
  toSeq: number,
): Promise<{ alerts: GatheredAlert[]; notices: EditionNotice[] }> {
  const alerts = await db.query<Omit<GatheredAlert, 'news'> & { news: unknown }>(ALERTS, [report, toSeq]);
  const notices = await db.query<{ told: EditionNotice }>(NOTICES, [report, toSeq]);
  return {
    alerts: alerts.rows.map(({ news, ...alert }) => ({ ...alert, news: storedNews.read(news) })),
    notices: notices.rows.map(({ told }) => told),
  };
}

/**
 * Through which report people were told of alerts before, at once or at all, or were sent them at once by a moment: by
 * `person alert`.
 */
export async function notifiedBefore(
  db: Db,
  alerts: number[],
  { atOnce = false, sentBy = null }: { atOnce?: boolean; sentBy?: Instant | null } = {},
): Promise<Map<string, number>> {
  const { rows } = await db.query<{ alert: AlertId; person: PersonId; report: ReportId }>(
    `SELECT t.alert_id AS alert, t.person_id AS person, t.report_id AS report FROM notification t LEFT
      JOIN delivery d ON d.id = t.delivery_id
     WHERE t.alert_id = ANY($1) AND t.decision = 'told' AND (NOT $2 OR (d.at_once AND d.state <> 'given up'))
       AND ($3::timestamptz IS NULL OR (d.state = 'sent' AND d.sent_at <= $3))`,
    [alerts, atOnce, sentBy === null ? null : moment(sentBy)],
  );
  return new Map(rows.map(({ alert, person, report }) => [`${person} ${alert}`, report]));
}
