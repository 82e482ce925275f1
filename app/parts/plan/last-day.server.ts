import { DateTime } from 'luxon';
import { services } from '../../services.server';

/** The last day of a rule that is made today, as the house has it for new rules; empty where it has none. */
export function lastDayOfNew(zone: string): string {
  const { config, clock } = services();
  if (config.ruleLastsDays === 0) return '';
  return DateTime.fromMillis(clock(), { zone }).plus({ days: config.ruleLastsDays }).toISODate() ?? '';
}
