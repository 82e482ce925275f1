import { DateTime } from 'luxon';
import { atWallClock } from '#core/when/wall-clock';
import { HOUR, type Instant } from '#core/when/interval';

/** Until when something can be put off, as it is offered. */
export const UNTIL = [
  { value: 'hours', label: 'for 2 hours' },
  { value: 'tomorrow', label: 'until tomorrow, 08:00' },
  { value: 'monday', label: 'until next Monday, 08:00' },
] as const;

const MORNING = { hour: 8, minute: 0 };
const MONDAY = 1;

/**
 * Until when something is put off by what was said, by the calendar of a zone; null where that is none of what is
 * offered.
 */
export function untilOf(said: string, now: Instant, zone: string): Instant | null {
  const offered = UNTIL.find(({ value }) => value === said);
  if (offered === undefined) return null;
  if (offered.value === 'hours') return now + 2 * HOUR;
  const tomorrow = DateTime.fromMillis(now, { zone }).startOf('day').plus({ days: 1 });
  const days = offered.value === 'tomorrow' ? 0 : (7 + MONDAY - tomorrow.weekday) % 7;
  return atWallClock(tomorrow.plus({ days }), MORNING);
}
