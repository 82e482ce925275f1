import { request, type IncomingHttpHeaders } from 'node:http';

/** An answer as it came. */
export interface Answered {
  status: number;
  headers: IncomingHttpHeaders;
  body: string;
}

/** What is asked: under any name, from any page, with anything. */
export interface Asking {
  method?: string;
  host?: string;
  headers?: Record<string, string>;
  form?: Record<string, string>;
  body?: string | Buffer;
}

/** Asks a web server of ours for a path, as a program may and a browser may not. */
export function ask(
  web: string,
  path: string,
  { method, host, headers = {}, form, body }: Asking = {},
): Promise<Answered> {
  const { hostname, port, host: own } = new URL(web);
  const text = form === undefined ? body : new URLSearchParams(form).toString();
  const typed = form === undefined ? {} : { 'content-type': 'application/x-www-form-urlencoded' };
  return new Promise((resolve, reject) => {
    const asked = request(
      {
        host: hostname === 'localhost' ? '127.0.0.1' : hostname,
        port,
        path,
        method: method ?? (text === undefined ? 'GET' : 'POST'),
        headers: {
          host: host ?? own,
          ...(text === undefined ? {} : { 'content-length': String(Buffer.byteLength(text)) }),
          ...typed,
          ...headers,
        },
      },
      (answer) => {
        const pieces: Buffer[] = [];
        answer.on('data', (piece: Buffer) => pieces.push(piece));
        answer.on('error', reject);
        answer.on('end', () =>
          resolve({
            status: answer.statusCode ?? 0,
            headers: answer.headers,
            body: Buffer.concat(pieces).toString('utf8'),
          }),
        );
      },
    );
    asked.on('error', reject);
    asked.end(text);
  });
}

/** The headers of a form that a page of our own sends. */
export const fromOwnPage = (web: string) => ({ origin: new URL(web).origin, 'sec-fetch-site': 'same-origin' });
