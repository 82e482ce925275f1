import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { simpleParser, type ParsedMail } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import { isText, objectionToText } from '../texts/taken';
import type { World } from '../world/world';

/** A mail as it was received. */
export interface KeptMail {
  id: string;
  receivedAt: number;
  from: string;
  to: string[];
  subject: string;
  messageId: string;
  sentAgain: boolean;
}

/** A received mail, opened. */
export interface OpenedMail extends KeptMail {
  html: string | null;
  text: string;
  source: string;
}

/** The part of the library's connection that is used here, of which its types say nothing. */
interface Connection {
  connectionReady: (next?: () => void) => void;
}

/** The library holds each greeting back for 100 ms to find out who talks too early; here nobody is suspected. */
class PromptServer extends SMTPServer {
  override connect(...given: Parameters<SMTPServer['connect']>): void {
    const before = new Set(this.connections);
    super.connect(...given);
    for (const each of this.connections) if (!before.has(each)) greetAtOnce(each);
  }
}

function greetAtOnce(connection: Connection): void {
  const greet = connection.connectionReady.bind(connection);
  let greeted = false;
  connection.connectionReady = (next) => {
    if (!greeted) greet(next);
    greeted = true;
  };
  connection.connectionReady();
}

/** Senders keep their connections for the next mail: when the room closes, they are told so this soon. */
const CLOSING_MS = 300;

/**
 * A real SMTP server that keeps whatever it takes, each mail in a file of its own, and takes what the stage lets it.
 */
export class MailRoom {
  readonly #smtp: SMTPServer;
  readonly #mails: KeptMail[] = [];
  #count = 0;

  private constructor(
    private readonly folder: string,
    private readonly world: World,
  ) {
    mkdirSync(folder, { recursive: true });
    this.#smtp = new PromptServer({
      closeTimeout: CLOSING_MS,
      authOptional: true,
      disabledCommands: ['STARTTLS', 'AUTH'],
      logger: false,
      disableReverseLookup: true,
      onMailFrom: (_address, _session, callback) => callback(this.#objection()),
      onRcptTo: ({ address }, _session, callback) => callback(this.#objectionTo(address)),
      onData: (stream, session, callback) => {
        const pieces: Buffer[] = [];
        stream.on('data', (piece: Buffer) => pieces.push(piece));
        stream.on('end', () => {
          this.#take(
            Buffer.concat(pieces),
            session.envelope.rcptTo.map(({ address }) => address),
          ).then(
            (id) => callback(null, `kept as ${id}`),
            (error: Error) => callback(error),
          );
        });
      },
    });
    this.#smtp.on('error', () => undefined);
  }

  /** Opens the room on a loopback port, with the mails it kept before. */
  static async open(folder: string, world: World, port: number): Promise<MailRoom> {
    const room = new MailRoom(folder, world);
    for (const name of readdirSync(folder)
      .filter((each) => each.endsWith('.eml'))
      .sort())
      await room.#index(name);
    await new Promise<void>((resolve, reject) => {
      room.#smtp.once('error', reject);
      room.#smtp.listen(port, '127.0.0.1', resolve);
    });
    return room;
  }

  /** All mails, the newest first. */
  list(): KeptMail[] {
    return [...this.#mails].reverse();
  }

  /** One mail, parsed; null when there is none of that name. */
  async read(id: string): Promise<OpenedMail | null> {
    const kept = this.#mails.find((mail) => mail.id === id);
    if (kept === undefined) return null;
    const source = readFileSync(join(this.folder, `${id}.eml`));
    const parsed = await simpleParser(source, { skipImageLinks: true });
    return { ...kept, html: parsed.html || null, text: parsed.text ?? '', source: source.toString('utf8') };
  }

  /** Throws every mail away. */
  empty(): void {
    for (const mail of this.#mails) rmSync(join(this.folder, `${mail.id}.eml`), { force: true });
    this.#mails.length = 0;
  }

  async close(): Promise<void> {
    await new Promise<void>((resolve) => this.#smtp.close(() => resolve()));
  }

  #objection(): Error | null {
    const { mail } = this.world.conduct();
    if (mail === 'accepts' || mail === 'has no such mailbox') return null;
    const [responseCode, words] =
      mail === 'defers'
        ? [451, 'the mail room is full, try again later']
        : [550, 'the mail room does not take your mail'];
    return Object.assign(new Error(words), { responseCode });
  }

  /** What is said of one mailbox. */
  #objectionTo(address: string): Error | null {
    if (this.world.conduct(address).mail !== 'has no such mailbox') return null;
    return Object.assign(new Error('5.1.1 there is no such mailbox'), { responseCode: 550 });
  }

  /** Keeps a mail; one that is to be a text is taken only where a phone can show it. */
  async #take(source: Buffer, to: string[]): Promise<string> {
    const objection = to.some(isText) ? objectionToText((await simpleParser(source)).text ?? '') : null;
    if (objection !== null) throw Object.assign(new Error(objection), { responseCode: 554 });
    return this.#keep(source);
  }

  async #keep(source: Buffer): Promise<string> {
    this.#count += 1;
    const id = `${String(this.world.clock()).padStart(14, '0')}-${String(this.#count).padStart(5, '0')}`;
    writeFileSync(join(this.folder, `${id}.eml`), source);
    await this.#index(`${id}.eml`, source);
    return id;
  }

  async #index(name: string, source: Buffer = readFileSync(join(this.folder, name))): Promise<void> {
    const parsed = await simpleParser(source, { skipHtmlToText: true, skipTextToHtml: true, skipImageLinks: true });
    const id = name.replace(/\.eml$/, '');
    this.#count = Math.max(this.#count, Number(id.split('-')[1] ?? 0));
    this.#mails.push({
      id,
      receivedAt: Number(id.split('-')[0]),
      from: parsed.from?.text ?? '',
      to: addressesOf(parsed),
      subject: parsed.subject ?? '',
      messageId: parsed.messageId ?? '',
      sentAgain: parsed.headers.has('x-sent-again'),
    });
  }
}

function addressesOf(parsed: ParsedMail): string[] {
  const groups = parsed.to === undefined ? [] : Array.isArray(parsed.to) ? parsed.to : [parsed.to];
  return groups.flatMap((group) => group.value.map((each) => each.address ?? ''));
}
