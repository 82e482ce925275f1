import { noticeFact } from '#core/tell/cloud-event';
import { noticeMail, type NoticeItem } from '#core/tell/notice-mail';
import type { Instant } from '#core/when/interval';
import { moment, type Statement } from '../../db/base/pool';
import type { JudgedAt } from '../store/news';
import type { EditionDraft, Ordering } from './edition';
import type { NoticeOfWatch } from './notice';
import type { OpenReport } from './reports';

const NOTICES = `
INSERT INTO notice (id, run_id, watch_id, kind, cause, sentence, since, made_at)
SELECT id, $2, watch, kind, cause, sentence, since, $3
FROM jsonb_to_recordset($1) AS n(id bigint, watch int, kind text, cause text, sentence text, since timestamptz)`;

/** Keeps notices. */
export function storeNotices({ at, runId }: JudgedAt, notices: NoticeOfWatch[]): Statement[] {
  if (notices.length === 0) return [];
  const rows = notices.map(({ id, watchId, kind, cause, sentence, since }) => ({
    id,
    watch: watchId,
    kind,
    cause,
    sentence,
    since: moment(since),
  }));
  return [{ text: NOTICES, values: [JSON.stringify(rows), runId, moment(at)] }];
}

/** Where in Shrike something is done about it. */
const placeOf = ({ watchId, rule }: Pick<NoticeOfWatch, 'watchId' | 'rule'>) =>
  `/watches/${watchId}${rule === undefined ? '' : `/rules/${rule.id}`}`;

/** A notice as a mail tells it. */
export const noticeItem = (publicUrl: string, notice: Omit<NoticeOfWatch, 'owner' | 'heard'>): NoticeItem => ({
  ...notice,
  watch: `${publicUrl}${placeOf(notice)}`,
});

/**
 * What each report tells of the notices: those who hear of a watch at once hear that it is not read, or its owner where
 * nobody does (`own` names her report).
 */
export function noticeEditions(
  ordering: Ordering,
  at: Instant,
  notices: NoticeOfWatch[],
  reports: OpenReport[],
  own: ReadonlyMap<number, number>,
): EditionDraft[] {
  return reports.flatMap((report) => {
    const taken = noticesFor(report, notices, own);
    return taken.length === 0 ? [] : [noticeDraft(ordering, report, taken, at)];
  });
}

/** Those of some notices that a report tells: of watches that it hears of, or that are its owner's alone. */
export const noticesFor = (
  report: OpenReport,
  notices: NoticeOfWatch[],
  own: ReadonlyMap<number, number>,
): NoticeOfWatch[] =>
  notices.filter(({ watchId, owner, heard }) =>
    heard ? report.watches.includes(watchId) : own.get(owner) === report.id,
  );

/** An edition that tells of notices at once. */
export function noticeDraft(
  ordering: Ordering,
  report: OpenReport,
  notices: Omit<NoticeOfWatch, 'owner' | 'heard'>[],
  at: Instant,
): EditionDraft {
  return {
    report,
    readers: report.readers,
    news: notices.map(({ id }) => id),
    weights: new Map(),
    kind: 'notice',
    atOnce: true,
    once: true,
    facts: (heard) => notices.filter(({ id }) => heard.has(id)).map(noticeFact),
    render: ({ edition, heard, person: _, ...to }) =>
      noticeMail({
        ...to,
        report: report.name,
        edition: edition.number,
        made: at,
        reportLink: `${ordering.publicUrl}/editions/${edition.id}`,
        notices: notices.filter(({ id }) => heard.has(id)).map((notice) => noticeItem(ordering.publicUrl, notice)),
      }),
  };
}
