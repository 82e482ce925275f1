import type { AlertId, WatchId } from '../id';
import type { Place } from '../when/format';
import type { EditionDocument } from './edition/document';
import type { Group, Row } from './edition/groups';
import { brokenKey, withoutNotified } from './edition/not-notified';
import { rowSentence } from './edition/words';
import { headline, type Headline, type News } from './news';
import { noticeHeadline, type NoticeSaid } from './notice-mail';

// What a mail told somebody, line by line, so that she can say of each that she is done with it.

/** One line of what somebody was told. */
export interface NotifiedLine {
  /** The name of the news that it tells: `alert-12`, `change-34`, `notice-5`, `7 failing 1764403200000`. */
  key: string;
  said: string;
  watch: WatchId;
  /** What the page of its watch is asked for, to show its trail; null where it has none. */
  trail: { change: string } | { news: string } | null;
  /** Alerts that stand on it: who is done with all of them is done with it. */
  alerts: AlertId[];
}

/** An edition, as far as it is told: a document, or alerts and word of watches that were told at once. */
export interface NotifiedEdition {
  document: EditionDocument | null;
  alerts: { id: AlertId; watchId: WatchId; news: News }[];
  notices: (NoticeSaid & { id: number; watchId: WatchId })[];
}

/**
 * Which alerts of an edition a reader heard by its mail before any other, with the change that raised each, and which
 * another report told her.
 */
export interface NotifiedHere {
  heard: ReadonlyMap<AlertId, number | null>;
  stoodBack: ReadonlySet<AlertId>;
  /** Word of watches that she had at once before, and that its mail left out. */
  toldBroken: ReadonlySet<string>;
}

/** The lines of an edition as one reader was told them: each alert once, by the mail that told it first. */
export function notifiedLines(
  { document, alerts, notices }: NotifiedEdition,
  { heard, stoodBack, toldBroken }: NotifiedHere,
  place: Place,
): NotifiedLine[] {
  const alertLines = (found: { id: AlertId; watch: WatchId; news: News }[]) =>
    found.flatMap((each) => (heard.has(each.id) ? [alertLine(each, heard.get(each.id) ?? null, place)] : []));
  if (document === null) {
    return [
      ...alertLines(alerts.map(({ watchId, ...alert }) => ({ ...alert, watch: watchId }))),
      ...notices.map((notice) => noticeLine(notice, place)),
    ];
  }
  const own = withoutNotified(document, stoodBack, toldBroken).document;
  return [
    ...alertLines(own.alerts),
    ...own.groups.flatMap((group) => group.rows.flatMap((row) => rowLine(group, row, place))),
    ...own.broken.map((broken): NotifiedLine => ({
      ...bare,
      key: brokenKey(broken),
      watch: broken.watch,
      said: saidOf(noticeHeadline(broken, place), ': '),
    })),
  ];
}

const bare = { trail: null, alerts: [] };
const saidOf = ({ lead, meaning }: Headline, between = ', '): string => [lead, meaning].filter(Boolean).join(between);

function alertLine(
  { id, watch, news }: { id: AlertId; watch: WatchId; news: News },
  change: number | null,
  { locale }: Place,
): NotifiedLine {
  const key = `alert-${id}`;
  return {
    key,
    watch,
    said: saidOf(headline(news, locale)),
    trail: change === null ? { news: key } : { change: String(change) },
    alerts: [id],
  };
}

function noticeLine({ id, watchId, ...notice }: NotifiedEdition['notices'][number], place: Place): NotifiedLine {
  const hasTrail = notice.kind === 'failing' || notice.kind === 'recovered';
  return {
    key: `notice-${id}`,
    watch: watchId,
    said: saidOf(noticeHeadline(notice, place), ': '),
    trail: hasTrail ? { news: `failure-${id}` } : null,
    alerts: [],
  };
}

function rowLine(group: Group, row: Row, { locale }: Place): NotifiedLine[] {
  const { record, moved, changes, kind, alerts } = row;
  const last = changes.at(-1);
  if (record === null || !moved || last === undefined) return [];
  const trail = kind === 'first read' ? { news: `first reading-${last}` } : { change: String(last) };
  return [
    {
      key: `change-${last}`,
      watch: record.watch,
      said: rowSentence(group, row, locale),
      trail,
      alerts: alerts.map(({ id }) => id),
    },
  ];
}
