import { chooseAtOnce, type Telling } from '#core/tell/choose';
import { alertMail } from '#core/tell/mail';
import type { Db } from '../../db/pool';
import type { RunFacts } from '../store/facts';
import type { RaisedAlert } from '../store/news';
import { cutEdition, insertDelivery, REPORT_COLUMNS, type Edition, type OpenReport, type Ordering, type Reader } from './edition';

interface TakingReport extends OpenReport {
  rules: number[];
}

interface AlertEdition extends Edition {
  alerts: RaisedAlert[];
}

const REPORTS = `
SELECT ${REPORT_COLUMNS},
  (SELECT array_agg(j.rule_id) FROM report_rule j WHERE j.report_id = p.id AND j.left_at IS NULL AND j.rule_id = ANY($1)) AS rules
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
  const { rows: reports } = await db.query<TakingReport>(REPORTS, [alerts.map((alert) => alert.ruleId)]);
  const tellings = chooseAtOnce(
    reports.map((report) => ({ id: report.id, readers: report.readers, alerts: takenBy(report, alerts).map((alert) => alert.id) })),
  );
  const queued: number[] = [];
  for (const report of reports) {
    const edition = await cutWithAlerts(ordering, db, facts, report, takenBy(report, alerts));
    for (const reader of report.readers) queued.push(...(await orderFor(ordering, db, facts, edition, reader, tellings)));
  }
  await ordering.jobs.enqueueMail(db, queued);
}

function takenBy(report: TakingReport, alerts: RaisedAlert[]): RaisedAlert[] {
  return alerts.filter((alert) => report.rules.includes(alert.ruleId));
}

async function cutWithAlerts(ordering: Ordering, db: Db, facts: RunFacts, report: TakingReport, alerts: RaisedAlert[]): Promise<AlertEdition> {
  const edition = await cutEdition(ordering, db, facts, report);
  await db.query('INSERT INTO edition_alert (edition_id, report_id, alert_id) SELECT $1, $2, unnest($3::bigint[])', [
    edition.id,
    report.id,
    alerts.map((alert) => alert.id),
  ]);
  return { ...edition, alerts };
}

/** Orders one reader's delivery of an edition, if any of it is for her; returns its id when it is to be sent. */
async function orderFor(ordering: Ordering, db: Db, facts: RunFacts, edition: AlertEdition, reader: Reader, tellings: Telling[]): Promise<number[]> {
  const own = tellings.filter((telling) => telling.report === edition.report.id && telling.person === reader.id);
  const heard = own.filter((telling) => telling.decision !== 'stood back');
  const taken = new Set(heard.map((telling) => telling.alert));
  const deliveryId =
    heard.length === 0
      ? null
      : await insertDelivery(ordering, db, facts, edition, reader, (number) => render(ordering, facts, edition, reader, number, taken));
  await db.query(
    `INSERT INTO telling (alert_id, report_id, person_id, decision, in_favour_of, delivery_id)
     SELECT alert, $2, $3, decision, "inFavourOf", CASE WHEN decision <> 'stood back' THEN $4::bigint END
     FROM jsonb_to_recordset($1) AS n(alert bigint, decision text, "inFavourOf" int)`,
    [JSON.stringify(own), edition.report.id, reader.id, deliveryId],
  );
  return deliveryId !== null && reader.confirmed ? [deliveryId] : [];
}

function render({ publicUrl }: Ordering, facts: RunFacts, edition: AlertEdition, reader: Reader, number: number, heard: Set<number>) {
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
