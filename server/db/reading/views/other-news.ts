import type { AlertId, DeliveryId, NoticeId, SeriesId, WatchId } from '#core/id';
import type { Condition } from '#core/judge/clause';
import { readReason, type Reason } from '#core/judge/reason';
import type { Cause } from '#core/tell/failure';
import { storedNews, type News } from '#core/tell/news';
import type { Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { NOTIFICATIONS, type Notification } from './changes';
import type { Db } from '../../base/pool';

// What there is to tell of a watch besides its changes: alerts that no change raised, that it broke or is read again,
// and what was first read.

/** One piece of it. */
export type OtherNews = { at: Instant } & (
  | { of: 'alert'; id: AlertId; news: News }
  | { of: 'failure'; id: NoticeId; kind: 'failing' | 'recovered'; cause: Cause; sentence: string }
  | { of: 'first reading'; id: SeriesId; field: string; record: string | null; value: Value }
);

const COLUMNS: Record<OtherNews['of'], string> = {
  alert: `SELECT 'alert' AS of, c.id, c.seen_at AS at, c.news
    FROM alert c
    WHERE c.watch_id = $1 AND c.change_id IS NULL`,
  failure: `SELECT 'failure' AS of, c.id, c.made_at AS at, c.kind, c.cause, c.sentence
    FROM notice c
    WHERE c.watch_id = $1 AND c.kind IN ('failing', 'recovered')`,
  'first reading': `SELECT 'first reading' AS of, c.series_id AS id, c.seen_at AS at, s.field, r.name AS record,
    shown(c.value) AS value
    FROM first_reading c JOIN series s ON s.id = c.series_id JOIN record r ON r.id = s.record_id WHERE c.watch_id = $1`,
};
const ID: Record<OtherNews['of'], string> = { alert: 'c.id', failure: 'c.id', 'first reading': 'c.series_id' };
const AT: Record<OtherNews['of'], string> = { alert: 'c.seen_at', failure: 'c.made_at', 'first reading': 'c.seen_at' };

/** Whether a word says which sort of other news is meant. */
export const isOther = (word: string): word is OtherNews['of'] => Object.hasOwn(COLUMNS, word);

/** One that an older or newer Shrike wrote otherwise is passed over. */
function read(row: OtherNews): OtherNews[] {
  if (row.of !== 'alert') return [row];
  const news = storedNews.readKnown(row.news);
  return news === null ? [] : [{ ...row, news }];
}

/** The latest of each sort, at most so many, the latest first. */
export async function listOtherNews(db: Db, watch: WatchId, most: number): Promise<OtherNews[]> {
  const found: OtherNews[] = [];
  for (const of of Object.keys(COLUMNS).filter(isOther)) {
    const { rows } = await db.query<OtherNews>(`${COLUMNS[of]} ORDER BY ${AT[of]} DESC, ${ID[of]} DESC LIMIT $2`, [
      watch,
      most,
    ]);
    found.push(...rows.flatMap(read));
  }
  return found.sort((one, other) => other.at - one.at || other.id - one.id);
}

/** How an alert came about and who heard of it. */
export interface OtherTrail {
  news: OtherNews;
  verdict: { when: Condition | null; before: string; after: string; reason: Reason } | null;
  tellings: Notification[];
  /** Whom an edition that is not made of alerts told of a failure. */
  mailed: { person: string; report: string; edition: number; deliveryId: DeliveryId; state: string; at: Instant }[];
}

const VERDICT = `
SELECT v.inputs->'when' AS when, v.state_before AS before, v.state_after AS after, v.reason
FROM alert a JOIN verdict v ON v.series_id = a.series_id AND v.rule_id = a.rule_id AND v.made_at = a.seen_at
WHERE a.id = $1 ORDER BY v.id DESC LIMIT 1`;

const MAILED = `
SELECT p.name AS person, r.name AS report, e.number AS edition, d.id AS "deliveryId", d.state,
  coalesce(d.sent_at, d.ordered_at) AS at
FROM edition_notice x JOIN edition e ON e.id = x.edition_id JOIN report r ON r.id = e.report_id
JOIN delivery_edition de ON de.edition_id = e.id JOIN delivery d ON d.id = de.delivery_id
JOIN person p ON p.id = d.person_id
WHERE x.notice_id = $1 ORDER BY r.name, p.name, d.id LIMIT 50`;

/** Follows a piece of other news of a watch; null where it is none of this watch. */
export async function findOtherTrail(
  db: Db,
  watch: WatchId,
  of: OtherNews['of'],
  id: number,
): Promise<OtherTrail | null> {
  const { rows } = await db.query<OtherNews>(`${COLUMNS[of]} AND ${ID[of]} = $2`, [watch, id]);
  const [news] = rows.flatMap(read);
  if (news === undefined) return null;
  const trail: OtherTrail = { news, verdict: null, tellings: [], mailed: [] };
  if (of === 'failure') return { ...trail, mailed: (await db.query<OtherTrail['mailed'][number]>(MAILED, [id])).rows };
  if (of === 'first reading') return trail;
  const [judged] = (await db.query<NonNullable<OtherTrail['verdict']>>(VERDICT, [id])).rows;
  const verdict = judged === undefined ? null : { ...judged, reason: readReason(judged.reason) };
  return { ...trail, verdict, tellings: (await db.query<Notification>(NOTIFICATIONS('a.id = $1'), [id])).rows };
}
