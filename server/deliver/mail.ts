import { setTimeout as sleep } from 'node:timers/promises';
import { createTransport, type SendMailOptions, type Transporter } from 'nodemailer';
import { encodeWord } from 'nodemailer/lib/mime-funcs';
import { openPooledServer, type MailServer, type Signing } from './mail-server';
import { isRefusal, outcomeOf, Passage, type Outcome } from './outcome';
import { fail, ok, type Result } from '#core/result';
import type { ReportId } from '#core/id';
import { cut, sanitiseText } from '#core/value/sanitise';
import type { Instant } from '#core/when/interval';

/** A message as it goes out: its identity was fixed when it was ordered. */
export interface OutgoingMail {
  messageId: string;
  to: { name: string; address: string };
  subject: string;
  /** Null of what is text alone. */
  html: string | null;
  text: string;
  /** Where its reader leaves the report, with one click of her mail program (RFC 8058); null of what is no report's. */
  leave: string | null;
  /** The report that it is of, by which her mail program sorts it (RFC 2919); null of what is no report's. */
  list: { report: ReportId; name: string } | null;
  /** The mails that it goes on from, in the order in which they were sent (RFC 5322, 3.6.4). */
  thread: string[];
  files: MailFile[];
  /** The outcome of an earlier try is unknown, so this may be the second copy. */
  sentAgain: boolean;
}

/** A file that a mail bears. */
export interface MailFile {
  name: string;
  type: string;
  body: Buffer;
  /** By which its page shows it (RFC 2392); without one it is beside the page. */
  cid?: string;
}

/** Why a server did not take a mail, in its own words where it had any. */
export interface MailProblem {
  outcome: Outcome;
  response: string;
  /** It is the address itself that was refused, and for good. */
  badAddress?: boolean;
}

/** Where mail goes out: the first server, and those to fall back on. */
export interface MailSettings {
  from: string;
  servers: MailServer[];
  signing: Signing | null;
}

const LONGEST_MS = 60_000;

/**
 * Sends mail through an SMTP server, and through the next one where that cannot be reached or takes nothing just now.
 */
export class Mailer {
  readonly #servers: { transport: Transporter; name: string }[];

