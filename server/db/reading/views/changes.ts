import type { AlertId, ChangeId, DeliveryId, RecordId, RuleId, RunId, WatchId } from '#core/id';
import type { Change } from '#core/compare/compare';
import { readReason, type Reason } from '#core/judge/reason';
import type { Condition } from '#core/judge/clause';
import { conditionOfOld, type ConditionOfOld } from '#core/judge/rule';
import type { Instant } from '#core/when/interval';
import { moment, theRow, type Db } from '../../base/pool';

/** A change, with how it was told. */
export interface ChangeRow extends Change {
  id: ChangeId;
  field: string;
  /** The name of the record it happened to; null where that is the whole page. */
  record: string | null;
  recordId: RecordId | null;
  seenAt: Instant;
  lookedBefore: Instant;
  told: number;
  alerts: number;
}

const RECORD_NAME = `
  SELECT r.name FROM record r
  WHERE r.id = coalesce(c.record_id, (SELECT s.record_id FROM series s WHERE s.id = c.series_id))`;

/** The people to whom an alert of it was sent. */
const TOLD = `
  SELECT count(DISTINCT t.person_id)
  FROM alert a
  JOIN notification t ON t.alert_id = a.id
  JOIN delivery d ON d.id = t.delivery_id
  WHERE a.change_id = c.id AND d.state = 'sent'`;

/** Of a change `c`; of long texts only what differs. */
const COLUMNS = `
  c.id, c.field, (${RECORD_NAME}) AS record,
  coalesce(c.record_id, (SELECT s.record_id FROM series s WHERE s.id = c.series_id)) AS "recordId", c.kind,
  coalesce(c.was_shown, shown(c.was)) AS "from", coalesce(c.now_shown, shown(c.now)) AS "to",
  c.difference, c.percent, c.sense, c.seen_at AS "seenAt", c.looked_before AS "lookedBefore",
  (SELECT count(*) FROM alert a WHERE a.change_id = c.id) AS alerts,
  (${TOLD}) AS told`;

/** The latest changes of a watch. */
export async function listChanges(db: Db, watchId: WatchId, limit: number): Promise<ChangeRow[]> {
  const { rows } = await db.query<ChangeRow>(
    `SELECT ${COLUMNS} FROM change c WHERE c.watch_id = $1 ORDER BY c.seen_at DESC, c.id DESC LIMIT $2`,
    [watchId, limit],
  );
  return rows;
}

/** How many changes a watch has had. */
export async function countChanges(db: Db, watchId: WatchId): Promise<number> {
  const result = await db.query<{ n: number }>('SELECT count(*) AS n FROM change WHERE watch_id = $1', [watchId]);
  return theRow(result).n;
}

/** The path of one change down the chain, with every decision and its reason. */
export interface Trail {
  change: ChangeRow;
  runId: RunId;
  watchVersion: number;
  verdicts: {
    ruleId: RuleId;
    when: Condition;
    before: string;
    after: string;
    taken: boolean;
    reason: Reason;
    at: Instant;
  }[];
  tellings: Notification[];
}

/** To whom an alert was told, or not. */
export interface Notification {
  alert: AlertId;
  /** What of it was told: that it is met, that it still is, that nobody has taken it on. */
  told: string;
  report: string;
  edition: number | null;
  person: string;
  decision: string;
  /** Why its delivery is kept back. */
  reason: string | null;
  inFavourOf: string | null;
  deliveryId: DeliveryId | null;
  state: string | null;
  at: Instant | null;
  response: string | null;
  sentAgain: boolean | null;
}

/** The tellings of alerts `a`. */
export const NOTIFICATIONS = (which: string): string => `
SELECT t.alert_id AS alert, a.told, r.name AS report, e.number AS edition, p.name AS person, t.decision, d.reason,
  f.name AS "inFavourOf",
  d.id AS "deliveryId", d.state, coalesce(d.sent_at, d.ordered_at) AS at, d.response, d.sent_again AS "sentAgain"
FROM alert a JOIN notification t ON t.alert_id = a.id JOIN report r ON r.id = t.report_id
JOIN person p ON p.id = t.person_id
LEFT JOIN report f ON f.id = t.in_favour_of LEFT JOIN delivery d ON d.id = t.delivery_id
LEFT JOIN LATERAL (
  SELECT min(e.number) AS number FROM edition_alert x JOIN edition e ON e.id = x.edition_id
  WHERE x.report_id = t.report_id AND x.alert_id = a.id
) e ON true
WHERE ${which} ORDER BY a.seen_at, a.id, r.id, p.name`;

/** Follows one change of a watch down the chain; null when it is not one of this watch. */
export async function findTrail(db: Db, watchId: WatchId, changeId: ChangeId): Promise<Trail | null> {
  const { rows } = await db.query<ChangeRow & { runId: RunId; watchVersion: number }>(
    `SELECT ${COLUMNS}, c.run_id AS "runId", c.watch_version AS "watchVersion"
      FROM change c
      WHERE c.watch_id = $1 AND c.id = $2`,
    [watchId, changeId],
  );
  const [change] = rows;
  if (change === undefined) return null;
  const verdicts = await db.query<
    Omit<Trail['verdicts'][number], 'when'> & { when: Condition | null; condition: ConditionOfOld }
  >(
    `SELECT rule_id AS "ruleId", inputs->'when' AS when, inputs->'condition' AS condition, state_before AS before,
      state_after AS after, taken, reason, made_at AS at
     FROM verdict WHERE change_id = $1 AND made_at = $2 ORDER BY id`,
    [changeId, moment(change.seenAt)],
  );
  const tellings = await db.query<Notification>(NOTIFICATIONS('a.change_id = $1'), [changeId]);
  const judged = verdicts.rows.map(({ when, condition, ...verdict }) => ({
    ...verdict,
    when: when ?? conditionOfOld(condition),
    reason: readReason(verdict.reason),
  }));
  return { change, runId: change.runId, watchVersion: change.watchVersion, verdicts: judged, tellings: tellings.rows };
}

/** One side of a change between texts, whole; null where there is none. */
export async function findChangeText(
  db: Db,
  watchId: WatchId,
  changeId: ChangeId,
  side: 'was' | 'now',
): Promise<string | null> {
  const { rows } = await db.query<{ was: string | null; now: string | null }>(
    `SELECT was->>'text' AS was, now->>'text' AS now FROM change WHERE watch_id = $1 AND id = $2`,
    [watchId, changeId],
  );
  return rows[0]?.[side] ?? null;
}
