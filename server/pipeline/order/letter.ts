import type { DeliveryId } from '#core/id';
import { randomUUID } from 'node:crypto';
import type { Message } from '#core/tell/mail-frame';
import type { Instant } from '#core/when/interval';
import type { Person } from '../../db/person/people';
import { moment, type Statement } from '../../db/base/pool';

/**
 * What a mail of no report is for: it asks somebody to confirm her address, or to sign in, or warns her of what is
 * nearly spent.
 */
type Purpose = 'confirmation' | 'invitation' | 'warning';

const ORDERED = `
INSERT INTO delivery (id, purpose, person_id, channel, address, message_id, state, subject, html, plain, ordered_at)
VALUES ($1, $2, $3, 'mail', $4, $5, 'queued', $6, $7, $8, $9)`;

/** Orders a mail of no report: it has no number, and nothing holds it. */
export function orderLetter(
  mailDomain: string,
  {
    id,
    purpose,
    to,
    message,
  }: { id: DeliveryId; purpose: Purpose; to: Pick<Person, 'id' | 'email'>; message: Message },
  now: Instant,
): Statement {
  const { subject, html, text } = message;
  return {
    text: ORDERED,
    values: [id, purpose, to.id, to.email, `<${id}.${randomUUID()}@${mailDomain}>`, subject, html, text, moment(now)],
  };
}
