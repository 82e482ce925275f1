import type { Weight } from '../judge/rule';
import type { Instant } from '../when/interval';
import { nextMinute, quietUntil, type QuietHours } from '../when/quiet';

/** When somebody wants to be reached, in her own zone. */
export interface Reachable {
  zone: string;
  quiet: QuietHours | null;
  /** The minute of her day to which what is told at once is held. */
  mailHour: number | null;
  /** An alert of this weight, or a greater one, is held by neither. */
  passes: Weight | null;
}

/** What is to go out. */
export interface Outgoing {
  orderedAt: Instant;
  atOnce: boolean;
  /** The greatest weight of the alerts in it; null where it tells of none. */
  weight: Weight | null;
}

/** Until when something is held, and by what. */
export interface Hold {
  until: Instant;
  by: 'quiet hours' | 'mail hour';
}

const WEIGHTS: readonly Weight[] = ['low', 'usual', 'high'];

/** The greatest of some weights; null of none. */
export const greatest = (weights: readonly Weight[]): Weight | null =>
  WEIGHTS.findLast((each) => weights.includes(each)) ?? null;

/**
 * What holds a delivery at a moment (23 of what a report promises); null where it may go. What is told at once passes
 * whole where it bears an alert of the weight that she set; a digest waits for the end of her quiet hours whatever it
 * bears.
 */
export function heldBy(reader: Reachable, { orderedAt, atOnce, weight }: Outgoing, now: Instant): Hold | null {
  if (atOnce && weight !== null && reader.passes !== null && WEIGHTS.indexOf(weight) >= WEIGHTS.indexOf(reader.passes))
    return null;
  const mail = atOnce && reader.mailHour !== null ? nextMinute(reader.mailHour, reader.zone, orderedAt) : now;
  const from = Math.max(mail, now);
  const quiet = reader.quiet === null ? null : quietUntil(reader.quiet, reader.zone, from);
  if (quiet !== null) return { until: quiet, by: mail > now ? 'mail hour' : 'quiet hours' };
  return from > now ? { until: from, by: 'mail hour' } : null;
}
