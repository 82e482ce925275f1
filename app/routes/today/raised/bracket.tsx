import type { Place } from '#core/when/format';
import { DAY, type Instant } from '#core/when/interval';
import { timeTicks, type TimeTick } from '#core/when/ticks';
import type { EpisodeNow } from '#server/db/rule/raised';

/** The time axis that all brackets stand on. */
export interface Axis {
  from: Instant;
  to: Instant;
  ticks: (TimeTick & { share: number })[];
}

const LEAST = 2 * DAY;
const MOST = 14 * DAY;
const TICKS = 3;

/** An axis that reaches back to the earliest opening, within bounds; its ticks keep clear of its ends. */
export function axisOf(episodes: EpisodeNow[], now: Instant, place: Place): Axis {
  const earliest = Math.min(now - LEAST, ...episodes.map(({ openedAt }) => openedAt));
  const from = Math.max(now - MOST, earliest - (now - earliest) / 20);
  const ticks = timeTicks(from, now, place, TICKS).map((tick) => ({ ...tick, share: (tick.at - from) / (now - from) }));
  return { from, to: now, ticks: ticks.filter(({ share }) => share > 0.06 && share < 0.88) };
}

/** An episode as a bracket: from its opening to now, with a dot where somebody took it on. */
export function Bracket({ episode, axis }: { episode: EpisodeNow; axis: Axis }) {
  const share = (at: Instant) => `${Math.max(0, Math.min(1, (at - axis.from) / (axis.to - axis.from))) * 100}%`;
  const open = share(episode.openedAt);
  return (
    <span aria-hidden className="relative hidden h-4 md:block">
      <span className="absolute top-[9px] right-0 left-0 h-px bg-hairline" />
      <span
        className="absolute top-[4px] h-[6px] border-b-[1.5px] border-l-[1.5px] border-chestnut"
        style={{ left: open, right: 0, minWidth: 3 }}
      />
      {episode.takenOn === null ? null : (
        <span
          className="absolute top-[7px] size-[5px] -translate-x-1/2 rounded-full bg-chestnut"
          style={{ left: share(episode.takenOn.at) }}
        />
      )}
    </span>
  );
}
