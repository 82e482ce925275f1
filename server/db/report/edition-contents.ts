import type { AlertId, EditionId, WatchId } from '#core/id';
import { storedDocument, type EditionDocument } from '#core/tell/edition/document';
import type { Cause } from '#core/tell/failure';
import { storedNews, type News } from '#core/tell/news';
import type { Instant } from '#core/when/interval';
import { instant } from '../base/pool';

/** What an edition tells: a document, or alerts and notices of what was told at once. */
export interface EditionContents {
  id: EditionId;
  number: number;
  madeAt: Instant;
  /** Null of what is told at once. */
  document: EditionDocument | null;
  alerts: { id: AlertId; watchId: WatchId; news: News }[];
  notices: EditionNotice[];
}

/** A notice with what is told of its watch. */
export interface EditionNotice {
  id: number;
  watchId: WatchId;
  kind: 'failing' | 'recovered' | 'question' | 'ends';
  cause: Cause | null;
  sentence: string;
  since: Instant;
  subject: string;
  site: string;
  page: string;
  lastGoodAt: Instant | null;
}

const ALERTS = `
SELECT jsonb_agg(jsonb_build_object('id', a.id, 'watchId', a.watch_id, 'news', a.news) ORDER BY a.seen_at, a.id)
FROM edition_alert x JOIN alert a ON a.id = x.alert_id WHERE x.edition_id = e.id AND e.document IS NULL`;

/** A notice `n` as it is told, and what that needs beside it. */
export const EDITION_NOTICE = `jsonb_build_object('id', n.id, 'watchId', n.watch_id, 'kind', n.kind, 'cause', n.cause,
  'sentence', n.sentence,
  'since', ${instant('n.since')}, 'subject', v.definition->>'subject', 'site', t.name, 'page', s.address, 'lastGoodAt',
    ${instant('w.last_good_at')})`;
export const OF_NOTICE = `JOIN watch w ON w.id = n.watch_id
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id`;

const NOTICES = `
SELECT jsonb_agg(${EDITION_NOTICE} ORDER BY n.made_at, n.id) FROM edition_notice x
JOIN notice n ON n.id = x.notice_id ${OF_NOTICE} WHERE x.edition_id = e.id`;

/** The columns of an edition `e` with what it tells. */
export const CONTENTS =
  `e.id, e.number, e.made_at AS "madeAt", e.document, coalesce((${ALERTS}), '[]') AS alerts, ` +
  `coalesce((${NOTICES}), '[]') AS notices`;

/** An edition with what it tells, as it is stored. */
export type StoredContents = Omit<EditionContents, 'document'> & { document: unknown };

/** Reads what an edition tells. Throws for one that a newer Shrike wrote. */
export const readContents = <Row extends StoredContents>({ document, alerts, ...rest }: Row) => ({
  ...rest,
  document: document === null ? null : storedDocument.read(document),
  alerts: alerts.map(({ news, ...alert }) => ({ ...alert, news: storedNews.read(news) })),
});

/** The same; null of one that a newer Shrike wrote. */
export function readKnownContents<Row extends StoredContents>({ document, alerts, ...rest }: Row) {
  const known = document === null ? null : storedDocument.readKnown(document);
  const told = alerts.flatMap(({ news, ...alert }) => {
    const read = storedNews.readKnown(news);
    return read === null ? [] : [{ ...alert, news: read }];
  });
  return (document !== null && known === null) || told.length < alerts.length
    ? null
    : { ...rest, document: known, alerts: told };
}
