import type { Server } from 'node:http';
import { join } from 'node:path';
import express from 'express';
import { mailRoomPages } from './mailroom/pages';
import { MailRoom } from './mailroom/room';
import { webshop } from './metrics/webshop';
import { bulletin, carrier, forage, supplier } from './notices/notices';
import { Receiver } from './receiver/receiver';
import { gateway } from './sensors/gateway';
import { combeLarder } from './shops/combe-larder';
import { heatherlow } from './shops/heatherlow';
import { imkerhaus } from './shops/imkerhaus';
import { nectarineRow } from './shops/nectarine-row';
import { skepwright } from './shops/skepwright';
import { stage } from './stage/stage';
import { textPages } from './texts/gateway';
import { World, type Site } from './world/world';

/** The stand-ins, running. */
export interface Standins {
  world: World;
  room: MailRoom;
  receiver: Receiver;
  port: number;
  close: () => Promise<void>;
}

/** Starts every stand-in on loopback: web ones share a port under NAME.localhost, mail has one of its own. */
export async function startStandins(options: {
  port: number;
  smtpPort: number;
  folder: string;
  clock: () => number;
  /** The moment by which the world has moved of itself; the clock's, if none is said. */
  nature?: () => number;
  /** Where Shrike is: the one place to which the stage posts readings. */
  shrike?: string;
}): Promise<Standins> {
  const world = new World(options.clock, join(options.folder, 'pushes.json'), options.nature);
  const room = await MailRoom.open(join(options.folder, 'mailroom'), world, options.smtpPort);
  const addressOf = (name: string) => `http://${name}.localhost:${options.port}`;
  const sites: Record<Site, express.Router> = {
    skepwright: skepwright(world),
    'combe-larder': combeLarder(world),
    'nectarine-row': nectarineRow(world),
    imkerhaus: imkerhaus(world),
    heatherlow: heatherlow(world),
    bulletin: bulletin(world),
    carrier: carrier(world),
    supplier: supplier(world),
    forage: forage(world),
    webshop: webshop(world),
    gateway: gateway(world),
  };
  const receiver = new Receiver(world);
  const tools = {
    mailroom: mailRoomPages(room),
    texts: textPages(room),
    receiver: receiver.pages(),
    stage: stage(world, addressOf, options.shrike ?? null),
  };

  const app = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  app.use((request, response, next) => {
    // A name that somebody else gave to this address is none of ours.
    const name = /^([a-z-]+)\.localhost$/.exec(request.hostname)?.[1] ?? '';
    const site = sites[name as Site] as express.Router | undefined;
    if (site !== undefined && request.path === '/robots.txt') sendRobots(world, name as Site, response);
    else if (site !== undefined)
      behave(world, name as Site, response, () => site(request, response, () => nothingHere(response)));
    else if (name in tools) tools[name as keyof typeof tools](request, response, next);
    else response.redirect(302, addressOf('stage'));
  });
  const server = await listen(app, options.port);
  const close = async () => {
    server.closeAllConnections();
    await new Promise<void>((resolve) => server.close(() => resolve()));
    await room.close();
  };
  return { world, room, receiver, port: options.port, close };
}

const SLOW_MS = 4_000;
const RETRY_AFTER_SECONDS = 120;

/** A site answers late, or asks to slow down, when the stage wants it to. */
function behave(world: World, site: Site, response: express.Response, answer: () => void): void {
  const { speed } = world.conduct(null, site);
  if (speed === 'asks to slow down')
    response.status(429).set('retry-after', String(RETRY_AFTER_SECONDS)).type('text').send('Not so fast, please.');
  else setTimeout(answer, speed === 'slow' ? SLOW_MS : 0);
}

/** The site's rules for programs (RFC 9309): none, or none of them is welcome. */
function sendRobots(world: World, site: Site, response: express.Response): void {
  if (world.conduct(null, site).robots === 'welcome') response.status(404).end();
  else response.type('text').send('User-agent: *\nDisallow: /\n');
}

function nothingHere(response: express.Response): void {
  response.status(404).type('html').send('<!doctype html><title>Not here</title><h1>We cannot find that page</h1>');
}

function listen(app: express.Express, port: number): Promise<Server> {
  return new Promise((resolve, reject) => {
    const server = app.listen(port, '127.0.0.1', (error) => (error === undefined ? resolve(server) : reject(error)));
  });
}
