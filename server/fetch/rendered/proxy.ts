import { createServer, request as httpRequest, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { connect, type AddressInfo, type Socket } from 'node:net';
import type { AddressRules } from '../addresses';

/** Tells the renderer that it was the proxy, and not the site, that refused. */
export const REFUSED = 'x-shrike-refused';

const CONNECT_MS = 10_000;
const REMEMBERED = 200;
/** Connection headers go from hop to hop and are not passed on (RFC 9110, 7.6.1). */
const HOP = new Set(['connection', 'proxy-connection', 'proxy-authorization', 'keep-alive', 'te', 'trailer', 'upgrade']);

/**
 * The browser's one way out: an HTTP proxy on loopback that connects to checked addresses alone, and to the very address that
 * was checked. Encrypted traffic and WebSockets go through its tunnels under the same rules.
 */
export class FilteringProxy {
  readonly #server: Server;
  readonly #sockets = new Set<Socket>();
  /** Where it refused to go of late, for the log and the tests. */
  readonly refused: string[] = [];

  private constructor(private readonly rules: AddressRules) {
    this.#server = createServer((request, response) => void this.#pass(request, response));
    this.#server.on('connect', (request: IncomingMessage, client: Socket, head: Buffer) => void this.#tunnel(request, client, head));
    this.#server.on('upgrade', (_request, client: Socket) => client.destroy());
    this.#server.on('connection', (socket) => this.#keep(socket));
    this.#server.on('clientError', (_error, socket) => socket.destroy());
  }

  /** Opens one on a port that is free. */
  static async open(rules: AddressRules): Promise<FilteringProxy> {
    const proxy = new FilteringProxy(rules);
    await new Promise<void>((resolve, reject) => {
      proxy.#server.once('error', reject);
      proxy.#server.listen(0, '127.0.0.1', resolve);
    });
    return proxy;
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
    const port = Number(target.port || 80);
    const address = await this.#checked(target.hostname, port);
    if (address === null) return refuse(response);
    const headers = Object.fromEntries(Object.entries(request.headers).filter(([name]) => !HOP.has(name)));
    const onward = httpRequest({
      host: address,
      port,
      method: request.method,
      path: `${target.pathname}${target.search}`,
      headers,
      timeout: CONNECT_MS,
      agent: false,
    });
    onward.on('response', (answer) => {
      response.writeHead(answer.statusCode ?? 502, answer.headers);
      answer.pipe(response);
    });
    onward.on('timeout', () => onward.destroy(new Error('timed out')));
    onward.on('error', () => (response.headersSent ? response.destroy() : response.writeHead(502).end()));
    response.on('close', () => onward.destroy());
    request.pipe(onward);
  }

  async #tunnel(request: IncomingMessage, client: Socket, head: Buffer): Promise<void> {
    const [, host = '', port = ''] = /^(.*):(\d+)$/.exec(request.url ?? '') ?? [];
    const address = host === '' ? null : await this.#checked(host, Number(port));
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

function refuse(response: ServerResponse): void {
  response.writeHead(403, { 'content-type': 'text/plain', [REFUSED]: 'address' }).end('This address is not reached from here.');
}
