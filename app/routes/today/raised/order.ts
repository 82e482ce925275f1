import type { EpisodeNow } from '#server/db/rule/raised';
import type { Instant } from '#core/when/interval';

/** By what the episodes within a place are ordered. */
export const SORTS = ['weight', 'since', 'watch', 'owner'] as const;
export type Sort = (typeof SORTS)[number];

const WEIGHTS = { high: 0, usual: 1, low: 2 } as const;
const weightOf = ({ rule }: EpisodeNow) => WEIGHTS[rule.weight ?? 'usual'];

const KEYS: Record<Sort, (one: EpisodeNow, other: EpisodeNow) => number> = {
  weight: (one, other) => weightOf(one) - weightOf(other),
  since: () => 0,
  watch: (one, other) => one.subject.localeCompare(other.subject),
  owner: (one, other) => one.owner.localeCompare(other.owner),
};

/** Episodes in an order, of equals the latest first. */
export const inOrder = (episodes: EpisodeNow[], sort: Sort): EpisodeNow[] =>
  [...episodes].sort((one, other) => KEYS[sort](one, other) || other.raisedAt - one.raisedAt);

/** Who has what: nobody, somebody, or nobody before a time. */
export function placesOf(
  episodes: EpisodeNow[],
  now: Instant,
): { title: string; aside: string; episodes: EpisodeNow[] }[] {
  const isPutOff = ({ putOffUntil }: EpisodeNow) => putOffUntil !== null && putOffUntil > now;
  const putOff = episodes.filter(isPutOff);
  const taken = episodes.filter((episode) => !isPutOff(episode) && episode.takenOn !== null);
  const free = episodes.filter((episode) => !isPutOff(episode) && episode.takenOn === null);
  return [
    { title: 'Nobody has it', aside: String(free.length), episodes: free },
    { title: 'Taken on', aside: String(taken.length), episodes: taken },
    { title: 'Put off', aside: 'until the time is up', episodes: putOff },
  ].filter((place) => place.episodes.length > 0);
}
