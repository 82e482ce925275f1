import type { DeliveryId, PersonId } from '#core/id';
import { fail, ok, type Result } from '#core/result';
import { confirmMail } from '#core/tell/confirm-mail';
import { inviteMail } from '#core/tell/invite-mail';
import type { Message } from '#core/tell/mail-frame';
import { MINUTE, type Instant } from '#core/when/interval';
import { placeOf, type Person } from '../db/person/people';
import { moment, type Db } from '../db/base/pool';
import { findReaderNow, type ReaderNow } from '../db/person/readers';
import type { Invites, Links } from '../links';
import type { Keeping } from './keeping';
import { orderLetter } from './order/letter';

/** So often somebody is asked at most: an address is not flooded by who types it in. */
const ASKED_AGAIN = 10 * MINUTE;

const CANCELLED = `UPDATE delivery SET state = 'given up', reason = 'asked anew'
  WHERE person_id = $1 AND purpose = $2 AND state IN ('queued', 'refused')`;

/** Why nobody is asked. */
export type NotAsked = 'no key' | 'gone' | 'done' | 'asked lately';

type Asking = Pick<Keeping, 'ids' | 'jobs' | 'links' | 'mailDomain'>;

/** Orders the mail that asks somebody to confirm her address: nothing else is sent to it before (21). */
export async function askToConfirm(
  asking: Asking,
  db: Db,
  id: PersonId,
  askedBy: Pick<Person, 'name'>,
  now: Instant,
): Promise<Result<null, NotAsked>> {
  const reader = await holdReader(db, id);
  if (reader === null) return fail('gone');
  if (reader.confirmedAt !== null) return fail('done');
  if (isLately(reader.askedAt, now)) return fail('asked lately');
  const way = asking.links.confirm(id, reader.email, now);
  if (way === null) return fail('no key');
  const message = confirmMail({ ...addressed(reader), askedBy: askedBy.name, ...way });
  await orderQuestion(asking, db, { purpose: 'confirmation', to: reader, message }, now);
  await db.query('UPDATE person SET asked_at = $2, paused_at = NULL, paused_because = NULL WHERE id = $1', [
    id,
    moment(now),
  ]);
  return ok(null);
}

/** Orders the mail that invites somebody who is told to sign in, too. Of several invitations the last one counts. */
export async function inviteToSignIn(
  asking: Asking,
  db: Db,
  id: PersonId,
  invitedBy: Pick<Person, 'name'>,
  now: Instant,
): Promise<Result<null, NotAsked>> {
  const reader = await holdReader(db, id);
  if (reader === null) return fail('gone');
  if (reader.account) return fail('done');
  if (isLately(reader.invitedAt, now)) return fail('asked lately');
  const way = asking.links.invite(id, reader.email, now);
  if (way === null) return fail('no key');
  const message = inviteMail({ ...addressed(reader), invitedBy: invitedBy.name, ...way });
  await orderQuestion(asking, db, { purpose: 'invitation', to: reader, message }, now);
  await db.query('UPDATE person SET invited_at = $2 WHERE id = $1', [id, moment(now)]);
  return ok(null);
}

/** Whom an invitation is for; why it does not stand otherwise. */
export async function openInvitation(
  links: Links,
  db: Db,
  token: string,
  now: Instant,
): Promise<Result<Invites & { name: string }, NotInvited>> {
  const said = links.openInvite(token);
  if (said === null) return fail('not ours');
  const reader = await findReaderNow(db, said.person);
  if (reader === null || reader.email !== said.address) return fail('other address');
  if (reader.account) return fail('used');
  if (said.until < now) return fail('ended');
  return reader.invitedAt === said.invitedAt ? ok({ ...said, name: reader.name }) : fail('taken back');
}

/** Why an invitation does not stand. */
export type NotInvited = 'not ours' | 'other address' | 'used' | 'ended' | 'taken back';

const isLately = (asked: Instant | null, now: Instant) => asked !== null && now - asked < ASKED_AGAIN;

async function holdReader(db: Db, id: PersonId): Promise<ReaderNow | null> {
  await db.query('SELECT FROM person WHERE id = $1 FOR UPDATE', [id]);
  return findReaderNow(db, id);
}

const addressed = (reader: ReaderNow) => ({
  readerName: reader.name,
  address: reader.email,
  reports: reader.reports.flatMap(({ name, leftAt }) => (leftAt === null ? name : [])),
  place: placeOf(reader),
});

/** Orders a mail that asks, in place of one that asked the same and has not gone out. */
async function orderQuestion(
  { ids, jobs, mailDomain }: Asking,
  db: Db,
  { purpose, to, message }: { purpose: 'confirmation' | 'invitation'; to: ReaderNow; message: Message },
  now: Instant,
): Promise<void> {
  const id = await ids.one<DeliveryId>(db);
  await db.query(CANCELLED, [to.id, purpose]);
  await db.query(orderLetter(mailDomain, { id, purpose, to, message }, now));
  await jobs.enqueueMail(db, [id]);
}
