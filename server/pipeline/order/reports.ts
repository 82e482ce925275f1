import type { DeliveryId, PersonId, ReportId, WatchId } from '#core/id';
import type { Begun } from '#core/tell/begun';
import type { Reachable } from '#core/tell/hold';
import type { Suppression } from '#core/tell/reach';
import type { Reached } from '#core/tell/channels';
import type { Missing } from '#core/tell/missing';
import type { Instant } from '#core/when/interval';
import { inOneTurn, moment, theRow, type Db } from '../../db/base/pool';
import { gapsOf } from '../../db/delivery/gaps';
import { suppressionOf } from '../../db/person/people';
import { ensureAtOnceReport, readersOf } from '../../db/report/reports';
import type { Notice, NoticeOfWatch } from './notice';

/** Someone who reads a report. */
export interface Reader extends Reached {
  id: PersonId;
  name: string;
  email: string;
  locale: string;
  zone: string;
  /** When she wants to be reached. */
  wants: Omit<Reachable, 'zone'>;
  /** Why she cannot be reached; null where she can. */
  kept: Suppression | null;
  /** The number of the last mail that she had of this report; nought before the first. */
  lastNumber: number;
  /** The delivery that gathers what is kept back for her. */
  open: DeliveryId | null;
  /** What became of the numbers before that she does not have. */
  missing: Missing;
  /** How the report came about; null where she has had a mail of it. */
  begun: Begun | null;
  /** The short texts that may go out this month are spent. */
  textsSpent: boolean;
  /** Her own page answers under links of this number. */
  page: number;
}

/** A report with those who read it, locked until this transaction ends. */
export interface OpenReport {
  id: ReportId;
  name: string;
  version: number;
  /** How many editions it has had. */
  editions: number;
  /** For how long it gathers what it tells at once, in ms; null where it does not. */
  gather: number | null;
  /** Which of the rules and watches that were asked for it takes. */
  rules: number[];
  watches: number[];
  readers: Reader[];
}

/** The rules `u` that a report `p` takes. */
const TAKEN = `FROM report_rule j
    JOIN rule u ON u.id = j.rule_id
    WHERE j.report_id = p.id AND j.left_at IS NULL AND u.ended_at IS NULL`;

const CONCERNED = `p.ended_at IS NULL AND (p.id = ANY($3) OR 
  EXISTS (SELECT ${TAKEN} AND (u.id = ANY($1) OR u.watch_id = ANY($2))))`;

/** In their own order, so that two who lock some of the same do not wait for one another. */
const LOCK = `SELECT FROM report p WHERE ${CONCERNED} ORDER BY p.id FOR UPDATE`;

/** Read as it is written: how a report is cut has been written in one way at all times. */
const cadenceOf = (version: string) => `(SELECT v.definition->'cadence' FROM report_version v
  WHERE v.report_id = p.id AND v.version = ${version})`;

const OPEN = `FROM delivery d
  WHERE d.report_id = p.id AND d.person_id = q.id AND d.state = 'kept back' AND d.number IS NULL`;

/**
 * What a report knows of one who reads it, at a moment. While as many mails have gone out as may, and while something
 * is gathered for her because of that, what else comes is gathered with it (25).
 */
const reader = (now: string) => `
jsonb_build_object('id', q.id, 'name', q.name, 'email', q.email, 'locale', q.locale, 'zone', q.zone, 'page', q.page,
  'phone', q.phone, 'webhook', q.webhook, 'routes', q.routes,
  'wants', jsonb_build_object('quiet', q.quiet, 'mailHour', q.mail_hour, 'passes', q.passes),
  'lastNumber', coalesce(n.last, 0),
  'kept',
    coalesce(${suppressionOf('q')}, CASE WHEN EXISTS (SELECT ${OPEN} AND d.reason = 'allowance')
    OR mails_spent_until(q.id, ${now}, true) IS NOT NULL THEN 'allowance' END),
  'open', (SELECT d.id ${OPEN}), 'textsSpent', q.phone IS NOT NULL AND texts_spent(${now}),
  'begun', CASE WHEN n.last IS NULL THEN jsonb_build_object('cadence', ${cadenceOf('p.version')},
    'owner', CASE WHEN p.owner_id <> q.id THEN (SELECT o.name FROM person o WHERE o.id = p.owner_id) END) END,
  'missing', jsonb_build_object(
    'gaps',
      coalesce((SELECT jsonb_agg(jsonb_build_object('number', g.number, 'reason', g.reason) ORDER BY g.number)
    FROM (${gapsOf('p.id', 'q.id')}) g), '[]'),
    'held', coalesce((SELECT jsonb_agg(d.number ORDER BY d.number) FROM delivery d
      WHERE d.report_id = p.id AND d.person_id = q.id AND d.state = 'kept back' AND d.number IS NOT NULL
        AND d.reason IN ('quiet hours', 'mail hour')), '[]')))`;

