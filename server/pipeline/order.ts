import { randomUUID } from 'node:crypto';
import { chooseAtOnce, type Telling } from '#core/tell/choose';
import { alertMail } from '#core/tell/mail';
import type { Ids } from '../db/ids';
import { moment, type Db } from '../db/pool';
import type { JobQueue } from '../work/jobs';
import type { RunFacts } from './store/facts';
import type { RaisedAlert } from './store/news';

interface Reader {
  id: number;
  name: string;
  email: string;
  locale: string;
  zone: string;
  confirmed: boolean;
}

interface TakingReport {
  id: number;
  name: string;
  version: number;
  rules: number[];
  readers: Reader[];
}

interface Edition {
  id: number;
  number: number;
  report: TakingReport;
  alerts: RaisedAlert[];
}

/** What ordering needs of the pipeline. */
export interface Ordering {
  ids: Ids;
  jobs: JobQueue;
  publicUrl: string;
  mailDomain: string;
}

const REPORTS = `
SELECT p.id, p.name, p.version,
  (SELECT array_agg(j.rule_id) FROM report_rule j WHERE j.report_id = p.id AND j.left_at IS NULL AND j.rule_id = ANY($1)) AS rules,
  (SELECT jsonb_agg(DISTINCT jsonb_build_object('id', q.id, 'name', q.name, 'email', q.email, 'locale', q.locale, 'zone', q.zone,
     'confirmed', q.confirmed_at IS NOT NULL))
   FROM report_reader rr LEFT JOIN list_member m ON m.list_id = rr.list_id JOIN person q ON q.id = coalesce(rr.person_id, m.person_id)
   WHERE rr.report_id = p.id) AS readers
FROM report p WHERE p.ended_at IS NULL
  AND EXISTS (SELECT FROM report_rule j WHERE j.report_id = p.id AND j.left_at IS NULL AND j.rule_id = ANY($1))
ORDER BY p.id FOR UPDATE OF p`;

/**
 * Cuts an edition of every at-once report that takes one of these alerts, and orders its deliveries, in the run's
 * own transaction. A delivery's identity is fixed here, once. The alerts take their places in the order of commits here
 * and not only in the commit, for an edition says up to which place it reaches; from then on this transaction alone makes news.
 */
export async function orderDeliveries(ordering: Ordering, db: Db, facts: RunFacts, alerts: RaisedAlert[]): Promise<void> {
  if (alerts.length === 0) return;
  await db.query('SET CONSTRAINTS placed_change, placed_alert IMMEDIATE');
  const { rows } = await db.query<TakingReport>(REPORTS, [alerts.map((alert) => alert.ruleId)]);
  const reports = rows.map((row) => ({ ...row, readers: row.readers ?? [] }));
  const tellings = chooseAtOnce(
    reports.map((report) => ({ id: report.id, readers: report.readers, alerts: takenBy(report, alerts).map((alert) => alert.id) })),
  );
  const queued: number[] = [];
  for (const report of reports) {
    const edition = await cutEdition(ordering, db, facts, report, takenBy(report, alerts));
    for (const reader of report.readers) queued.push(...(await orderFor(ordering, db, facts, edition, reader, tellings)));
  }
  await ordering.jobs.enqueueMail(db, queued);
}

function takenBy(report: TakingReport, alerts: RaisedAlert[]): RaisedAlert[] {
  return alerts.filter((alert) => report.rules.includes(alert.ruleId));
}