  constructor(private readonly settings: MailSettings) {
    this.#servers = settings.servers.map((server) => ({
      transport: openPooledServer(server, settings.signing),
      name: `${server.host}:${server.port}`,
    }));
  }

  /**
   * Sends one mail; ok holds the server's words of acceptance. A server that dawdles is given up, and may have taken it
   * where it had it whole.
   */
  async send(mail: OutgoingMail, mostMs = LONGEST_MS): Promise<Result<string, MailProblem>> {
    const [ended, late, passage] = [new AbortController(), new AbortController(), new Passage()];
    const given = sleep(mostMs, undefined, { signal: ended.signal, ref: false }).then(
      () => {
        // A connection that hangs is closed: it is no longer one of those that mails share, and takes no more of this.
        late.abort();
        const response = `no end after ${Math.round(mostMs / 1000)} s`;
        return fail<MailProblem>({ outcome: outcomeOf(passage.phase, null), response });
      },
      () => fail<MailProblem>({ outcome: 'unknown', response: '' }),
    );
    const sent = await Promise.race([this.#send(mail, passage, late.signal), given]);
    ended.abort();
    return sent;
  }

  async #send(mail: OutgoingMail, passage: Passage, signal: AbortSignal): Promise<Result<string, MailProblem>> {
    let problem: MailProblem = { outcome: 'no answer', response: 'No mail server is set.' };
    for (const [place, { transport, name }] of this.#servers.entries()) {
      const by = place === 0 ? '' : `by ${name}: `;
      try {
        const response = await sendOver(transport, { ...messageOf(this.settings.from, mail), passage, signal });
        return ok(`${by}${wordsOf(response)}`);
      } catch (error) {
        const own = problemOf(error, passage);
        problem = {
          ...own,
          response: place === 0 ? own.response : wordsOf(`${problem.response}; ${by}${own.response}`),
        };
        if (signal.aborted || !passesOn(own, error)) break;
      }
    }
    return fail(problem);
  }

  close(): void {
    for (const { transport } of this.#servers) transport.close();
  }
}

/**
 * What the library says where a kept connection was found closed before any of the mail had gone over it. It says so of
 * no other mail: the one that is under way when a connection closes ends with an error of its own.
 */
const NOTHING_SENT = 'Reached maximum number of retries after connection was closed';

/** A message whose way is followed; see `openPooledServer`. */
type Followed = SendMailOptions & { passage: Passage };

/** Sends over a kept connection, or a fresh one where that was closed meanwhile. */
async function sendOver(transport: Transporter, message: Followed): Promise<string> {
  const send = async () => ((await transport.sendMail(message)) as { response: string }).response;
  return send().catch((error: unknown) => {
    if (error instanceof Error && error.message === NOTHING_SENT) return send();
    throw error;
  });
}

/**
 * Whether another server may be asked: this one did not get the mail whole, does not know us, or takes nothing just now
 * (4yz). What it refused for good no other is asked.
 */
function passesOn({ outcome }: MailProblem, error: unknown): boolean {
  if (outcome !== 'refused') return outcome === 'no answer';
  const { code, responseCode = 0 } = error as { code?: string; responseCode?: number };
  return code === 'EAUTH' || (responseCode >= 400 && responseCode <= 499);
}

/**
 * Words from outside that look like an encoded word (RFC 2047) are encoded themselves: what is read is what stands
 * there.
 */
const subjectOf = (subject: string) =>
  subject.includes('=?') ? { prepared: true, foldLines: true, value: encodeWord(subject, 'Q', 52) } : subject;

/** What names a report among all lists of the world, and what it is called. */
const listId = (from: string, { report, name }: NonNullable<OutgoingMail['list']>) => ({
  url: `report-${report}.${/@([^\s>]+)/.exec(from)?.[1] ?? 'localhost'}`,
  comment: name.replace(/[<>"]/g, ''),
});

/** A mail as nodemailer takes it. */
export function messageOf(from: string, mail: OutgoingMail): SendMailOptions {
  return {
    from,
    to: mail.to,
    messageId: mail.messageId,
    ...(mail.thread.length === 0 ? {} : { inReplyTo: mail.thread.at(-1) ?? '', references: mail.thread }),
    ...(mail.html === null ? {} : { html: mail.html }),
    text: mail.text,
    ...(mail.list === null ? {} : { list: { id: listId(from, mail.list) } }),
    attachments: mail.files.map(({ name, type, body, cid }) => ({
      filename: name,
      contentType: type,
      content: body,
      ...(cid === undefined ? {} : { cid, contentDisposition: 'inline' as const }),
    })),
    headers: {
      Subject: subjectOf(mail.subject),
      'Auto-Submitted': 'auto-generated',
      ...(mail.leave === null
        ? {}
        : {
            'List-Unsubscribe': { prepared: true, value: `<${mail.leave}>` },
            'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click',
          }),
      ...(mail.sentAgain ? { 'X-Sent-Again': 'the outcome of an earlier try is unknown' } : {}),
    },
  };
}

/** A mail as a file (RFC 5322), dated when it went out. */
export async function mailFile(from: string, mail: OutgoingMail, date: Instant): Promise<Buffer> {
  const transport = createTransport({ streamTransport: true, buffer: true, newline: 'windows' });
  const { message } = await transport.sendMail({
    ...messageOf(from, mail),
    date: new Date(date),
    disableFileAccess: true,
    disableUrlAccess: true,
  });
  return message as Buffer;
}

function problemOf(error: unknown, { phase }: Passage): MailProblem {
  const { response, code, message, responseCode, command } = error as Partial<
    Record<'response' | 'code' | 'message' | 'command', string>
  > & { responseCode?: number };
  const outcome = outcomeOf(phase, responseCode ?? null);
  const words = isRefusal(responseCode) ? response : [code, message].filter(Boolean).join(': ');
  return {
    outcome,
    response: wordsOf(words ?? ''),
    badAddress: outcome === 'refused' && command === 'RCPT TO' && isForGood(responseCode, response ?? ''),
  };
}

/**
 * A mailbox that is not there, or takes nothing any more (RFC 5321, 4.2.3). What is refused by a policy says nothing of
 * the address (RFC 3463, 3.8), nor does one that is full.
 */
const isForGood = (code: number | undefined, response: string): boolean =>
  (code === 550 || code === 551 || code === 553) && !/\b5\.(?:7|2\.2)\b/.test(response);

const LONGEST_RESPONSE = 500;

/** A server's words as they can be kept and shown: whole characters, of no great length. */
export function wordsOf(response: string): string {
  return sanitiseText(cut(response, LONGEST_RESPONSE));
}
