import type { PersonId } from '#core/id';
import { BY_MAIL, type Reached } from '#core/tell/channels';
import type { Instant } from '#core/when/interval';
import type { Pool } from '#server/db/base/pool';
import { findReaderNow, setHours, setReader } from '#server/db/person/readers';

const HOUR = 60;

/**
 * When Heatherlow’s people want to be reached: pricing not by night, unless it matters much; the apiary before its
 * first round.
 */
export async function sayHours(pool: Pool, ravi: PersonId, marta: PersonId, now: Instant): Promise<void> {
  await setHours(pool, ravi, { quiet: { from: 20 * HOUR, to: 7 * HOUR }, mailHour: null, passes: 'high' }, now);
  await setHours(pool, marta, { quiet: { from: 21 * HOUR, to: 6 * HOUR }, mailHour: null, passes: null }, now);
}

/**
 * By which routes they hear of what matters much: pricing by a text beside the mail, the analyst’s own program by a
 * post.
 */
export async function sayRoutes(
  pool: Pool,
  ravi: PersonId,
  analyst: PersonId,
  receiver: string,
  now: Instant,
): Promise<void> {
  await setRoutes(
    pool,
    ravi,
    { phone: '+447700900148', webhook: null, routes: { ...BY_MAIL, high: ['mail', 'text'] } },
    now,
  );
  await setRoutes(
    pool,
    analyst,
    { phone: null, webhook: receiver, routes: { ...BY_MAIL, high: ['mail', 'webhook'] } },
    now,
  );
}

async function setRoutes(pool: Pool, person: PersonId, reached: Reached, now: Instant): Promise<void> {
  const reader = await findReaderNow(pool, person);
  if (reader !== null) await setReader(pool, person, { ...reader, ...reached }, now);
}
