import type { Change } from '#core/compare/compare';
import { headline, type Headline, type News } from '#core/tell/news';
import { formatValue } from '#core/value/format';
import { formatDuration, formatRecent, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { BriefingAlert, BriefingChange } from '#server/db/briefing';

/** Something that mattered, written out. */
export interface Story {
  id: number;
  watchId: number;
  changeId: number | null;
  seriesId: number;
  headline: Headline;
  sense: Change['sense'];
  body: string;
  news: News;
  address: string;
}

/** How far a story is from the everyday: what is still raised first, then by how much it moved. */
function weight(alert: BriefingAlert): number {
  const { change, condition } = alert.news;
  const percent = Math.abs(Number(change?.percent ?? 0));
  return (alert.stillRaised ? 1000 : 0) + (condition !== null && condition.kind !== 'change' ? 100 : 0) + percent;
}

/** Writes the few alerts that matter most, one a series, the weightiest first. */
export function storiesOf(alerts: BriefingAlert[], most: number, now: Instant, place: Place): Story[] {
  const latest = alerts.filter((alert, at) => alerts.findIndex((other) => other.seriesId === alert.seriesId) === at);
  const weighed = [...latest].sort((a, b) => weight(b) - weight(a) || b.news.seenAt - a.news.seenAt);
  return weighed.slice(0, most).map((alert) => ({
    id: alert.id,
    watchId: alert.watchId,
    changeId: alert.changeId,
    seriesId: alert.seriesId,
    headline: headline(alert.news, place.locale),
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
    news.previous === null ? `It was met at the first look, ${seen}.` : `It was ${formatValue(news.previous, place.locale)} until ${seen}.`;
  const standing = alert.stillRaised ? ` Raised for ${formatDuration(now - news.seenAt)}.` : '';
  const told = alert.report === null ? ' Nobody was told.' : ` Told ${alert.report}.`;
  return `${first}${standing}${told}`;
}

/** A row of what else moved: the net move of a field over the window, with the number of moves on the way. */
export interface MovedRow {
  key: string;
  watchId: number;
  changeId: number;
  subject: string;
  site: string;
  field: string;
  latest: BriefingChange;
  moves: number;
  returned: boolean;
}

const sameMeaning = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Gathers changes by field, the latest first. A value that left and came back is 'returned'. */
export function movedRows(changes: BriefingChange[]): MovedRow[] {
  const groups = new Map<string, BriefingChange[]>();
  for (const change of changes) {
    const key = `${change.watchId} ${change.field.key}`;
    groups.set(key, [...(groups.get(key) ?? []), change]);
  }
  return [...groups].flatMap(([key, group]) => {
    const [latest] = group;
    const earliest = group.at(-1);
    if (latest === undefined || earliest === undefined) return [];
    return [
      {
        key,
        watchId: latest.watchId,
        changeId: latest.id,
        subject: latest.subject,
        site: latest.site,
        field: latest.field.label,
        latest: { ...latest, from: earliest.from },
        moves: group.length,
        returned: group.length > 1 && sameMeaning(earliest.from, latest.to),
      },
    ];
  });
}
