import { ok, fail, type Result } from '#core/result';
import { messageOf, wordsOf, type OutgoingMail } from './mail';
import { openServer, type MailServer, type Signing } from './mail-server';

/** What came of a trial of a mail server: what was said on both sides, and how it ended. */
export interface Tried {
  /** Ours begin with `> `, the server's with `< `. */
  dialogue: string[];
  /** The server's last words; the error is why it came to nothing. */
  end: Result<string, string>;
}

const MOST_LINES = 200;
/** Somebody waits for it; a server that dawdles is let go of. */
const LONGEST_MS = 30_000;

/** Sends one mail through one server, within a time, and keeps what both say. Passwords are not among it. */
export async function tryServer(
  server: MailServer,
  signing: Signing | null,
  from: string,
  mail: OutgoingMail,
  mostMs = LONGEST_MS,
): Promise<Tried> {
  const dialogue: string[] = [];
  const secret = server.signIn?.password ?? '';
  const transport = openServer(server, signing, (line) => {
    if (dialogue.length < MOST_LINES) dialogue.push(secret === '' ? line : line.replaceAll(secret, '…'));
  });
  try {
    const message = { ...messageOf(from, mail), signal: AbortSignal.timeout(mostMs) };
    const sent = (await transport.sendMail(message)) as { response: string };
    return { dialogue, end: ok(wordsOf(sent.response)) };
  } catch (error) {
    return { dialogue, end: fail(wordsOf(error instanceof Error ? error.message : String(error))) };
  } finally {
    transport.close();
  }
}