async function cutEdition({ ids }: Ordering, db: Db, facts: RunFacts, report: TakingReport, alerts: RaisedAlert[]): Promise<Edition> {
  const [id = 0] = await ids.take(1);
  const { rows } = await db.query<{ number: number }>(
    `WITH before AS (SELECT cut_seq FROM report WHERE id = $2), cut AS (SELECT last FROM commit_order), now AS (
       UPDATE report SET editions = editions + 1, cut_seq = cut.last FROM cut WHERE id = $2 RETURNING editions)
     INSERT INTO edition (id, report_id, report_version, number, from_seq, to_seq, made_at)
     SELECT $1, $2, $3, now.editions, before.cut_seq, cut.last, $4 FROM before, now, cut RETURNING number`,
    [id, report.id, report.version, moment(facts.startedAt)],
  );
  await db.query('INSERT INTO edition_alert (edition_id, report_id, alert_id) SELECT $1, $2, unnest($3::bigint[])', [
    id,
    report.id,
    alerts.map((alert) => alert.id),
  ]);
  return { id, number: rows[0]?.number ?? 0, report, alerts };
}

/** Orders one reader's delivery of an edition, if any of it is for her; returns its id when it is to be sent. */
async function orderFor(ordering: Ordering, db: Db, facts: RunFacts, edition: Edition, reader: Reader, tellings: Telling[]): Promise<number[]> {
  const own = tellings.filter((telling) => telling.report === edition.report.id && telling.person === reader.id);
  const heard = own.filter((telling) => telling.decision !== 'stood back');
  const deliveryId = heard.length === 0 ? null : await insertDelivery(ordering, db, facts, edition, reader, heard);
  await db.query(
    `INSERT INTO telling (alert_id, report_id, person_id, decision, in_favour_of, delivery_id)
     SELECT alert, $2, $3, decision, "inFavourOf", CASE WHEN decision <> 'stood back' THEN $4::bigint END
     FROM jsonb_to_recordset($1) AS n(alert bigint, decision text, "inFavourOf" int)`,
    [JSON.stringify(own), edition.report.id, reader.id, deliveryId],
  );
  return deliveryId !== null && reader.confirmed ? [deliveryId] : [];
}

async function insertDelivery(ordering: Ordering, db: Db, facts: RunFacts, edition: Edition, reader: Reader, heard: Telling[]): Promise<number> {
  const [id = 0] = await ordering.ids.take(1);
  const numbered = await db.query<{ last: number }>(
    `INSERT INTO reader_number (report_id, person_id, last) VALUES ($1, $2, 1)
     ON CONFLICT (report_id, person_id) DO UPDATE SET last = reader_number.last + 1 RETURNING last`,
    [edition.report.id, reader.id],
  );
  const number = numbered.rows[0]?.last ?? 1;
  const message = render(ordering, facts, edition, reader, number, new Set(heard.map((telling) => telling.alert)));
  await db.query(
    `INSERT INTO delivery (id, edition_id, person_id, route, address, message_id, number, state, reason, subject, html, plain, ordered_at)
     VALUES ($1, $2, $3, 'mail', $4, $5, $6, $7, $8, $9, $10, $11, $12)`,
    [
      id, edition.id, reader.id, reader.email, `<${id}.${randomUUID()}@${ordering.mailDomain}>`, number,
      reader.confirmed ? 'queued' : 'kept back', reader.confirmed ? null : 'the address is not confirmed',
      message.subject, message.html, message.text, moment(facts.startedAt),
    ], // prettier-ignore
  );
  return id;
}

function render({ publicUrl }: Ordering, facts: RunFacts, edition: Edition, reader: Reader, number: number, heard: Set<number>) {
  const alerts = edition.alerts.filter((alert) => heard.has(alert.id));
  return alertMail({
    report: edition.report.name,
    edition: edition.number,
    readerName: reader.name.split(' ')[0] ?? reader.name,
    readerNumber: number,
    made: facts.startedAt,
    alerts: alerts.map((alert) => ({ news: alert.news, page: facts.source.address, watch: `${publicUrl}/watches/${alert.watchId}` })),
    coverage: `Edition ${edition.number} covers one run, which raised ${alerts.length === 1 ? 'one alert' : `${alerts.length} alerts`}.`,
    reportLink: `${publicUrl}/outbox`,
    place: { locale: reader.locale, zone: reader.zone },
  });
}
