import type { AlertId, DeliveryId, PersonId, ReportId, WatchId } from '#core/id';
import { storedNews, type News } from '#core/tell/news';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from './pool';

/** Something that somebody was told. */
export interface ToldRow {
  alert: AlertId;
  watch: WatchId;
  /** The watch runs, so that it can be looked at. */
  runs: boolean;
  news: News;
  report: ReportId;
  reportName: string;
  delivery: DeliveryId;
  orderedAt: Instant;
  sentAt: Instant;
  dealtAt: Instant | null;
}

/** Where a page begins: after an alert of a delivery. */
export interface AfterTold {
  orderedAt: Instant;
  delivery: DeliveryId;
  alert: AlertId;
}

/** Each alert once, by the mail that told it first. */
const told = (after: string) => `
SELECT a.id AS alert, a.watch_id AS watch, w.state = 'running' AS runs, a.news, r.id AS report, r.name AS "reportName", d.id AS delivery, d.ordered_at AS "orderedAt", d.sent_at AS "sentAt",
  t.dealt_at AS "dealtAt"
FROM delivery d
JOIN telling t ON t.delivery_id = d.id AND t.decision = 'told'
JOIN alert a ON a.id = t.alert_id
JOIN watch w ON w.id = a.watch_id
JOIN report r ON r.id = t.report_id
WHERE d.person_id = $1 AND d.state = 'sent' ${after} AND NOT EXISTS (
  SELECT FROM telling o JOIN delivery e ON e.id = o.delivery_id
  WHERE o.alert_id = t.alert_id AND o.person_id = t.person_id AND o.decision = 'told' AND e.state = 'sent' AND (e.ordered_at, e.id) < (d.ordered_at, d.id))
ORDER BY d.ordered_at DESC, d.id DESC, a.id DESC LIMIT $2`;

/** The moment alone leads to an index; beside it only what stands after that place is let through. */
const AFTER = 'AND d.ordered_at <= $3 AND (d.ordered_at, d.id, a.id) < ($3, $4, $5)';

/** What somebody was told, the latest first, after a place; at most so many. */
export async function listTold(db: Db, person: PersonId, after: AfterTold | null, most: number): Promise<ToldRow[]> {
  const place = after === null ? [] : [moment(after.orderedAt), after.delivery, after.alert];
  const { rows } = await db.query<Omit<ToldRow, 'news'> & { news: unknown }>(told(after === null ? '' : AFTER), [person, most, ...place]);
  return rows.map(({ news, ...row }) => ({ ...row, news: storedNews.read(news) }));
}

/** She is done with an alert, or is not after all: by whatever reports it came. False where she was never told. */
export async function setDealt(db: Db, person: PersonId, alert: AlertId, at: Instant | null): Promise<boolean> {
  const { rowCount } = await db.query(`UPDATE telling SET dealt_at = $3 WHERE alert_id = $2 AND person_id = $1 AND decision = 'told'`, [
    person,
    alert,
    at === null ? null : moment(at),
  ]);
  return (rowCount ?? 0) > 0;
}
