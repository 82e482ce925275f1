import { fail, type Result } from '#core/result';
import type { PersonId } from '#core/id';
import type { Channel } from '#core/tell/channels';
import type { BegunAttempt } from '../db/delivery/deliveries';
import type { MailPictures } from '../rendered-images/mail-pictures';
import type { MailProblem, OutgoingMail } from './mail';
import type { Post } from './post';

// How each channel sends; what else there is to know of one is said in `core/tell/channels.ts`.

type Send = (post: Post, attempt: BegunAttempt, mostMs: number) => Promise<Result<string, MailProblem>>;

const NO_GATEWAY: MailProblem = {
  outcome: 'no answer',
  response: 'This Shrike has no text gateway: set SHRIKE_TEXT_GATEWAY.',
};

/** A text goes as a mail to the gateway. */
const sendText: Send = async (post, { mail, sentAgain }, mostMs) => {
  if (post.textGateway === null) return fail(NO_GATEWAY);
  const text: OutgoingMail = {
    ...mail,
    html: null,
    to: { name: '', address: `${mail.to.address}@${post.textGateway}` },
    leave: null,
    list: null,
    thread: [],
    files: [],
    sentAgain,
  };
  return post.mailer.send(text, mostMs);
};

export const SEND: Record<Channel, Send> = {
  mail: async (post, { mail, sentAgain }, mostMs) =>
    post.mailer.send({ ...(await illustrated(post.pictures, mail)), sentAgain }, mostMs),
  text: sendText,
  webhook: async (post, { mail, person }) => {
    const { address } = mail.to;
    const secret = post.secrets.derive(webhookPurpose(person, address));
    return post.webhooks.send({ id: mail.messageId.slice(1, -1), address, body: mail.text, secret }, post.clock());
  },
};

/** A mail with its pictures, as it goes out. */
export async function illustrated<Mail extends Pick<OutgoingMail, 'html' | 'files'>>(
  pictures: MailPictures,
  mail: Mail,
): Promise<Mail> {
  if (mail.html === null) return mail;
  const { html, pictures: inline } = await pictures.borneBy(mail.html);
  return { ...mail, html, files: [...mail.files, ...inline] };
}

/** What the key is made for that signs what is posted to somebody's address. */
export const webhookPurpose = (person: PersonId, address: string): string => `webhook ${person} ${address}`;
