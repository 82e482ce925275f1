import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { request } from 'undici';
import { startStandins } from '#standins/server';

/** A server of product pages like Skepwright's, made once and served from memory, so that serving costs little. */
interface PageServer {
  port: number;
  /** With true every fetch of a page brings another price. */
  changing: boolean;
  close: () => void;
}

const PRICE = /24\.00/g;

/**
 * Serves one product page of the stand-in shop under any path; no conditional requests, so that each body comes whole.
 */
export async function servePages(folder: string, standinsPort: number, smtpPort: number): Promise<PageServer> {
  const standins = await startStandins({ port: standinsPort, smtpPort, folder, clock: () => Date.UTC(2026, 0, 1) });
  standins.world.push('price', 'copper-smoker-large', '2400');
  const template = await pageOf(standinsPort);
  await standins.close();

  const state = { changing: false, served: 0 };
  const server: Server = createServer((_request, response) => {
    state.served += 1;
    const price = state.changing ? `${20 + (state.served % 900) / 100}`.padEnd(5, '0').slice(0, 5) : '24.00';
    response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(template.replace(PRICE, price));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    port: (server.address() as AddressInfo).port,
    get changing() {
      return state.changing;
    },
    set changing(changing) {
      state.changing = changing;
    },
    close: () => {
      server.closeAllConnections();
      server.close();
    },
  };
}

/** A product page of the stand-in shop. */
export async function pageOf(port: number): Promise<string> {
  const response = await request(`http://127.0.0.1:${port}/p/copper-smoker-large`, {
    headers: { host: `skepwright.localhost:${port}` },
  });
  return response.body.text();
}
