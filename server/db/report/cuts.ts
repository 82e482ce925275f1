import type { CutId, PersonId, ReportId } from '#core/id';
import { storedOrder, type ReportDefinition } from '#core/tell/definition';
import type { Instant } from '#core/when/interval';
import { moment, type Db, type Statement } from '../base/pool';

/** A report whose time has come, locked until this transaction ends. */
export interface DueReport {
  id: ReportId;
  version: number;
  cuts: number;
  cutSeq: number;
  cutAt: Instant;
  /** Null where it is cut by hand. */
  dueAt: Instant | null;
  order: ReportDefinition;
  /** What it gathers by, where it was saved anew since that began. */
  begun: { version: number; order: ReportDefinition } | null;
}

const SAID = '(SELECT v.definition FROM report_version v WHERE v.report_id = r.id AND v.version =';

const REPORT = `
SELECT r.id, r.version, r.cuts, r.cut_seq AS "cutSeq", r.cut_at AS "cutAt", r.due_at AS "dueAt",
  ${SAID} r.version) AS order, r.gathers_by AS "gathersBy", ${SAID} r.gathers_by) AS "gathersAs"
FROM report r`;

/** A report as it is stored. */
export type ReportRow = Omit<DueReport, 'order' | 'begun'> & {
  order: unknown;
  gathersBy: number | null;
  gathersAs: unknown;
};

/** Reads the order of a report. Throws for one that a newer Shrike wrote. */
export const readReport = ({ order, gathersBy, gathersAs, ...rest }: ReportRow): DueReport => ({
  ...rest,
  order: storedOrder.read(order),
  begun: gathersBy === null ? null : { version: gathersBy, order: storedOrder.read(gathersAs) },
});

/** By what a report is cut, were it cut now. */
export const cutBy = ({ version, order, begun }: DueReport) => begun ?? { version, order };

/** Locks the report that has been due for longest, and passes over those that others are at. */
export const dueReport = (now: Instant): Statement => ({
  name: 'due report',
  text: `${REPORT} WHERE r.due_at <= $1 AND r.ended_at IS NULL ORDER BY r.due_at, r.id LIMIT 1 FOR UPDATE SKIP LOCKED`,
  values: [moment(now)],
});

/** Has a report cut at another moment, or not before there is news; it goes on gathering, or does no more. */
export const dueAgain = (id: ReportId, at: Instant | null, gathers: boolean): Statement => ({
  text: 'UPDATE report SET due_at = $2, gathers_by = CASE WHEN $3 THEN gathers_by END WHERE id = $1',
  values: [id, at === null ? null : moment(at), gathers],
});

const ONE = `${REPORT} WHERE r.id = $1 AND r.ended_at IS NULL`;

/** How one report stands; null where there is none, or it has ended. */
export async function reportStanding(db: Db, id: ReportId): Promise<DueReport | null> {
  const { rows } = await db.query<ReportRow>(ONE, [id]);
  return rows[0] === undefined ? null : readReport(rows[0]);
}

/** The same, locked. */
export async function lockReport(db: Db, id: ReportId): Promise<DueReport | null> {
  const { rows } = await db.query<ReportRow>(`${ONE} FOR UPDATE`, [id]);
  return rows[0] === undefined ? null : readReport(rows[0]);
}

const CUT = `
WITH placed AS MATERIALIZED (SELECT place_news() AS last), cut AS (
  INSERT INTO cut (id, report_id, report_version, number, from_seq, to_seq, from_at, made_at, due_at, planned, try_at)
  SELECT $1, $2, $3, $4, $5, placed.last, $6, $7, $8, $9, $7 FROM placed RETURNING to_seq
)
UPDATE report r SET cut_seq = cut.to_seq, cut_at = $7, cuts = $4, due_at = $10, gathers_by = NULL FROM cut
WHERE r.id = $2`;

/** What a cut is for: planned moments, of which it makes up for several where they were missed; none by hand. */
export interface Planned {
  dueAt: Instant | null;
  count: number;
  next: Instant | null;
}

/**
 * Cuts a report whose lock is held: all news committed by now, and none that comes later, is in its stretch. It gives
 * news its place, so that until the commit nobody else can: it is to be the last statement.
 */
export async function cutReport(db: Db, id: CutId, report: DueReport, planned: Planned, now: Instant): Promise<void> {
  const { dueAt, count, next } = planned;
  await db.query(CUT, [
    id,
    report.id,
    cutBy(report).version,
    report.cuts + 1,
    report.cutSeq,
    moment(report.cutAt),
    moment(now),
    dueAt === null ? null : moment(dueAt),
    count,
    next === null ? null : moment(next),
  ]);
}

/** A cut whose editions are to be made; its report is locked with it, so that they are made one after another. */
export interface WaitingCut {
  id: CutId;
  report: ReportId;
  name: string;
  owner: PersonId;
  version: number;
  number: number;
  fromSeq: number;
  toSeq: number;
  fromAt: Instant;
  madeAt: Instant;
  dueAt: Instant | null;
  planned: number;
  tries: number;
  nextDue: Instant | null;
  order: ReportDefinition;
}

/** Of each report its first cut that waits: editions are numbered in the order of cuts. */
const WAITING = `
SELECT c.id, c.report_id AS report, r.name, r.owner_id AS owner, c.report_version AS version, c.number,
  c.from_seq AS "fromSeq", c.to_seq AS "toSeq",
  c.from_at AS "fromAt", c.made_at AS "madeAt", c.due_at AS "dueAt", c.planned, c.tries, r.due_at AS "nextDue",
    v.definition AS order
FROM cut c JOIN report r ON r.id = c.report_id
JOIN report_version v ON v.report_id = c.report_id AND v.version = c.report_version
WHERE c.try_at <= $1 AND NOT EXISTS (SELECT FROM cut e
WHERE e.report_id = c.report_id AND e.number < c.number AND e.try_at IS NOT NULL)
ORDER BY c.try_at, c.id LIMIT 1 FOR UPDATE OF c, r SKIP LOCKED`;

/** A waiting cut as it is stored. */
export type WaitingRow = Omit<WaitingCut, 'order'> & { order: unknown };

/** Locks the next cut whose editions are to be made. */
export const waitingCut = (now: Instant): Statement => ({ name: 'waiting cut', text: WAITING, values: [moment(now)] });

/** Reads the order of a cut. Throws for one that a newer Shrike wrote. */
export const readCut = ({ order, ...rest }: WaitingRow): WaitingCut => ({ ...rest, order: storedOrder.read(order) });

/** Keeps that the editions of a cut are made, and how many lines they tell; null of one that is to tell nothing. */
export const composed = (id: CutId, lines: number | null, now: Instant) => ({
  text: 'UPDATE cut SET composed_at = $2, try_at = NULL, problem = NULL, lines = $3 WHERE id = $1',
  values: [id, moment(now), lines],
});

/** Keeps that they could not be made; it is tried again at a moment, or no more. */
export const cutProblem = (id: CutId, problem: string, again: Instant | null): Statement => ({
  text: 'UPDATE cut SET tries = tries + 1, problem = $2, try_at = $3 WHERE id = $1',
  values: [id, problem, again === null ? null : moment(again)],
});
