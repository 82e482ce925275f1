import { chooseAtOnce } from '#core/tell/choose';
import type { Cause } from '#core/tell/failure';
import { noticeMail } from '#core/tell/notice-mail';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../db/pool';
import { ensureAtOnceReport } from '../../db/reports';
import type { RunFacts } from '../store/facts';
import { cutEdition, insertDelivery, REPORT_COLUMNS, type OpenReport, type Ordering, type Reader } from './edition';

/** A watch that stopped being read for a while, or is read again: told once each. */
export interface Notice {
  watchId: number;
  kind: 'failing' | 'recovered';
  cause: Cause;
  /** The problem in the words of the run; of a recovery what it was. */
  sentence: string;
  since: Instant;
}

interface StoredNotice extends Notice {
  id: number;
  subject: string;
  site: string;
  owner: number;
  lastGoodAt: Instant | null;
}

const NOTICES = `
WITH new AS (SELECT * FROM jsonb_to_recordset($1) AS n(id bigint, watch int, kind text, cause text, sentence text, since timestamptz)), stored AS (
  INSERT INTO notice (id, run_id, watch_id, kind, cause, sentence, since, made_at) SELECT id, $2, watch, kind, cause, sentence, since, $3 FROM new
)
SELECT new.id, w.id AS "watchId", v.definition->>'subject' AS subject, s.site, w.owner_id AS owner, w.last_good_at AS "lastGoodAt"
FROM new JOIN watch w ON w.id = new.watch JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version JOIN source s ON s.id = w.source_id`;

/**
 * Tells once that watches are not read any more, with the cause, or that they are again: to those who hear of them at once,
 * or to the owner where nobody does. In the run's own transaction.
 */
export async function orderNotices(ordering: Ordering, db: Db, facts: RunFacts, notices: Notice[]): Promise<void> {
  if (notices.length === 0) return;
  const stored = await storeNotices(ordering, db, facts, notices);
  const reports = await reportsFor(db, facts, stored);
  const tellings = chooseAtOnce(
    reports.map(({ report, taken }) => ({ id: report.id, readers: report.readers, alerts: taken.map((notice) => notice.id) })),
  );
  const queued: number[] = [];
  for (const { report, taken } of reports) {
    const edition = await cutEdition(ordering, db, facts, report);
    await db.query('INSERT INTO edition_notice (edition_id, notice_id) SELECT $1, unnest($2::bigint[])', [edition.id, taken.map(({ id }) => id)]);
    for (const reader of report.readers) {
      const heard = tellings.filter((each) => each.report === report.id && each.person === reader.id && each.decision !== 'stood back');
      const own = taken.filter((notice) => heard.some((telling) => telling.alert === notice.id));
      if (own.length === 0) continue;
      const id = await insertDelivery(
        ordering,
        db,
        facts,
        edition,
        reader,
        (number) =>
        noticeMail({
          report: report.name, edition: edition.number, number, made: facts.startedAt, reportLink: `${ordering.publicUrl}/outbox`, ...placed(reader),
          notices: own.map((notice) => ({ ...notice, page: facts.source.address, watch: `${ordering.publicUrl}/watches/${notice.watchId}` })),
        }), // prettier-ignore
      );
      if (reader.confirmed) queued.push(id);
    }
  }
  await ordering.jobs.enqueueMail(db, queued);
}

const placed = ({ name, locale, zone }: Reader) => ({ readerName: name.split(' ')[0] ?? name, place: { locale, zone } });

async function storeNotices({ ids }: Ordering, db: Db, facts: RunFacts, notices: Notice[]): Promise<StoredNotice[]> {
  const given = await ids.take(notices.length);
  const rows = notices.map(({ watchId, kind, cause, sentence, since }, at) => ({
    id: given[at],
    watch: watchId,
    kind,
    cause,
    sentence,
    since: moment(since),
  }));
  const { rows: known } = await db.query<Omit<StoredNotice, keyof Notice> & { watchId: number }>(NOTICES, [
    JSON.stringify(rows),
    facts.runId,
    moment(facts.startedAt),
  ]);
  return known.flatMap((each) => {
    const notice = notices.find(({ watchId }) => watchId === each.watchId);
    return notice === undefined ? [] : [{ ...notice, ...each }];
  });
}

const REPORTS = `SELECT ${REPORT_COLUMNS},
  (SELECT array_agg(DISTINCT u.watch_id) FROM report_rule j JOIN rule u ON u.id = j.rule_id WHERE j.report_id = p.id AND j.left_at IS NULL AND u.ended_at IS NULL) AS watches
FROM report p WHERE p.ended_at IS NULL AND (p.id = ANY($2) OR EXISTS (
  SELECT FROM report_rule j JOIN rule u ON u.id = j.rule_id WHERE j.report_id = p.id AND j.left_at IS NULL AND u.ended_at IS NULL AND u.watch_id = ANY($1)))
ORDER BY p.id FOR UPDATE OF p`;

async function reportsFor(db: Db, facts: RunFacts, notices: StoredNotice[]): Promise<{ report: OpenReport; taken: StoredNotice[] }[]> {
  const { rows: heard } = await db.query<{ watchId: number }>(
    `SELECT DISTINCT u.watch_id AS "watchId" FROM report_rule j JOIN rule u ON u.id = j.rule_id JOIN report p ON p.id = j.report_id
     WHERE u.watch_id = ANY($1) AND j.left_at IS NULL AND u.ended_at IS NULL AND p.ended_at IS NULL`,
    [notices.map(({ watchId }) => watchId)],
  );
  const unheard = notices.filter((notice) => !heard.some(({ watchId }) => watchId === notice.watchId));
  const own = new Map<number, number>();
  for (const { owner } of unheard) if (!own.has(owner)) own.set(owner, await ensureAtOnceReport(db, [`person:${owner}`], owner, facts.startedAt));
  const { rows } = await db.query<OpenReport & { watches: number[] | null }>(REPORTS, [notices.map(({ watchId }) => watchId), [...own.values()]]);
  return rows.flatMap(({ watches, ...report }) => {
    const taken = notices.filter(
      (notice) => (watches ?? []).includes(notice.watchId) || (unheard.includes(notice) && own.get(notice.owner) === report.id),
    );
    return taken.length === 0 ? [] : [{ report, taken }];
  });
}
