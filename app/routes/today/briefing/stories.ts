import type { ChangeId, SeriesId, WatchId } from '#core/id';
import type { Change } from '#core/compare/compare';
import { isReturn, netOf, type Net } from '#core/compare/net';
import { headline, limitOf, type Headline, type News } from '#core/tell/news';
import { formatValue } from '#core/value/format';
import type { Role } from '#core/read/role';
import { formatDuration, formatRecent, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { BriefingAlert, BriefingChange } from '#server/db/reading/views/briefing';

/** Something that mattered, written out. */
export interface Story {
  id: number;
  watchId: WatchId;
  changeId: ChangeId | null;
  seriesId: SeriesId | null;
  headline: Headline;
  sense: Change['sense'];
  body: string;
  news: News;
  address: string;
}

const WEIGHTS = { high: 500, usual: 0, low: -1000 } as const;

/** How far a story is from the everyday: what is still raised first, then by how much it moved. */
function weight(alert: BriefingAlert): number {
  const { change } = alert.news;
  const percent = Math.abs(Number(change?.percent ?? 0));
  return (
    WEIGHTS[alert.news.weight ?? 'usual'] +
    (alert.stillRaised ? 1000 : 0) +
    (limitOf(alert.news) === null ? 0 : 100) +
    percent
  );
}

/** Writes the few alerts that matter most, one a series, the weightiest first. */
export function storiesOf(alerts: BriefingAlert[], most: number, now: Instant, place: Place): Story[] {
  const latest = alerts.filter(
    (alert, at) => alert.seriesId === null || alerts.findIndex((other) => other.seriesId === alert.seriesId) === at,
  );
  const weighed = [...latest].sort((a, b) => weight(b) - weight(a) || b.news.seenAt - a.news.seenAt);
  return weighed.slice(0, most).map((alert) => ({
    id: alert.id,
    watchId: alert.watchId,
    changeId: alert.changeId,
    seriesId: alert.seriesId,
    headline: headline(alert.news, place.locale, alert.over ? 'was' : 'is'),
    sense: alert.news.change?.sense ?? 'neither',
    body: bodyOf(alert, now, place),
    news: alert.news,
    address: alert.address,
  }));
}

function bodyOf(alert: BriefingAlert, now: Instant, place: Place): string {
  const { news } = alert;
  const seen = formatRecent(news.seenAt, now, place);
  const first =
    news.previous !== null
      ? `It was ${formatValue(news.previous, place.locale)} until ${seen}.`
      : news.lookedBefore === null
        ? `It was met at the first run, ${seen}.`
        : '';
  const standing = alert.stillRaised ? ` Raised for ${formatDuration(now - news.seenAt)}.` : '';
  const told = alert.report === null ? ' Nobody was told.' : ` Told ${alert.report}.`;
  return `${first}${standing}${told}`.trim();
}

/** A row of what else moved: the net move of a field over the window, with the number of moves on the way. */
export interface MovedRow {
  key: string;
  watchId: WatchId;
  changeId: ChangeId;
  subject: string;
  site: string;
  field: string;
  /** What the field is, whatever it is called. */
  role: Role | null;
  latest: BriefingChange;
  /** How often it moved; an absence is none, and how long one lasted that is over is said by itself, in ms. */
  moves: number;
  awayMs: number;
  returned: boolean;
  /** Of records that came and went: how many of each. */
  records: string | null;
}

/**
 * Gathers changes by field of each record, the latest first. A value that left and came back is 'returned'. Records
 * that came and went are one row a watch.
 */
export function movedRows(changes: BriefingChange[]): MovedRow[] {
  const groups = new Map<string, BriefingChange[]>();
  for (const change of changes) {
    const key =
      change.kind === 'record'
        ? `${change.watchId} records`
        : `${change.watchId} ${change.field.key} ${change.record?.id ?? ''}`;
    groups.set(key, [...(groups.get(key) ?? []), change]);
  }
  return [...groups].flatMap(([key, group]) => {
    const [latest] = group;
    const earliest = group.at(-1);
    if (latest === undefined || earliest === undefined) return [];
    const records = latest.kind === 'record' ? comingsAndGoings(group) : null;
    const net = records === null ? netOfChanges(group, earliest) : null;
    return [
      {
        key,
        watchId: latest.watchId,
        changeId: latest.id,
        subject: records === null ? (latest.record?.name ?? latest.subject) : latest.subject,
        site: latest.site,
        field: latest.field.label,
        role: latest.field.role ?? null,
        latest: records === null ? { ...latest, from: earliest.from } : latest,
        moves: net === null ? group.length : net.parts.reduce((sum, { moves }) => sum + moves, 0),
        returned: net !== null && isReturn(net),
        awayMs: net?.awayMs ?? 0,
        records,
      },
    ];
  });
}

/** The net of changes of one field, the latest first. */
function netOfChanges(group: BriefingChange[], { from, lookedBefore }: BriefingChange): Net | null {
  const before =
    from.kind === 'absent' ? { value: null, absentSince: lookedBefore } : { value: from, absentSince: null };
  return netOf(before, group.map(({ seenAt, to }) => ({ at: seenAt, to })).reverse());
}

function comingsAndGoings(group: BriefingChange[]): string {
  const came = group.filter((change) => change.from.kind === 'absent').length;
  const went = group.length - came;
  return [came === 0 ? '' : `${came} appeared`, went === 0 ? '' : `${went} vanished`].filter(Boolean).join(', ');
}
