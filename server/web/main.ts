import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { createRequestHandler } from '@react-router/express';
import compression from 'compression';
import express, { type Response } from 'express';
import type { ServerBuild } from 'react-router';
import { readConfig } from '../config';
import { makeLog } from '../log';
import { endWith, surviveAll, watchLoop } from '../loop';
import { ROOT } from '../programs';
import { CAME_FROM } from './came-from';
import { keepsLinksPrivate, loggedPath } from './by-link';
import { anyTarget, boundedBodies, ownHosts, ownNamesOnly } from './guard';

const A_YEAR = '1y';
const MOST_FORM_BYTES = 1_000_000;
/** Where other programs post, with a bound of its own. */
const POSTED = /^\/in\//;
/** Where a file is taken: its action bounds it more closely. */
const IMPORTED = /^\/(items|watches)\/import(\/lines|\.data)?$/;
const MOST_FILE_BYTES = 21_000_000;

const config = readConfig(process.env);
const log = makeLog('web', config.logLevel);
const folder = resolve(ROOT, config.build);
const build = (await import(pathToFileURL(join(folder, 'server/index.js')).href)) as ServerBuild;

surviveAll(log);
watchLoop(log);
endWith(config.startedBy);

const app = express();
app.disable('x-powered-by');
app.use(anyTarget);
app.use(ownNamesOnly(ownHosts(config)));
app.use(boundedBodies((path) => (POSTED.test(path) ? null : IMPORTED.test(path) ? MOST_FILE_BYTES : MOST_FORM_BYTES)));
app.use(compression());
app.use((_request, response, next) => {
  response.set({
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'same-origin',
    'x-frame-options': 'DENY',
    'cross-origin-opener-policy': 'same-origin',
  });
  next();
});
app.use(keepsLinksPrivate);
app.use('/assets', express.static(join(folder, 'client/assets'), { immutable: true, maxAge: A_YEAR }));
app.use(express.static(join(folder, 'client'), { maxAge: '1h' }));
app.use((request, response, next) => {
  const began = performance.now();
  response.on('finish', () =>
    log.info(
      {
        method: request.method,
        path: loggedPath(request.path),
        status: response.statusCode,
        ms: Math.round(performance.now() - began),
      },
      'request',
    ),
  );
  next();
});
app.use((request, _response, next) => {
  request.headers[CAME_FROM] = request.socket.remoteAddress ?? '';
  next();
});
/** Answers that go on as long as a view is on screen. */
const streams = new Set<Response>();
app.use('/live', (_request, response, next) => {
  streams.add(response);
  response.on('close', () => streams.delete(response));
  next();
});
app.all('*all', createRequestHandler({ build, mode: 'production' }));

const server = app.listen(config.port, config.address, (error) => {
  if (error !== undefined) {
    log.fatal({ err: error }, 'the web cannot listen');
    process.exit(1);
  }
  log.info({ port: config.port, address: config.address }, 'web started');
});

const PATIENCE_MS = 10_000;

/** Takes no more requests, lets those under way end, and goes. */
function stop(): void {
  log.info('web stops');
  server.close(() => process.exit(0));
  for (const stream of streams) stream.destroy();
  server.closeIdleConnections();
  setTimeout(() => process.exit(0), PATIENCE_MS).unref();
}
process.once('SIGTERM', stop);
process.once('SIGINT', stop);

// A request that comes in drops, or whose answer nobody takes, is let go of.
server.headersTimeout = 10_000;
server.requestTimeout = 30_000;
