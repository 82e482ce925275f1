import { createServer, type AddressInfo, type Socket } from 'node:net';

/** How a scripted mail server ends a dialogue that it breaks off. */
export type Breaking = 'closes' | 'resets' | 'falls silent';

/** What it does otherwise than a mail server should. */
export interface Script {
  /** It breaks off once it has said so many bytes in all. */
  afterSaying?: number;
  /** It breaks off once it has heard so many bytes in all. */
  afterHearing?: number;
  breaking?: Breaking;
  /** What it says to the mail as a whole, instead of taking it; it breaks off where that is no whole line. */
  toMail?: string | 'without end';
}

/** What a server saw of one connection: how much both said, whether the dot came, and what it answered to that. */
export interface Seen {
  said: number;
  heard: number;
  dot: boolean;
  answered: string;
}

/** A mail server of a few lines that does what its script says, byte by byte. */
export interface ScriptedServer {
  port: number;
  script: Script;
  /** Of each connection, the oldest first. */
  seen: Seen[];
  /** The mails that came whole, dot and all. */
  mails: string[];
  close: () => Promise<void>;
}

const DOT = '\r\n.\r\n';
const TAKEN = '250 2.0.0 taken\r\n';
const ENDLESS_MS = 20;

/** Opens one on loopback. */
export async function openScriptedServer(script: Script = {}): Promise<ScriptedServer> {
  const sockets = new Set<Socket>();
  const server = createServer((socket) => {
    sockets.add(socket);
    socket.on('error', () => undefined).on('close', () => sockets.delete(socket));
    converse(socket, made);
  });
  const close = () =>
    new Promise<void>((resolve) => {
      for (const socket of sockets) socket.destroy();
      server.close(() => resolve());
    });
  const made: ScriptedServer = { port: 0, script, seen: [], mails: [], close };
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', () => resolve()));
  made.port = (server.address() as AddressInfo).port;
  return made;
}

function converse(socket: Socket, server: ScriptedServer): void {
  const { script } = server;
  const seen: Seen = { said: 0, heard: 0, dot: false, answered: '' };
  server.seen.push(seen);
  let [text, inMail, broken] = ['', false, false];
  const breakOff = () => {
    broken = true;
    if (script.breaking === 'closes') socket.end();
    if (script.breaking === 'resets') socket.resetAndDestroy();
  };
  const say = (words: string): string => {
    if (broken) return '';
    const rest = (script.afterSaying ?? Infinity) - seen.said;
    const piece = words.slice(0, rest);
    socket.write(piece, 'latin1');
    seen.said += piece.length;
    if (piece.length === rest) breakOff();
    return piece;
  };
  const drip = () => {
    if (socket.destroyed) return;
    socket.write('250-and\r\n');
    setTimeout(drip, ENDLESS_MS);
  };
  const answerMail = () => {
    seen.dot = true;
    server.mails.push(text.slice(0, text.indexOf(DOT)));
    [text, inMail] = [text.slice(text.indexOf(DOT) + DOT.length), false];
    if (script.toMail === 'without end') drip();
    else seen.answered = say(script.toMail ?? TAKEN);
    if (script.toMail?.endsWith('\n') === false) breakOff();
  };
  const answerLine = (line: string) => {
    inMail = line === 'DATA';
    if (line.startsWith('EHLO')) say('250-here\r\n250 SIZE 1000000\r\n');
    else if (inMail) say('354 go on\r\n');
    else say(line === 'QUIT' ? '221 bye\r\n' : '250 so be it\r\n');
  };
  socket.on('data', (bytes: Buffer) => {
    if (broken) return;
    const rest = (script.afterHearing ?? Infinity) - seen.heard;
    const piece = bytes.subarray(0, rest).toString('latin1');
    seen.heard += piece.length;
    text += piece;
    if (inMail && text.includes(DOT)) answerMail();
    while (!inMail && text.includes('\r\n')) {
      const [line = ''] = text.split('\r\n', 1);
      text = text.slice(line.length + 2);
      answerLine(line);
    }
    if (piece.length === rest) breakOff();
  });
  say('220 here\r\n');
}
