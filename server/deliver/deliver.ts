import type { DeliveryId } from '#core/id';
import { CHANNEL } from '#core/tell/channels';
import { backOff, DAY } from '#core/when/interval';
import {
  beginAttempt,
  countWaiting,
  endAttempt,
  hurryDeliveries,
  maySendAgain,
  pauseAddress,
  type AttemptEnd,
  type BegunAttempt,
} from '../db/delivery/deliveries';
import { inTransaction } from '../db/base/pool';
import { fallBack } from '../db/delivery/fallback';
import { SEND } from './channels';
import type { MailProblem } from './mail';
import type { Post } from './post';

/**
 * Sends one delivery, once by its identity. The attempt is recorded before it is made: a crash between the server's
 * 'accepted' and our record of it leaves an attempt without an end, whose outcome is unknown; it is then sent again
 * under the same Message-ID and marked so, a few times at most. A mail not taken is tried again with back-off until it
 * is. However many jobs there are for a delivery, one attempt is made at a time, and one that was overtaken changes
 * nothing.
 */
export async function deliver(post: Post, deliveryId: DeliveryId): Promise<void> {
  const step = post.onStep ?? (() => Promise.resolve());
  await step('taken');
  const found = await inTransaction(post.pool, async (db) => {
    const begun = await beginAttempt(db, deliveryId, post.clock(), post.leaseMs);
    if (begun !== null && 'notBefore' in begun) await post.jobs.enqueueMail(db, [deliveryId], begun.notBefore);
    if (begun !== null && 'cancelled' in begun) await fallBack(db, [deliveryId], post.mailDomain, post.clock());
    return begun;
  });
  if (found === null || !('attempt' in found)) return;
  const begun = found.attempt;
  await step('begun');

  const sent = await SEND[begun.channel](post, begun, post.leaseMs * SHARE_OF_LEASE);
  if (sent.ok) await step('accepted');
  const end: AttemptEnd = sent.ok
    ? { state: 'sent', outcome: 'accepted', response: sent.value, nextAttemptAt: null }
    : afterProblem(post, begun, sent.error);
  const own = await inTransaction(post.pool, async (db) => {
    const ended = await endAttempt(db, begun, end, post.clock());
    if (ended && end.state === 'given up' && !losesRather(end, begun))
      await fallBack(db, [deliveryId], post.mailDomain, post.clock());
    if (!sent.ok && sent.error.badAddress === true)
      await pauseAddress(db, begun.person, begun.mail.to.address, sent.error.response, post.clock());
    if (ended && end.nextAttemptAt !== null) await post.jobs.enqueueMail(db, [deliveryId], end.nextAttemptAt);
    return ended;
  });
  post.log.info(
    { delivery: deliveryId, attempt: begun.attempt, state: own ? end.state : 'overtaken', response: end.response },
    'delivery attempted',
  );
  await step('recorded');
}

const SHARE_OF_LEASE = 0.7;

/** What may have come to somebody who wants nothing twice is told her through no other report. */
const losesRather = (end: AttemptEnd, { ratherLose }: BegunAttempt): boolean =>
  end.reason === 'unknown outcome' && ratherLose;
function afterProblem(post: Post, begun: BegunAttempt, problem: MailProblem): AttemptEnd {
  const now = post.clock();
  const { outcome, response, badAddress } = problem;
  if (badAddress === true && begun.purpose !== 'edition')
    return { state: 'given up', outcome, response, nextAttemptAt: null };
  if (now - begun.orderedAt > post.giveUpMs) return { state: 'given up', outcome, response, nextAttemptAt: null };
  if (outcome === 'unknown' && !CHANNEL[begun.channel].isIdempotent) return afterUnknown(post, begun, response);
  const wait = backOff(begun.attempt, post.firstRetryMs, post.longestRetryMs);
  return { state: outcome === 'refused' ? 'refused' : 'queued', outcome, response, nextAttemptAt: now + wait };
}

/** Each wait for another try of what may have arrived is so many times the one before. */
const LONGER = 10;
const LONGEST_MS = DAY;

/** What may have arrived is tried again by longer and longer waits, marked, and a few times at most. */
function afterUnknown(post: Post, begun: BegunAttempt, words: string): AttemptEnd {
  const [outcome, unknowns] = ['unknown' as const, begun.unknowns + 1];
  const response = `It may have arrived: ${words}`;
  if (!maySendAgain(begun.channel, { ...begun, unknowns }))
    return { state: 'given up', outcome, response, nextAttemptAt: null, reason: 'unknown outcome' };
  const wait = Math.min(post.firstRetryMs * LONGER ** unknowns, LONGEST_MS);
  return { state: 'queued', outcome, response, nextAttemptAt: post.clock() + wait };
}

/**
 * Tries every mail that waits, whether its time has come or not, a few times where it is not taken; returns how often.
 * For a clock that is not the world's.
 */
export async function sendWaiting(post: Post): Promise<number> {
  let tried = 0;
  for (let round = 0; round < ROUNDS && (round === 0 || (await countWaiting(post.pool)) > 0); round += 1)
    tried += await tryWaiting(post);
  return tried;
}

const ROUNDS = 3;

async function tryWaiting(post: Post): Promise<number> {
  await hurryDeliveries(post.pool);
  const waiting = await post.jobs.countMail();
  let sent = 0;
  while (sent < waiting) {
    const jobs = await post.jobs.takeMail(Math.min(waiting - sent, DRAINED_AT_ONCE));
    if (jobs.length === 0) break;
    for (const job of jobs) await post.jobs.handle(job, ({ delivery }) => deliver(post, delivery));
    sent += jobs.length;
  }
  return sent;
}

const DRAINED_AT_ONCE = 20;
