import type { DeliveryId } from '#core/id';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../base/pool';
import { readersOf } from '../report/reports';

// What was told through one report, and never came, is told through one that stood back for it (19).

const STAND_IN = `
WITH lost AS (
  SELECT t.alert_id, t.person_id, t.report_id FROM notification t WHERE t.decision = 'told'
    AND t.delivery_id IN (SELECT coalesce(d.beside, d.id) FROM delivery d WHERE d.id = ANY($1))
    AND NOT EXISTS (SELECT FROM delivery b
    WHERE (b.id = t.delivery_id OR b.beside = t.delivery_id) AND b.state <> 'given up')
), instead AS (
  SELECT DISTINCT ON (s.alert_id, s.person_id) s.alert_id, s.person_id, s.report_id, x.edition_id
  FROM lost
  JOIN notification s ON s.alert_id = lost.alert_id AND s.person_id = lost.person_id AND s.report_id <> lost.report_id
    AND s.decision = 'stood back'
  JOIN report r ON r.id = s.report_id AND r.ended_at IS NULL
  JOIN edition_alert x ON x.report_id = s.report_id AND x.alert_id = s.alert_id
  WHERE s.person_id IN (${readersOf('s.report_id')})
  ORDER BY s.alert_id, s.person_id, s.report_id
), wanted AS (
  SELECT DISTINCT report_id, person_id FROM instead
), made AS (
  INSERT INTO delivery (id, report_id, person_id, channel, address, message_id, state, reason, ordered_at, at_once)
  SELECT n.id, n.report_id, n.person_id, 'mail', n.email, '<' || n.id || '.' || gen_random_uuid() || '@' || $2 || '>',
    'kept back', 'stands in', $3, true
  FROM (SELECT nextval('record_id') AS id, w.report_id, w.person_id, q.email FROM wanted w
  JOIN person q ON q.id = w.person_id) n
  ON CONFLICT (report_id, person_id) WHERE state = 'kept back' AND number IS NULL DO UPDATE SET next_attempt_at = NULL
  RETURNING id, report_id, person_id
), told AS (
  UPDATE notification t SET decision = 'kept back', in_favour_of = NULL, delivery_id = made.id
  FROM instead i JOIN made ON made.report_id = i.report_id AND made.person_id = i.person_id
  WHERE t.alert_id = i.alert_id AND t.report_id = i.report_id AND t.person_id = i.person_id
)
INSERT INTO delivery_edition (delivery_id, edition_id)
SELECT DISTINCT made.id, i.edition_id FROM instead i
JOIN made ON made.report_id = i.report_id AND made.person_id = i.person_id ON CONFLICT DO NOTHING`;

/** Has what these deliveries told, which never come, told through the oldest of the reports that stood back. */
export async function fallBack(db: Db, lost: DeliveryId[], mailDomain: string, now: Instant): Promise<void> {
  if (lost.length > 0) await db.query(STAND_IN, [lost, mailDomain, moment(now)]);
}
