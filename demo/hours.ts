import type { PersonId } from '#core/id';
import type { Instant } from '#core/when/interval';
import type { Pool } from '#server/db/pool';
import { setHours } from '#server/db/readers';

const HOUR = 60;

/** When Heatherlow’s people want to be reached: pricing not by night, unless it matters much; the apiary before its first round. */
export async function sayHours(pool: Pool, ravi: PersonId, marta: PersonId, now: Instant): Promise<void> {
  await setHours(pool, ravi, { quiet: { from: 20 * HOUR, to: 7 * HOUR }, mailHour: null, passes: 'high' }, now);
  await setHours(pool, marta, { quiet: { from: 21 * HOUR, to: 6 * HOUR }, mailHour: null, passes: null }, now);
}
