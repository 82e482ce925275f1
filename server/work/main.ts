import { readConfig } from '../config';
import { openServices } from './services';
import { Worker } from './worker';

const MAILS_AT_ONCE = 4;

const config = readConfig(process.env);
const services = await openServices(config, () => Date.now());
const worker = new Worker(
  services.pipeline,
  services.post,
  { pool: services.pool, renderer: services.renderer, clock: services.pipeline.clock },
  {
    runsAtOnce: config.runsAtOnce,
    rendersAtOnce: config.rendersAtOnce,
    mailsAtOnce: MAILS_AT_ONCE,
    looksAtOnce: config.rendersAtOnce,
    pollMs: config.pollMs,
    leaseMs: config.leaseMs,
  },
);
await worker.start();

const stop = async () => {
  await worker.stop();
  await services.close();
  process.exit(0);
};
process.once('SIGTERM', () => void stop());
process.once('SIGINT', () => void stop());
