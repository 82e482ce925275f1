import { randomUUID } from 'node:crypto';
import type { Message } from '#core/tell/mail-frame';
import { oneLine } from '#core/tell/subject-line';
import type { Person } from '#server/db/person/people';
import { services } from '../services.server';

/** How long somebody who asked for a mail waits for the server to take it. */
const MOST_WAIT_MS = 15_000;

/** Sends a mail to whoever asks for it, and to nobody else, marked as what it is; nothing of it is kept. */
export async function sendToAsker(person: Person, what: 'Rehearsal' | 'Trial', { subject, html, text }: Message) {
  if (person.confirmedAt === null)
    return { said: null, problem: 'Your own address is not confirmed: nothing is sent to it.' };
  if (person.pausedAt !== null)
    return {
      said: null,
      problem: 'Your own address refused mail for good: nothing is sent to it before it is tried again.',
    };
  const { mailer, config, pictures } = services();
  const shown = await pictures.borneBy(html, false);
  const sent = await mailer.send(
    {
      messageId: `<${what.toLowerCase()}.${randomUUID()}@${config.mailDomain}>`,
      to: { name: person.name, address: person.email },
      subject: oneLine(`${what}: ${subject}`),
      html: shown.html,
      text,
      leave: null,
      thread: [],
      files: shown.pictures,
      list: null,
      sentAgain: false,
    },
    MOST_WAIT_MS,
  );
  if (sent.ok) return { said: `Sent to ${person.email}.`, problem: null };
  return { said: null, problem: `The mail server did not take it: ${sent.error.response}` };
}
