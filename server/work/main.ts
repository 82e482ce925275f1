import { readConfig } from '../config';
import { openServices } from './services';
import { Worker } from './worker';

const MAILS_AT_ONCE = 4;

const config = readConfig(process.env);
const services = await openServices(config, () => Date.now());
const worker = new Worker(services.pipeline, services.post, {
  runsAtOnce: config.runsAtOnce,
  mailsAtOnce: MAILS_AT_ONCE,
  pollMs: config.pollMs,
  leaseMs: config.leaseMs,
});
await worker.start();

const stop = async () => {
  await worker.stop();
  await services.close();
  process.exit(0);
};
process.once('SIGTERM', () => void stop());
process.once('SIGINT', () => void stop());
