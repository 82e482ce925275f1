import type { DeliveryId, PersonId } from '#core/id';
import { fail, ok, type Result } from '#core/result';
import { confirmMail } from '#core/tell/confirm-mail';
import { MINUTE, type Instant } from '#core/when/interval';
import { placeOf, type Person } from '../db/people';
import { moment, type Db } from '../db/pool';
import { findReaderNow } from '../db/readers';
import type { Keeping } from './keeping';
import { orderLetter } from './order/letter';

/** So often somebody is asked at most: an address is not flooded by who types it in. */
const ASKED_AGAIN = 10 * MINUTE;

const CANCELLED = `UPDATE delivery SET state = 'given up', reason = 'asked anew' WHERE person_id = $1 AND purpose = 'confirmation' AND state IN ('queued', 'refused')`;

/** Why nobody is asked. */
export type NotAsked = 'no key' | 'gone' | 'confirmed' | 'asked lately';

/** Orders the mail that asks somebody to confirm her address: nothing else is sent to it before (21). */
export async function askToConfirm(
  { ids, jobs, links, mailDomain }: Pick<Keeping, 'ids' | 'jobs' | 'links' | 'mailDomain'>,
  db: Db,
  id: PersonId,
  askedBy: Pick<Person, 'name'>,
  now: Instant,
): Promise<Result<null, NotAsked>> {
  await db.query('SELECT FROM person WHERE id = $1 FOR UPDATE', [id]);
  const reader = await findReaderNow(db, id);
  if (reader === null) return fail('gone');
  if (reader.confirmedAt !== null) return fail('confirmed');
  if (reader.askedAt !== null && now - reader.askedAt < ASKED_AGAIN) return fail('asked lately');
  const way = links.confirm(id, reader.email, now);
  if (way === null) return fail('no key');
  const reports = reader.reports.flatMap(({ name, leftAt }) => (leftAt === null ? name : []));
  const message = confirmMail({ readerName: reader.name, address: reader.email, askedBy: askedBy.name, reports, ...way, place: placeOf(reader) });
  const delivery = await ids.one<DeliveryId>(db);
  await db.query(CANCELLED, [id]);
  await db.query(orderLetter(mailDomain, { id: delivery, purpose: 'confirmation', to: reader, message }, now));
  await db.query('UPDATE person SET asked_at = $2, paused_at = NULL, paused_because = NULL WHERE id = $1', [id, moment(now)]);
  await jobs.enqueueMail(db, [delivery]);
  return ok(null);
}