const READERS = `
SELECT jsonb_agg(${reader('$4::timestamptz')} ORDER BY q.id)
FROM (${readersOf('p.id')}) r JOIN person q ON q.id = r.person LEFT
JOIN reader_number n ON n.report_id = p.id AND n.person_id = q.id`;

/** What a mail of a report needs of who reads it. */
const ONE_READER = `
SELECT p.name AS report, ${reader('$3::timestamptz')} AS reader FROM report p CROSS JOIN person q LEFT
JOIN reader_number n ON n.report_id = p.id AND n.person_id = q.id
WHERE p.id = $1 AND q.id = $2`;

/** One reader of a report, which is locked. */
export async function findReader(
  db: Db,
  report: ReportId,
  person: PersonId,
  now: Instant,
): Promise<{ report: string; reader: Reader }> {
  return theRow(await db.query<{ report: string; reader: Reader }>(ONE_READER, [report, person, moment(now)]));
}

/** What has begun to gather ends as it began. */
const GATHERS = `(${cadenceOf('coalesce(p.gathers_by, p.version)')}->>'gather')::bigint`;

const REPORTS = `
SELECT p.id, p.name, p.version, p.editions, ${GATHERS} AS gather, coalesce((${READERS}), '[]') AS readers,
  ARRAY(SELECT u.id ${TAKEN} AND u.id = ANY($1)) AS rules,
  ARRAY(SELECT DISTINCT u.watch_id ${TAKEN} AND u.watch_id = ANY($2)) AS watches
FROM report p WHERE ${CONCERNED} ORDER BY p.id`;

/**
 * Locks and loads, in one turn, the reports that take these rules, hear of these watches, or are named. They are read
 * in a statement of their own, after the lock: it sees what was committed while this one waited.
 */
export async function lockReports(
  db: Db,
  { rules = [], watches = [], named = [] }: { rules?: number[]; watches?: number[]; named?: number[] },
  now: Instant,
): Promise<OpenReport[]> {
  const values = [rules, watches, named];
  const [, loaded] = await inOneTurn(db, [
    { name: 'lock reports', text: LOCK, values },
    { name: 'load reports', text: REPORTS, values: [...values, moment(now)] },
  ]);
  return (loaded?.rows ?? []) as OpenReport[];
}

const WATCHES = `
SELECT w.id AS "watchId", v.definition->>'subject' AS subject, t.name AS site, s.address AS page, w.owner_id AS owner,
  w.last_good_at AS "lastGoodAt",
  EXISTS (SELECT FROM report_rule j JOIN rule u ON u.id = j.rule_id JOIN report p ON p.id = j.report_id
    WHERE u.watch_id = w.id AND j.left_at IS NULL AND u.ended_at IS NULL AND p.ended_at IS NULL) AS heard
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id WHERE w.id = ANY($1)`;

/** Whether a notice is for whoever answers for it, and for nobody else. */
const isOwners = ({ kind }: Notice) => kind === 'question' || kind === 'ends';

/** Finds what a mail about these notices tells of their watches. */
export async function describeNotices(db: Db, notices: Notice[], ids: number[]): Promise<NoticeOfWatch[]> {
  if (notices.length === 0) return [];
  const { rows } = await db.query<Omit<NoticeOfWatch, keyof Notice | 'id'> & { watchId: WatchId }>(WATCHES, [
    notices.map(({ watchId }) => watchId),
  ]);
  return notices.flatMap((notice, at) => {
    const [watch, id] = [rows.find(({ watchId }) => watchId === notice.watchId), ids[at]];
    return watch === undefined || id === undefined
      ? []
      : [
          {
            ...notice,
            ...watch,
            owner: notice.rule?.owner ?? watch.owner,
            heard: watch.heard && !isOwners(notice),
            id,
          },
        ];
  });
}

/** The report through which the owner of a watch hears of it where nobody else does, by owner. */
export async function ownersReports(db: Db, notices: NoticeOfWatch[], now: Instant): Promise<Map<number, number>> {
  const found = new Map<number, number>();
  for (const { owner, heard } of notices) {
    if (!heard && !found.has(owner)) found.set(owner, await ensureAtOnceReport(db, [`person:${owner}`], owner, now));
  }
  return found;
}
