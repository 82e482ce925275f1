import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

export type Answer = (request: IncomingMessage, response: ServerResponse) => void;

/** A site that answers as a test says, for what no stand-in does. */
export interface Site {
  host: string;
  base: string;
  /** What was asked for, in order, with the headers that came along. */
  asked: { path: string; at: number; headers: IncomingMessage['headers'] }[];
  close: () => void;
}

/** Answers by path, without its query; what is not named is not there. */
export async function openSite(answers: Record<string, Answer>): Promise<Site> {
  const asked: Site['asked'] = [];
  const server = createServer((request, response) => {
    const path = request.url ?? '';
    asked.push({ path, at: performance.now(), headers: request.headers });
    const answer =
      answers[path.split('?')[0] ?? ''] ??
      ((_: IncomingMessage, missing: ServerResponse) => missing.writeHead(404).end('not here'));
    answer(request, response);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const host = `shop.localhost:${(server.address() as AddressInfo).port}`;
  const close = () => {
    server.closeAllConnections();
    server.close();
  };
  return { host, base: `http://${host}`, asked, close };
}

/** Answers with a page. */
export const page =
  (body: string): Answer =>
  (_request, response) =>
    response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(body);
