import type { AlertId, PersonId, ReportId } from '#core/id';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from './pool';

/** How many cuts of a report before one had nothing to tell, since its last edition. */
export async function quietCutsBefore(db: Db, { report, number }: { report: ReportId; number: number }): Promise<number> {
  const { rows } = await db.query<{ edition: boolean }>(
    `SELECT EXISTS (SELECT FROM edition e WHERE e.cut_id = c.id) AS edition FROM cut c WHERE c.report_id = $1 AND c.number < $2 AND c.lines IS NOT NULL
     ORDER BY c.number DESC LIMIT 1000`,
    [report, number],
  );
  const last = rows.findIndex(({ edition }) => edition);
  return last < 0 ? rows.length : last;
}

const TOLD = `
SELECT t.person_id AS person, t.alert_id AS alert, coalesce(d.sent_at, d.ordered_at) AS at
FROM telling t JOIN delivery d ON d.id = t.delivery_id JOIN edition e ON e.id = d.edition_id
WHERE t.alert_id = ANY($1) AND t.person_id = ANY($2) AND t.decision = 'told' AND e.cut_id IS NULL AND e.made_at <= $3 AND d.state <> 'given up'`;

/** When readers were told of alerts at once, by reader and alert. */
export async function toldAtOnce(db: Db, alerts: AlertId[], people: PersonId[], until: Instant): Promise<Map<PersonId, Map<AlertId, Instant>>> {
  const told = new Map<PersonId, Map<AlertId, Instant>>();
  if (alerts.length === 0) return told;
  const { rows } = await db.query<{ person: PersonId; alert: AlertId; at: Instant }>(TOLD, [alerts, people, moment(until)]);
  for (const { person, alert, at } of rows) told.set(person, (told.get(person) ?? new Map<AlertId, Instant>()).set(alert, at));
  return told;
}
