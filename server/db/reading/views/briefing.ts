import type { ChangeId, RecordId, SeriesId, WatchId } from '#core/id';
import { storedNews, type News } from '#core/tell/news';
import type { Change } from '#core/compare/compare';
import { roleFor, type Role } from '#core/read/role';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../base/pool';

/** A change with what a page about all watches says of it. */
export interface BriefingChange extends Change {
  id: ChangeId;
  watchId: WatchId;
  subject: string;
  site: string;
  /** Which of several records it happened to; null where the watch reads one. */
  record: { id: RecordId; name: string } | null;
  field: { key: string; label: string; role?: Role };
  seenAt: Instant;
  lookedBefore: Instant;
  alerted: boolean;
}

const FIELD = `
  SELECT f FROM jsonb_array_elements(v.definition->'fields') f
  WHERE f->>'key' = c.field`;

const CHANGES = `
SELECT c.id, c.watch_id AS "watchId",
  CASE WHEN v.definition->'records'->>'from' <> 'page'
    THEN jsonb_build_object('id', r.id, 'name', coalesce(r.name, r.identity)) END AS record,
  v.definition->>'subject' AS subject, t.name AS site, c.kind,
  coalesce(c.was_shown, shown(c.was)) AS "from", coalesce(c.now_shown, shown(c.now)) AS "to",
  c.difference, c.percent, c.sense, c.seen_at AS "seenAt", c.looked_before AS "lookedBefore",
  jsonb_strip_nulls(jsonb_build_object('key', c.field, 'label', coalesce(field.f->>'label', c.field), 'role',
    field.f->>'role')) AS field,
  EXISTS (SELECT FROM alert a WHERE a.change_id = c.id) AS alerted
FROM change c
JOIN watch w ON w.id = c.watch_id AND w.state <> 'deleted'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id
LEFT JOIN series x ON x.id = c.series_id
LEFT JOIN record r ON r.id = coalesce(c.record_id, x.record_id)
LEFT JOIN LATERAL (${FIELD}) field ON true
WHERE c.seen_at > $1
ORDER BY c.seen_at DESC, c.id DESC LIMIT $2`;

/** The changes of every watch since a moment, the latest first. */
export async function changesSince(db: Db, since: Instant, limit: number): Promise<BriefingChange[]> {
  const { rows } = await db.query<BriefingChange>(CHANGES, [moment(since), limit]);
  return rows.map((change) => ({ ...change, field: { ...change.field, ...roleOf(change) } }));
}

/** What the field of a change is; of a watch that was kept before its fields had a role it is told by its name. */
function roleOf({ field, to }: BriefingChange): { role?: Role } {
  const role =
    field.role ??
    roleFor({ label: field.label, type: { kind: to.kind === 'money' ? 'money' : 'stated' }, locators: [] });
  return role === null ? {} : { role };
}

/** An alert with its news and who was told. */
export interface BriefingAlert {
  id: number;
  watchId: WatchId;
  changeId: ChangeId | null;
  seriesId: SeriesId | null;
  news: News;
  report: string | null;
  stillRaised: boolean;
  /** Its episode is over. */
  over: boolean;
  address: string;
}

const ALERTS = `
SELECT a.id, a.watch_id AS "watchId", a.change_id AS "changeId", a.series_id AS "seriesId", a.news,
  (SELECT string_agg(DISTINCT r.name, '; ') FROM notification t JOIN report r ON r.id = t.report_id
  WHERE t.alert_id = a.id AND t.decision = 'told') AS report,
  e.id IS NOT NULL AND e.closed_at IS NULL AS "stillRaised", e.closed_at IS NOT NULL AS over, s.address
FROM alert a JOIN watch w ON w.id = a.watch_id AND w.state <> 'deleted' JOIN source s ON s.id = w.source_id LEFT
JOIN episode e ON e.id = a.episode_id
WHERE a.seen_at > $1 ORDER BY a.seen_at DESC, a.id DESC LIMIT $2`;

/** The alerts of every watch since a moment, the latest first. */
export async function alertsSince(db: Db, since: Instant, limit: number): Promise<BriefingAlert[]> {
  const { rows } = await db.query<BriefingAlert>(ALERTS, [moment(since), limit]);
  return rows.map(({ news, ...alert }) => ({ ...alert, news: storedNews.read(news) }));
}
