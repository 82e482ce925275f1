import { randomUUID } from 'node:crypto';
import type { Message } from '#core/tell/mail-frame';
import type { Ids } from '../../db/ids';
import { moment, type Db } from '../../db/pool';
import type { JobQueue } from '../../work/jobs';
import type { RunFacts } from '../store/facts';

/** Someone who reads a report. */
export interface Reader {
  id: number;
  name: string;
  email: string;
  locale: string;
  zone: string;
  confirmed: boolean;
}

/** A report with those who read it. */
export interface OpenReport {
  id: number;
  name: string;
  version: number;
  readers: Reader[];
}

/** An edition that was cut. */
export interface Edition {
  id: number;
  number: number;
  report: OpenReport;
}

/** What ordering needs of the pipeline. */
export interface Ordering {
  ids: Ids;
  jobs: JobQueue;
  publicUrl: string;
  mailDomain: string;
}

/** The columns of an open report `p`, its readers as JSON. */
export const REPORT_COLUMNS = `p.id, p.name, p.version,
  coalesce((SELECT jsonb_agg(DISTINCT jsonb_build_object('id', q.id, 'name', q.name, 'email', q.email, 'locale', q.locale, 'zone', q.zone,
     'confirmed', q.confirmed_at IS NOT NULL))
   FROM report_reader rr LEFT JOIN list_member m ON m.list_id = rr.list_id JOIN person q ON q.id = coalesce(rr.person_id, m.person_id)
   WHERE rr.report_id = p.id), '[]') AS readers`;

/** Cuts the next edition of a report: it reaches as far as news has been committed. */
export async function cutEdition({ ids }: Ordering, db: Db, facts: RunFacts, report: OpenReport): Promise<Edition> {
  const [id = 0] = await ids.take(1);
  const { rows } = await db.query<{ number: number }>(
    `WITH before AS (SELECT cut_seq FROM report WHERE id = $2), cut AS (SELECT last FROM commit_order), now AS (
       UPDATE report SET editions = editions + 1, cut_seq = cut.last FROM cut WHERE id = $2 RETURNING editions)
     INSERT INTO edition (id, report_id, report_version, number, from_seq, to_seq, made_at)
     SELECT $1, $2, $3, now.editions, before.cut_seq, cut.last, $4 FROM before, now, cut RETURNING number`,
    [id, report.id, report.version, moment(facts.startedAt)],
  );
  return { id, number: rows[0]?.number ?? 0, report };
}

/** Orders an edition's delivery to a reader, its identity fixed here, once. Returns its id. */
export async function insertDelivery(
  ordering: Ordering,
  db: Db,
  facts: RunFacts,
  edition: Edition,
  reader: Reader,
  render: (number: number) => Message,
): Promise<number> {
  const [id = 0] = await ordering.ids.take(1);
  const numbered = await db.query<{ last: number }>(
    `INSERT INTO reader_number (report_id, person_id, last) VALUES ($1, $2, 1)
     ON CONFLICT (report_id, person_id) DO UPDATE SET last = reader_number.last + 1 RETURNING last`,
    [edition.report.id, reader.id],
  );
  const number = numbered.rows[0]?.last ?? 1;
  const message = render(number);
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
