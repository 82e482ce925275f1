import {
  createServer,
  request as httpRequest,
  type IncomingHttpHeaders,
  type IncomingMessage,
  type Server,
  type ServerResponse,
} from 'node:http';
import { connect, type AddressInfo, type Socket } from 'node:net';
import { pipeline } from 'node:stream';
import type { Questions } from './messages';

/** Tells the renderer that it was the proxy, and not the site, that refused. */
export const REFUSED = 'x-shrike-refused';

const CONNECT_MS = 10_000;
const REMEMBERED = 200;
/** What one page may ask of all sites together: of what people read, the fullest takes a third of that. */
export const MOST_REQUESTS = 400;
/**
 * Connection headers go from hop to hop and are not passed on (RFC 9110, 7.6.1), nor those that a Connection header
 * names.
 */
const HOP = [
  'connection',
  'proxy-connection',
  'proxy-authenticate',
  'proxy-authorization',
  'keep-alive',
  'te',
  'trailer',
  'transfer-encoding',
  'upgrade',
  // A site does not speak for the proxy.
  REFUSED,
];

/**
 * The browser's one way out: an HTTP proxy on loopback that connects to checked addresses alone, and to the very
 * address that was checked. Encrypted traffic and WebSockets go through its tunnels under the same rules. Whatever a
 * site answers, nothing here throws past a request: what cannot be passed on is a 502.
 */
export class FilteringProxy {
  readonly #server: Server;
  readonly #sockets = new Set<Socket>();
  /** Where it refused to go of late, for the log and the tests. */
  readonly refused: string[] = [];
  #asked = 0;

  private constructor(private readonly rules: Pick<Questions, 'check'>) {
    this.#server = createServer((request, response) => {
      request.on('error', () => response.destroy());
      response.on('error', () => request.destroy());
      this.#pass(request, response).catch(() => badGateway(response));
    });
    this.#server.on('connect', (request: IncomingMessage, client: Socket, head: Buffer) => {
      this.#tunnel(request, client, head).catch(() => client.destroy());
    });
    this.#server.on('upgrade', (_request, client: Socket) => client.destroy());
    this.#server.on('connection', (socket) => this.#keep(socket));
    this.#server.on('clientError', (_error, socket) => socket.destroy());
  }

  /** Opens one on a port that is free. */
  static async open(rules: Pick<Questions, 'check'>): Promise<FilteringProxy> {
    const proxy = new FilteringProxy(rules);
    await new Promise<void>((resolve, reject) => {
      proxy.#server.once('error', reject);
      proxy.#server.listen(0, '127.0.0.1', resolve);
    });
    return proxy;
  }

  /** Begins to count anew what is asked: for each page. */
  begin(): void {
    this.#asked = 0;
  }

  #isSpent(): boolean {
    this.#asked += 1;
    return this.#asked > MOST_REQUESTS;
  }

  get address(): string {
    return `http://127.0.0.1:${(this.#server.address() as AddressInfo).port}`;
  }

  async close(): Promise<void> {
    for (const socket of this.#sockets) socket.destroy();
    await new Promise<void>((resolve) => this.#server.close(() => resolve()));
  }

  #keep(socket: Socket): void {
    this.#sockets.add(socket);
    socket.on('error', () => socket.destroy());
    socket.once('close', () => this.#sockets.delete(socket));
  }

  async #checked(host: string, port: number): Promise<string | null> {
    const checked = await this.rules.check(host, port);
    if (checked.ok) return checked.value;
    if (this.refused.push(`${host}:${port}`) > REMEMBERED) this.refused.shift();
    return null;
  }

  async #pass(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const target = request.url !== undefined && URL.canParse(request.url) ? new URL(request.url) : null;
    if (target === null || target.protocol !== 'http:') return refuse(response);
    if (this.#isSpent()) return refuse(response);
    const port = Number(target.port || 80);
    const address = await this.#checked(target.hostname, port);
    if (address === null) return refuse(response);
    const onward = httpRequest({
      host: address,
      port,
      method: request.method,
      path: `${target.pathname}${target.search}`,
      headers: withoutHops(request.headers),
      timeout: CONNECT_MS,
      agent: false,
    });
    onward.on('response', (answer) => passOn(answer, response));
    onward.on('upgrade', (_answer, socket: Socket) => {
      socket.destroy();
      badGateway(response);
    });
    onward.on('timeout', () => onward.destroy(new Error('timed out')));
    onward.on('error', () => badGateway(response));
    response.on('close', () => onward.destroy());
    pipeline(request, onward, () => undefined);
  }

  async #tunnel(request: IncomingMessage, client: Socket, head: Buffer): Promise<void> {
    const [, host = '', port = ''] = /^(.*):(\d{1,5})$/.exec(request.url ?? '') ?? [];
    const address = host === '' || this.#isSpent() ? null : await this.#checked(host, Number(port));
    if (address === null) return void client.end('HTTP/1.1 403 Forbidden\r\n\r\n');
    const onward = connect({ host: address, port: Number(port), timeout: CONNECT_MS });
    this.#keep(onward);
    onward.once('connect', () => {
      onward.setTimeout(0);
      client.write('HTTP/1.1 200 Connection Established\r\n\r\n');
      if (head.length > 0) onward.write(head);
      onward.pipe(client).pipe(onward);
    });
    onward.once('timeout', () => onward.destroy());
    onward.once('close', () => client.destroy());
    client.once('close', () => onward.destroy());
  }
}

/** Passes an answer on, if it is one that may be: a status that exists, and headers that can be written. */
function passOn(answer: IncomingMessage, response: ServerResponse): void {
  const status = answer.statusCode ?? 0;
  answer.on('error', () => response.destroy());
  if (status < 200 || status > 599) {
    answer.destroy();
    return badGateway(response);
  }
  try {
    response.writeHead(status, withoutHops(answer.headers));
  } catch {
    answer.destroy();
    return badGateway(response);
  }
  pipeline(answer, response, () => undefined);
}

function withoutHops(headers: IncomingHttpHeaders): IncomingHttpHeaders {
  const named = String(headers.connection ?? '')
    .toLowerCase()
    .split(',')
    .map((name) => name.trim());
  return Object.fromEntries(Object.entries(headers).filter(([name]) => !HOP.includes(name) && !named.includes(name)));
}

function badGateway(response: ServerResponse): void {
  if (response.headersSent) response.destroy();
  else response.writeHead(502, { 'content-type': 'text/plain' }).end('The site’s answer could not be passed on.');
}

function refuse(response: ServerResponse): void {
  response
    .writeHead(403, { 'content-type': 'text/plain', [REFUSED]: 'address' })
    .end('This address is not reached from here.');
}
