import type { Server } from 'node:http';
import { join } from 'node:path';
import express from 'express';
import { mailRoomPages } from './mailroom/pages';
import { MailRoom } from './mailroom/room';
import { skepwright } from './skepwright/shop';
import { stage } from './stage/stage';
import { World } from './world/world';

/** The stand-ins, running. */
export interface Standins {
  world: World;
  room: MailRoom;
  port: number;
  close: () => Promise<void>;
}

/** Starts every stand-in on loopback: web ones share a port under NAME.localhost, mail has one of its own. */
export async function startStandins(options: { port: number; smtpPort: number; folder: string; clock: () => number }): Promise<Standins> {
  const world = new World(options.clock, join(options.folder, 'pushes.json'));
  const room = await MailRoom.open(join(options.folder, 'mailroom'), world, options.smtpPort);
  const addressOf = (name: string) => `http://${name}.localhost:${options.port}`;
  const sites = { skepwright: skepwright(world), mailroom: mailRoomPages(room), stage: stage(world, addressOf) };

  const app = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  app.use((request, response, next) => {
    const site = sites[request.hostname.split('.')[0] as keyof typeof sites];
    if (site === undefined) response.redirect(302, addressOf('stage'));
    else site(request, response, next);
  });
  const server = await listen(app, options.port);
  const close = async () => {
    server.closeAllConnections();
    await new Promise<void>((resolve) => server.close(() => resolve()));
    await room.close();
  };
  return { world, room, port: options.port, close };
}

function listen(app: express.Express, port: number): Promise<Server> {
  return new Promise((resolve, reject) => {
    const server = app.listen(port, '127.0.0.1', (error) => (error === undefined ? resolve(server) : reject(error)));
  });
}
