import { backOff, type Instant } from '#core/when/interval';
import { beginAttempt, endAttempt, type AttemptEnd, type BegunAttempt } from '../db/deliveries';
import { inTransaction, type Pool } from '../db/pool';
import type { Log } from '../log';
import type { JobQueue } from '../work/jobs';
import type { Mailer, MailProblem } from './mail';

/** The moments of a delivery that others may watch. */
type DeliveryStep = 'taken' | 'begun' | 'accepted' | 'recorded';

/** What delivering works with. */
export interface Post {
  pool: Pool;
  jobs: JobQueue;
  mailer: Mailer;
  clock: () => Instant;
  log: Log;
  firstRetryMs: number;
  longestRetryMs: number;
  giveUpMs: number;
  onStep?: (step: DeliveryStep) => Promise<void>;
}

/**
 * Sends one delivery, once by its identity. The attempt is recorded before it is made: a crash between the server's
 * 'accepted' and our record of it leaves an attempt without an end, whose outcome is unknown; it is then sent again
 * under the same Message-ID and marked so. A mail not taken is tried again with back-off until it is.
 */
export async function deliver(post: Post, deliveryId: number): Promise<void> {
  const step = post.onStep ?? (() => Promise.resolve());
  await step('taken');
  const begun = await inTransaction(post.pool, (db) => beginAttempt(db, deliveryId, post.clock()));
  if (begun === null) return;
  await step('begun');

  const sent = await post.mailer.send({ ...begun.mail, sentAgain: begun.sentAgain });
  if (sent.ok) await step('accepted');
  const end: AttemptEnd = sent.ok
    ? { state: 'sent', outcome: 'accepted', response: sent.value, nextAttemptAt: null }
    : afterProblem(post, begun, sent.error);
  await inTransaction(post.pool, async (db) => {
    await endAttempt(db, begun, end, post.clock());
    if (end.nextAttemptAt !== null) await post.jobs.enqueueMail(db, [deliveryId], end.nextAttemptAt);
  });
  post.log.info({ delivery: deliveryId, attempt: begun.attempt, state: end.state, response: end.response }, 'delivery attempted');
  await step('recorded');
}

function afterProblem(post: Post, begun: BegunAttempt, problem: MailProblem): AttemptEnd {
  const now = post.clock();
  if (now - begun.orderedAt > post.giveUpMs) {
    return { state: 'given up', outcome: problem.outcome, response: problem.response, nextAttemptAt: null };
  }
  const wait = backOff(begun.attempt, post.firstRetryMs, post.longestRetryMs);
  const state = problem.outcome === 'refused' ? 'refused' : 'queued';
  return { state, outcome: problem.outcome, response: problem.response, nextAttemptAt: now + wait };
}
